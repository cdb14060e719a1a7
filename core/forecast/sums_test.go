package forecast

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"amberproof/core/noise"
	"amberproof/core/trace"
)

// falling is a tile whose noise falls by a power, as if it was measured at 4, 8 and 16 samples.
func falling(at16, power, left float64) tile {
	t := tile{core: true, pixels: 256, nanos: 1000}
	for _, n := range []int{4, 8, 16} {
		x := at16 * math.Pow(16/float64(n), power)
		t.at, t.noise, t.plain = append(t.at, n), append(t.noise, x), append(t.plain, x/left)
	}
	return t
}

// The power by which noise falls is found where it depends on what is left of it.
func TestTheCurveIsFound(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	p := &Probe{squares: make([]square, 1)}
	power := func(left float64) float64 { return 0.3 - 0.1*math.Log(left/0.3) }
	for range 400 {
		left := 0.3 * math.Exp(0.8*(r.Float64()-0.5))
		x := falling(3*math.Exp(0.5*r.NormFloat64()), power(left), left)
		for k := range x.noise { // each measured with an error of a tenth
			x.noise[k] *= math.Exp(0.1 * r.NormFloat64())
		}
		p.squares[0].tiles = append(p.squares[0].tiles, x)
	}
	c := p.fit()
	// A tenth of error at both ends of a factor of four is 0.10 of power for one tile, and 0.005
	// for four hundred.
	if math.Abs(c.mean-0.3) > 0.02 {
		t.Errorf("a mean power of %.3f", c.mean)
	}
	for _, left := range []float64{0.22, 0.3, 0.42} {
		x := falling(2, power(left), left)
		want := 0.3 + trusted*(power(left)-0.3)
		if got := c.of(&x); math.Abs(got-want) > 0.04 {
			t.Errorf("where %.2f is left: power %.3f, want %.3f", left, got, want)
		}
	}
}

// A tile stops in the round in which its curve passes the target, at the least samples if it is
// clean before, and at the most if it never is; a loud one beside it keeps it going.
func TestTilesStopAsInARun(t *testing.T) {
	p := &Probe{Pixels: 256, cleans: true, curve: curve{mean: 0.5}}
	stop := noise.Stop{Least: 8, Most: 512, Target: 1}
	at := func(tiles ...tile) []tileResult {
		s := &square{weight: 1, pixels: 256 * len(tiles), cols: len(tiles), rows: 1, tiles: tiles}
		return p.play(s, stop, 1).tiles
	}
	for _, c := range []struct {
		noise16   float64
		low, high float64
	}{
		{0.1, 8, 8},
		{2, 40, 110}, // 64, within a round and the tenth that noise differs by
		{100, 512, 512},
	} {
		if got := at(falling(c.noise16, 0.5, 0.3))[0]; got.samples < c.low || got.samples > c.high {
			t.Errorf("noise of %.1f %% at 16 samples: stops at %.0f, want %.0f to %.0f", c.noise16, got.samples, c.low, c.high)
		}
	}
	alone, beside := at(falling(0.5, 0.5, 0.3))[0].samples, at(falling(0.5, 0.5, 0.3), falling(8, 0.5, 0.3))[0].samples
	if alone != 8 || beside < 100 {
		t.Errorf("a quiet tile stops at %.0f, beside a loud one at %.0f", alone, beside)
	}
}

// Squares that are drawn stand for all without bias: over many draws the mean of what they sum up
// to is what all do, within the error of that mean.
func TestDrawnSquaresStandForAll(t *testing.T) {
	w := &trace.World{}
	w.Options().Window = image.Rect(0, 0, 40*side, 30*side)
	o := Order{World: w, Stop: noise.Stop{Least: 16, Most: 512, Target: 1.5}, Workers: 2}
	r := rand.New(rand.NewPCG(2, 2))
	candidates := o.cut(side)
	truth := map[image.Point]float64{}
	var all float64
	for i := range candidates {
		c := &candidates[i]
		c.nanos = 5000 * math.Exp(0.5*r.NormFloat64())
		c.spread = 1e-3 * math.Exp(1.5*r.NormFloat64())
		truth[c.area.Min] = o.work(c) * math.Exp(0.6*r.NormFloat64()) // the glance is off
		all += truth[c.area.Min]
	}
	var sum, squares float64
	const draws = 300
	for seed := range draws {
		o.Seed = uint64(seed)
		l := o.layOut(candidates, time.Second/2)
		if l.whole || len(l.chosen) < 10 || len(l.chosen) > len(candidates)/2 {
			t.Fatalf("%d of %d squares drawn", len(l.chosen), len(candidates))
		}
		p := &Probe{Pixels: len(candidates) * side * side, expected: l.expected}
		var which []int
		for i := range l.chosen {
			c := &l.chosen[i]
			p.squares = append(p.squares, square{weight: c.weight, pixels: side * side, expected: o.work(c) / c.weight})
			which = append(which, i)
		}
		var got float64
		for k, wt := range p.calibrated(which) {
			got += wt * truth[l.chosen[k].area.Min]
		}
		got /= all
		sum, squares = sum+got, squares+got*got
	}
	mean := sum / draws
	sd := math.Sqrt(squares/draws - mean*mean)
	if bound := 0.02 + 4*sd/math.Sqrt(draws); math.Abs(mean-1) > bound {
		t.Errorf("drawn squares sum up to %.3f of all, sure to %.3f", mean, bound)
	}
	t.Logf("mean %.3f, one draw is off by %.0f %%", mean, 100*sd)
}

// With earlier forecasts that were all too low by half, and as unsure as these, the next is not, and
// four of five lie in its bar.
func TestAForecastLearns(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	come := func() Past {
		told := Range{Mid: 100 * math.Exp(r.NormFloat64())}
		told.Low, told.High = told.Mid*0.9, told.Mid*1.1
		return Past{told, told.Mid * 1.5 * math.Exp(0.3*r.NormFloat64())}
	}
	in, n := 0, 2000
	var off float64
	for range n {
		var past []Past
		for range 40 {
			past = append(past, come())
		}
		next := come()
		got := next.Told.By(past)
		if next.Came >= got.Low && next.Came <= got.High {
			in++
		}
		off += math.Log(got.Mid / next.Came)
	}
	// Of 2000, a share of 0.8 is known to 0.009.
	if share := float64(in) / float64(n); share < 0.76 || share > 0.86 {
		t.Errorf("%.1f %% in the bar", 100*share)
	}
	if off /= float64(n); math.Abs(off) > 0.03 {
		t.Errorf("off by %.3f in the mean of logarithms", off)
	}
	some := Range{10, 8, 13}
	if got := some.By([]Past{{Range{1, 1, 1}, 2}}); got != some {
		t.Errorf("one earlier run has changed it to %+v", got)
	}
}

// One run after the other on a machine that takes half as long again as is measured, each told as
// those before it correct it: the correction stays.
func TestACorrectionStays(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	var past []Past
	var off float64
	const runs, settled = 400, 40
	for k := range runs {
		measured := Range{Mid: 60, Low: 50, High: 72}
		told, came := measured.By(past), 90*math.Exp(0.1*r.NormFloat64())
		if k >= settled {
			off += math.Log(told.Mid/came) / (runs - settled)
		}
		past = append(past, Past{measured, came})[max(0, len(past)-39):]
	}
	if math.Abs(off) > 0.02 { // known to 0.005
		t.Errorf("what is told is off by %.3f in the mean of logarithms", off)
	}
}
