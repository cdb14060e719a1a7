package lights

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// Between the last column and the first, and beyond the poles' rows, a picture is
// what its nearest pixels are; a direction that is none gives some radiance.
func TestAPictureWrapsRound(t *testing.T) {
	const w, h = 4, 2
	var pix []float32
	for i := range w * h {
		v := float32(i + 1)
		pix = append(pix, v, 2*v, 3*v)
	}
	e := Picture(w, h, pix, 0, 1)
	at := func(u, v float64) float32 {
		sin, cos := math.Sincos(math.Pi * v)
		s, c := math.Sincos(2 * math.Pi * (u - 0.5))
		return e.Radiance(geom.V(float32(sin*s), float32(cos), float32(-sin*c))).X
	}
	for _, c := range []struct {
		u, v float64
		want float32
	}{
		{0.125, 0.25, 1}, {0.375, 0.25, 2}, {0.25, 0.25, 1.5}, // middles of pixels, and between
		{0.001, 0.25, 2.5}, {0.999, 0.25, 2.5}, // between the last column and the first
		{0.125, 0.01, 1}, {0.125, 0.99, 5}, // beyond the rows
		{0.125, 0.5, 3}, // between the rows
	} {
		if got := at(c.u, c.v); geom.Abs(got-c.want) > 0.02 {
			t.Errorf("at %v, %v: %v, want %v", c.u, c.v, got, c.want)
		}
	}
	nan := float32(math.NaN())
	e.Radiance(geom.V(nan, nan, nan))
}
