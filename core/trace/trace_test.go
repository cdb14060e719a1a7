package trace

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"amberproof/core/accel"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/passes"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// A white body in an even white surround disappears: every pixel is 1.
func TestFurnaceBodyDisappears(t *testing.T) {
	long(t)
	satin := scene.NewFinish("satin plastic")
	satin.Metallic, satin.Roughness = 0, 0.4
	coat := satin
	coat.Clearcoat, coat.ClearcoatRoughness = 1, 0.1
	thin := glass(0)
	thin.Thickness = 0
	metal := func(r float32) scene.Finish { f := scene.NewFinish("metal"); f.Roughness = r; return f }
	for name, f := range map[string]scene.Finish{
		"matte": matte(1), "plastic": satin, "coated": coat, "mirror": metal(0), "satin metal": metal(0.4), "rough metal": metal(1),
		"glass": glass(0), "frosted glass": glass(0.4), "thin glass": thin,
	} {
		b := newBench(24, 24)
		b.part("body", ball(geom.Vec3{}, 1, 48), b.finish(f))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
		b.camera(geom.V(0, 0, 4), geom.Vec3{}, 0.6)
		got, bar := meanOf(b.render(t, 64), film.Beauty)
		expect(t, "furnace, "+name, got, 1, bar+0.012)
	}
}

// plane reads the radiance of the floor at its centre.
func (b *bench) plane(t *testing.T, samples int, place int) (float64, float64) {
	b.part("floor", floor(50), b.finish(matte(1)))
	b.camera(geom.V(0, 1, 0.0001), geom.Vec3{}, 0.002)
	return meanOf(b.render(t, samples), place)
}

func TestRectangleLightAgainstLambert(t *testing.T) {
	b := newBench(8, 8)
	b.part("panel", quad(geom.V(-0.3, 2, -0.5), geom.V(0.9, 0, 0), geom.V(0, 0, 1)), b.finish(glow(5)))
	got, bar := b.plane(t, 512, film.Beauty)
	c := []geom.Vec3{{X: -0.3, Y: 2, Z: -0.5}, {X: 0.6, Y: 2, Z: -0.5}, {X: 0.6, Y: 2, Z: 0.5}, {X: -0.3, Y: 2, Z: 0.5}}
	var e float64
	for i := range c {
		p, q := c[i].Unit(), c[(i+1)%4].Unit()
		e += math.Acos(float64(p.Dot(q))) * float64(p.Cross(q).Unit().Y) / 2
	}
	expect(t, "radiance of a white floor under a rectangle", got, 5*math.Abs(e)/math.Pi, bar+1e-3)
}

func TestInverseSquareOfPointSphereAndSpot(t *testing.T) {
	for _, h := range []float64{0.5, 2, 8} {
		for _, radius := range []float32{0, 0.1} {
			for _, kind := range []scene.LightKind{scene.PointLight, scene.SpotLight} {
				b := newBench(8, 8)
				down := geom.LookAt(geom.V(0, float32(h), 0), geom.Vec3{}, geom.V(1, 0, 0))
				b.light(scene.Light{Name: "lamp", Kind: kind, Colour: geom.Splat(1), Intensity: 10, Radius: radius, InnerCone: 0.4, OutCone: 0.6}, down)
				unseen := AsInScene()
				unseen.Camera = false // the lamp at half a metre is in the view
				b.opt.Lamps = []LightSetting{unseen}
				got, bar := b.plane(t, 64, film.Beauty)
				// 10 candela at h metres on white.
				expect(t, "radiance under the lamp", got, 10/(h*h)/math.Pi, bar+1e-4*10/(h*h))
			}
		}
	}
}

func TestSunByItsIrradiance(t *testing.T) {
	b := newBench(8, 8)
	b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 3, Angle: 0.0093},
		geom.LookAt(geom.V(3, 4, 0), geom.Vec3{}, geom.V(0, 0, 1)))
	got, bar := b.plane(t, 64, film.Beauty)
	expect(t, "radiance under the sun at sine 0.8", got, 3*0.8/math.Pi, bar+1e-3)
}

// Occlusion at the foot of an infinite wall is one half; the wall here is
// a thousand times taller than the reach.
func TestOcclusionBesideAWallIsOneHalf(t *testing.T) {
	b := newBench(8, 8)
	b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 10, 8
	b.part("floor", floor(50), b.finish(matte(1)))
	b.part("wall", quad(geom.V(-50, 0, -1e-4), geom.V(100, 0, 0), geom.V(0, 50, 0)), 0)
	b.camera(geom.V(0, 1, 1e-3), geom.V(0, 0, 1e-3), 1e-4)
	got, bar := b.openness(t, 256)
	expect(t, "open share beside a wall", got, 0.5, bar+2e-3)
}

// A sphere of radius r whose centre is h above a point blocks (r/h)^2 of its
// cosine-weighted hemisphere.
func TestOcclusionUnderASphere(t *testing.T) {
	b := newBench(8, 8)
	b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 100, 8
	b.part("floor", floor(50), b.finish(matte(1)))
	b.part("ball", ball(geom.V(0, 2, 0), 1, 96), 0)
	b.camera(geom.V(0, 0.5, 0.0001), geom.Vec3{}, 1e-3)
	got, bar := b.openness(t, 256)
	expect(t, "open share under a sphere", got, 1-0.25, bar+2e-3)
}

// From the middle of the floor of a long slot of half width a and depth h, the
// open share of the cosine-weighted hemisphere is a over the distance to an edge.
func TestOcclusionInANarrowSlot(t *testing.T) {
	long(t)
	for _, c := range []struct{ a, h float64 }{{1, 1}, {0.1, 1}, {0.5, 3}} {
		b := newBench(8, 8)
		b.want, b.opt.AOReach, b.opt.AOSamples = []passes.Kind{passes.Occlusion}, 500, 8
		b.part("floor", floor(200), b.finish(matte(1)))
		for _, x := range []float64{-c.a, c.a} {
			b.part("wall", quad(geom.V(float32(x), 0, -200), geom.V(0, 0, 400), geom.V(0, float32(c.h), 0)), 0)
		}
		b.camera(geom.V(0, float32(c.h)/2, 0), geom.Vec3{}, 1e-4)
		got, bar := b.openness(t, 512)
		expect(t, fmt.Sprintf("open share in a slot %v wide and %v deep", 2*c.a, c.h), got, c.a/math.Hypot(c.a, c.h), bar+1e-3)
	}
}

// With see-through the glass over the point does not occlude; without, it does.
func TestOcclusionLooksThroughGlassOnRequest(t *testing.T) {
	for _, through := range []bool{false, true} {
		b := newBench(8, 8)
		b.want, b.opt.AOReach, b.opt.AOSamples, b.opt.AOSeeThrough = []passes.Kind{passes.Occlusion}, 100, 8, through
		b.part("floor", floor(50), b.finish(matte(1)))
		b.part("ball", ball(geom.V(0, 2, 0), 1, 96), b.finish(glass(0)))
		b.camera(geom.V(0, 0.5, 0.0001), geom.Vec3{}, 1e-3)
		got, bar := b.openness(t, 64)
		want := 0.75
		if through {
			want = 1
		}
		expect(t, "open share under a glass sphere", got, want, bar+2e-3)
	}
}

// Light through a flat slab at normal incidence: (1-R)^2 for two faces without
// the bounces between, and with them (1-R)/(1+R); absorption by Beer-Lambert.
func TestSlabOfGlassDimsByFresnelAndBeerLambert(t *testing.T) {
	long(t)
	b := newBench(8, 8)
	g := glass(0)
	g.AttenuationColour, g.AttenuationDistance = geom.V(0.5, 0.25, 1), 0.1
	slab := b.finish(g)
	top := quad(geom.V(-9, 1, 9), geom.V(18, 0, 0), geom.V(0, 0, -18))
	bottom := quad(geom.V(-9, 0.8, -9), geom.V(18, 0, 0), geom.V(0, 0, 18))
	b.part("top", top, slab)
	b.part("bottom", bottom, slab)
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	b.camera(geom.V(0, 3, 0.0001), geom.Vec3{}, 1e-3)
	b.opt.Backing, b.opt.BackingTone = BackTone, geom.Splat(1)
	b.want = []passes.Kind{passes.Light}
	w := b.world(t)
	f := b.render(t, 4096)
	backing := slices.Index(w.Elements(), BackingName)
	for c, a := range []float64{0.25, 0.0625, 1} {
		got, bar := meanOf(f, b.at(t, film.ElementName(backing))+c)
		// Only straight passages count as backing: both faces, once.
		expect(t, "backing through the slab", got, 0.96*0.96*a, bar+1e-3)
	}
}

// Snell: a camera looking straight down into a glass block sees its floor at
// an apparent depth of true depth over index, so the floor under the block is
// magnified just so. Here the part under a pixel tells.
func TestApparentDepthThroughGlass(t *testing.T) {
	b := newBench(9, 1)
	b.opt.MaskSeeThrough = true
	g := b.finish(glass(0))
	b.part("top", quad(geom.V(-9, 1, 9), geom.V(18, 0, 0), geom.V(0, 0, -18)), g)
	// The floor changes part at x = 0.1.
	b.part("left", quad(geom.V(-9, 0, 9), geom.V(9.1, 0, 0), geom.V(0, 0, -18)), b.finish(matte(1)))
	b.part("right", quad(geom.V(0.1, 0, 9), geom.V(9, 0, 0), geom.V(0, 0, -18)), 1)
	// From 1 m above the glass, the edge appears at x/(1+1/1.5): small angles.
	eye := geom.V(0, 2, 0)
	for _, c := range []struct {
		x    float32 // where the ray would hit a plane 1 m below the eye
		want string
	}{{0.1/(1+1/1.5) - 0.002, "left"}, {0.1/(1+1/1.5) + 0.002, "right"}} {
		b.opt.Camera = Camera{World: geom.LookAt(eye, geom.V(c.x, 1, 0), geom.V(0, 0, -1)), YFov: 1e-4}
		w := b.world(t)
		p, ok := w.NewTracer().At(4, 0, true)
		if !ok || b.s.Parts[p].Name != c.want {
			t.Errorf("looking at %.4f: saw %q, expected %q", c.x, b.s.Parts[p].Name, c.want)
		}
	}
}

// room is a scene with a bit of everything: several lights, glow, glass,
// metal, and a body with holes.
func room(size int) *bench {
	b := newBench(size, size)
	b.want = []passes.Kind{passes.Light, passes.Occlusion, passes.Normal, passes.Depth}
	b.opt.DiffuseBounces, b.opt.GlossyBounces, b.opt.ClearBounces = 3, 3, 8
	b.part("floor", floor(6), b.finish(matte(0.6)))
	metal := scene.NewFinish("brass")
	metal.Base, metal.Roughness = geom.V(0.9, 0.7, 0.3), 0.3
	b.part("metal ball", ball(geom.V(-1, 0.8, 0), 0.8, 32), b.finish(metal))
	b.part("glass ball", ball(geom.V(1, 0.8, 0), 0.8, 32), b.finish(glass(0)))
	b.part("lamp", ball(geom.V(0.2, 0.5, 1.1), 0.15, 12), b.finish(glow(9)))
	net := matte(0.5)
	net.Name, net.AlphaMode, net.Alpha = "net", scene.Blend, 0.4
	b.part("net", quad(geom.V(-2, 0, 1.5), geom.V(1, 0, 0), geom.V(0, 1, 0)), b.finish(net))
	b.part("panel", quad(geom.V(-1, 4, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), b.finish(glow(4)))
	b.light(scene.Light{Name: "spot", Kind: scene.SpotLight, Colour: geom.V(1, 0.8, 0.6), Intensity: 30, InnerCone: 0.3, OutCone: 0.5, Radius: 0.05},
		geom.LookAt(geom.V(3, 3, 3), geom.V(0, 0.5, 0), geom.V(0, 1, 0)))
	b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 1, Angle: 0.02},
		geom.LookAt(geom.V(-3, 5, 1), geom.Vec3{}, geom.V(0, 1, 0)))
	b.opt.Surround = Surround{On: true, Tone: geom.V(0.2, 0.25, 0.3), Strength: 1}
	b.opt.Backing, b.opt.BackingTone = BackTone, geom.Splat(0.4)
	b.camera(geom.V(0, 2, 5), geom.V(0, 0.7, 0), 0.7)
	return b
}

func TestLightsApartAddUpToTheBeauty(t *testing.T) {
	b := room(40)
	w := b.world(t)
	f := b.render(t, 16)
	if got := w.Elements(); len(got) != 6 {
		t.Fatalf("elements %v", got)
	}
	lit := make([]bool, len(w.Elements()))
	for i := range f.Tiles {
		tl := &f.Tiles[i]
		for k := 0; k < tl.Rect.Dx()*tl.Rect.Dy(); k++ {
			p := tl.Pixel(k)
			for c := 0; c < 3; c++ {
				var sum float32
				for e := range lit {
					v := p[b.at(t, film.ElementName(e))+c]
					lit[e] = lit[e] || v > 0
					sum += v
				}
				if d := geom.Abs(sum - p[film.Beauty+c]); d > 1e-4*(1+geom.Abs(sum)) {
					t.Fatalf("tile %d pixel %d: the lights add up to %v, the beauty is %v", i, k, sum, p[film.Beauty+c])
				}
			}
		}
	}
	for e, ok := range lit {
		if !ok {
			t.Errorf("%q gives no light anywhere", w.Elements()[e])
		}
	}
}

func TestMasksAddUpToWhatIsCovered(t *testing.T) {
	b := room(32)
	f := b.render(t, 8)
	for i := range f.Tiles {
		tl := &f.Tiles[i]
		for k := range tl.Heads {
			// The weight of depth is that of the samples that hit anything.
			met := tl.Pixel(k)[b.at(t, passes.DepthPlane)+1]
			if c := tl.CoverOf(k, func(uint32) bool { return true }); geom.Abs(c-met) > 1e-4 {
				t.Fatalf("pixel %d: parts cover %v, surfaces were met by %v", k, c, met)
			}
		}
	}
}

func TestSameBytesForAnyNumberOfWorkersInAnyOrder(t *testing.T) {
	b := room(70)
	w := b.world(t)
	var first *film.Film
	for _, workers := range []int{1, 2, 5} {
		f := film.New(b.opt.Window, w.Options().Layout)
		var units []Unit
		for i := range f.Tiles {
			for _, r := range [][2]int{{0, 1}, {1, 2}, {2, 4}} {
				units = append(units, Unit{i, r[0], r[1]})
			}
		}
		rand.Shuffle(len(units), func(i, j int) { units[i], units[j] = units[j], units[i] })
		work := make(chan Unit)
		done := make(chan *film.Patch)
		for k := 0; k < workers; k++ {
			go func() {
				tr := w.NewTracer()
				for u := range work {
					p, err := tr.Render(context.Background(), f, u)
					if err != nil {
						t.Error(err)
					}
					done <- p
				}
			}()
		}
		go func() {
			for _, u := range units {
				work <- u
			}
			close(work)
		}()
		for range units {
			if _, err := f.Take(<-done); err != nil {
				t.Fatal(err)
			}
		}
		if first == nil {
			first = f
			continue
		}
		for i := range f.Tiles {
			if !slices.Equal(f.Tiles[i].Data, first.Tiles[i].Data) || !slices.Equal(f.Tiles[i].Entries, first.Tiles[i].Entries) {
				t.Fatalf("tile %d differs with %d workers", i, workers)
			}
		}
	}
}

func TestCancelStopsAUnit(t *testing.T) {
	b := room(64)
	w := b.world(t)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := w.NewTracer().Render(ctx, film.New(b.opt.Window, w.Options().Layout), Unit{0, 0, 1000}); !errors.Is(err, context.Canceled) {
		t.Fatalf("got %v", err)
	}
}

// Straight shadows through thin glass are exact: a lamp inside a thin glass
// shell lights the floor the same as when all its light must be found by
// scattered rays.
func TestStraightShadowsThroughThinGlassAreExact(t *testing.T) {
	long(t)
	var got [2]float64
	var bars [2]float64
	for i, straight := range []bool{true, false} {
		b := newBench(16, 16)
		b.opt.StraightShadows = straight
		thin := glass(0)
		thin.Thickness = 0
		b.part("lamp", ball(geom.V(0, 2, 0), 0.3, 24), b.finish(glow(5)))
		b.part("shell", ball(geom.V(0, 2, 0), 0.6, 48), b.finish(thin))
		got[i], bars[i] = b.plane(t, 2048, film.Beauty)
	}
	if got[0] < 0.1 {
		t.Fatalf("the floor is dark: %v", got[0])
	}
	expect(t, "floor under a lamp in a shell", got[0], got[1], bars[0]+bars[1])
}

// A sun shining at an angle through a solid slab onto a floor: both faces let
// through what Fresnel says for the angle outside, also beyond the critical
// angle, which light inside a slab never hits.
func TestStraightShadowsThroughASlabAtEveryAngle(t *testing.T) {
	for _, deg := range []float64{0, 30, 45, 60, 75} {
		b := newBench(8, 8)
		b.opt.DiffuseBounces = 0
		slab := b.finish(glass(0))
		b.part("top", quad(geom.V(-90, 1.5, 90), geom.V(180, 0, 0), geom.V(0, 0, -180)), slab)
		b.part("bottom", quad(geom.V(-90, 1.4, -90), geom.V(180, 0, 0), geom.V(0, 0, 180)), slab)
		sin, cos := math.Sincos(deg * math.Pi / 180)
		b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 3},
			geom.LookAt(geom.V(float32(sin), float32(cos), 0), geom.Vec3{}, geom.V(0, 0, 1)))
		got, bar := b.plane(t, 16, film.Beauty)
		keep := 1 - float64(optics.FresnelDielectric(float32(cos), 1.5))
		expect(t, fmt.Sprintf("floor under a slab, sun at %v degrees", deg), got, 3*cos*keep*keep/math.Pi, bar+2e-3)
	}
}

// In an even surround a floor beside a solid glass ball loses no light to
// straight shadows that reflections do not give back.
func TestLightThroughGlassOntoMatteConservesEnergy(t *testing.T) {
	long(t)
	b := newBench(16, 16)
	thin := glass(0)
	thin.Thickness = 0
	b.part("shell", ball(geom.V(0, 1, 0), 0.9, 48), b.finish(thin))
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	got, bar := b.plane(t, 512, film.Beauty)
	expect(t, "white floor under a glass shell in a furnace", got, 1, bar+5e-3)
}

// Sampling lights alone and surfaces alone must agree with both together: floors
// from matte to shiny under a panel, where each is a poor method somewhere. A
// light that nothing can be in the way of is found by light sampling only, and
// glow with holes, of which there are none here, by chance only.
func TestTwoEstimatorsAgreeWithTheirCombination(t *testing.T) {
	long(t)
	take := func(rough float32, how string) *film.Film {
		b := newBench(16, 16)
		m := scene.NewFinish("metal")
		m.Roughness = rough
		b.part("floor", floor(50), b.finish(m))
		shine := glow(3)
		switch how {
		case "lights":
			set := AsInScene()
			set.Shadows = false
			b.opt.Lamps = []LightSetting{set}
		case "surfaces":
			shine.AlphaMode = scene.Blend
		}
		b.part("panel", quad(geom.V(-0.5, 1.5, -1), geom.V(1, 0, 0), geom.V(0, 0, 1)), b.finish(shine))
		b.camera(geom.V(0, 1, 1.2), geom.V(0, 0, 0.2), 0.05)
		return b.render(t, 512)
	}
	for _, rough := range []float32{0.2, 0.35, 0.6, 1} {
		both := take(rough, "both")
		want, _ := meanOf(both, film.Beauty)
		for _, how := range []string{"lights", "surfaces"} {
			off, bar := meanDifference(take(rough, how), both, film.Beauty)
			expect(t, fmt.Sprintf("roughness %.2f, sampling %s alone", rough, how), want+off, want, bar)
		}
	}
}

// Rays that go by a layer that stands aside are told from those that hit it, from
// any distance, and never wrongly.
func TestRaysThatGoByALayerMissIt(t *testing.T) {
	b := newBench(8, 8)
	b.part("ball", ball(geom.V(3, 1, -2), 0.4, 24), b.finish(glass(0)))
	w := b.world(t)
	l := &w.passable
	stack := accel.NewStack(l.flat, l.shared)
	rng := rand.New(rand.NewPCG(4, 4))
	dir := func() geom.Vec3 { return sampling.Sphere(rng.Float32(), rng.Float32()) }
	by, met := 0, 0
	for i := range 40000 {
		far := []float32{0.1, 1, 30, 5000}[i%4]
		r := geom.Ray{O: geom.V(3, 1, -2).MulAdd(dir(), far), TMax: float32(math.Inf(1))}
		to := geom.V(3, 1, -2).MulAdd(dir(), 0.5*rng.Float32())
		r.D = to.Sub(r.O).Unit()
		if i%3 == 0 {
			r.D = dir()
		}
		_, hit := l.flat.Closest(stack, &r)
		switch passes := l.passes(&r); {
		case passes && hit:
			t.Fatalf("a ray from %v m is said to go by, and hits", far)
		case passes:
			by++
		case hit:
			met++
		}
	}
	if by < 8000 || met < 10000 {
		t.Errorf("%d go by, %d meet it", by, met)
	}
}

func TestHolesAndBacking(t *testing.T) {
	b := newBench(16, 16)
	net := matte(0.5)
	net.AlphaMode, net.Alpha = scene.Blend, 0.3
	b.part("net", quad(geom.V(-9, -9, 0), geom.V(18, 0, 0), geom.V(0, 18, 0)), b.finish(net))
	b.camera(geom.V(0, 0, 3), geom.Vec3{}, 0.5)
	b.opt.Backing = BackClear
	got, bar := meanOf(b.render(t, 256), film.Alpha)
	expect(t, "alpha of a net with 30 % cover", got, 0.3, bar+1e-3)
	b.opt.Backing, b.opt.BackingTone = BackTone, geom.Splat(2)
	got, bar = meanOf(b.render(t, 256), film.Beauty)
	expect(t, "flat backing through the net", got, 1.4, bar+1e-3)
}

func TestClampTouchesIndirectLightOnly(t *testing.T) {
	b := newBench(8, 8)
	b.opt.Clamp = 0.01
	b.light(scene.Light{Name: "lamp", Kind: scene.PointLight, Colour: geom.Splat(1), Intensity: 10}, geom.Translate(geom.V(0, 1, 0)))
	got, _ := b.plane(t, 16, film.Beauty)
	expect(t, "direct light under a clamp", got, 10/math.Pi, 1e-3)
}

// Error falls with the root of the samples or better: where shadows have edges by
// about the root, where everything is smooth much faster.
func TestErrorFallsWithSamples(t *testing.T) {
	long(t)
	open := newBench(16, 16)
	open.part("floor", floor(5), open.finish(matte(0.5)))
	open.part("panel", quad(geom.V(-1, 2, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), open.finish(glow(3)))
	open.camera(geom.V(0, 1, 3), geom.Vec3{}, 0.3)
	errorSlope(t, "a smooth floor", open, -0.7)
	b := room(16)
	for i := range b.s.Finishes { // without glass and metal: their rare bright paths need more samples than a test has
		if f := &b.s.Finishes[i]; !f.Glowing() {
			*f = matte(0.5)
		}
	}
	errorSlope(t, "a room", b, -0.42)
}

// errorSlope holds the exponent with which the error of a render falls, from 4 to
// 64 samples against 2048, to be at most what is given.
func errorSlope(t *testing.T, what string, b *bench, most float64) {
	t.Helper()
	reference := b.render(t, 2048)
	rms := func(n int) float64 {
		b.opt.Seed = 99
		f := b.render(t, n)
		var sum float64
		k := 0
		for i := range f.Tiles {
			for j := 0; j < f.Tiles[i].Rect.Dx()*f.Tiles[i].Rect.Dy(); j++ {
				p, q := f.Tiles[i].Pixel(j), reference.Tiles[i].Pixel(j)
				d := float64(p[film.Beauty+1]/p[film.Weight] - q[film.Beauty+1]/q[film.Weight])
				sum += d * d
				k++
			}
		}
		return math.Sqrt(sum / float64(k))
	}
	e4, e64 := rms(4), rms(64)
	if slope := math.Log(e64/e4) / math.Log(16); slope > most {
		t.Errorf("%s: error falls with exponent %.3f (%.5f at 4, %.5f at 64), expected %.2f or steeper", what, slope, e4, e64, most)
	} else {
		t.Logf("%s: error falls with exponent %.3f (%.5f at 4, %.5f at 64), expected %.2f or steeper", what, slope, e4, e64, most)
	}
}

func BenchmarkRoom(b *testing.B) {
	r := room(64)
	w := r.world(b)
	f := film.New(r.opt.Window, w.Options().Layout)
	tr := w.NewTracer()
	n := 0
	for b.Loop() {
		if _, err := tr.Render(context.Background(), f, Unit{n % len(f.Tiles), 0, 4}); err != nil {
			b.Fatal(err)
		}
		n++
	}
	b.ReportMetric(float64(n)*32*32*4/b.Elapsed().Seconds()/1e6, "Msamples/s")
}
