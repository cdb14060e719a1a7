package forecast

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/render"
)

// Range is a figure with its 80 % bar: one time in ten it turns out below Low, one time in ten
// above High.
type Range struct {
	Mid  float64 `json:"mid"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Outcome is what a run is expected to come to.
type Outcome struct {
	Seconds Range   // with the workers that were asked about
	Noise   Range   // of the frame, percent; infinite where it cannot be told
	Samples float64 // of a pixel, mean
}

// fate is what becomes of a square.
type fate struct {
	tiles  []ended
	rounds int // after which noise was taken out of it, until its last tile stopped
	quick  int // before, for a first idea
}

// ended is what becomes of a tile.
type ended struct {
	pixels, samples float64
	seconds         float64
	noise           float64
}

// Outcome plays a run through that stops by some rule, on so many workers that have a processor
// each.
func (p *Probe) Outcome(stop noise.Stop, workers int) Outcome {
	fates := make([]fate, len(p.spots))
	for i := range p.spots {
		fates[i] = p.play(&p.spots[i], stop, uint64(i))
	}
	all := make([]int, len(fates))
	for i := range all {
		all[i] = i
	}
	out := Outcome{}
	out.Seconds.Mid, out.Noise.Mid, out.Samples = p.total(fates, all, float64(max(1, workers)))
	// Few tiles may take most of what goes beyond the least samples, and be where no square was
	// drawn: nothing is as likely to be missed that makes a run shorter.
	seldom := 0.0
	if near := (out.Noise.Mid/stop.Target - seldomFrom) / (1 - seldomFrom); !p.Whole && stop.Target > 0 && near > 0 {
		seldom = sureSeldom * min(near, 1) / math.Sqrt(float64(len(fates)))
	}
	r := rand.New(rand.NewPCG(3, uint64(len(fates))))
	var seconds, left []float64
	s, n := out.Seconds.Mid, out.Noise.Mid
	for range draws {
		if !p.Whole {
			for i := range all {
				all[i] = r.IntN(len(fates))
			}
			s, n, _ = p.total(fates, all, float64(max(1, workers)))
		}
		// What few samples cannot tell of many.
		beyond := math.Log2(max(1, out.Samples/p.depth()))
		seconds = append(seconds, s*math.Exp(r.NormFloat64()*(surePerSample+sureBeyond*beyond)+math.Abs(r.NormFloat64())*seldom))
		left = append(left, n*math.Exp(r.NormFloat64()*sureNoise))
	}
	out.Seconds = ranged(noise.Percentile(seconds, 0.5), seconds)
	out.Noise = ranged(out.Noise.Mid, left)
	if stop.Target > 0 && out.Noise.Mid <= stop.Target { // by the rule, no tile goes on below it
		out.Noise.High = min(out.Noise.High, max(out.Noise.Mid, stop.Target))
	}
	return out
}

const (
	draws = 300
	// idle is by how much a run of one tile to a worker takes longer as workers wait for the last
	// of a round; of many tiles to each it is less.
	idle = 0.5
	// Standard deviations of logarithms: of the time of a sample, of the samples for each
	// doubling beyond those of the probe, and of the noise. docs/rendering.md has how they were
	// measured.
	surePerSample = 0.15
	sureBeyond    = 0.08
	sureNoise     = 0.06
	// And, for one square, of what is seldom, in pictures whose noise is near its target: from
	// this share of it on.
	sureSeldom, seldomFrom = 1.75, 0.7
	// Taking noise out of a pixel takes longer in a run than in a probe, where squares have no
	// margins: by so much in large pieces, and in the small ones that are taken while less than
	// a third of the picture is asked for. quickly is the share of it which a first idea takes,
	// before any tile may stop.
	wipeLarge, wipeSmall, fewAsked, quickly = 1.56, 3.06, 1. / 3, 0.35
	// askedMore is how much more of a picture is asked for than has tiles that go on: what is
	// around them too.
	askedMore = 1.25
	// How much the measured noise of a tile differs from its curve, as a logarithm, and how
	// alike that is from one round to the next.
	wiggle, alike = 0.1, 0.8
)

func ranged(mid float64, x []float64) Range {
	return Range{mid, min(mid, noise.Percentile(x, 0.1)), max(mid, noise.Percentile(x, 0.9))}
}

// depth is how many samples a pixel of the probe has.
func (p *Probe) depth() float64 {
	t := &p.spots[0].tiles[0]
	return float64(t.at[len(t.at)-1])
}

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
func (p *Probe) play(s *spot, stop noise.Stop, seed uint64) (out fate) {
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
			e := ended{pixels: float64(t.pixels), samples: float64(samples[i]), noise: noiseOf[i]}
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
func (s *spot) quietAround(noiseOf []float64, i int, target float64) bool {
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

// total sums what becomes of all squares that are named.
func (p *Probe) total(fates []fate, which []int, workers float64) (seconds, left, samples float64) {
	type share struct{ noise, weight float64 }
	var tiles []share
	var weight, wipe float64
	pixels := float64(p.Pixels)
	var alive []float64 // pixels of squares with tiles that go on, by round
	quick := 0
	weights := p.calibrated(which)
	for k, i := range which {
		w, f := weights[k], &fates[i]
		var own float64
		for _, e := range f.tiles {
			seconds += w * e.seconds
			samples += w * e.samples * e.pixels
			own += w * e.pixels
			tiles = append(tiles, share{e.noise, w})
			weight += w
		}
		wipe += own * p.spots[i].wipe
		for len(alive) < f.rounds {
			alive = append(alive, 0)
		}
		for r := range f.rounds {
			alive[r] += own
		}
		quick = max(quick, f.quick)
	}
	seconds /= workers
	// Taking noise out of everything, in pieces that a worker each does.
	whole := wipe / 1e9
	if !p.Whole { // there it was done as in a run
		whole *= wipeLarge
	}
	large, small := pixels/(denoise.UsualSide*denoise.UsualSide), pixels/(denoise.SmallSide*denoise.SmallSide)
	abreast := func(pieces float64) float64 { return min(workers, max(1, pieces)) }
	seconds += whole * quickly * float64(quick) / abreast(large)
	for _, a := range alive {
		if asked := min(1, askedMore*a/pixels); asked < fewAsked {
			seconds += whole * asked * wipeSmall / wipeLarge / abreast(asked*small)
		} else {
			seconds += whole * min(1, asked/fewAsked/2) / abreast(large)
		}
	}
	seconds *= 1 + idle/math.Sqrt(max(1, pixels/(film.TileSize*film.TileSize)/workers))
	slices.SortFunc(tiles, func(a, b share) int { return cmp.Compare(a.noise, b.noise) })
	var sum float64
	for _, t := range tiles {
		if sum += t.weight; sum >= noise.OfFrameShare*weight {
			left = t.noise
			break
		}
	}
	return seconds, left, samples / pixels
}
