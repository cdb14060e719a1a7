package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// What both frames show at a point is one ray, wherever one frame lies in the other.
func TestOverIsWhereTheSameIsSeen(t *testing.T) {
	base := View{Camera: geom.Translate(geom.V(1, 2, 3)), YFov: 0.7, YMag: 0.4, Aspect: 1.5}
	for name, change := range map[string]func(v *View){
		"same":    func(v *View) {},
		"square":  func(v *View) { v.Aspect = 1 },
		"zoomed":  func(v *View) { v.YFov, v.YMag = 0.3, 0.2 },
		"shifted": func(v *View) { v.Shift = [2]float32{0.2, -0.1} },
		"all":     func(v *View) { v.Aspect, v.YFov, v.YMag, v.Shift = 2.1, 0.9, 0.6, [2]float32{-0.3, 0.25} },
	} {
		for _, flat := range []bool{false, true} {
			a, b := base, base
			change(&b)
			if flat {
				a.YFov, b.YFov = 0, 0
			}
			a.Shift[1] += 0.05
			l := a.Over(&b)
			if !l.Same {
				t.Fatalf("%s: not the same", name)
			}
			for _, p := range [][2]float32{{-1, -1}, {0.3, 0.7}, {1, 0}} {
				// A point of b's frame, and the same point as it lies in that of a.
				u, v := l.X+l.Width*float64(p[0]+1)/2, l.Y+l.Height*float64(1-p[1])/2
				o1, d1 := b.Ray(p[0], p[1])
				o2, d2 := a.Ray(float32(2*u-1), float32(1-2*v))
				if o1.Sub(o2).Len() > 1e-5 || d1.Sub(d2).Len() > 1e-5 {
					t.Errorf("%s, orthographic %v: at %v one looks from %v along %v, the other from %v along %v", name, flat, p, o1, d1, o2, d2)
				}
			}
		}
	}
}

func TestOverOfOtherViews(t *testing.T) {
	a := View{YFov: 0.7, Aspect: 2, Camera: geom.Translate(geom.V(0, 0, 1))}
	b := View{YFov: 0.7, Aspect: 1, Camera: geom.Translate(geom.V(0, 0, 1.1))}
	is := func(got, want Lay) {
		t.Helper()
		for _, d := range []float64{got.X - want.X, got.Y - want.Y, got.Width - want.Width, got.Height - want.Height} {
			if got.Same || math.Abs(d) > 1e-6 {
				t.Errorf("%+v, want %+v", got, want)
				return
			}
		}
	}
	is(a.Over(&b), Lay{X: 0.25, Width: 0.5, Height: 1})
	is(b.Over(&a), Lay{Y: 0.25, Width: 1, Height: 0.5})
	if l := (&View{}).Over(&View{}); l != (Lay{Width: 1, Height: 1, Same: true}) {
		t.Errorf("of cameras that see nothing: %+v", l)
	}
	b.Camera, b.YFov = a.Camera, 0 // one of them orthographic
	is(a.Over(&b), Lay{X: 0.25, Width: 0.5, Height: 1})
}
