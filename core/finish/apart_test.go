package finish

import (
	"math"
	"testing"

	"amberproof/core/colour"
)

func grey(w, h int, at func(x, y int) float32) *Picture {
	p := &Picture{W: w, H: h, R: make([]float32, w*h)}
	for i := range p.R {
		p.R[i] = at(i%w, i/w)
	}
	return p
}

func TestApart(t *testing.T) {
	f := Finish{Transform: colour.Plain}
	a := grey(90, 70, func(x, y int) float32 { return 0.2 })
	b := grey(90, 70, func(x, y int) float32 {
		if x == 80 && y == 60 {
			return 0.25
		}
		return 0.2
	})
	img := f.Apart(a, b, 4)
	want := 4 * 255 * (f.Of(b.raw(60*90+80)).X - f.Of(a.raw(0)).X)
	for y := range 70 {
		for x := range 90 {
			c := img.NRGBAAt(x, y)
			if x == 80 && y == 60 {
				if math.Abs(float64(c.R)-float64(want)) > 1 || c.R != c.G || c.R != c.B {
					t.Errorf("%v, want %v", c, want)
				}
			} else if c.R != 0 || c.A != 255 {
				t.Fatalf("at %d, %d: %v", x, y, c)
			}
		}
	}
	if c := f.Apart(b, a, 1000).NRGBAAt(80, 60); c.R != 255 {
		t.Errorf("a large gain gives %v", c)
	}
	// What is clear in one and black in the other is the same on black.
	clear := grey(90, 70, func(x, y int) float32 { return 0 })
	clear.A = make([]float32, 90*70)
	if c := f.Apart(clear, grey(90, 70, func(x, y int) float32 { return 0 }), 100).NRGBAAt(3, 3); c.R != 0 {
		t.Errorf("clear and black are %v apart", c)
	}
}

func TestLaid(t *testing.T) {
	p := grey(8, 6, func(x, y int) float32 { return float32(x) + 10*float32(y) })
	for _, c := range []struct {
		name       string
		x, y, step float64
		i, j       int
		want, a    float32
	}{
		{"as it is", 0, 0, 1, 3, 2, 23, 1},
		{"moved by two", 2, 0, 1, 3, 2, 25, 1},
		{"between two", 0.5, 0, 1, 3, 2, 23.5, 1},
		{"twice as large", 0, 0, 0.5, 6, 5, 2.75 + 10*2.25, 1}, // its middle is at 3.25, 2.75, and that of pixel 0 at 0.5
		{"half as large", 0, 0, 2, 1, 1, 2.5 + 25, 1},          // middle between 2 and 3, 2 and 3
		{"beyond its edge", -4, 0, 1, 1, 1, 0, 0},
		{"half over its edge", -0.5, 0, 1, 0, 1, 5, 0.5},
	} {
		out := p.Laid(c.x, c.y, c.step, c.step, 8, 6)
		if got := out.R[c.j*8+c.i]; math.Abs(float64(got-c.want)) > 1e-4 {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
		if got := out.A[c.j*8+c.i]; math.Abs(float64(got-c.a)) > 1e-6 {
			t.Errorf("%s: alpha %v, want %v", c.name, got, c.a)
		}
	}
}
