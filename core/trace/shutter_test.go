package trace

import (
	"context"
	"math"
	"strings"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// about is the quaternion of a turn about an axis, which is of unit length.
func about(axis geom.Vec3, degrees float64) [4]float32 {
	s, c := math.Sincos(degrees * math.Pi / 360)
	a := axis.Scale(float32(s))
	return [4]float32{a.X, a.Y, a.Z, float32(c)}
}

// A square of side one that goes by its own length is, at each place, there for
// the share of time that its edges take to pass: a ramp up and down. In the
// frame, a pixel is 1/16; the blind behind is black.
func TestASquareThatMovesIsBlurredIntoARamp(t *testing.T) {
	b := newBench(48, 8)
	b.opt.Backing = BackClear
	b.part("square", quad(geom.V(-1, -0.5, 0), geom.V(1, 0, 0), geom.V(0, 1, 0)), b.finish(glow(1)))
	b.moving(line(geom.Vec3{}, geom.V(1, 0, 0)), nil, nil)
	b.opt.Camera = Camera{World: geom.Translate(geom.V(0, 0, 5)), YMag: 0.25}
	f := b.render(t, 1024)
	worst := 0.0
	for x := range 48 {
		var sum float64
		for y := range 8 {
			s, i := f.At(x, y)
			p := s.Pixel(i)
			sum += float64(p[film.Alpha]/p[film.Weight]) / 8
		}
		at := math.Abs((float64(x)+0.5)/16 - 1.5)
		worst = max(worst, math.Abs(sum-max(0, 1-at)))
	}
	// The tip of the ramp is flattened by the pixel; else well-spread samples err little.
	if bar := 1.0/64 + 0.01; worst > bar {
		t.Errorf("the ramp strays by %.4f, bar %.4f", worst, bar)
	}
	mean, _ := meanOf(f, film.Alpha)
	expect(t, "what is covered on average", mean, 1.0/3, 0.002)
}

// mean is that of f over 0 to 1.
func mean(f func(u float64) float64) (m float64) {
	const n = 2000
	for k := range n {
		m += f((float64(k)+0.5)/n) / n
	}
	return m
}

// The light that a floor gets from a panel that swings over it is the mean of
// Lambert's closed form over the swing, however it is sampled.
func TestMovingLightsGiveTheMeanOfTheirPlaces(t *testing.T) {
	long(t)
	corners := []geom.Vec3{{X: -0.3, Y: 2, Z: -0.5}, {X: 0.6, Y: 2, Z: -0.5}, {X: 0.6, Y: 2, Z: 0.5}, {X: -0.3, Y: 2, Z: 0.5}}
	swing := 80.0
	want := 5 / math.Pi * mean(func(u float64) float64 {
		place := geom.Compose(geom.Vec3{}, about(geom.V(0, 0, 1), swing*u), geom.Splat(1))
		var e float64
		for i := range corners {
			p, q := place.Point(corners[i]).Unit(), place.Point(corners[(i+1)%4]).Unit()
			e += math.Acos(float64(p.Dot(q))) * float64(p.Cross(q).Unit().Y) / 2
		}
		return math.Abs(e)
	})
	panel := quad(corners[0], geom.V(0.9, 0, 0), geom.V(0, 0, 1))
	// The same area as a mesh of other triangles is no rectangle light.
	fan := scene.Mesh{Positions: append([]geom.Vec3{{X: 0.15, Y: 2}}, corners...), Indices: []uint32{0, 1, 2, 0, 2, 3, 0, 3, 4, 0, 4, 1}}
	for name, m := range map[string]scene.Mesh{"rectangle": panel, "mesh": fan} {
		for _, alone := range []bool{false, true} {
			if alone && name == "mesh" {
				continue // no lamp that a ticket could set
			}
			b := newBench(8, 8)
			b.part("panel", m, b.finish(glow(5)))
			b.moving(nil, &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{about(geom.V(0, 0, 1), 0), about(geom.V(0, 0, 1), swing)}}, nil)
			if alone {
				set := AsInScene()
				set.Shadows = false
				b.opt.Lamps = []LightSetting{set}
			}
			got, bar := b.plane(t, 1024, film.Beauty)
			expect(t, "radiance of a white floor under a swinging "+name, got, want, bar+2e-3)
		}
	}
	// A lamp of 10 candela that rises from one to three metres: mean of 1/h^2 is 1/3.
	for _, radius := range []float32{0, 0.1} {
		b := newBench(8, 8)
		b.light(scene.Light{Name: "lamp", Kind: scene.SpotLight, Colour: geom.Splat(1), Intensity: 10, Radius: radius, InnerCone: 0.4, OutCone: 0.6}, geom.Identity())
		b.moving(line(geom.V(0, 1, 0), geom.V(0, 3, 0)), &scene.Curve{Times: []float32{0}, Values: [][4]float32{about(geom.V(1, 0, 0), -90)}},
			&scene.Curve{Times: []float32{0}, Values: [][4]float32{{2, 2, 2}}})
		unseen := AsInScene()
		unseen.Camera = false
		b.opt.Lamps = []LightSetting{unseen}
		got, bar := b.plane(t, 1024, film.Beauty)
		expect(t, "radiance under a rising lamp", got, 10.0/3/math.Pi, bar+2e-3)
	}
}

// A glowing sheet that grows is hit by chance only; what it gives is the mean of
// Lambert's form over its sizes.
func TestAGlowThatGrowsIsMetByChance(t *testing.T) {
	b := newBench(8, 8)
	b.part("panel", quad(geom.V(-0.5, 2, -0.5), geom.V(1, 0, 0), geom.V(0, 0, 1)), b.finish(glow(5)))
	b.moving(nil, nil, &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{{1, 1, 1}, {3, 1, 1}}})
	want := 5 / math.Pi * mean(func(u float64) float64 {
		w := float32(0.5 * (1 + 2*u))
		c := []geom.Vec3{{X: -w, Y: 2, Z: -0.5}, {X: w, Y: 2, Z: -0.5}, {X: w, Y: 2, Z: 0.5}, {X: -w, Y: 2, Z: 0.5}}
		var e float64
		for i := range c {
			p, q := c[i].Unit(), c[(i+1)%4].Unit()
			e += math.Acos(float64(p.Dot(q))) * float64(p.Cross(q).Unit().Y) / 2
		}
		return math.Abs(e)
	})
	got, bar := b.plane(t, 4096, film.Beauty)
	expect(t, "radiance of a white floor under a growing panel", got, want, bar)
}

// What the motion pass tells is where the projection of a point goes, of moving
// parts and for a moving camera.
func TestTheMotionPassTellsTheWayInPixels(t *testing.T) {
	for _, camera := range []bool{false, true} {
		b := newBench(64, 32)
		b.want = []passes.Kind{passes.Motion}
		b.part("sheet", quad(geom.V(-9, -9, 0), geom.V(18, 0, 0), geom.V(0, 18, 0)), b.finish(matte(0.5)))
		b.moving(line(geom.V(-0.3, -0.1, 0), geom.V(0.3, 0.1, 0)), nil, nil)
		b.opt.Shutter.Blur = false
		b.opt.Camera = Camera{World: geom.Translate(geom.V(0, 0, 4)), YFov: float32(2 * math.Atan(0.5))}
		dx, dy := 0.6, 0.2
		if camera {
			b.opt.Camera.Way = []geom.Affine{geom.Translate(geom.V(0.1, 0, 4)), geom.Translate(geom.V(-0.1, 0, 4))}
			dx += 0.2
		}
		f := b.render(t, 4)
		s, i := f.At(40, 20)
		p := s.Pixel(i)[b.at(t, passes.MotionPlane):]
		// The frame is 32 pixels and 4 metres high at the sheet.
		expect(t, "pixels to the right", float64(p[0]/p[2]), dx*8, 1e-3)
		expect(t, "pixels up", float64(p[1]/p[2]), dy*8, 1e-3)
	}
}

// A part that flies out of the world is told of, and not rendered as nonsense.
func TestAWayOutOfTheWorldIsAnError(t *testing.T) {
	for _, far := range []float32{1e7, 1e38, float32(math.NaN())} {
		b := newBench(8, 8)
		b.part("rocket", floor(1), b.finish(matte(0.5)))
		b.moving(line(geom.V(0, -far, 0), geom.V(0, far, 0)), nil, nil)
		b.opt.Finishes, b.opt.Wears = b.s.Finishes, []int{0}
		if _, err := Prepare(context.Background(), &b.s, b.opt); err == nil || !strings.Contains(err.Error(), "rocket") {
			t.Errorf("%v m: %v", far, err)
		}
	}
}

// With nothing that moves an open shutter changes no pixel.
func TestAnOpenShutterChangesNothingThatStands(t *testing.T) {
	take := func(blur bool) *film.Film {
		b := newBench(16, 16)
		stageOf(b)
		b.part("ball", ball(geom.V(0, 0.5, 0), 0.5, 12), b.finish(plain("ball", geom.Splat(0.6), 0.3)))
		b.camera(geom.V(0, 1, 4), geom.V(0, 0.5, 0), 0.5)
		if blur {
			b.light(scene.Light{Name: "off", Colour: geom.Splat(1), Intensity: 1e-9}, geom.Identity())
			b.s.Lights = nil
			b.moving(line(geom.Vec3{}, geom.V(1, 0, 0)), nil, nil)
		}
		return b.render(t, 4)
	}
	a, c := take(false), take(true)
	for i := range a.Tiles {
		for k, v := range a.Tiles[i].Data {
			if v != c.Tiles[i].Data[k] {
				t.Fatalf("tile %d differs", i)
			}
		}
	}
}
