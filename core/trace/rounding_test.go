package trace

import (
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// Two triangles of a kilometre and more, as a floor read in the wrong unit is:
// nothing stands on it, so it is open and lit as if it were small.
func TestAVastFloorDoesNotShadeItself(t *testing.T) {
	for _, size := range []float32{1, 100, 2000, 20000} {
		for _, turn := range []float64{0, 0.3} { // along the axes and not
			b := newBench(32, 32)
			b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 10*size, 4
			tilt := geom.Affine{1, 0, 0, 0, 0, float32(math.Cos(turn)), float32(-math.Sin(turn)), 0, 0, float32(math.Sin(turn)), float32(math.Cos(turn)), 0}
			m := floor(size)
			for i := range m.Positions {
				m.Positions[i] = tilt.Point(m.Positions[i])
			}
			b.part("floor", m, b.finish(matte(1)))
			sun := tilt.Vector(geom.V(0.6, 1, 0.2).Unit())
			b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: math.Pi}, geom.LookAt(sun, geom.Vec3{}, geom.V(0, 0, 1)))
			b.camera(tilt.Vector(geom.V(0.3, 1.5, 1).Scale(min(size, 3))), geom.Vec3{}, 0.5)
			f := b.render(t, 16)
			open, bar := meanOf(f, b.at(t, passes.OcclusionPlane))
			expect(t, "open share of a floor", open, 1, bar+1e-6)
			lit, bar := meanOf(f, film.Beauty)
			expect(t, "sunlight on a floor", lit, float64(sun.Dot(tilt.Vector(geom.V(0, 1, 0)))), bar+1e-3)
		}
	}
}

// What a net of a share of alpha keeps of light it keeps of openness too.
func TestOcclusionDarkensByAlpha(t *testing.T) {
	for _, alpha := range []float32{0.2, 0.5, 0.8} {
		b := newBench(16, 16)
		b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 1e4, 8
		b.part("floor", floor(2), b.finish(matte(1)))
		net := matte(0.5)
		net.AlphaMode, net.Alpha = scene.Blend, alpha
		b.part("net", quad(geom.V(-1000, 5, -1000), geom.V(2000, 0, 0), geom.V(0, 0, 2000)), b.finish(net))
		b.camera(geom.V(0, 3, 0.001), geom.Vec3{}, 0.3)
		got, bar := b.openness(t, 64)
		expect(t, "open share under a net", got, float64(1-alpha), bar+0.006) // the net ends before the horizon
	}
}

// A coarse ball of smooth glass before an even backing, in an even surround of the
// same light: it disappears, and covers what it covers, to its very outline.
func TestACoarseGlassBallLosesNothingAtItsOutline(t *testing.T) {
	b := newBench(48, 48)
	b.opt.Backing, b.opt.BackingTone = BackTone, geom.Splat(1)
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	b.part("ball", ball(geom.Vec3{}, 1, 8), b.finish(glass(0)))
	b.camera(geom.V(0.4, 0.7, 6), geom.Vec3{}, 0.42)
	f := b.render(t, 64)
	for y := range 48 {
		for x := range 48 {
			s, i := f.At(x, y)
			c, alpha := s.Light(i)
			if math.Abs(float64(alpha)-1) > 1e-3 {
				t.Fatalf("pixel %d, %d has the alpha %v", x, y, alpha)
			}
			_ = c
		}
	}
	got, bar := meanOf(f, film.Beauty)
	expect(t, "light of a glass ball in even light", got, 1, bar+0.002)
}

// With a filter of lobes below zero and one sample or a few, every pixel shows
// something, masks are shares, and together they are no more than the whole.
func TestNoPixelIsLostAtFewSamples(t *testing.T) {
	for _, n := range []int{1, 2, 3, 4, 5, 7, 16} {
		b := room(48)
		b.opt.Filter, b.opt.FilterWidth = "mitchell", 4
		b.opt.Backing = BackEnvironment
		f := b.render(t, n)
		for y := range 48 {
			for x := range 48 {
				s, i := f.At(x, y)
				if !(s.Pixel(i)[film.Weight] > 0) {
					t.Fatalf("%d samples: pixel %d, %d has the weight %v", n, x, y, s.Pixel(i)[film.Weight])
				}
				if all := s.CoverOf(i, func(uint32) bool { return true }) / s.Covered(i); all > 1.00001 {
					t.Fatalf("%d samples: the masks of pixel %d, %d add up to %v", n, x, y, all)
				}
			}
		}
	}
}

// A backdrop that bends coarsely, with smooth normals, is open nearly as a smooth one
// is: what is below a facet but above its normals counts for nothing in the way.
func TestACoarseBendThrowsHardlyWaves(t *testing.T) {
	b := newBench(64, 8)
	b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 0.2, 16
	const steps, radius = 6, 2
	var m scene.Mesh
	for i := 0; i <= steps; i++ { // a quarter of a wide bowl's wall, from the floor up
		a := float64(i) / steps * math.Pi / 2
		at, n := geom.V(0, radius-radius*float32(math.Cos(a)), -radius*float32(math.Sin(a))), geom.V(0, float32(math.Cos(a)), float32(math.Sin(a)))
		for _, x := range []float32{-5, 5} {
			m.Positions, m.Normals = append(m.Positions, at.Add(geom.V(x, 0, 0))), append(m.Normals, n)
		}
		if i > 0 {
			k := uint32(2 * i)
			m.Indices = append(m.Indices, k-2, k-1, k, k, k-1, k+1)
		}
	}
	b.part("bend", m, b.finish(matte(0.5)))
	b.camera(geom.V(0, 3, 3), geom.V(0, 0.6, -1.4), 0.25)
	f := b.render(t, 64)
	at := b.at(t, passes.OcclusionPlane)
	least, most := float32(1), float32(0)
	for y := range 8 {
		for x := range 64 {
			s, i := f.At(x, y)
			open := s.Pixel(i)[at] / s.Pixel(i)[film.Weight]
			least, most = min(least, open), max(most, open)
		}
	}
	// Near its edge a facet has the next one in the way of a two-hundredth; the smooth
	// bend would be of a thousandth.
	if least < 0.992 || most-least > 0.008 {
		t.Errorf("open from %v to %v", least, most)
	}
}
