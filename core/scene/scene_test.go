package scene

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"unicode/utf8"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// cube is a mesh of one triangle spanning a cube of the given side.
func cube(side float32) Mesh {
	return Mesh{Positions: []geom.Vec3{{}, {X: side, Y: side}, {Z: side}}, Indices: []uint32{0, 1, 2}}
}

func shop() *Scene {
	s := &Scene{
		Meshes:   []Mesh{cube(0.1), cube(0.15), cube(5), cube(1)},
		Finishes: []Finish{NewFinish("Brass"), NewFinish("Paper")},
		Objects: []Object{
			{Name: "Lantern", Parent: -1, World: geom.Identity()}, {Name: "Rivet", Parent: 0, World: geom.Translate(geom.V(0, 1, 0))},
			{Name: "Rivet", Parent: 0, World: geom.Identity()}, {Name: "Backdrop", Parent: -1, World: geom.Identity()},
			{Name: "Lamp", Parent: -1, World: geom.Translate(geom.V(9, 9, 9))},
		},
	}
	s.Parts = []Part{
		{Name: "Rivet", Object: 1, Mesh: 0}, {Name: "Rivet", Object: 2, Mesh: 0}, {Name: "Body", Object: 0, Mesh: 1},
		{Name: "Backdrop", Object: 3, Mesh: 2, Finish: 1}, {Name: "Lamp", Object: 4, Mesh: 3, Finish: -1},
	}
	return s
}

func TestKeysAreUniqueAndPathsTellThePlace(t *testing.T) {
	s := shop()
	if got := fmt.Sprint(s.Keys()); got != "[Rivet Rivet #2 Body Backdrop Lamp]" {
		t.Errorf("keys %s", got)
	}
	if got := s.Paths()[1]; got != "Lantern / Rivet" {
		t.Errorf("path %q", got)
	}
}

func TestFocusLeavesOutBackdropAndLamps(t *testing.T) {
	s := shop()
	f := s.Focus(func(part int) bool { return part == 4 })
	want := geom.Box{Min: geom.V(0, 0, 0), Max: geom.V(0.15, 1.1, 0.15)}
	if f.Max.Sub(want.Max).Len() > 1e-6 || f.Min.Sub(want.Min).Len() > 1e-6 {
		t.Errorf("focus %v, want %v", f, want)
	}
	if b := s.Bounds(); b.Max.X < 10 {
		t.Errorf("bounds %v leave something out", b)
	}
	if b := s.Focus(func(int) bool { return true }); b != s.Bounds() {
		t.Error("with lamps alone the whole is in focus")
	}
}

// A product of parts of every size, none of which encloses the others, is
// framed whole.
func TestFocusKeepsAProductOfPartsOfEverySize(t *testing.T) {
	s := &Scene{}
	for i := 0; i < 9; i++ {
		side := []float32{0.01, 0.01, 0.02, 0.02, 0.3, 0.01, 0.02, 1.5, 0.01}[i]
		s.Meshes = append(s.Meshes, cube(side))
		s.Objects = append(s.Objects, Object{Parent: -1, World: geom.Translate(geom.V(float32(i)*0.25, 0, 0))})
		s.Parts = append(s.Parts, Part{Object: i, Mesh: i, Finish: -1})
	}
	if f := s.Focus(func(int) bool { return false }); f != s.Bounds() {
		t.Errorf("focus %v leaves out something of %v", f, s.Bounds())
	}
}

func TestInstancesCountAndMissingFinishIsNamed(t *testing.T) {
	s := shop()
	if s.Triangles() != 5 {
		t.Errorf("%d triangles", s.Triangles())
	}
	if s.FinishName(4) != "no finish" || s.FinishOf(4).Name != "no finish" || s.FinishName(0) != "Brass" {
		t.Error("finishes")
	}
}

func TestKindsOfFinish(t *testing.T) {
	f := NewFinish("x")
	if f.Clear() || f.Glowing() {
		t.Error("the default is neither clear nor glowing")
	}
	f.Transmission, f.Metallic = 0.5, 0
	f.Emission = geom.V(0, 0, 0.1)
	if !f.Clear() || !f.Glowing() {
		t.Error("half transmissive is clear, any emission glows")
	}
	f.Metallic = 1
	if f.Clear() {
		t.Error("metal lets nothing through")
	}
}

func TestMeanIsTakenInLight(t *testing.T) {
	img := Image{W: 2, H: 1, Pix: []byte{255, 0, 128, 255, 0, 0, 128, 255}}
	m := img.Mean()
	if m.X != 0.5 || m.Y != 0 || geom.Abs(m.Z-colour.SRGB8[128]) > 1e-6 {
		t.Errorf("mean %v", m)
	}
}

func TestCheckFindsWhatReadersMustNotLetThrough(t *testing.T) {
	if err := shop().Check(); err != nil {
		t.Fatal(err)
	}
	for words, spoil := range map[string]func(*Scene){
		"different lengths":   func(s *Scene) { s.Meshes[0].Normals = make([]geom.Vec3, 2) },
		"vertex that is not":  func(s *Scene) { s.Meshes[0].Indices[1] = 3 },
		"something that is":   func(s *Scene) { s.Parts[0].Mesh = 9 },
		"picture that is not": func(s *Scene) { s.Finishes[0].NormalTexture.Image = 0 },
		"no proper place":     func(s *Scene) { s.Objects[0].World[3] = float32(math.Inf(1)) },
	} {
		s := shop()
		spoil(s)
		if err := s.Check(); err == nil || !strings.Contains(err.Error(), words) {
			t.Errorf("%q: got %v", words, err)
		}
	}
}

func TestMatches(t *testing.T) {
	for _, c := range []struct {
		pattern, name string
		want          bool
	}{
		{"*rivet*", "Body / Rivet A", true}, {"rivet", "Rivet A", false}, {"Rivet ?", "rivet b", true}, {"*", "", true},
		{"", "x", false}, {"a*b*c", "aXXbYYc", true}, {"a*b*c", "aXXbYY", false}, {"*é?", "caféx", true},
	} {
		if got := Matches(c.pattern, c.name); got != c.want {
			t.Errorf("%q on %q: %v", c.pattern, c.name, got)
		}
	}
}

// Paths of deep trees of long names stay short, and tell places apart.
func TestPathsOfDeepTreesStayShort(t *testing.T) {
	s := &Scene{}
	long := strings.Repeat("é", 400)
	for i := range 300 {
		s.Objects = append(s.Objects, Object{Name: fmt.Sprint(long, i), Parent: i - 1})
	}
	for i := range 5000 { // under two places far up
		s.Objects = append(s.Objects, Object{Name: "leaf", Parent: 290 + i%2})
	}
	paths := s.Paths()
	for i, p := range paths {
		if len(p) > mostPath || !utf8.ValidString(p) {
			t.Fatalf("path %d has %d bytes", i, len(p))
		}
	}
	if a, b := paths[300], paths[301]; a == b || a != paths[302] || !strings.HasSuffix(a, "/ leaf") {
		t.Errorf("%q and %q", a, b)
	}
	s.Objects[0].Name += "other"
	if s.Paths()[300] == paths[300] {
		t.Error("the beginning of a path does not count")
	}
}
