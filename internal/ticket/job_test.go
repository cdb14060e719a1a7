package ticket

import (
	"encoding/json"
	"image"
	"math"
	"slices"
	"strings"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// keeps reports whether a film of the layout keeps a plane.
func keeps(l *film.Layout, plane string) bool {
	_, ok := l.Place(plane)
	return ok
}

func lantern() *scene.Scene {
	glow := scene.NewFinish("Key light")
	glow.Emission = geom.Splat(3)
	return &scene.Scene{
		Finishes: []scene.Finish{scene.NewFinish("Brass"), glow},
		Meshes:   []scene.Mesh{{Positions: []geom.Vec3{{}, {X: 1}, {X: 1, Y: 1}, {Y: 1}}, Indices: []uint32{0, 1, 2, 0, 2, 3}}},
		Objects: []scene.Object{{Name: "Cap", Parent: -1, World: geom.Identity()}, {Name: "Key", Parent: -1, World: geom.Identity()},
			{Name: "Hero", Parent: -1, World: geom.Identity()}},
		Parts:   []scene.Part{{Name: "Cap", Object: 0, Finish: 0}, {Name: "Cap", Object: 0, Finish: 0}, {Name: "Key", Object: 1, Finish: 1}},
		Cameras: []scene.Camera{{Name: "Hero", Object: 2, YFov: 0.3}},
	}
}

func light(name string, on bool, strength float64) LightChange {
	l := LightAsFound(name)
	l.On, l.Strength = on, strength
	return l
}

func TestDefaultsAreAllowedAndEverySettingIsDescribed(t *testing.T) {
	d := New()
	d.Tidy()
	if f := Check(&d); len(f) != 0 {
		t.Fatalf("faults in the defaults: %v", f)
	}
	if d.Quality.Preset != "proof" {
		t.Errorf("the default quality calls itself %q", d.Quality.Preset)
	}
	for _, s := range Settings() {
		if s.Label == "" || s.Kind != "group" && s.Help == "" {
			t.Errorf("%s lacks a label or a line of help", s.Path)
		}
		if (s.Kind == "number" || s.Kind == "whole") && (s.Min == nil || s.Max == nil) && s.Kind != "choice" {
			t.Errorf("%s has no range", s.Path)
		}
	}
}

func TestEachPresetIsAllowedAndKnowsItself(t *testing.T) {
	for _, p := range Presets() {
		d := New()
		d.Quality = p.Quality
		d.Tidy()
		if f := Check(&d); len(f) != 0 || d.Quality.Preset != p.Key {
			t.Errorf("%s: %v, calls itself %q", p.Key, f, d.Quality.Preset)
		}
		d.Quality.Most++
		d.Tidy()
		if d.Quality.Preset != "own" {
			t.Errorf("%s with a change calls itself %q", p.Key, d.Quality.Preset)
		}
	}
}

func TestFaultsAreFoundAndNamed(t *testing.T) {
	for _, c := range []struct{ change, path, words string }{
		{`{"view":{"width":0}}`, "view.width", "between 1 px and 16384 px"},
		{`{"view":{"scale":0}}`, "view.scale", "between 1 % and 400 %"},
		{`{"view":{"scale":400,"width":5000,"height":1000}}`, "view.scale", "20000 x 4000 px; 16384 px is the most"},
		{`{"view":{"scael":50}}`, "", "scael"},
		{`{"view":{"width":"wide"}}`, "view.width", "must be a whole number, not text"},
		{`{"quality":{"least":600}}`, "quality.least", "must not be more than most"},
		{`{"quality":{"noise":-1}}`, "quality.noise", "between 0 %"},
		{`{"view":{"region":{"on":true,"x":60,"width":50}}}`, "view.region", "beyond the frame"},
		{`{"surface":{"clay":{"rules":[{"by":"kind","match":"shiny","do":"keep"}]}}}`, "surface.clay.rules[0].match", "clear, glowing, mirror, textured"},
		{`{"surface":{"clay":{"rules":[{"by":"name","match":"","do":"keep"}]}}}`, "surface.clay.rules[0].match", "pattern is missing"},
		{`{"surface":{"clay":{"rules":[{"by":"luck","match":"x","do":"keep"}]}}}`, "surface.clay.rules[0].by", "one of kind"},
		{`{"stage":{"lights":[{"name":"a","on":false,"strength":1},{"name":"a","on":false,"strength":1}]}}`, "stage.lights[1].name", "twice"},
		{`{"output":{"exr":false,"png":"none"}}`, "output", "Nothing would be delivered"},
		{`{"output":{"name":"{scene}"}}`, "output.name", "add {pass}"},
		{`{"output":{"name":"{shot}_{pass}"}}`, "output.name", "{shot} is not known"},
		{`{"output":{"name":"../{pass}"}}`, "output.name", ".."},
		{`{"output":{"name":"{pass"}}`, "output.name", "not closed"},
		{`{} {}`, "", "one ticket a file"},
		{`{"version":2}`, "version", "between 1 and 1"},
		{`nonsense`, "", "not proper JSON"},
	} {
		_, f := Decode([]byte(c.change))
		found := false
		for _, x := range f {
			found = found || x.Path == c.path && strings.Contains(x.Message, c.words)
		}
		if !found {
			t.Errorf("%s: got %v, want %s: …%s…", c.change, f, c.path, c.words)
		}
	}
}

func TestFingerprintTellsTicketsApartAndIsStable(t *testing.T) {
	s := lantern()
	ref := SceneRef{"lantern.glb", strings.Repeat("a", 64)}
	resolve := func(change func(*Ticket)) string {
		d := New()
		change(&d)
		r, f := Resolve(d, Subject{Ref: ref, Scene: s}, ViewsOf(s))
		if len(f) != 0 {
			t.Fatal(f)
		}
		return r.Fingerprint()
	}
	same := resolve(func(*Ticket) {})
	if resolve(func(d *Ticket) { d.View.Name = "Hero" }) != same {
		t.Error("naming the default view changes the fingerprint")
	}
	if resolve(func(d *Ticket) { d.Stage.Lights = []LightChange{light("Key", true, 1)} }) != same {
		t.Error("listing a light unchanged changes the fingerprint")
	}
	seen := map[string]bool{same: true}
	for i, change := range []func(*Ticket){
		func(d *Ticket) { d.View.Width = 10 }, func(d *Ticket) { d.Quality.Seed = 2 }, func(d *Ticket) { d.Surface.Mode = "clay" },
		func(d *Ticket) { d.Stage.Lights = []LightChange{light("Key", false, 1)} },
	} {
		f := resolve(change)
		if seen[f] {
			t.Errorf("change %d does not show in the fingerprint", i)
		}
		seen[f] = true
	}
}

func TestResolveRefusesUnknownViewsAndLights(t *testing.T) {
	s := lantern()
	d := New()
	d.View.Name = "Side"
	d.Stage.Lights = []LightChange{light("Moon", false, 1)}
	_, f := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, ViewsOf(s))
	if len(f) != 2 || !strings.Contains(f[0].Message, "there are Hero") || !strings.Contains(f[1].Message, "Moon") {
		t.Errorf("got %v", f)
	}
}

func TestSizesAndRegions(t *testing.T) {
	d := New()
	d.View.Width, d.View.Height, d.View.Scale = 1601, 901, 25
	if s := d.Size(); s.X != 400 || s.Y != 225 {
		t.Errorf("size %v", s)
	}
	for scale, want := range map[int]image.Point{1: {16, 9}, 33: {528, 297}, 400: {6404, 3604}} {
		o := d
		if o.View.Scale = scale; o.Size() != want {
			t.Errorf("at %d %% the size is %v, want %v", scale, o.Size(), want)
		}
	}
	d.View.Region = Region{On: true, X: 50, Y: 25, Width: 25, Height: 50}
	if w := d.Window(); w.Min.X != 200 || w.Min.Y != 56 || w.Max.X != 300 || w.Max.Y != 169 {
		t.Errorf("window %v", w)
	}
	d.View.Region = Region{On: true, X: 100, Y: 100, Width: 0.1, Height: 0.1}
	if w := d.Window(); w.Dx() < 1 || w.Dy() < 1 || w.Max.X > 400 {
		t.Errorf("a sliver of a region: %v", w)
	}
}

func TestFileNamesAreSafeWhateverTheWords(t *testing.T) {
	d := New()
	d.Output.Name = "{project}/{scene} {view}_{size}_r{run}_{pass}"
	got := FileName(&d, Words{Project: "../Pell/wick", Scene: `storm:lantern?`, View: "Hero, 3/4", Run: 7}, "light.Key_panel", "exr")
	want := "_Pell_wick/storm_lantern__Hero,_3_4_1600x1600_r007_light.Key_panel.exr"
	if got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestCollidingNamesAreRefused(t *testing.T) {
	s := lantern()
	d := New()
	d.Output.Layers, d.Output.PNG = "each", "8"
	list := passes.List(passes.Wanted{Kinds: []passes.Kind{passes.PartMask, passes.Occlusion}}, nil, s, IsLamp(s))
	files, f := Files(&d, Words{Project: "P"}, list)
	if len(f) != 0 || len(files) != 8 { // beauty, occlusion and two parts, in two formats; the lamp has no mask
		t.Fatalf("%d files, %v", len(files), f)
	}
	d.Output.Name = "same{date}"
	if _, f = Files(&d, Words{}, list); len(f) == 0 {
		t.Fatal("colliding names were let through")
	}
}

func TestOptionsFollowTheTicket(t *testing.T) {
	s := lantern()
	d := New()
	d.Surface.Mode = "clay"
	d.Stage.Lights = []LightChange{light("Key", true, 2.5)}
	d.Passes.Occlusion.On, d.Passes.Lights = true, true
	r, _ := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, ViewsOf(s))
	o := r.Options(s, nil)
	if o.Finishes[o.Wears[0]].Name != "clay" || o.Wears[2] != 1 {
		t.Errorf("the cap wears %q and the lamp %d", o.Finishes[o.Wears[0]].Name, o.Wears[2])
	}
	if !o.Lamps[0].On || o.Lamps[0].Strength != 2.5 || o.AOReach != 0.06 || o.Layout.Asks()&film.AskOpen == 0 {
		t.Errorf("options %+v", o)
	}
}

func TestDifferencesAreToldInWords(t *testing.T) {
	s := lantern()
	a, _ := Resolve(New(), Subject{Ref: SceneRef{"lantern.glb", "a"}, Scene: s}, ViewsOf(s))
	b := a
	if d := Differences(&a, &b); len(d) != 0 {
		t.Errorf("the same differs: %v", d)
	}
	b.Scene.SHA256 = "b"
	b.Camera.YFov = 0.5
	b.Ticket.Quality.Noise = 0.6
	b.Ticket.Surface.Mode = "clay"
	b.Ticket.Stage.Lights = []LightChange{light("Key", false, 1)}
	got := strings.Join(Differences(&a, &b), "; ")
	for _, want := range []string{"scene lantern.glb", "view Hero was moved", "Noise target 0.6 %, was 1.5 %", "Surface clay, was own", "Key: On off, was on"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not told in: %s", want, got)
		}
	}
}

// An entry of an older ticket says nothing of size and flags: they are as found.
func TestALightEntryMayLeaveThingsOut(t *testing.T) {
	d, faults := Decode([]byte(`{"stage": {"lights": [{"name": "Key", "strength": 2}]}}`))
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	want := light("Key", true, 2)
	if len(d.Stage.Lights) != 1 || d.Stage.Lights[0] != want {
		t.Errorf("got %+v, want %+v", d.Stage.Lights, want)
	}
	if _, faults := Decode([]byte(`{"stage": {"lights": [{"name": "Key", "brightnes": 2}]}}`)); len(faults) == 0 {
		t.Error("a misspelt setting of a light was lost in silence")
	}
}

// What was kept by a version that knew less has defaults for the rest, and what
// no version knows any more is passed over.
func TestKeptTicketsOfOtherVersionsAreRestored(t *testing.T) {
	old := `{"version":1,"view":{"name":"Hero","fadedOption":3},"surface":{"mode":"clay","clay":{"rules":null}},"quality":{"least":32,"most":512,"noise":1.5}}`
	got, err := Restore([]byte(old))
	if err != nil || got.View.Name != "Hero" || got.View.Motion.Shutter != 20 || got.Surface.Shapes == nil ||
		got.Surface.Clay.Rules == nil || got.Quality.Preset != "proof" {
		t.Errorf("%v %+v", err, got)
	}
	r, err := RestoreResolved([]byte(`{"scene":{"name":"a.glb"},"ticket":` + old + `}`))
	if err != nil || r.Scene.Name != "a.glb" || r.Ticket.Surface.Mode != "clay" || r.Ticket.Surface.Clay.Tone != 0.6 {
		t.Errorf("%v %+v", err, r)
	}
}

func TestShapeRulesReachTheScene(t *testing.T) {
	s := lantern()
	d := New()
	d.Surface.Shapes = []ShapeRule{}
	if err := json.Unmarshal([]byte(`{"surface":{"shapes":[{"match":"cap #2","levels":2},{"shading":"faceted"}]}}`), &d); err != nil {
		t.Fatal(err)
	}
	if r := d.Surface.Shapes[0]; r.Crease != 50 || r.Shading != "saved" || d.Surface.Shapes[1].Match != "*" {
		t.Fatalf("what a rule leaves out has no default: %+v", d.Surface.Shapes)
	}
	how, by := d.Shapes(s)
	if by[0] != 1 || by[1] != 0 || by[2] != -1 {
		t.Errorf("decided by %v", by) // Cap, Cap #2, and a lamp
	}
	r := Resolved{Ticket: d}
	staged := r.Staged(s)
	if how[1].Levels != 2 || staged.Triangles() != 2*16+2+2 || s.Triangles() != 6 {
		t.Errorf("%d triangles, %d in the scene", staged.Triangles(), s.Triangles())
	}
	d.Surface.Shapes[0] = ShapeRule{Match: "*", Levels: 6, Shading: "saved", Crease: 30}
	if f := Check(&d); len(f) != 0 {
		t.Error(f)
	}
	big := *s
	big.Meshes = []scene.Mesh{s.Meshes[0]}
	big.Meshes[0].Indices = make([]uint32, 3*6000)
	if _, f := Resolve(d, Subject{Ref: SceneRef{}, Scene: &big}, ViewsOf(&big)); len(f) != 1 || !strings.Contains(f[0].Message, "limit") {
		t.Errorf("faults %v", f)
	}
	d.Surface.Shapes[0].Match = ""
	if f := Check(&d); len(f) != 1 || f[0].Path != "surface.shapes[0].match" {
		t.Errorf("faults %v", f)
	}
}

func TestAFloorIsLaidOrFoundForShadows(t *testing.T) {
	s := lantern()
	d := New()
	c := &d.Stage.Catcher
	c.On, d.Passes.PartMasks, d.Passes.Shadow = true, true, true
	r, faults := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, ViewsOf(s))
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	staged := r.Staged(s)
	o := r.Options(staged, nil)
	if n := len(staged.Parts); n != 4 || len(s.Parts) != 3 || !o.Catches[3] || o.Catches[0] || !keeps(&o.Layout, film.CaughtPlane.Name) {
		t.Fatalf("%d parts, catching %v", n, o.Catches)
	}
	if b := staged.PartBounds(3); b.Max.Y > 0 || b.Max.Y < -1e-3 || b.Size().X < 100 {
		t.Errorf("the floor is %v", b)
	}
	var keys []string
	for _, p := range r.Ticket.List(staged, nil) {
		keys = append(keys, p.Key)
	}
	if got := strings.Join(keys, " "); got != "beauty beauty.denoised beauty.doubt shadow part.Cap part.Cap_2" {
		t.Errorf("passes %s", got)
	}
	c.Parts = "cap*"
	r, _ = Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, ViewsOf(s))
	if o := r.Options(r.Staged(s), nil); len(o.Catches) != 3 || !o.Catches[0] || !o.Catches[1] || o.Catches[2] {
		t.Errorf("catching %v", o.Catches)
	}
	c.Parts = "carpet"
	if _, f := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, ViewsOf(s)); len(f) != 1 || !strings.Contains(f[0].Message, "carpet") {
		t.Errorf("faults %v", f)
	}
	c.On = false
	if l := r.Ticket.List(s, nil); r.Ticket.Stage.Catcher.On && len(l) == 0 || slices.Contains(d.Wanted().Kinds, passes.Shadow) {
		t.Error("without a floor there is no caught shadow")
	}
}

// An aperture is the focal length over the f-number, before a film 24 mm high.
func TestTheLensInTheCoresTerms(t *testing.T) {
	r := Resolved{Ticket: New(), Camera: Camera{YFov: float32(2 * math.Atan(12.0/85))}}
	s := &scene.Scene{}
	if c := r.camera(s); c.Aperture != 0 {
		t.Errorf("off: radius %v", c.Aperture)
	}
	l := &r.Ticket.View.Lens
	l.On, l.FStop, l.X, l.Y = true, 2.8, 25, 75
	if c := r.camera(s); math.Abs(float64(c.Aperture)-0.085/5.6) > 1e-6 || c.Focus != 0 || c.FocusAt != [2]float32{0.25, 0.75} {
		t.Errorf("85 mm at f/2.8: %+v", c)
	}
	l.By, l.Distance = "distance", 1.25
	if c := r.camera(s); c.Focus != 1.25 {
		t.Errorf("by distance: %+v", c)
	}
}

func TestASkyReachesTheTracer(t *testing.T) {
	r := Resolved{Ticket: New()}
	r.Ticket.Stage.Surround.Kind, r.Ticket.Stage.Surround.Sun = "sky", 30
	o := r.Options(&scene.Scene{}, nil)
	if o.Surround.Sky == nil || math.Abs(o.Surround.Sky.Height-math.Pi/6) > 1e-9 || o.Surround.Sky.Turbidity != 3 {
		t.Errorf("%+v", o.Surround.Sky)
	}
}
