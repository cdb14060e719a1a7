package preflight_test

import (
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
)

// litFound runs the checks of light of a ball on a stage under a surround.
func litFound(t *testing.T, ball scene.Finish, stage func(g *setup.Stage), more func(o *trace.Options, of *preflight.Lit)) []preflight.Finding {
	t.Helper()
	s := plain()
	s.put("Ball", ballMesh, geom.V(0, 0.05, 0), s.finish(ball), -1)
	view := scene.View{Name: "Front", Aspect: 1, Camera: geom.LookAt(geom.V(0, 0.15, 0.6), geom.V(0, 0.05, 0), geom.V(0, 1, 0)), YFov: 0.3}
	g, _ := setup.NewStage(s.Bounds(), []scene.View{view})
	if stage != nil {
		stage(&g)
	}
	u := setup.Setup{Stage: &g}
	if err := u.Fault(); err != nil {
		t.Fatal(err)
	}
	v, _, _ := u.Apply(t.Context(), &s.Scene)
	lamps := map[int]bool{}
	for _, l := range trace.LampsOf(v) {
		lamps[l.Part] = true
	}
	of := &preflight.Lit{Subject: preflight.Subject{Scene: v, Lamp: func(i int) bool { return lamps[i] }, Views: []scene.View{view}}, Display: colour.Plain}
	o := trace.Options{
		Width: preflight.LitSide, Height: preflight.LitSide, Window: image.Rect(0, 0, preflight.LitSide, preflight.LitSide),
		Filter: sampling.Box, FilterWidth: 1, Seed: 2,
		DiffuseBounces: 3, GlossyBounces: 3, Camera: trace.Camera{World: view.Camera, YFov: view.YFov}, Finishes: v.Finishes,
		Surround: trace.Surround{On: true, Tone: geom.Splat(float32(g.Begins.Surround.Tone)), Strength: 1},
	}
	for i := range v.Parts {
		o.Wears = append(o.Wears, v.Parts[i].Finish)
	}
	if more != nil {
		more(&o, of)
	}
	o.Layout = preflight.LitLayout(len(trace.ElementsOf(v, &o)))
	w, err := trace.Prepare(t.Context(), v, o)
	if err != nil {
		t.Fatal(err)
	}
	of.Worlds = []*trace.World{w}
	found, err := preflight.CheckLit(t.Context(), of)
	if err != nil {
		t.Fatal(err)
	}
	return found
}

var ballMesh = ball(0.05)

// Each check of light has a scene with its fault; on a stage as it is set up there is none.
func TestChecksOfLight(t *testing.T) {
	paint := scene.NewFinish("Paint")
	paint.Base, paint.Metallic, paint.Roughness = geom.Splat(0.5), 0, 0.6
	chrome := scene.NewFinish("Chrome")
	chrome.Base, chrome.Roughness = geom.Splat(0.6), 0.02
	for _, c := range []struct {
		name   string
		finish scene.Finish
		stage  func(g *setup.Stage)
		more   func(o *trace.Options, of *preflight.Lit)
		check  preflight.Check // empty: nothing is found
		low    float64         // bounds of its value
		high   float64
	}{
		{name: "as it is set up", finish: paint},
		{name: "chrome in an even surround", finish: chrome},
		{name: "five stops too bright", finish: paint, more: func(_ *trace.Options, of *preflight.Lit) { of.Exposure = 5 },
			check: preflight.Clips, low: 80, high: 100},
		{name: "five stops too dark", finish: paint, more: func(_ *trace.Options, of *preflight.Lit) { of.Exposure = -5 }, check: preflight.Dark, low: 0.1, high: 4},
		{name: "chrome in the dark", finish: chrome, stage: func(g *setup.Stage) { g.Backdrop.Kind = setup.Flat },
			more: func(o *trace.Options, _ *preflight.Lit) { o.Surround.On = false }, check: preflight.Mirrors, low: 50, high: 100},
		{name: "a light behind the backdrop", finish: paint, stage: func(g *setup.Stage) {
			l := setup.NewLight("Lost", "disk")
			l.Direction, l.Height, l.Distance, l.Width = 180, 5, 4*g.Backdrop.Depth, 50
			g.Lights = append(g.Lights, l)
		}, check: preflight.Faint, low: 0, high: 0.1},
		{name: "a light a thousand times as strong", finish: paint, stage: func(g *setup.Stage) { g.Lights[0].Strength *= 1000 },
			more: func(_ *trace.Options, of *preflight.Lit) { of.Exposure = -10 }, check: preflight.Sole, low: 99, high: 100},
		{name: "a light that is off", finish: paint, stage: func(g *setup.Stage) { g.Lights[2].On = false }},
	} {
		t.Run(c.name, func(t *testing.T) {
			is := false
			for _, f := range litFound(t, c.finish, c.stage, c.more) {
				switch {
				case f.Check == c.check && f.Value >= c.low && f.Value <= c.high && !math.IsNaN(float64(f.Where.Radius())):
					is = true
				case c.check == preflight.Sole && f.Check == preflight.Faint: // beside it all others do nothing
				default:
					t.Errorf("%s: %s (%g %s)", f.Check, f.Says, f.Value, f.Unit)
				}
			}
			if !is && c.check != "" {
				t.Errorf("%s was not found", c.check)
			}
		})
	}
}

// A flat mirror that shows where the backdrop ends is told of, one that shows only the
// backdrop or a round one is not.
func TestTheEdgeInAMirror(t *testing.T) {
	chrome := scene.NewFinish("Chrome")
	chrome.Base, chrome.Roughness = geom.Splat(0.6), 0.02
	for _, c := range []struct {
		name  string
		mesh  scene.Mesh
		floor float32 // how far the ground reaches before the mirror, metres
		found bool
	}{
		{"flat, to its middle", cuboid(0.1, 0.1, 0.002), 0.15, true},
		{"flat, all of it", cuboid(0.1, 0.1, 0.002), 40, false},
		{"round", ball(0.05), 0.15, false},
	} {
		s := plain()
		s.put("Mirror", c.mesh, geom.V(0, 0.05, 0), s.finish(chrome), -1)
		ground := sheet(2)
		for k := range ground.Positions {
			ground.Positions[k].Z = min(2*ground.Positions[k].Z, 0) - 0.01
			if k < 2 {
				ground.Positions[k].Z = c.floor
			}
		}
		s.put("Ground", ground, geom.Vec3{}, 0, -1)
		view := scene.View{Name: "Front", Aspect: 1, Camera: geom.LookAt(geom.V(0, 0.25, 0.5), geom.V(0, 0.05, 0), geom.V(0, 1, 0)), YFov: 0.3}
		o := trace.Options{
			Width: preflight.LitSide, Height: preflight.LitSide, Window: image.Rect(0, 0, preflight.LitSide, preflight.LitSide),
			Filter: sampling.Box, FilterWidth: 1, Seed: 2,
			DiffuseBounces: 3, GlossyBounces: 3, Camera: trace.Camera{World: view.Camera, YFov: view.YFov}, Finishes: s.Finishes, Wears: []int{1, 0},
			Surround: trace.Surround{On: true, Tone: geom.Splat(0.5), Strength: 1},
		}
		o.Layout = preflight.LitLayout(len(trace.ElementsOf(&s.Scene, &o)))
		w, err := trace.Prepare(t.Context(), &s.Scene, o)
		if err != nil {
			t.Fatal(err)
		}
		of := &preflight.Lit{Subject: preflight.Subject{Scene: &s.Scene, Lamp: func(int) bool { return false }, Views: []scene.View{view}},
			Worlds: []*trace.World{w}, Display: colour.Plain}
		got, err := preflight.CheckLit(t.Context(), of)
		if err != nil {
			t.Fatal(err)
		}
		found := false
		for _, f := range got {
			found = found || f.Check == preflight.Edge && f.Part == 0
		}
		if found != c.found {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
}
