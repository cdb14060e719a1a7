package preflight_test

import (
	"image"
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// lampOver is a small enamelled board, looked at from beside, under a lamp of 200 x 200 mm
// at a height of one metre, with a plate right under the lamp if there is one, and a
// second lamp as strong but free.
func lampOver(t *testing.T, plate *scene.Mesh, f scene.Finish, at geom.Vec3) (s *set, w *trace.World, part int) {
	t.Helper()
	s = plain()
	enamel := scene.NewFinish("Enamel")
	enamel.Metallic = 0
	board := cuboid(0.05, 0.01, 0.05)
	s.put("Board", board, geom.Vec3{}, s.finish(enamel), -1)
	glow := scene.NewFinish("Glow")
	glow.Emission = geom.Splat(10)
	k := s.finish(glow)
	lamp := scene.Mesh{Positions: []geom.Vec3{geom.V(-0.1, 0, -0.1), geom.V(0.1, 0, -0.1), geom.V(0.1, 0, 0.1), geom.V(-0.1, 0, 0.1)},
		Indices: []uint32{0, 1, 2, 0, 2, 3}}
	s.put("Key", lamp, geom.V(-0.5, 1, 0), k, -1)
	s.put("Fill", lamp, geom.V(0.5, 1, 0), k, -1)
	part = -1
	if plate != nil {
		part = s.put("Plate", *plate, at, s.finish(f), -1)
	}
	eye := geom.V(0, 0.6, 2)
	o := trace.Options{
		Width: 64, Height: 64, Window: image.Rect(0, 0, 64, 64), Filter: sampling.Box, FilterWidth: 1, Seed: 4, StraightShadows: true, Finishes: s.Finishes,
		Camera: trace.Camera{World: geom.LookAt(eye, geom.Vec3{}, geom.V(0, 1, 0)), YFov: 0.028},
	}
	for _, p := range s.Parts {
		o.Wears = append(o.Wears, p.Finish)
	}
	o.Layout = preflight.LitLayout(len(trace.ElementsOf(&s.Scene, &o)))
	w, err := trace.Prepare(t.Context(), &s.Scene, o)
	if err != nil {
		t.Fatal(err)
	}
	return s, w, part
}

func isLampOf(s *set) func(int) bool {
	return func(i int) bool { n := s.Parts[i].Name; return n == "Key" || n == "Fill" }
}

func TestLightThatWouldBeBlocked(t *testing.T) {
	pane := glass()
	pane.Thickness = 0
	wide, left := cuboid(0.3, 0.002, 0.3), cuboid(0.1, 0.0001, 0.3)
	solid := scene.NewFinish("steel")
	for _, c := range []struct {
		name         string
		mesh         scene.Mesh
		f            scene.Finish
		at           geom.Vec3
		worst, whole float64 // percent of what the pane lets through and passes by it, of its lamp and of both
		slack        float64
	}{
		{"over all of a lamp", wide, pane, geom.V(-0.5, 0.99, 0), 100, 47, 2},
		{"over half of a lamp", left, pane, geom.V(-0.55, 0.9998, 0), 43, 21, 2},
		{"a plate that lets nothing through", wide, solid, geom.V(-0.5, 0.99, 0), 0, 0, 0},
		{"out of the way", wide, pane, geom.V(0, 3, 0), 0, 0, 0},
	} {
		s, w, part := lampOver(t, &c.mesh, c.f, c.at)
		covered := make([]bool, len(s.Parts))
		covered[0], covered[part] = true, true
		found, all, err := preflight.CheckBlocked(t.Context(), &s.Scene, isLampOf(s), w, covered)
		if err != nil {
			t.Fatal(err)
		}
		if c.worst == 0 {
			if len(found) > 0 || all.Percent != 0 {
				t.Errorf("%s: %+v, %v in all", c.name, found, all)
			}
			continue
		}
		if len(found) != 1 || found[0].Part != part || found[0].Light != "Key" || found[0].On != "Enamel" {
			t.Errorf("%s: found %+v", c.name, found)
			continue
		}
		b := found[0]
		if e := math.Abs(b.Worst.Percent - c.worst); e > c.slack || c.worst == 100 && e > 1e-9 || b.Worst.Error > 1.5 || b.All.Error > 1 || b.All != all {
			t.Errorf("%s: %s of the lamp, want %g; %s of all", c.name, b.Worst, c.worst, b.All)
		}
		if math.Abs(b.All.Percent-c.whole) > c.slack {
			t.Errorf("%s: %s of all, want %g", c.name, b.All, c.whole)
		}
		covered[part] = false // kept
		if found, all, err = preflight.CheckBlocked(t.Context(), &s.Scene, isLampOf(s), w, covered); err != nil || len(found) > 0 || all.Percent != 0 {
			t.Errorf("%s: kept, it still takes %v: %+v, %v", c.name, all, found, err)
		}
	}
}

// What comes through a kept pane is all of it but what its own faces mirror and its body
// takes: (1-R)/(1+R) of a thin sheet with all mirroring within, and (1-R)(1-R') times what
// a body of an absorption leaves over its thickness.
func TestAKeptPaneTakesItsOwn(t *testing.T) {
	total := func(w *trace.World) (key float64) {
		fallen, err := w.Fallen(t.Context(), 4096, 3)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range fallen {
			if w.LightNames()[f.Light] == "Key" {
				key += f.Much
			}
		}
		return key
	}
	_, bare, _ := lampOver(t, nil, scene.Finish{}, geom.Vec3{})
	// From straight below a pane that is level the light comes at the slant of the lamp:
	// atan(0.5), for which Fresnel's reflectance is as computed here.
	cos := 1 / math.Sqrt(1.25)
	sin := math.Sqrt(1 - cos*cos)
	in := math.Sqrt(1 - sin*sin/2.25)
	rs, rp := (cos-1.5*in)/(cos+1.5*in), (1.5*cos-in)/(1.5*cos+in)
	r := (rs*rs + rp*rp) / 2
	thin := glass()
	thin.Thickness = 0
	tinted := glass()
	tinted.AttenuationColour, tinted.AttenuationDistance = geom.Splat(0.5), 0.01
	sheetAt := scene.Mesh{Positions: []geom.Vec3{geom.V(-0.3, 0, -0.3), geom.V(0.3, 0, -0.3), geom.V(0.3, 0, 0.3), geom.V(-0.3, 0, 0.3)},
		Indices: []uint32{0, 1, 2, 0, 2, 3}}
	slab := cuboid(0.6, 0.01, 0.6)
	for _, c := range []struct {
		name string
		mesh scene.Mesh
		f    scene.Finish
		want float64
	}{
		{"thin", sheetAt, thin, (1 - r) / (1 + r)},
		// The straight line that a shadow ray takes through the body is 1/cos of its thickness.
		{"body", slab, tinted, (1 - r) * (1 - r) * math.Pow(0.5, 1/cos)},
	} {
		_, w, _ := lampOver(t, &c.mesh, c.f, geom.V(-0.4, 0.9, 0))
		if got := total(w) / total(bare); math.Abs(got-c.want) > 0.006 {
			t.Errorf("%s: %.4f of the light comes through, want %.4f", c.name, got, c.want)
		}
	}
}

// The light that falls is that of the closed form for a small source far away, and the
// same for any number of workers.
func TestFallen(t *testing.T) {
	s, w, _ := lampOver(t, nil, scene.Finish{}, geom.Vec3{})
	one, err := w.Fallen(t.Context(), 3000, 1)
	if err != nil {
		t.Fatal(err)
	}
	many, err := w.Fallen(t.Context(), 3000, 7)
	if err != nil {
		t.Fatal(err)
	}
	if len(one) != len(many) {
		t.Fatalf("%d and %d found", len(one), len(many))
	}
	var sum float64
	points := map[int]bool{}
	for i, f := range one {
		if f.Point != many[i].Point || f.Much != many[i].Much {
			t.Fatalf("entry %d is %+v and %+v", i, f, many[i])
		}
		if w.LightNames()[f.Light] == "Key" && s.Parts[f.On].Name == "Board" {
			sum += f.Much
			points[f.Point] = true
		}
	}
	// The board's top is what is seen of it, but for its low front, that the lamp grazes:
	// E = L A cos cos / d2 of 0.04 m2 at 1 m up and 0.5 m aside.
	d2 := 1.25 - 0.01 // of the top, 5 mm up
	want := 10 * 0.04 / (d2 * d2)
	if got := sum / float64(len(points)); got < 0.75*want || got > 1.02*want {
		t.Errorf("irradiance %.4f, want up to %.4f", got, want)
	}
}

// A glowing ball over a large floor lights the floor and nothing else: what its clay would
// take of that is told, though the floor is no product.
func TestBlockedLightOnTheFloor(t *testing.T) {
	s := plain()
	enamel := scene.NewFinish("Enamel")
	enamel.Metallic = 0
	floor := s.put("Floor", cuboid(20, 0.01, 20), geom.V(0, -0.01, 0), s.finish(enamel), -1)
	glow := scene.NewFinish("Glow")
	glow.Emission = geom.Splat(40)
	ball := s.put("Ball", cuboid(0.3, 0.3, 0.3), geom.V(0, 1, 0), s.finish(glow), -1)
	o := trace.Options{
		Width: 64, Height: 64, Window: image.Rect(0, 0, 64, 64), Filter: sampling.Box, FilterWidth: 1, Seed: 4, StraightShadows: true, Finishes: s.Finishes,
		Camera:   trace.Camera{World: geom.LookAt(geom.V(0, 3, 6), geom.V(0, 0.5, 0), geom.V(0, 1, 0)), YFov: 0.5},
		Surround: trace.Surround{On: true, Tone: geom.Splat(0.05), Strength: 1},
	}
	for _, p := range s.Parts {
		o.Wears = append(o.Wears, p.Finish)
	}
	o.Layout = preflight.LitLayout(len(trace.ElementsOf(&s.Scene, &o)))
	w, err := trace.Prepare(t.Context(), &s.Scene, o)
	if err != nil {
		t.Fatal(err)
	}
	covered := make([]bool, len(s.Parts))
	covered[floor], covered[ball] = true, true
	found, all, err := preflight.CheckBlocked(t.Context(), &s.Scene, isLampOf(s), w, covered)
	if err != nil || len(found) != 1 || found[0].Part != ball || all.Percent < 30 || found[0].On != "Enamel" {
		t.Errorf("%+v, %+v of all: %v", found, all, err)
	}
}
