package film

import (
	"encoding/json"
	"image"
	"slices"
	"testing"

	"amberproof/core/geom"
)

// A layout that was written down and read sums the same of samples.
func TestALayoutIsData(t *testing.T) {
	l := NewLayout(true, CaughtPlane, GuidePlane, ElementPlane(0, false), ElementPlane(1, true), TwinLight, TwinPlane(GuidePlane),
		Plane{Name: "motion", Values: 3, Of: ScreenMotion}, Plane{Name: "ways", Values: 15, Of: LightByWay}, Plane{Name: "lines", Values: 1, Of: InkShare})
	b, err := json.Marshal(l)
	if err != nil {
		t.Fatal(err)
	}
	var read Layout
	if err := json.Unmarshal(b, &read); err != nil {
		t.Fatal(err)
	}
	if !read.Same(&l) || read.Asks() != l.Asks() || read.BytesPerPixel() != l.BytesPerPixel() {
		t.Fatalf("%s is read as another layout", b)
	}
	m := Sample{Weight: 2, Even: true, Light: geom.V(1, 2, 3), Alpha: 1, Elements: []geom.Vec3{{X: 4}, {Y: 5}}, Moves: true,
		Motion: [2]float32{6, 7}, Ink: 0.5, Part: 3}
	m.Catch[Lit], m.Guide.Far = 8, 9
	m.Paths = []Contribution{{Way: ByGloss, Light: geom.V(10, 11, 12)}}
	twin := m
	twin.Guide.Far = 13
	m.Twin = &twin
	one, two := NewSums(image.Rect(0, 0, 1, 1), l), NewSums(image.Rect(0, 0, 1, 1), read)
	one.Add(0, &m)
	two.Add(0, &m)
	if !slices.Equal(one.Pixel(0), two.Pixel(0)) {
		t.Errorf("one sums %v, the other %v", one.Pixel(0), two.Pixel(0))
	}
	if at, ok := read.Place("ways"); !ok || two.Pixel(0)[at+3*int(ByGloss)] != 20 {
		t.Error("light by its way is not summed")
	}
}

func TestLayoutsThatAreNone(t *testing.T) {
	for _, doc := range []string{
		`{"planes":[{"name":"a","values":1},{"name":"a","values":1}]}`, `{"planes":[{"name":"a","values":0}]}`, `{"planes":[{"name":"a","values":1000000}]}`,
		`{"planes":[{"name":"a","values":3,"of":1,"element":-1}]}`, `{"planes":[{"name":"a","values":1,"of":1}]}`, `{"planes":3}`,
	} {
		var l Layout
		if json.Unmarshal([]byte(doc), &l) == nil {
			t.Errorf("%s is read", doc)
		}
	}
}
