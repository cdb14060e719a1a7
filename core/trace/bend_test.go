package trace

import (
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
)

// What lies in a thick shell is lit by a lamp outside through shadow rays that bend: as
// much as by paths that hit it by chance, with next to none of their noise.
func TestShadowRaysBendToALampBehindGlass(t *testing.T) {
	long(t)
	const size = 24
	render := func(straight bool, samples int) *film.Film {
		b := newBench(size, size)
		b.opt.StraightShadows = straight
		b.part("plate", quad(geom.V(0.45, -0.2, 0.2), geom.V(0.3, 0, 0), geom.V(0, 0, -0.4)), b.finish(matte(0.5)))
		g := b.finish(glass(0))
		b.part("outside", ball(geom.Vec3{}, 1.1, 96), g)
		b.part("inside", insideOut(ball(geom.Vec3{}, 0.85, 96)), g)
		lamp := glow(30)
		lamp.DoubleSided = true
		b.part("lamp", quad(geom.V(-0.1, 3, -0.4), geom.V(0.8, 0, 0), geom.V(0, 0, 0.8)), b.finish(lamp))
		b.opt.ClearBounces, b.opt.DiffuseBounces = 2, 1 // nothing but what comes in
		b.camera(geom.V(0.62, 0.3, 0.001), geom.V(0.62, -0.2, 0), 0.4)
		return b.render(t, samples)
	}
	measure := func(f *film.Film) (mean, noise float64) {
		for y := range size {
			for x := range size {
				s, i := f.At(x, y)
				c, _ := s.Light(i)
				a, b, _ := s.Halves(i)
				d := float64(a.Y-b.Y) / 2
				mean += float64(c.Y) / (size * size)
				noise += d * d / (size * size)
			}
		}
		return mean, math.Sqrt(noise)
	}
	const samples = 128
	found, noise := measure(render(true, samples))
	_, loud := measure(render(false, samples))
	chance, bar := measure(render(false, 32*samples))
	bar = 3*math.Hypot(bar, noise)/size + 0.003*chance
	t.Logf("bent %.5f, by chance %.5f, bar %.5f; noise %.4f and %.4f", found, chance, bar, noise, loud)
	if math.Abs(found-chance) > bar {
		t.Errorf("bent shadow rays find %.5f, paths %.5f, bar %.5f", found, chance, bar)
	}
	if noise > loud/20 {
		t.Errorf("noise %.4f, by chance %.4f", noise, loud)
	}
}

// A way that is found goes where refraction says: through a slab it leaves as it came, and
// what it spreads over is what the slab makes of it.
func TestABentWayThroughASlabIsThatOfSnell(t *testing.T) {
	b := newBench(4, 4)
	b.opt.StraightShadows = true
	b.part("floor", floor(6), b.finish(matte(0.5)))
	b.cube(geom.V(-4, 0.5, -4), geom.V(8, 0.4, 8), b.finish(glass(0)))
	b.camera(geom.V(0, 6, 0.001), geom.Vec3{}, 0.4)
	tr := b.world(t).NewTracer()
	y := geom.V(1.5, 2, 0)
	w, ok := tr.bend(geom.V(0, 1e-4, 0), media{}, -2, y)
	if !ok {
		t.Fatal("no way is found")
	}
	// Across a slab of thickness d the way is set off by d (tan a - tan a').
	sin := float64(w.wi.X)
	tan := func(s float64) float64 { return s / math.Sqrt(1-s*s) }
	at := 1.6*tan(sin) + 0.4*tan(sin/1.5)
	if math.Abs(at-1.5) > 1e-3 || math.Abs(float64(w.wi.Z)) > 1e-4 {
		t.Errorf("it leaves along %v and comes to %.4f, not 1.5", w.wi, at)
	}
	// The area across it for a solid angle: dx/da cos by x over sin, both along the ground.
	const h = 1e-4
	a := math.Asin(sin)
	along := func(a float64) float64 { s := math.Sin(a); return 1.6*tan(s) + 0.4*tan(s/1.5) }
	want := (along(a+h) - along(a-h)) / (2 * h) * math.Cos(a) * along(a) / sin
	if math.Abs(float64(w.spread)/want-1) > 0.01 {
		t.Errorf("it spreads over %.4f, want %.4f", w.spread, want)
	}
	fresnel := func(cos float64) float64 {
		c := math.Sqrt(1 - (1-cos*cos)/2.25)
		s, p := (cos-1.5*c)/(cos+1.5*c), (1.5*cos-c)/(1.5*cos+c)
		return (s*s + p*p) / 2
	}
	r := fresnel(math.Cos(a))
	if k := (1 - r) * (1 - r); math.Abs(float64(w.keep.Y)-k) > 1e-3 {
		t.Errorf("%v is let through, want %.4f", w.keep, k)
	}
}
