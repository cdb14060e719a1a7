package colour

import (
	"math"
	"testing"
)

func TestReflectancesAsColours(t *testing.T) {
	for _, k := range []float64{0.2, 1} {
		got := OfReflectance(func(float64) float64 { return k })
		for i := range 3 {
			if math.Abs(float64(got.At(i))-k) > 1e-4 {
				t.Errorf("an even reflectance of %g is %v", k, got)
			}
		}
	}
	red := OfReflectance(func(nm float64) float64 {
		if nm > 600 {
			return 1
		}
		return 0
	})
	if !(red.X > 0.5 && red.Y < 0.1 && red.Z < 0.1) {
		t.Errorf("what reflects from 600 nm on is %v", red)
	}
}
