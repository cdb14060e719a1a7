package finish

import (
	"math/rand/v2"
	"testing"

	"amberproof/core/colour"
)

// noisy is a grey picture with noise of a standard error.
func noisy(w, h int, sigma float32, seed uint64) *Picture {
	r := rand.New(rand.NewPCG(seed, 1))
	p := &Picture{W: w, H: h, R: make([]float32, w*h), G: make([]float32, w*h), B: make([]float32, w*h)}
	for i := range p.R {
		n := float32(r.NormFloat64()) * sigma
		p.R[i], p.G[i], p.B[i] = 0.3+n, 0.3+n, 0.3+n
	}
	return p
}

func even(n int, v float32) []float32 {
	out := make([]float32, n)
	for i := range out {
		out[i] = v
	}
	return out
}

func count(lit []bool) (n int) {
	for _, on := range lit {
		if on {
			n++
		}
	}
	return n
}

// Noise lights up nothing, however much of it there is if it is known; a square that is brighter
// by six standard errors does, within a pixel of its outline; so does a line one pixel wide.
func TestChanged(t *testing.T) {
	const w, h = 300, 200
	f := Finish{Transform: colour.Plain}
	for seed := range uint64(6) {
		a, b := noisy(w, h, 0.02, 2*seed), noisy(w, h, 0.02, 2*seed+1)
		e := even(w*h, 0.02)
		if n := count(f.Changed(a, b, e, e)); n != 0 {
			t.Errorf("noise, seed %d: %d pixels", seed, n)
		}
		in := func(x, y int) bool { return x >= 100 && x < 140 && y >= 50 && y < 90 || y == 150 }
		for i := range b.R {
			if in(i%w, i/w) {
				b.R[i] += 0.17
			}
		}
		lit := f.Changed(a, b, e, e)
		missed, false_ := 0, 0
		for i, on := range lit {
			x, y := i%w, i/w
			switch near := in(x-1, y) || in(x+1, y) || in(x, y-1) || in(x, y+1); {
			case in(x, y) && !on:
				missed++
			case !in(x, y) && !near && on:
				false_++
			}
		}
		if missed > 60 || false_ > 0 { // of 2200
			t.Errorf("seed %d: %d pixels missed, %d falsely lit", seed, missed, false_)
		}
	}
}

// Of pictures whose noise is not known, what is seen counts, and what is less than that does not.
func TestChangedWithoutNoise(t *testing.T) {
	f := Finish{Transform: colour.Plain}
	a, b := noisy(50, 50, 0, 1), noisy(50, 50, 0, 1)
	for i := range b.R {
		b.R[i] += 0.0005
	}
	if n := count(f.Changed(a, b, nil, nil)); n != 0 {
		t.Errorf("less than is seen: %d", n)
	}
	for i := range b.R {
		b.R[i] += 0.02
	}
	if n := count(f.Changed(a, b, nil, nil)); n != 2500 {
		t.Errorf("what is seen: %d", n)
	}
}

// Groups are of pixels that touch, also by their corners.
func TestSmallGroupsGo(t *testing.T) {
	const w, h = 30, 6
	lit := make([]bool, w*h)
	for k := range least - 1 {
		lit[k] = true // a row of one too few
	}
	for k := range least {
		lit[(4-k%2)*w+k] = true // enough in a zigzag
	}
	dropSmall(lit, w, h)
	if n := count(lit); n != least {
		t.Errorf("%d are left", n)
	}
}
