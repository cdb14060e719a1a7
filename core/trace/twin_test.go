package trace

import (
	"context"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// still is a small scene with a pane, a mirror, a lamp and a matte ball, seen with or
// without its pane in clay.
func still(clay, pane bool) *bench {
	b := newBench(40, 40)
	clear := glass(0)
	clear.Thickness = 0
	mirror := scene.NewFinish("mirror")
	mirror.Roughness = 0.1
	red := matte(0.6)
	red.Base = geom.V(0.7, 0.1, 0.05)
	finishes := []scene.Finish{red, clear, mirror, glow(4)}
	if clay {
		finishes[0], finishes[2] = matte(0.5), matte(0.5)
		if pane {
			finishes[1] = matte(0.5)
		}
	}
	for _, f := range finishes {
		b.finish(f)
	}
	b.part("floor", floor(3), 0)
	b.part("ball", ball(geom.V(0, 0.5, 0), 0.5, 24), 2)
	b.part("small", ball(geom.V(0.7, 0.2, 0.6), 0.2, 16), 0)
	b.part("pane", quad(geom.V(-1, 0, 1), geom.V(2, 0, 0), geom.V(0, 0.8, 0)), 1)
	b.part("lamp", quad(geom.V(-1, 2, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), 3)
	b.camera(geom.V(0.3, 1, 4), geom.V(0, 0.4, 0), 0.5)
	b.opt.DiffuseBounces, b.opt.GlossyBounces, b.opt.ClearBounces = 3, 3, 6
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.3), Strength: 1}
	return b
}

// A twin is to the bit what it would be by itself, and the picture and its data are what
// they would be without it: where both hit the same surfaces, and where they do not.
func TestATwinIsThePictureByItself(t *testing.T) {
	for _, pane := range []bool{false, true} {
		render := func(b *bench, own []passes.Kind) *film.Film {
			b.want = own
			return b.render(t, 6)
		}
		data := []passes.Kind{passes.Occlusion, passes.Normal, passes.Depth}
		own := render(still(false, false), data)
		alone := render(still(true, pane), nil)
		both := still(false, false)
		its := still(true, pane)
		its.world(t) // dresses its options
		twin := its.opt
		both.opt.Twin = &twin
		b := render(both, append([]passes.Kind{passes.Clay}, data...))
		w := both.world(t)
		if w.alike == pane {
			t.Errorf("pane in clay %v: surfaces alike %v", pane, w.alike)
		}
		apart := b.Twin()
		for y := range 40 {
			for x := range 40 {
				s, i := own.At(x, y)
				c, j := b.At(x, y)
				p, q := s.Pixel(i), c.Pixel(j)
				for k := range film.BeautyA + 3 {
					if p[k] != q[k] {
						t.Fatalf("pane %v: sum %d at (%d, %d) is %v, by itself %v", pane, k, x, y, q[k], p[k])
					}
				}
				for _, name := range []string{passes.OcclusionPlane, passes.DepthPlane} {
					at, _ := own.Layout.Place(name)
					to, _ := b.Layout.Place(name)
					if p[at] != q[to] {
						t.Fatalf("%s at (%d, %d) is %v, by itself %v", name, x, y, q[to], p[at])
					}
				}
				a, k := alone.At(x, y)
				d, l := apart.At(x, y)
				for n := range film.BeautyA + 3 {
					if a.Pixel(k)[n] != d.Pixel(l)[n] {
						t.Fatalf("pane %v: the twin's sum %d at (%d, %d) is %v, by itself %v", pane, n, x, y, d.Pixel(l)[n], a.Pixel(k)[n])
					}
				}
				if u, _ := a.Light(k); u != func() geom.Vec3 { v, _ := c.TwinLight(j); return v }() {
					t.Fatalf("the twin's light at (%d, %d)", x, y)
				}
			}
		}
	}
}

// The world of a twin follows when the camera is put elsewhere.
func TestATwinFollowsTheCamera(t *testing.T) {
	both, its := still(false, false), still(true, false)
	its.world(t)
	twin := its.opt
	both.opt.Twin, both.want = &twin, []passes.Kind{passes.Clay}
	from := geom.LookAt(geom.V(-1, 2, 3), geom.V(0, 0.3, 0), geom.V(0, 1, 0))
	seen := both.world(t).Seen(Camera{World: from, YFov: 0.5}, 24, 24)
	its.opt.Camera, its.opt.Width, its.opt.Height, its.opt.Window = seen.opt.Camera, 24, 24, seen.opt.Window
	alone := its.render(t, 4)
	f := film.New(seen.opt.Window, seen.opt.Layout)
	if err := Expose(context.Background(), seen, f, 0, 4, 2); err != nil {
		t.Fatal(err)
	}
	for i := range 24 * 24 {
		a, j := alone.At(i%24, i/24)
		b, k := f.At(i%24, i/24)
		u, _ := a.Light(j)
		if v, _ := b.TwinLight(k); u != v {
			t.Fatalf("at (%d, %d) it is %v, by itself %v", i%24, i/24, v, u)
		}
	}
}
