package trace

import (
	"fmt"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// A wall at a distance d blocks the rays of the cosine-weighted hemisphere whose share
// towards it is over c = d / reach: of the unit disk that they are even over, the segment
// beyond c. Two walls of a slot block two of them.
func TestCrevicesBesideWallsAndInSlots(t *testing.T) {
	segment := func(c float64) float64 {
		if c >= 1 {
			return 0
		}
		return (math.Acos(c) - c*math.Sqrt(1-c*c)) / math.Pi
	}
	for _, c := range []struct {
		left, right float64 // distances of the walls, metres; 0: there is none
		reach       float64
	}{{0.1, 0, 0.5}, {0.1, 0, 0.11}, {0.1, 0, 0.09}, {0.05, 0.2, 0.4}, {0.1, 0.1, 2}} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			b := newBench(8, 8)
			clay := matte(0.6)
			b.part("floor", floor(50), b.finish(clay))
			closed := 0.0
			if c.left > 0 {
				b.part("left", quad(geom.V(float32(-c.left), 0, 50), geom.V(0, 0, -100), geom.V(0, 50, 0)), 0)
				closed += segment(c.left / c.reach)
			}
			if c.right > 0 {
				b.part("right", quad(geom.V(float32(c.right), 0, -50), geom.V(0, 0, 100), geom.V(0, 50, 0)), 0)
				closed += segment(c.right / c.reach)
			}
			b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: math.Pi},
				geom.LookAt(geom.V(0, 5, 0), geom.Vec3{}, geom.V(0, 0, 1)))
			b.camera(geom.V(0, 0.5, 0.0001), geom.Vec3{}, 1e-3)
			b.opt.DiffuseBounces = 0
			b.opt.Crevices = []*optics.Crevice{{Tone: geom.Splat(0.2), Reach: float32(c.reach)}}
			got, bar := meanOf(b.render(t, 256), film.Beauty)
			want := 0.6 + closed*(0.2-0.6)
			expect(t, "tone of the floor", got, want, 3*bar+1e-3)
		})
	}
}

// Crevices are there in a mirror and through glass, and glass closes nothing in.
func TestCrevicesAreSeenEverywhere(t *testing.T) {
	look := func(change func(b *bench)) float64 {
		b := newBench(8, 8)
		b.part("floor", floor(50), b.finish(matte(0.6)))
		b.part("wall", quad(geom.V(-0.0001, 0, 50), geom.V(0, 0, -100), geom.V(0, 50, 0)), 0)
		b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: math.Pi}, geom.LookAt(geom.V(0, 5, 0), geom.Vec3{}, geom.V(0, 0, 1)))
		b.camera(geom.V(0.0002, 0.5, 0.0001), geom.V(0.0002, 0, 0), 1e-4)
		b.opt.DiffuseBounces = 0
		b.opt.Crevices = []*optics.Crevice{{Tone: geom.Splat(0.2), Reach: 1}}
		change(b)
		got, _ := meanOf(b.render(t, 256), film.Beauty)
		return got
	}
	plain := look(func(*bench) {})
	if math.Abs(plain-0.4) > 0.01 {
		t.Errorf("at the foot of a wall it is %g", plain)
	}
	pane := look(func(b *bench) {
		g := glass(0)
		g.Thickness = 0
		b.part("pane", quad(geom.V(-1, 0.3, 1), geom.V(2, 0, 0), geom.V(0, 0, -2)), b.finish(g))
	})
	// A pane lets 0.92 of the light through, down and up.
	if math.Abs(pane-plain*0.92*0.92) > 0.02 {
		t.Errorf("through a pane it is %g, without one %g", pane, plain)
	}
	// A small mirror over the place shows it to a camera that looks along the floor; the sun
	// comes from behind that.
	mirrored := func(crevices []*optics.Crevice) float64 {
		return look(func(b *bench) {
			m := scene.NewFinish("mirror")
			m.Roughness = 0
			b.part("mirror", quad(geom.V(-0.1, 0.4, -0.1), geom.V(0.2, 0, 0), geom.V(0, 0.2, 0.2)), b.finish(m))
			b.s.Lights = nil
			b.light(scene.Light{Name: "low sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: math.Pi},
				geom.LookAt(geom.V(0, 5, 5), geom.Vec3{}, geom.V(0, 1, 0)))
			b.camera(geom.V(0.0002, 0.5, 3), geom.V(0.0002, 0.5, 0), 1e-5)
			b.opt.Crevices = crevices
		})
	}
	open, closed := mirrored(nil), mirrored([]*optics.Crevice{{Tone: geom.Splat(0.2), Reach: 0.3}})
	if !(open > 0) || math.Abs(closed/open-0.4/0.6) > 0.01 {
		t.Errorf("in a mirror it is %g, without crevices %g", closed, open)
	}
}

// The reach of crevices is a length in the scene: at twice the size, each pixel is the mean
// of the four that it becomes.
func TestCrevicesAtTwoSizes(t *testing.T) {
	look := func(side int) []float64 {
		b := newBench(side, side)
		b.part("floor", floor(50), b.finish(matte(0.6)))
		b.part("wall", quad(geom.V(0, 0, 50), geom.V(0, 0, -100), geom.V(0, 50, 0)), 0)
		b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: math.Pi}, geom.LookAt(geom.V(0, 5, 0), geom.Vec3{}, geom.V(0, 0, 1)))
		b.camera(geom.V(0.2, 2, 0.0001), geom.V(0.2, 0, 0), 0.2)
		b.opt.DiffuseBounces = 0
		b.opt.Crevices = []*optics.Crevice{{Tone: geom.Splat(0.2), Reach: 0.2}}
		f := b.render(t, 64*16*16/(side*side)*4)
		out := make([]float64, 16*16)
		for y := range side {
			for x := range side {
				s, i := f.At(x, y)
				c, _ := s.Light(i)
				out[y*16/side*16+x*16/side] += float64(c.X) * 256 / float64(side*side)
			}
		}
		return out
	}
	small, large := look(16), look(32)
	for i := range small {
		if d := math.Abs(small[i] - large[i]); d > 0.03 {
			t.Errorf("pixel %d is %.3f, and %.3f of twice the size", i, small[i], large[i])
		}
	}
	if row := small[8*16 : 9*16]; row[15]-row[1] < 0.1 {
		t.Errorf("nothing is closed in along %v", row)
	}
}
