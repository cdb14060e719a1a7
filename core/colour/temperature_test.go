package colour

import (
	"math"
	"testing"
)

// Chromaticities of glowing bodies, CIE 1931, as tables of colorimetry give them
// (2856 K is CIE standard illuminant A).
func TestGlowingBodiesHaveTheirPublishedColours(t *testing.T) {
	for _, c := range []struct{ kelvin, x, y float64 }{
		{1500, 0.5857, 0.3931}, {2000, 0.5267, 0.4133}, {2856, 0.4476, 0.4074}, {4000, 0.3805, 0.3768}, {6504, 0.3135, 0.3237}, {10000, 0.2807, 0.2884},
	} {
		x, y := Chromaticity(c.kelvin, 0)
		if math.Abs(x-c.x) > 4e-4 || math.Abs(y-c.y) > 4e-4 {
			t.Errorf("%g K is at %.4f, %.4f; published are %.4f, %.4f", c.kelvin, x, y, c.x, c.y)
		}
	}
}

func TestATintLiesSquareOffTheCurve(t *testing.T) {
	// D65 is known to lie 0.0032 above the curve, at 6504 K.
	x, y := Chromaticity(Neutral, 0.0032)
	if math.Abs(x-0.3127) > 3e-4 || math.Abs(y-0.3290) > 3e-4 {
		t.Errorf("D65 comes out at %.4f, %.4f", x, y)
	}
}

func TestTemperaturesAsABalancedCameraSeesThem(t *testing.T) {
	w := Temperature(Neutral, 0)
	for k := range 3 {
		if math.Abs(float64(w.At(k))-1) > 1e-6 {
			t.Fatalf("neutral is %v", w)
		}
	}
	last := math.Inf(1)
	for k := 1000.0; k <= 15000; k += 250 {
		c := Temperature(k, 0)
		if l := Luminance(c); math.Abs(float64(l)-1) > 1e-5 {
			t.Errorf("%g K has luminance %g", k, l)
		}
		if c.X < 0 || c.Y < 0 || c.Z < 0 || !c.Finite() {
			t.Errorf("%g K is %v", k, c)
		}
		if warm := float64(c.X) / math.Max(float64(c.Z), 1e-9); warm >= last && c.Z > 0 {
			t.Errorf("%g K is warmer than what is cooler", k)
		} else {
			last = warm
		}
	}
	if g, m := Temperature(5000, 0.01), Temperature(5000, -0.01); g.Y/g.X <= m.Y/m.X {
		t.Errorf("a tint above 0 is not greener: %v and %v", g, m)
	}
}
