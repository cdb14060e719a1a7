package main

import (
	"math"
	"testing"
)

func flat(w, h int, c [3]float64) *picture {
	p := &picture{w, h, make([][3]float64, w*h)}
	for i := range p.px {
		p.px[i] = c
	}
	return p
}

func TestFlipOfWhatIsKnown(t *testing.T) {
	black, white := flat(40, 30, [3]float64{}), flat(40, 30, [3]float64{1, 1, 1})
	if d := flip(white, white); d != 0 {
		t.Errorf("a picture differs from itself by %v", d)
	}
	// Published for black against white: 0.967. Without edges it follows from the
	// formulas for colour alone.
	if d := flip(black, white); math.Abs(d-0.967) > 2e-3 {
		t.Errorf("black and white differ by %v", d)
	}
	// Nothing is further apart than green and blue.
	if d := flip(flat(40, 30, [3]float64{0, 1, 0}), flat(40, 30, [3]float64{0, 0, 1})); math.Abs(d-1) > 1e-3 {
		t.Errorf("green and blue differ by %v", d)
	}
}

// More noise is more of a difference, and noise that one cannot tell is none to speak of.
func TestFlipGrowsWithNoise(t *testing.T) {
	grey := flat(64, 64, [3]float64{0.2, 0.2, 0.2})
	last := 0.0
	for _, strength := range []float64{0.002, 0.01, 0.05, 0.1} {
		noisy := flat(64, 64, [3]float64{})
		for i := range noisy.px {
			v := 0.2 + strength*math.Sin(float64(i*i%977))
			noisy.px[i] = [3]float64{v, v, v}
		}
		d := flip(grey, noisy)
		if d <= last {
			t.Errorf("noise of %v differs by %v, less by %v", strength, d, last)
		}
		last = d
	}
	if last < 0.05 || last > 0.9 {
		t.Errorf("strong noise differs by %v", last)
	}
}

func TestColoursGoThereAndBack(t *testing.T) {
	for _, c := range [][3]float64{{0, 0, 0}, {1, 1, 1}, {0.2, 0.5, 0.9}} {
		for k, v := range fromOpponent(toOpponent(c)) {
			if math.Abs(v-c[k]) > 1e-5 {
				t.Errorf("%v came back as %v at %d", c, v, k)
			}
		}
	}
	if l := lab([3]float64{1, 1, 1}); math.Abs(l[0]-100) > 1e-6 || math.Hypot(l[1], l[2]) > 1e-3 {
		t.Errorf("white is %v", l)
	}
}
