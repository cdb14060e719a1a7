package trace

import (
	"fmt"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// slab is a wide body between two heights with faces outwards.
func slab(b *bench, name string, bottom, top float32, f int) {
	const s = 50
	b.part(name+" top", quad(geom.V(-s, top, s), geom.V(2*s, 0, 0), geom.V(0, 0, -2*s)), f)
	b.part(name+" bottom", quad(geom.V(-s, bottom, -s), geom.V(2*s, 0, 0), geom.V(0, 0, 2*s)), f)
}

// stack renders a glowing floor of radiance one, seen straight down through
// what build adds, and compares what comes through with the closed form for
// parallel interfaces between which light goes to and fro without interfering:
// R/(1-R) of the whole is the sum of those of the interfaces.
func stack(t *testing.T, what string, indices []float32, build func(b *bench)) {
	t.Helper()
	sum := 0.0
	for i := 1; i < len(indices); i++ {
		r := float64(optics.FresnelDielectric(1, indices[i]/indices[i-1]))
		sum += r / (1 - r)
	}
	b := newBench(8, 8)
	b.opt.StraightShadows = false
	b.opt.Camera = Camera{World: geom.LookAt(geom.V(0, 5, 0), geom.V(0, 0, 0), geom.V(0, 0, -1)), YMag: 0.1}
	b.part("floor", floor(50), b.finish(glow(1)))
	build(b)
	got, bar := meanOf(b.render(t, 2048), film.Beauty)
	expect(t, what, got, 1/(1+sum), bar+1e-3)
}

func liquid(priority int) scene.Finish {
	f := glass(0)
	f.Name, f.IOR, f.Priority = "liquid", 1.33, priority
	return f
}

func TestInterfacesOfSolidsInSolids(t *testing.T) {
	long(t)
	stack(t, "one pane", []float32{1, 1.5, 1}, func(b *bench) { slab(b, "pane", 1, 2, b.finish(glass(0))) })
	stack(t, "glass upon liquid, overlapping, glass first", []float32{1, 1.5, 1.33, 1}, func(b *bench) {
		g := glass(0)
		g.Priority = 1
		slab(b, "glass", 1.5, 2, b.finish(g))
		slab(b, "liquid", 1, 1.6, b.finish(liquid(0)))
	})
	stack(t, "a bubble of liquid within glass", []float32{1, 1.5, 1.33, 1.5, 1}, func(b *bench) {
		slab(b, "glass", 0.5, 2, b.finish(glass(0)))
		slab(b, "liquid", 1, 1.6, b.finish(liquid(0)))
	})
	stack(t, "liquid hidden within glass of higher priority", []float32{1, 1.5, 1}, func(b *bench) {
		g := glass(0)
		g.Priority = 1
		slab(b, "glass", 0.5, 2, b.finish(g))
		slab(b, "liquid", 1, 1.6, b.finish(liquid(0)))
	})
}

// Straight shadow rays through the same stack, once through.
func TestStraightShadowsThroughSolidsInSolids(t *testing.T) {
	b := newBench(8, 8)
	g := glass(0)
	g.Priority = 1
	g.AttenuationColour, g.AttenuationDistance = geom.V(0.5, 1, 1), 0.5
	slab(b, "glass", 1.5, 2, b.finish(g))
	slab(b, "liquid", 1, 1.6, b.finish(liquid(0)))
	facing(b)
	tr := b.world(t).NewTracer()
	got := tr.through(geom.Ray{O: geom.V(0, 0.5, 0), D: geom.V(0, 1, 0), TMax: 4}, media{}, true, false)
	want := (1 - optics.FresnelDielectric(1, 1.33)) * (1 - optics.FresnelDielectric(1, 1.5/1.33)) * (1 - optics.FresnelDielectric(1, 1.5))
	for k, v := range []float32{want * 0.5, want, want} {
		if geom.Abs(got.At(k)-v) > 1e-4 {
			t.Errorf("channel %d: expected %v, got %v", k, v, got.At(k))
		}
	}
}

// A dispersive body in an even white surround stays white: what one colour
// loses another path of it brings back.
func TestDispersionLosesNoColour(t *testing.T) {
	b := newBench(16, 16)
	b.opt.StraightShadows = false
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	g := glass(0)
	g.Dispersion = 1
	b.part("ball", ball(geom.Vec3{}, 1, 48), b.finish(g))
	b.camera(geom.V(0, 0, 4), geom.Vec3{}, 0.4)
	f := b.render(t, 512)
	for k := range 3 {
		got, bar := meanOf(f, film.Beauty+k)
		expect(t, fmt.Sprintf("channel %d", k), got, 1, bar+2e-3)
	}
}

// The spread between the outer channels is what the Abbe number says.
func TestDispersionFollowsTheAbbeNumber(t *testing.T) {
	f := glass(0)
	f.IOR, f.Dispersion = 1.6, 20.0/30
	spread := f.IOR * (dispersed(&f, 2) - dispersed(&f, 0))
	if abbe := (f.IOR - 1) / spread; geom.Abs(abbe-30) > 0.01 {
		t.Errorf("expected an Abbe number of 30, got %v", abbe)
	}
}

// A finish may ask for bent shadows where the ticket has straight ones.
func TestAFinishDecidesItsShadows(t *testing.T) {
	for _, c := range []struct {
		mode     scene.ShadowMode
		ticket   bool
		straight bool
	}{{scene.TicketShadows, true, true}, {scene.TicketShadows, false, false}, {scene.BentShadows, true, false}, {scene.StraightShadows, false, true}} {
		g := glass(0)
		g.Shadows = c.mode
		if p := prepareFinish(g, c.ticket); p.straight != c.straight {
			t.Errorf("mode %d, ticket %v: straight %v", c.mode, c.ticket, p.straight)
		}
	}
}
