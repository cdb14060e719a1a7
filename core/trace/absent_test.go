package trace

import (
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// A part that only throws its shadow is seen neither by the camera nor in a mirror nor
// by masks; the floor lies in its shadow as if it were there.
func TestPartsByTheirShadow(t *testing.T) {
	build := func(absent bool) *bench {
		b := newBench(16, 16)
		floor, blue := matte(0.5), matte(0.5)
		blue.Base = geom.V(0, 0, 0.8)
		mirror := scene.NewFinish("mirror")
		mirror.Roughness = 0
		b.part("floor", quad(geom.V(-9, 0, 9), geom.V(18, 0, 0), geom.V(0, 0, -18)), b.finish(floor))
		// Between the light and the floor; the camera looks along under the sun and hits it.
		b.part("screen", quad(geom.V(-2, 1, 2), geom.V(4, 0, 0), geom.V(0, 0, -4)), b.finish(blue))
		b.part("mirror", quad(geom.V(-9, 0, -6), geom.V(18, 0, 0), geom.V(0, 6, 0)), b.finish(mirror))
		b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 3}, geom.LookAt(geom.V(0, 5, 0), geom.Vec3{}, geom.V(0, 0, 1)))
		b.camera(geom.V(0, 4, 0.001), geom.Vec3{}, 0.4)
		b.opt.DiffuseBounces = 0
		if absent {
			b.opt.Absent = []bool{false, true, false}
		}
		return b
	}
	mean := func(b *bench) (c geom.Vec3) {
		f := b.render(t, 8)
		for i := range 3 {
			v, _ := meanOf(f, film.Beauty+i)
			c = c.Add([3]geom.Vec3{{X: 1}, {Y: 1}, {Z: 1}}[i].Scale(float32(v)))
		}
		return c
	}
	if c := mean(build(false)); c.Z < 0.5 || c.X != 0 {
		t.Fatalf("with the screen the camera sees %v", c)
	}
	if c := mean(build(true)); c != (geom.Vec3{}) { // the floor, in its shadow
		t.Errorf("without it the camera sees %v", c)
	}
	lit := build(true)
	lit.camera(geom.V(5, 4, 0.001), geom.V(5, 0, 0), 0.4)
	if c := mean(lit); c.X < 0.4 || c.X != c.Z {
		t.Errorf("beside its shadow the floor is %v", c)
	}
	into, before := build(true), build(false)
	into.camera(geom.V(0, 2, 5), geom.V(0, 1.2, -6), 0.1)
	before.camera(geom.V(0, 2, 5), geom.V(0, 1.2, -6), 0.1)
	if c := mean(before); c.Z <= c.X {
		t.Fatalf("in the mirror the screen is %v", c)
	}
	if c := mean(into); c.Z != c.X {
		t.Errorf("in the mirror it is %v", c)
	}
	if part, ok := build(true).world(t).NewTracer().At(8, 8, true); !ok || part != 0 {
		t.Errorf("masks show part %d", part)
	}
}
