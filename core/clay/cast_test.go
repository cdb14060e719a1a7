package clay

import (
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
)

// The cast is told of places that are clay all over, and of nothing beside them.
func TestCast(t *testing.T) {
	f := film.New(image.Rect(0, 0, 48, 16), film.NewLayout(true))
	put := func(from, to int, part int32, c geom.Vec3) {
		for i := range f.Tiles {
			s := f.Tiles[i].Sums
			for k := range s.Rect.Dx() * s.Rect.Dy() {
				if x := s.Rect.Min.X + k%s.Rect.Dx(); x >= from && x < to {
					s.Add(k, &film.Sample{Weight: 2, Light: c, Alpha: 1, Part: part})
				}
			}
		}
	}
	put(0, 16, 0, geom.Splat(0.3))          // neutral
	put(16, 32, 0, geom.V(0.32, 0.3, 0.28)) // warm
	put(32, 48, 1, geom.V(1, 0, 0))         // no clay
	put(30, 32, 1, geom.V(0.32, 0.3, 0.28)) // an edge: its places are not all clay
	covered := func(part int) bool { return part == 0 }
	shown := colour.Plain.Display(geom.V(0.32, 0.3, 0.28), 2).Scale(255)
	by := float64(shown.X - shown.Z)
	c := CastOf(f, f, covered, colour.Plain, 1)
	if c.Places != 6 || math.Abs(c.Worst-by) > 1e-3 || math.Abs(c.Mean-by/3) > 1e-3 || c.Tone[0] <= c.Tone[2] {
		t.Errorf("cast %+v, of %g at worst", c, by)
	}
	if c := CastOf(f, f, func(int) bool { return false }, colour.Plain, 1); c != (Cast{}) {
		t.Errorf("of no clay: %+v", c)
	}
}
