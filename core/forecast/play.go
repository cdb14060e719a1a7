package forecast

import (
	"math"
	"math/rand/v2"

	"amberproof/core/noise"
	"amberproof/core/render"
)

// result is what becomes of a square.
type result struct {
	tiles  []tileResult
	rounds int // after which noise was taken out of it, until its last tile stopped
	quick  int // before, for a first idea
}

// tileResult is what becomes of a tile.
type tileResult struct {
	pixels, samples float64
	seconds         float64
	noise           float64
}

// How much the measured noise of a tile differs from its curve, as a logarithm, and how alike that
// is from one round to the next.
const wiggle, alike = 0.1, 0.8

// at is the noise of a tile after so many samples: as measured, or by its curve.
func (c *curve) at(t *tile, n int, off float64) float64 {
	last := len(t.at) - 1
	if n >= t.at[last] {
		if !t.told() {
			return t.noise[last]
		}
		level, _ := t.logs()
		var middle float64
		for _, k := range t.at {
			middle += math.Log(float64(k)) / float64(len(t.at))
		}
		return math.Exp(level - c.of(t)*(math.Log(float64(n))-middle) + off)
	}
	for k := last; k > 0; k-- {
		if a, b := t.at[k-1], t.at[k]; n >= a {
			u := math.Log(float64(n)/float64(a)) / math.Log(float64(b)/float64(a))
			return t.noise[k-1] + u*(t.noise[k]-t.noise[k-1])
		}
	}
	if n < 2 {
		return math.Inf(1)
	}
	return t.noise[0] * math.Sqrt(float64(t.at[0])/float64(n))
}

// play plays through what becomes of the tiles of a square, by the rule of noise.Stop, those
// around it being looked at as there.
func (p *Probe) play(s *square, stop noise.Stop, seed uint64) (out result) {
	r := rand.New(rand.NewPCG(4, seed))
	n := len(s.tiles)
	noiseOf, off, samples := make([]float64, n), make([]float64, n), make([]int, n)
	going := n
	for i := range off {
		off[i] = wiggle * r.NormFloat64()
	}
	for round := 0; going > 0; round++ {
		at := stop.Boundary(round)
		switch {
		case at >= stop.Least:
			out.rounds++
		case stop.Target > 0 && at > 1:
			out.quick++
		}
		for i := range s.tiles {
			if samples[i] == 0 {
				noiseOf[i] = p.curve.at(&s.tiles[i], at, off[i])
				off[i] = alike*off[i] + math.Sqrt(1-alike*alike)*wiggle*r.NormFloat64()
			}
		}
		for i := range s.tiles {
			if samples[i] == 0 && (at >= stop.Most || at >= stop.Least && stop.Target > 0 && s.quietAround(noiseOf, i, stop.Target)) {
				samples[i] = at
				going--
			}
		}
	}
	for i := range s.tiles {
		if t := &s.tiles[i]; t.core {
			e := tileResult{pixels: float64(t.pixels), samples: float64(samples[i]), noise: noiseOf[i]}
			e.seconds = e.pixels * (t.nanos*e.samples + s.merge*float64(units(stop, samples[i]))) / 1e9
			out.tiles = append(out.tiles, e)
		}
	}
	return out
}

// units is the number of units of work that bring a tile to so many samples.
func units(stop noise.Stop, samples int) (n int) {
	for round, from := 0, 0; from < samples; round++ {
		to := stop.Boundary(round)
		n += (to - from + render.MostSamples - 1) / render.MostSamples
		from = to
	}
	return n
}

// quietAround tells whether a tile may stop.
func (s *square) quietAround(noiseOf []float64, i int, target float64) bool {
	if !(noiseOf[i] <= target) {
		return false
	}
	x, y := i%s.cols, i/s.cols
	for v := max(0, y-1); v <= min(s.rows-1, y+1); v++ {
		for u := max(0, x-1); u <= min(s.cols-1, x+1); u++ {
			if !(noiseOf[v*s.cols+u] <= target*noise.NeighbourSlack) {
				return false
			}
		}
	}
	return true
}
