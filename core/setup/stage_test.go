package setup_test

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
)

// pot is a small scene: a box of two triangles a side that stands on the floor.
func pot() *scene.Scene {
	b := geom.Box{Min: geom.V(-0.05, 0, -0.05), Max: geom.V(0.05, 0.2, 0.05)}
	m := scene.Mesh{Indices: []uint32{0, 2, 3, 0, 3, 1, 4, 5, 7, 4, 7, 6, 0, 1, 5, 0, 5, 4, 2, 6, 7, 2, 7, 3, 0, 4, 6, 0, 6, 2, 1, 3, 7, 1, 7, 5}}
	for i := range 8 {
		m.Positions = append(m.Positions, b.Corner(i))
	}
	f := scene.NewFinish("Pot")
	f.Metallic, f.DoubleSided = 0, true
	return &scene.Scene{
		Meshes: []scene.Mesh{m}, Finishes: []scene.Finish{f},
		Objects: []scene.Object{{Name: "Pot", Parent: -1, World: geom.Identity()}}, Parts: []scene.Part{{Name: "Pot", Finish: 0}},
	}
}

// front looks at a point from so far in a direction, degrees.
func front(direction, height, distance float64, aspect float32) scene.View {
	d, h := direction*math.Pi/180, height*math.Pi/180
	eye := geom.V(float32(distance*math.Cos(h)*math.Sin(d)), float32(0.1+distance*math.Sin(h)), float32(distance*math.Cos(h)*math.Cos(d)))
	return scene.View{Name: "Front", Camera: geom.LookAt(eye, geom.V(0, 0.1, 0), geom.V(0, 1, 0)), YFov: 0.3, Aspect: aspect}
}

// prepared is a scene with a set-up laid over it, seen by a camera.
func prepared(t *testing.T, s *scene.Scene, u setup.Setup, c scene.View, size int, more func(o *trace.Options)) *trace.World {
	t.Helper()
	v, lost, _ := u.Apply(t.Context(), s)
	if len(lost) > 0 {
		t.Fatal(lost)
	}
	v = u.Stage.Carded(v)
	if err := v.Check(); err != nil {
		t.Fatal(err)
	}
	o := trace.Options{
		Width: size, Height: size, Window: image.Rect(0, 0, size, size), Filter: sampling.Box, FilterWidth: 1, DiffuseBounces: 0, Seed: 5,
		Camera: trace.Camera{World: c.Camera, YFov: c.YFov, YMag: c.YMag}, Finishes: v.Finishes, Layout: film.NewLayout(false, film.GuidePlane),
	}
	for i := range v.Parts {
		o.Wears = append(o.Wears, v.Parts[i].Finish)
	}
	if more != nil {
		more(&o)
	}
	w, err := trace.Prepare(t.Context(), v, o)
	if err != nil {
		t.Fatal(err)
	}
	return w
}

// mean is the mean radiance of a picture.
func mean(t *testing.T, w *trace.World, samples int) (c geom.Vec3) {
	t.Helper()
	f := film.New(w.Options().Window, w.Options().Layout)
	tracer := w.NewTracer()
	for i := range f.Tiles {
		p, err := tracer.Render(t.Context(), f, trace.Unit{Tile: i, From: 0, To: samples})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := f.Take(p); err != nil {
			t.Fatal(err)
		}
	}
	win, n := w.Options().Window, 0
	for y := range win.Dy() {
		for x := range win.Dx() {
			sums, i := f.At(x, y)
			l, _ := sums.Light(i)
			c, n = c.Add(l), n+1
		}
	}
	return c.Scale(1 / float32(n))
}

// A white sheet that a light is aimed at, square on, gets the lux that the light says,
// from wherever it stands, whatever its size and kind, and however its strength is said.
func TestLightsGiveWhatTheySay(t *testing.T) {
	const rho = 0.8
	for _, kind := range []string{"rectangle", "disk", "sphere", "spot", "sun"} {
		for _, place := range []struct{ direction, height, distance, width, length float64 }{
			{-48, 38, 400, 260, 130}, {90, 0, 1500, 40, 900}, {170, 80, 300, 500, 500}, {0, 90, 250, 10, 10},
		} {
			if place.width >= 2*place.distance && kind == "sphere" {
				continue // what it is aimed at would lie within it
			}
			l := setup.NewLight("Key", kind)
			l.Direction, l.Height, l.Distance, l.Width, l.Length = place.direction, place.height, place.distance, place.width, place.length
			l.Aim = setup.Aim{X: 20, Y: -30, Z: 10}
			l.Strength = 3
			g := setup.Stage{Middle: setup.Middle{X: 100, Y: 200, Z: -50}, Radius: 100, Lights: []setup.Light{l}}
			// The same light, said in the other ways.
			says := []setup.Light{l}
			gives := l.Gives(&g)
			if kind != "sun" {
				power, bright := l, l
				power.Held, power.Strength = setup.HeldPower, gives.Lumen
				bright.Held, bright.Strength = setup.HeldBrightness, gives.Nit
				says = append(says, power, bright)
			}
			for _, l := range says {
				if got := l.Gives(&g); math.Abs(got.Lux/3-1) > 1e-6 || kind != "sun" && math.Abs(got.Nit/gives.Nit-1) > 1e-6 {
					t.Errorf("%s held by %s gives %+v, not %+v", kind, l.Held, got, gives)
				}
				g.Lights[0] = l
				at, aim := l.Stands(&g)
				// A sheet square to the light, read from straight ahead by a camera between them.
				sheet := sheetAt(aim, at.Sub(aim), rho)
				n := at.Sub(aim).Unit()
				c := scene.View{Camera: geom.LookAt(aim.Add(n.Scale(0.05)), aim, geom.V(0, 1, 0)), YFov: 0.002}
				got := mean(t, prepared(t, sheet, setup.Setup{Stage: &g}, c, 4, nil), 256)
				want := 3 * rho / math.Pi * float64(l.Hue().Y)
				if math.Abs(float64(got.Y)/want-1) > 0.012 {
					t.Errorf("%s at %+v held by %s: %.4f nit, want %.4f", kind, place, l.Held, got.Y, want)
				}
			}
		}
	}
}

// sheetAt is a small matte sheet around a point that looks along a direction.
func sheetAt(p, along geom.Vec3, rho float32) *scene.Scene {
	f := scene.NewFinish("Sheet")
	f.Base, f.Metallic, f.IOR, f.DoubleSided = geom.Splat(rho), 0, 1, true
	m := scene.Mesh{Indices: []uint32{0, 1, 2, 0, 2, 3}}
	for _, c := range [][2]float32{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
		m.Positions = append(m.Positions, geom.V(c[0]*0.001, c[1]*0.001, 0))
	}
	w := geom.LookAt(p, p.Sub(along), geom.V(0, 1, 0))
	return &scene.Scene{
		Meshes: []scene.Mesh{m}, Finishes: []scene.Finish{f},
		Objects: []scene.Object{{Name: "Sheet", Parent: -1, World: w}}, Parts: []scene.Part{{Name: "Sheet", Finish: 0}},
	}
}

// A new stage, and one measured for several views, shows no edge to any of them; a
// little smaller, it would to one.
func TestABackdropIsAsLargeAsTheViewsNeed(t *testing.T) {
	s := pot()
	box := s.Focus(func(int) bool { return false })
	cameras := []scene.View{front(30, 12, 1.2, 1), front(20, 25, 1.5, 1.78), front(45, 3, 0.9, 0.5)}
	orthographic := front(30, 15, 2, 1.2)
	orthographic.YFov, orthographic.YMag = 0, 0.2
	cameras = append(cameras, orthographic)
	g, cannot := setup.NewStage(box, cameras)
	if len(cannot) > 0 {
		t.Fatal(cannot)
	}
	if g.Backdrop.Turn != 30 {
		t.Errorf("it is turned by %g degrees; the first view looks from 30", g.Backdrop.Turn)
	}
	// past is the share of rays of all cameras that meet nothing.
	past := func(g setup.Stage) (n int) {
		u := setup.Setup{Stage: &g}
		for i := range cameras {
			c := &cameras[i]
			w := prepared(t, s, u, *c, 96, func(o *trace.Options) {
				o.Width, o.Height = int(96*c.Aspect), 96
				o.Window = image.Rect(0, 0, o.Width, o.Height)
			})
			p, err := w.Shaded(t.Context())
			if err != nil {
				t.Fatal(err)
			}
			for _, a := range p.A {
				if a < 1 {
					n++
				}
			}
		}
		return n
	}
	if n := past(g); n > 0 {
		t.Errorf("%d pixels see past the backdrop", n)
	}
	for name, shrink := range map[string]func(b *setup.Backdrop){
		"width": func(b *setup.Backdrop) { b.Width /= 1.2 }, "height": func(b *setup.Backdrop) { b.Height /= 1.2 },
		"front": func(b *setup.Backdrop) { b.Front /= 1.2 },
	} {
		less := g
		shrink(&less.Backdrop)
		if past(less) == 0 {
			t.Errorf("with a fifth less %s no view sees its edge: it was made too large", name)
		}
	}
}

func TestViewsThatNoBackdropFills(t *testing.T) {
	g, _ := setup.NewStage(pot().Bounds(), []scene.View{front(0, 10, 1.2, 1)})
	behind, under, away := front(180, 10, 1.2, 1), front(0, -60, 1.2, 1), front(0, 0, 1.2, 1)
	away.Camera = geom.LookAt(geom.V(0, 0.1, 0.3), geom.V(0, 0.1, 5), geom.V(0, 1, 0))
	behind.Name, under.Name, away.Name = "Behind", "Under", "Away"
	b, cannot := g.Measured([]scene.View{behind, under, away, front(0, 10, 1.2, 1)})
	if len(cannot) != 3 || b != g.Backdrop {
		t.Errorf("%q, and the backdrop is %+v, was %+v", cannot, b, g.Backdrop)
	}
	if b, _ := g.Measured([]scene.View{behind, under}); b != g.Backdrop {
		t.Errorf("by views that see past it anyway it was measured as %+v", b)
	}
	g.Backdrop.Kind = setup.Flat
	if _, cannot := g.Measured([]scene.View{front(0, 5, 1.2, 1)}); len(cannot) != 1 {
		t.Errorf("a flat floor fills a view that sees the horizon: %q", cannot)
	}
}

// A stage taken to a product ten times as large, elsewhere, gives the same picture.
func TestAStageFitsAnotherProduct(t *testing.T) {
	s := pot()
	g, _ := setup.NewStage(s.Bounds(), []scene.View{front(0, 15, 1.2, 1)})
	g.Lights[1].Held, g.Lights[1].Strength = setup.HeldPower, g.Lights[1].Gives(&g).Lumen
	g.Lights[2].Aim = setup.Aim{Y: 40}
	large := pot()
	move := geom.Translate(geom.V(7, 3, -2)).Mul(geom.Affine{10, 0, 0, 0, 0, 10, 0, 0, 0, 0, 10, 0})
	large.Objects[0].World = move
	h := g.AroundBox(large.Bounds())
	small := front(0, 15, 1.2, 1)
	far := small
	eye := move.Point(small.Camera.Origin())
	far.Camera = geom.LookAt(eye, move.Point(geom.V(0, 0.1, 0)), geom.V(0, 1, 0))
	lit := func(o *trace.Options) { o.DiffuseBounces = 1 }
	a := mean(t, prepared(t, s, setup.Setup{Stage: &g}, small, 12, lit), 64)
	b := mean(t, prepared(t, large, setup.Setup{Stage: &h}, far, 12, lit), 64)
	if d := a.Sub(b); geom.Abs(d.X)+geom.Abs(d.Y)+geom.Abs(d.Z) > 0.01*a.Mean() || a.Mean() < 0.1 {
		t.Errorf("the small product's picture is %v, the large one's %v", a, b)
	}
}

// Lights keep the names of the file's own apart from theirs, and do what they are told.
func TestWhatAStageAddsToAScene(t *testing.T) {
	s := pot()
	s.Lights = []scene.Light{{Name: "Key", Object: 0, Colour: geom.Splat(1), Intensity: 1}}
	g, _ := setup.NewStage(s.Bounds(), []scene.View{front(0, 15, 1.2, 1)})
	g.Card = true
	g.Lights[1].On, g.Lights[2].Reflections = false, false
	g.Lights[2].Camera = true
	for _, kind := range []string{"disk", "sphere", "spot", "sun"} {
		g.Lights = append(g.Lights, setup.NewLight(kind, kind))
	}
	u := setup.Setup{Stage: &g}
	if f := u.Fault(); f != nil {
		t.Fatal(f)
	}
	v, _, _ := u.Apply(t.Context(), s)
	if len(s.Parts) != 1 || len(s.Lights) != 1 || len(s.Objects) != 1 || len(s.Finishes) != 1 {
		t.Fatal("the scene itself was changed")
	}
	kinds := map[string]string{}
	for _, l := range trace.LampsOf(v) {
		kinds[l.Name] = l.Kind
	}
	for name, kind := range map[string]string{"Key": "point", "Key 2": "rectangle", "Fill": "rectangle", "Rim": "rectangle",
		"disk": "disk", "sphere": "sphere", "spot": "sphere", "sun": "sun"} {
		if kinds[name] != kind {
			t.Errorf("the light %s is a %q, want %q", name, kinds[name], kind)
		}
	}
	if around := v.Around(func(int) bool { return false }); around[0] || !around[1] {
		t.Errorf("what stands around the product: %v", around)
	}
	if v.Focus(func(int) bool { return false }) != s.Bounds() {
		t.Error("the product has grown by its stage")
	}
	o := trace.Options{Finishes: v.Finishes}
	for i := range v.Parts {
		o.Wears = append(o.Wears, v.Parts[i].Finish)
	}
	for _, name := range trace.ElementsOf(v, &o) {
		if name == "Fill" {
			t.Error("a light that is off gives an element")
		}
	}
	if w := g.Carded(v); len(w.Parts) != len(v.Parts)+1 || w.Focus(func(int) bool { return false }) != s.Bounds() || len(v.Meshes) != len(v.Parts) {
		t.Error("the card is not beside the product")
	}
	if run := u.ForRun(); run.Stage.Begins != nil || run.Stage.Card || !g.Card || g.Begins == nil {
		t.Error("the card is in a run, or the set-up itself was changed")
	}
	bare := setup.Setup{Stage: &setup.Stage{Backdrop: setup.Backdrop{Kind: setup.NoBackdrop}, Begins: &setup.Begins{}}}
	if run := bare.ForRun(); !run.IsZero() {
		t.Error("an empty stage changes runs")
	}
}

// Whatever the ends of the ranges, what a light gives is a number, and so is where it
// stands.
func TestLightsAtTheEndsOfTheirRanges(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	one := func(of ...float64) float64 { return of[rng.IntN(len(of))] }
	for range 3000 {
		l := setup.NewLight("Key", []string{"rectangle", "disk", "sphere", "spot", "sun"}[rng.IntN(5)])
		l.Held = []string{setup.HeldLux, setup.HeldPower, setup.HeldBrightness}[rng.IntN(3)]
		l.Distance, l.Width, l.Length = one(0.01, 1000, 1e6), one(0, 1e-9, 0.01, 600, 1e6), one(0.01, 600, 1e6)
		l.Direction, l.Height, l.Cone, l.Soft, l.Disc = one(-360, 0, 360), one(-90, 0, 90), one(1, 170), one(0, 100), one(0, 90)
		l.Strength, l.Kelvin, l.Tint, l.Tinted = one(1e-6, 1e9), one(1000, 15000), one(-50, 50), []string{"temperature", "colour"}[rng.IntN(2)]
		l.Colour = setup.Colour{B: one(0, 1)}
		l.Aim = setup.Aim{X: one(0, 1e6), Y: one(0, -1e6, 1000)}
		g := setup.Stage{Radius: one(0.001, 100, 1e6), Lights: []setup.Light{l}, Middle: setup.Middle{X: one(0, 1e6)}}
		u := setup.Setup{Stage: &g}
		if u.Fault() != nil {
			continue
		}
		v, _, _ := u.Apply(t.Context(), pot())
		p := g.Placed(v)[0]
		sum := p.Gives.Lux + p.Gives.Lumen + p.Gives.Nit + p.EV
		if math.IsNaN(sum) || math.IsInf(sum, 0) || !p.At.Finite() || !p.Aim.Finite() || !l.Hue().Finite() || p.Name != "Key" {
			t.Fatalf("%+v gives %+v", l, p)
		}
		for _, f := range v.Finishes {
			if !f.Emission.Finite() {
				t.Fatalf("%+v shines with %v", l, f.Emission)
			}
		}
		for _, x := range v.Lights {
			if !geom.Splat(x.Intensity).Finite() {
				t.Fatalf("%+v shines with %v cd", l, x.Intensity)
			}
		}
	}
}

// A right exposure shows the card as mid grey: here a sheet of 18 % that gets pi lux.
func TestTheGreyCard(t *testing.T) {
	s := pot()
	l := setup.NewLight("Front", "sun")
	l.Direction, l.Height, l.Strength = 0, 0, math.Pi
	g := setup.Stage{Middle: setup.Middle{Y: 100}, Radius: 120, Backdrop: setup.Backdrop{Kind: setup.NoBackdrop}, Card: true, Lights: []setup.Light{l}}
	at := geom.V(0.68*0.12, 0.2*0.12, 0.25*0.12)
	c := scene.View{Camera: geom.LookAt(at.Add(geom.V(0, 0, 1)), at, geom.V(0, 1, 0)), YFov: 0.02}
	got := mean(t, prepared(t, s, setup.Setup{Stage: &g}, c, 4, nil), 16)
	if math.Abs(float64(got.Y)/0.18-1) > 1e-3 {
		t.Errorf("the card is %v nit, want 0.18", got)
	}
}

func TestStagesThatCannotBe(t *testing.T) {
	for name, change := range map[string]func(g *setup.Stage){
		"two of a name": func(g *setup.Stage) { g.Lights[1].Name = "KEY" },
		"no name":       func(g *setup.Stage) { g.Lights[1].Name = "" },
		"a point's surface": func(g *setup.Stage) {
			g.Lights[1].Kind, g.Lights[1].Width, g.Lights[1].Held = "spot", 0, setup.HeldBrightness
		},
		"a panel of a line":   func(g *setup.Stage) { g.Lights[1].Width = 0 },
		"a bend for no floor": func(g *setup.Stage) { g.Backdrop.Bend = g.Backdrop.Depth + g.Backdrop.Front + 1 },
	} {
		g, _ := setup.NewStage(pot().Bounds(), nil)
		change(&g)
		u := setup.Setup{Stage: &g}
		if u.Fault() == nil {
			t.Errorf("%s is no fault", name)
		}
	}
}
