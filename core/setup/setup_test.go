package setup

import (
	"encoding/json"
	"math"
	"reflect"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// lamp is a scene of a base, a shade turned and shifted in a group, and two screws
// that share a mesh and a name.
func lamp() *scene.Scene {
	cube := scene.Mesh{}
	for i := range 8 {
		b := geom.Box{Min: geom.V(-1, -1, -1), Max: geom.V(1, 1, 1)}
		cube.Positions = append(cube.Positions, b.Corner(i))
	}
	cube.Indices = []uint32{0, 1, 2, 1, 3, 2}
	s := &scene.Scene{Meshes: []scene.Mesh{cube}, Finishes: []scene.Finish{scene.NewFinish("enamel"), scene.NewFinish("brass")}}
	object := func(name string, parent int, w geom.Affine) int {
		s.Objects = append(s.Objects, scene.Object{Name: name, Parent: parent, World: w, Local: w})
		return len(s.Objects) - 1
	}
	part := func(name string, parent int, w geom.Affine) {
		s.Parts = append(s.Parts, scene.Part{Name: name, Object: object(name, parent, w)})
	}
	top := object("Lamp", -1, geom.Identity())
	part("Base", top, geom.Translate(geom.V(0, 1, 0)))
	part("Shade", top, geom.Translate(geom.V(3, 5, 0)).Mul(around(1, 30)))
	part("Screw", top, geom.Translate(geom.V(2, 2, 2)))
	part("Screw", top, geom.Translate(geom.V(-2, 2, 2)))
	return s
}

func apply(t *testing.T, u Setup, s *scene.Scene) *scene.Scene {
	t.Helper()
	before, _ := json.Marshal(s.Parts)
	v, lost := applied(t, &u, s)
	if len(lost) > 0 {
		t.Fatalf("lost: %+v", lost)
	}
	if after, _ := json.Marshal(s.Parts); string(before) != string(after) {
		t.Fatal("the imported scene was changed")
	}
	return v
}

func near(a, b geom.Vec3) bool { return a.Sub(b).Len() < 1e-5 }

// A part moves by what is asked in the world, however its object is turned; it turns
// and grows about its own middle.
func TestPlaces(t *testing.T) {
	s := lamp()
	mid := s.PartBounds(1).Centre()
	v := apply(t, Setup{Parts: []Change{{Part: "Shade", Scale: 1, Shift: Vector{X: 500, Y: -250, Z: 125}}}}, s)
	if got := v.PartBounds(1).Centre(); !near(got, mid.Add(geom.V(0.5, -0.25, 0.125))) {
		t.Errorf("moved to %v", got)
	}
	v = apply(t, Setup{Parts: []Change{{Part: "Shade", Scale: 2}}}, s)
	if b, was := v.PartBounds(1), s.PartBounds(1); !near(b.Centre(), mid) || !near(b.Size(), was.Size().Scale(2)) {
		t.Errorf("grown to %v", b)
	}
	// Turned about y by 30 degrees as it is, 60 more bring it square to the axes.
	v = apply(t, Setup{Parts: []Change{{Part: "Shade", Scale: 1, Turn: Angles{Y: 60}}}}, s)
	if b := v.PartBounds(1); !near(b.Centre(), mid) || !near(b.Size(), geom.Splat(2)) {
		t.Errorf("turned to %v", b)
	}
	// About x first, then z: what looked up looks towards you, and stays so.
	w := (&Change{Scale: 1, Turn: Angles{X: 90, Z: 90}}).about(geom.Vec3{})
	if d := w.Vector(geom.V(0, 1, 0)); !near(d, geom.V(0, 0, 1)) {
		t.Errorf("up became %v", d)
	}
	if d := w.Vector(geom.V(1, 0, 0)); !near(d, geom.V(0, 1, 0)) {
		t.Errorf("right became %v", d)
	}
}

// What a set-up moved goes on with an animation of its object.
func TestMovedPartsFollowMotions(t *testing.T) {
	s := lamp()
	s.Motions = []scene.Motion{{Name: "rise", Moves: []scene.Move{{
		Object: 0, Rest: scene.Place{Turn: [4]float32{0, 0, 0, 1}, Scale: geom.Splat(1)},
		Shift: &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{{}, {0, 4}}},
	}}}}
	v := apply(t, Setup{Parts: []Change{{Part: "Shade", Scale: 1, Shift: Vector{X: 500}}}}, s)
	was, is := v.PartBounds(1).Centre(), v.At(0, 0.5).PartBounds(1).Centre()
	if !near(is, was.Add(geom.V(0, 2, 0))) {
		t.Errorf("from %v to %v", was, is)
	}
}

func TestOutAndFinishes(t *testing.T) {
	s := lamp()
	v := apply(t, Setup{Parts: []Change{{Part: "Screw #2", Scale: 1, Out: true}, {Part: "Base", Scale: 1, Finish: "brass"}}}, s)
	if !v.Parts[3].Out || v.Parts[2].Out || v.FinishName(0) != "brass" || v.FinishName(1) != "enamel" {
		t.Errorf("parts %+v", v.Parts)
	}
	if v.Bounds().Min.X != s.PartBounds(0).Min.X {
		t.Errorf("what is left out counts: %v", v.Bounds())
	}
	none := Setup{}
	if v, _ := applied(t, &none, s); v != s {
		t.Error("a set-up that changes nothing makes another scene")
	}
}

// In a newer file parts are found by key, else by their place if that is clear, and
// what is not found is told.
func TestNewerFile(t *testing.T) {
	s := lamp()
	u := Setup{Parts: []Change{
		{Part: "Base", Path: "Lamp / Base", Scale: 1, Shift: Vector{X: 1}},
		{Part: "Screw #2", Path: "Lamp / Screw", Scale: 1, Out: true},
		{Part: "Shade", Path: "Lamp / Shade", Scale: 1, Shift: Vector{Y: 2}, Finish: "chrome"},
	}}
	s.Parts[1].Name = "Shade.001" // under the same object
	s.Parts[2].Name, s.Parts[3].Name = "Screw M3", "Screw M3"
	if got := u.Match(s); !reflect.DeepEqual(got, []int{0, -1, 1}) {
		t.Fatalf("matched %v", got)
	}
	v, lost := applied(t, &u, s)
	if len(lost) != 2 || lost[0].Part != "Screw #2" || lost[1].Part != "Shade" || v.Parts[1].Place == nil || v.Parts[3].Out {
		t.Errorf("lost %+v", lost)
	}
	fitted, found := fit(t, &u, s)
	if !reflect.DeepEqual(found, []Found{{"Shade.001", "Shade"}}) {
		t.Errorf("found again %+v", found)
	}
	if fitted.Of("Shade.001").Shift.Y != 2 || fitted.Of("Shade").Shift.Y != 0 || !fitted.Of("Screw #2").Out {
		t.Errorf("fitted %+v", fitted)
	}
	again, found := fit(t, &fitted, s)
	if len(found) > 0 || !reflect.DeepEqual(again, fitted) {
		t.Error("fitted twice is not fitted once")
	}
	// A part that another change has by its key is not taken by place.
	u = Setup{Parts: []Change{{Part: "Base", Path: "Lamp / Base", Scale: 2}, {Part: "Foot", Path: "Lamp / Base", Scale: 3}}}
	if got := u.Match(lamp()); !reflect.DeepEqual(got, []int{0, -1}) {
		t.Errorf("matched %v", got)
	}
}

func TestCanonical(t *testing.T) {
	u := Setup{Parts: []Change{{Part: "b", Scale: 2}, {Part: "c", Scale: 1}, {Part: "a", Scale: 1, Shift: Vector{X: 3, Y: math.Copysign(0, -1)}}}}
	u.Tidy()
	got, _ := json.Marshal(u)
	if len(u.Parts) != 2 || u.Parts[0].Part != "a" || math.Signbit(u.Parts[0].Shift.Y) {
		t.Errorf("tidied to %s", got)
	}
	v := u.With(Change{Part: "a", Scale: 1}, Change{Part: "d", Scale: 1, Out: true})
	if len(v.Parts) != 2 || v.Parts[1].Part != "d" || len(u.Parts) != 2 || u.Of("a").Shift.X != 3 {
		t.Errorf("with: %+v of %+v", v, u)
	}
	for _, bad := range []Setup{
		{Parts: []Change{{Part: "a", Scale: 2}, {Part: "a", Scale: 3}}},
		{Parts: []Change{{Part: "a", Scale: math.NaN()}}},
		{Parts: []Change{{Part: "a", Scale: 1, Shift: Vector{Z: math.Inf(1)}}}},
	} {
		if bad.Fault() == nil {
			t.Errorf("%+v is held to be proper", bad)
		}
	}
}

func FuzzDecode(f *testing.F) {
	f.Add([]byte(`{"parts":[{"part":"Shade","shift":{"x":5}}]}`))
	f.Add([]byte(`{"finishes":[{"name":"brass","metal":0.5,"base":{"r":1,"g":0,"b":0}}],"parts":[]}`))
	f.Add([]byte(`{"parts":[{"part":"Shade","sift":1}]}`))
	f.Add([]byte(`{"parts":[{"scale":0,"turn":{"y":1e308}}]} {}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		u, err := Decode(data)
		if err != nil {
			return
		}
		_ = u.Fault()
		v, _ := applied(t, &u, lamp())
		if len(v.Parts) != 4 {
			t.Fatal("parts were lost")
		}
		b, err := json.Marshal(u)
		if err != nil {
			t.Fatal(err)
		}
		if again, err := Decode(b); err != nil || !reflect.DeepEqual(again, u) {
			t.Fatalf("read back as %+v, was %+v: %v", again, u, err)
		}
	})
}

func num(v float64) *float64 { return &v }

// A changed finish changes on all that wear it; a copy set loose changes alone.
func TestFinishesAreLinkedUntilSetLoose(t *testing.T) {
	s := lamp()
	s.Finishes[1].Emission = geom.V(2, 1, 0)
	u := Setup{
		Finishes: []Finish{
			{Name: "brass", Roughness: num(0.2), Base: &Colour{0.8, 0.5, 0.2}, Glow: num(10)},
			{Name: "enamel, Shade", From: "enamel", Metal: num(0), TintDepth: num(25)},
		},
		Parts: []Change{{Part: "Shade", Scale: 1, Finish: "enamel, Shade"}, {Part: "Screw", Scale: 1, Finish: "brass"}},
	}
	v := apply(t, u, s)
	brass := v.FinishOf(2)
	if brass.Roughness != 0.2 || brass.Base != geom.V(0.8, 0.5, 0.2) || brass.Emission != geom.V(10, 5, 0) || brass.Metallic != 1 {
		t.Errorf("brass is %+v", brass)
	}
	loose, linked := v.FinishOf(1), v.FinishOf(0)
	if loose.Name != "enamel, Shade" || loose.Metallic != 0 || loose.AttenuationDistance != 0.025 || linked.Metallic != 1 || linked.Name != "enamel" {
		t.Errorf("set loose: %+v, linked: %+v", loose, linked)
	}
	if s.Finishes[1].Roughness == 0.2 || len(s.Finishes) != 2 {
		t.Error("the imported finishes were changed")
	}
	if err := v.Check(); err != nil {
		t.Error(err)
	}
	s.Finishes = s.Finishes[1:] // a newer file, without enamel
	for i := range s.Parts {
		s.Parts[i].Finish = 0
	}
	u.Finishes = append(u.Finishes, Finish{Name: "gold", Metal: num(1)}, Finish{Name: "brass", From: "enamel"})
	if _, lost := applied(t, &u, s); len(lost) != 3 {
		t.Errorf("lost %+v", lost)
	}
}

func TestFinishesAreTidied(t *testing.T) {
	u := Setup{Finishes: []Finish{{Name: "b", Coat: num(1)}, {Name: "c"}, {Name: "a", From: "b"}}}
	v := u.With()
	if len(v.Finishes) != 2 || v.Finishes[0].Name != "a" || v.IsZero() || v.Fault() != nil {
		t.Errorf("tidied to %+v", v.Finishes)
	}
	for _, bad := range []Setup{{Finishes: []Finish{{From: "b"}}}, {Finishes: []Finish{{Name: "a", Coat: num(1)}, {Name: "a", Coat: num(0)}}}} {
		if bad.Fault() == nil {
			t.Errorf("%+v is held to be proper", bad)
		}
	}
}

// Every value that can be said of a finish changes it, and what is not said stays.
func TestEveryValueOfAFinishCounts(t *testing.T) {
	pictured := scene.NewFinish("paint")
	pictured.BaseTexture.Image, pictured.NormalTexture.Image = 0, 0
	s := &scene.Scene{Finishes: []scene.Finish{pictured}}
	yes, word, number := true, "bent", 0.37
	fields := reflect.TypeFor[Finish]()
	for i := range fields.NumField() {
		f := Finish{Name: "paint"}
		v := reflect.ValueOf(&f).Elem().Field(i)
		switch v.Interface().(type) {
		case *float64:
			v.Set(reflect.ValueOf(&number))
		case *bool:
			v.Set(reflect.ValueOf(&yes))
		case *string:
			v.Set(reflect.ValueOf(&word))
		case *Colour:
			v.Set(reflect.ValueOf(&Colour{0.2, 0.3, 0.4}))
		default:
			continue // its names
		}
		u := Setup{Finishes: []Finish{f}}
		out, lost := applied(t, &u, s)
		if len(lost) > 0 || reflect.DeepEqual(out.Finishes[0], pictured) {
			t.Errorf("%s changes nothing", fields.Field(i).Name)
		}
		if !reflect.DeepEqual(s.Finishes[0], pictured) {
			t.Fatalf("%s changed the scene itself", fields.Field(i).Name)
		}
	}
}

// A picture that is repeated and turned lies as if its coordinates had been.
func TestTilingAndTurn(t *testing.T) {
	f := scene.NewFinish("cloth")
	f.BaseTexture = scene.Texture{Transform: [6]float32{2, 0.5, 0.1, -0.3, 1, 0.2}}
	tiling, turn := 3.0, 30.0
	u := Setup{Finishes: []Finish{{Name: "cloth", Tiling: &tiling, MapTurn: &turn}}}
	out, _ := applied(t, &u, &scene.Scene{Finishes: []scene.Finish{f}})
	at := func(m [6]float32, u, v float64) (float64, float64) {
		return float64(m[0])*u + float64(m[1])*v + float64(m[2]), float64(m[3])*u + float64(m[4])*v + float64(m[5])
	}
	sin, cos := math.Sincos(math.Pi / 6)
	for _, p := range [][2]float64{{0, 0}, {0.3, 0.7}, {-1, 2}} {
		wantU, wantV := at(f.BaseTexture.Transform, 3*(cos*p[0]-sin*p[1]), 3*(sin*p[0]+cos*p[1]))
		gotU, gotV := at(out.Finishes[0].BaseTexture.Transform, p[0], p[1])
		if math.Abs(gotU-wantU)+math.Abs(gotV-wantV) > 1e-5 {
			t.Errorf("%v lies at %g, %g, want %g, %g", p, gotU, gotV, wantU, wantV)
		}
	}
}

// A finish made here is a plain one with what was said of it, and never takes the place
// of one of the scene.
func TestAFinishMadeHere(t *testing.T) {
	s := lamp()
	rough := 0.2
	u := Setup{Finishes: []Finish{{Name: "Rubber", Made: true, Roughness: &rough}, {Name: "brass", Made: true}}}
	u.Parts = []Change{{Part: s.Keys()[0], Scale: 1, Finish: "Rubber"}}
	out, lost := applied(t, &u, s)
	if len(lost) != 1 || lost[0].Part != "brass" || len(out.Finishes) != len(s.Finishes)+1 {
		t.Fatalf("%d finishes, lost %v", len(out.Finishes), lost)
	}
	f := out.FinishOf(0)
	if f.Name != "Rubber" || f.Metallic != 0 || f.Roughness != 0.2 || f.Base != geom.Splat(1) {
		t.Errorf("it is %+v", f)
	}
}
