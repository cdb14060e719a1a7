package surface_test

import (
	"bytes"
	"context"
	"errors"
	"image"
	"math"
	"reflect"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/surface"
	"amberproof/core/trace"
)

// square is a square of half a metre in the plane z = 0 of its own space.
func square() scene.Mesh {
	return scene.Mesh{
		Positions: []geom.Vec3{geom.V(-0.25, -0.25, 0), geom.V(0.25, -0.25, 0), geom.V(0.25, 0.25, 0), geom.V(-0.25, 0.25, 0)},
		Normals:   []geom.Vec3{geom.V(0, 0, 1), geom.V(0, 0, 1), geom.V(0, 0, 1), geom.V(0, 0, 1)},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
}

// stood is a scene of a card and a smaller screen before it, each where it is put.
func stood(card, screen geom.Affine) *scene.Scene {
	s := &scene.Scene{Meshes: []scene.Mesh{square(), square()}, Finishes: []scene.Finish{scene.NewFinish("Paper")}}
	for i, at := range []geom.Affine{card, screen} {
		name := []string{"Card", "Screen"}[i]
		s.Objects = append(s.Objects, scene.Object{Name: name, Parent: -1, Local: at, World: at})
		s.Parts = append(s.Parts, scene.Part{Name: name, Object: i, Mesh: i})
	}
	return s
}

func none(int) bool { return false }

var away = geom.Translate(geom.V(5, 5, 0))

// mapOf looks at a scene from a metre off, a metre high and wide to 200 pixels.
func mapOf(t *testing.T, s *scene.Scene, camera geom.Affine) *surface.Map {
	t.Helper()
	o := trace.Options{Width: 200, Height: 200, Window: image.Rect(0, 0, 200, 200), FilterWidth: 1, Finishes: s.Finishes, Wears: []int{0, 0},
		Camera: trace.Camera{World: camera, YFov: 2 * float32(math.Atan(0.5))}}
	w, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	m, err := surface.Of(t.Context(), w)
	if err != nil {
		t.Fatal(err)
	}
	m.SetParts(surface.PartsOf(s, none, make([]bool, 2)))
	return m
}

var front = geom.Translate(geom.V(0, 0, 1))

func only(t *testing.T, p []surface.Place) surface.Place {
	t.Helper()
	if len(p) != 1 {
		t.Fatalf("places %+v", p)
	}
	return p[0]
}

// A place stays with its part: where that is moved and turned it is found by the closed form.
func TestAPlaceStaysWithItsPart(t *testing.T) {
	p := only(t, mapOf(t, stood(geom.Identity(), away), front).Spot(130, 80)) // 0.15 m right, 0.1 m up
	if p.Part != "Card" || math.Abs(float64(p.At[0]-0.15)) > 1e-5 || math.Abs(float64(p.At[1]-0.1)) > 1e-5 {
		t.Fatalf("%+v", p)
	}
	turn := geom.Compose(geom.V(0.1, 0, 0), [4]float32{0, 0, float32(math.Sqrt(0.5)), float32(math.Sqrt(0.5))}, geom.V(1, 1, 1)) // a quarter about z
	for _, c := range []struct {
		name         string
		card, screen geom.Affine
		camera       geom.Affine
		x, y         float32
		what         surface.Sight
	}{
		{"where it was", geom.Identity(), away, front, 130, 80, surface.Visible},
		{"moved", geom.Translate(geom.V(0.1, 0, 0)), away, front, 150, 80, surface.Visible},
		{"turned", turn, away, front, 100, 70, surface.Visible}, // 0.1 - 0.1 right, 0.15 up
		{"from nearer", geom.Identity(), away, geom.Translate(geom.V(0, 0, 0.5)), 160, 60, surface.Visible},
		{"behind a screen", geom.Identity(), geom.Translate(geom.V(0, 0, 0.2)), front, 130, 80, surface.Hidden},
		{"out of the frame", geom.Translate(geom.V(0.5, 0, 0)), away, front, 230, 80, surface.Outside},
		{"from behind", geom.Identity(), away, geom.LookAt(geom.V(0, 0, -1), geom.V(0, 0, 0), geom.V(0, 1, 0)), 70, 80, surface.Hidden},
	} {
		x, y, what := mapOf(t, stood(c.card, c.screen), c.camera).Find(p)
		if what != c.what || geom.Abs(x-c.x) > 0.01 || geom.Abs(y-c.y) > 0.01 {
			t.Errorf("%s: %.2f, %.2f %s, not %.2f, %.2f %s", c.name, x, y, what, c.x, c.y, c.what)
		}
	}
	m := mapOf(t, stood(geom.Identity(), away), front)
	m.Parts[0].Out = true
	if _, _, what := m.Find(p); what != surface.Gone {
		t.Errorf("of a part that is left out: %s", what)
	}
	p.Part = "Another"
	if _, _, what := m.Find(p); what != surface.Gone {
		t.Errorf("of a part that is not there: %s", what)
	}
	if got := m.Spot(5, 5); len(got) != 0 {
		t.Errorf("where nothing is: %+v", got)
	}
	for _, at := range [][2]float32{{-1, 5}, {5, 200}, {1e9, 0}, {float32(math.NaN()), 3}} {
		if got := m.Spot(at[0], at[1]); len(got) != 0 {
			t.Errorf("outside of the frame: %+v", got)
		}
	}
}

// What is behind a clear part is a second place.
func TestBehindAClearPart(t *testing.T) {
	s := stood(geom.Identity(), geom.Translate(geom.V(0, 0, 0.2)))
	glass := scene.NewFinish("Glass")
	glass.Transmission, glass.IOR, glass.Metallic, glass.Roughness = 1, 1, 0, 0
	s.Finishes = append(s.Finishes, glass)
	s.Parts[1].Finish = 1
	o := trace.Options{Width: 200, Height: 200, Window: image.Rect(0, 0, 200, 200), FilterWidth: 1, Finishes: s.Finishes, Wears: []int{0, 1},
		Camera: trace.Camera{World: front, YFov: 2 * float32(math.Atan(0.5))}}
	w, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	m, err := surface.Of(t.Context(), w)
	if err != nil {
		t.Fatal(err)
	}
	m.SetParts(surface.PartsOf(s, none, make([]bool, 2)))
	got := m.Spot(130, 80)
	if len(got) != 2 || got[0].Part != "Screen" || got[0].Through || got[1].Part != "Card" || !got[1].Through {
		t.Fatalf("%+v", got)
	}
	shown := m.Shown()
	if len(shown) != 2 || shown[0].Title != "Card" || geom.Abs(shown[0].X-100) > 1 || geom.Abs(shown[0].Y-100) > 1 || math.Abs(shown[0].Share-0.25) > 0.01 {
		t.Errorf("shown are %+v", shown)
	}
	if x, y, what := m.Find(got[1]); what != surface.Visible || geom.Abs(x-130) > 1 || geom.Abs(y-80) > 1 {
		t.Errorf("%v, %v %s", x, y, what)
	}
}

func TestChangesOfParts(t *testing.T) {
	parts := func(card, screen geom.Affine) []surface.Part {
		return surface.PartsOf(stood(card, screen), none, make([]bool, 2))
	}
	was := parts(geom.Identity(), away)
	if got := surface.Changes(was, parts(geom.Identity(), away)); len(got) != 0 {
		t.Errorf("nothing was changed: %+v", got)
	}
	got := surface.Changes(was, parts(geom.Translate(geom.V(0, 0.002, 0)), away))
	if len(got) != 1 || got[0].What != surface.Moved || got[0].Title != "Card" || geom.Abs(got[0].By.Y-0.002) > 1e-7 {
		t.Errorf("moved by 2 mm: %+v", got)
	}
	half := float32(math.Sin(math.Pi / 36)) // 10 degrees
	turned := geom.Compose(geom.V(0, 0, 0), [4]float32{0, half, 0, float32(math.Cos(math.Pi / 36))}, geom.V(1, 1, 1))
	got = surface.Changes(was, parts(turned, away))
	if len(got) != 1 || got[0].What != surface.Turned || math.Abs(float64(got[0].Turn)-math.Pi/18) > 1e-3 {
		t.Errorf("turned by 10 degrees: %+v", got)
	}
	got = surface.Changes(was, parts(geom.Compose(geom.V(0, 0, 0), [4]float32{0, 0, 0, 1}, geom.V(1, 2, 1)), away))
	if len(got) != 1 || got[0].What != surface.Scaled {
		t.Errorf("scaled: %+v", got)
	}
	bent := stood(geom.Identity(), away)
	bent.Meshes[0].Positions[2].Z = 0.01
	if got = surface.Changes(was, surface.PartsOf(bent, none, make([]bool, 2))); len(got) != 1 || got[0].What != surface.Reshaped {
		t.Errorf("reshaped: %+v", got)
	}
	other := stood(geom.Identity(), away)
	other.Finishes[0].Name = "Brass"
	got = surface.Changes(was, surface.PartsOf(other, func(part int) bool { return part == 1 }, make([]bool, 2)))
	if len(got) != 2 || got[0].What != surface.Finished || got[0].Finish != "Brass" || got[0].Wore != "Paper" ||
		got[1].What != surface.Removed || got[1].Title != "Screen" {
		t.Errorf("dressed, and left out: %+v", got)
	}
}

// Given up, no map is made.
func TestGivenUp(t *testing.T) {
	s := stood(geom.Identity(), away)
	o := trace.Options{Width: 2000, Height: 2000, Window: image.Rect(0, 0, 2000, 2000), FilterWidth: 1, Finishes: s.Finishes, Wears: []int{0, 0},
		Camera: trace.Camera{World: front, YFov: 1}}
	w, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := surface.Of(ctx, w); !errors.Is(err, context.Canceled) {
		t.Errorf("it goes on: %v", err)
	}
}

func TestAMapIsReadAsItWasWritten(t *testing.T) {
	m := mapOf(t, stood(geom.Identity(), geom.Translate(geom.V(0.3, 0, 0.1))), front)
	var file bytes.Buffer
	if err := m.Write(&file); err != nil {
		t.Fatal(err)
	}
	got, err := surface.Read(file.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(m, got) {
		t.Error("it is another map")
	}
}

func FuzzRead(f *testing.F) {
	m := surface.New(trace.Camera{World: geom.Identity(), YFov: 1}, 8, 6, image.Rect(1, 1, 5, 4))
	m.SetParts([]surface.Part{{Key: "Card"}})
	m.Front.Part[3] = 1
	var file bytes.Buffer
	if err := m.Write(&file); err != nil {
		f.Fatal(err)
	}
	f.Add(file.Bytes())
	f.Add([]byte("v/1\x01"))
	f.Fuzz(func(t *testing.T, b []byte) {
		m, err := surface.Read(b)
		if err != nil {
			return
		}
		for _, p := range m.Spot(2, 2) { // whatever it says, looking at it is safe
			m.Find(p)
		}
	})
}
