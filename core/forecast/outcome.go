package forecast

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/noise"
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

// Outcome plays a run through that stops by some rule, on so many workers that have a processor
// each.
func (p *Probe) Outcome(stop noise.Stop, workers int) Outcome {
	results := make([]result, len(p.squares))
	for i := range p.squares {
		results[i] = p.play(&p.squares[i], stop, uint64(i))
	}
	all := make([]int, len(results))
	for i := range all {
		all[i] = i
	}
	out := Outcome{}
	out.Seconds.Mid, out.Noise.Mid, out.Samples = p.total(results, all, float64(max(1, workers)))
	// Few tiles may take most of what goes beyond the least samples, and be where no square was
	// drawn: nothing is as likely to be missed that makes a run shorter.
	seldom := 0.0
	if near := (out.Noise.Mid/stop.Target - seldomFrom) / (1 - seldomFrom); !p.Whole && stop.Target > 0 && near > 0 {
		seldom = sureSeldom * min(near, 1) / math.Sqrt(float64(len(results)))
	}
	r := rand.New(rand.NewPCG(3, uint64(len(results))))
	var seconds, left []float64
	s, n := out.Seconds.Mid, out.Noise.Mid
	for range draws {
		if !p.Whole {
			for i := range all {
				all[i] = r.IntN(len(results))
			}
			s, n, _ = p.total(results, all, float64(max(1, workers)))
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
)

func ranged(mid float64, x []float64) Range {
	return Range{mid, min(mid, noise.Percentile(x, 0.1)), max(mid, noise.Percentile(x, 0.9))}
}

// depth is how many samples a pixel of the probe has.
func (p *Probe) depth() float64 {
	t := &p.squares[0].tiles[0]
	return float64(t.at[len(t.at)-1])
}

// total sums what becomes of all squares that are named.
func (p *Probe) total(results []result, which []int, workers float64) (seconds, left, samples float64) {
	type share struct{ noise, weight float64 }
	var tiles []share
	var weight, wipe float64
	pixels := float64(p.Pixels)
	var alive []float64 // pixels of squares with tiles that go on, by round
	quick := 0
	weights := p.calibrated(which)
	for k, i := range which {
		w, f := weights[k], &results[i]
		var own float64
		for _, e := range f.tiles {
			seconds += w * e.seconds
			samples += w * e.samples * e.pixels
			own += w * e.pixels
			tiles = append(tiles, share{e.noise, w})
			weight += w
		}
		wipe += own * p.squares[i].wipe
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
