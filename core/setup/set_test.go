package setup

import (
	"strings"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// joined is a scene of one part that is two cubes of 100 mm, a metre apart, and of another.
func joined() *scene.Scene {
	cube := func(at float32) (p []geom.Vec3, idx []uint32) {
		for i := range 8 {
			p = append(p, geom.V(at+0.1*float32(i&1), 0.1*float32(i>>1&1), 0.1*float32(i>>2)))
		}
		return p, []uint32{0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5}
	}
	a, idx := cube(0)
	b, _ := cube(1)
	both := scene.Mesh{Positions: append(append([]geom.Vec3{}, a...), b...), Indices: append([]uint32{}, idx...)}
	for _, i := range idx {
		both.Indices = append(both.Indices, i+8)
	}
	return &scene.Scene{
		Memo:     &scene.Memo{},
		Finishes: []scene.Finish{scene.NewFinish("Grey"), scene.NewFinish("Red")},
		Meshes:   []scene.Mesh{both, {Positions: a, Indices: idx}},
		Objects:  []scene.Object{{Name: "Pair", Parent: -1, World: geom.Translate(geom.V(0, 2, 0))}, {Name: "One", Parent: -1, World: geom.Identity()}},
		Parts:    []scene.Part{{Name: "Pair", Object: 0}, {Name: "One", Object: 1, Mesh: 1}},
	}
}

// A set of faces is a part of its own: named, moved and dressed; its part keeps the rest,
// and all others their places.
func TestASetOfFacesIsAPart(t *testing.T) {
	s := joined()
	g, err := NewSet(t.Context(), s, 0, geom.V(1.05, 2.1, 0.05), "piece", 30, "Pair, faces")
	if err != nil || g.Part != "Pair" || g.Name != "Pair, faces" {
		t.Fatalf("%+v: %v", g, err)
	}
	u := Setup{Sets: []Set{g}, Parts: []Change{{Part: "Pair, faces", Path: "Pair", Scale: 1, Shift: Vector{Z: 250}, Finish: "Red"}}}
	if err := u.Fault(); err != nil {
		t.Fatal(err)
	}
	v := apply(t, u, s)
	if len(v.Parts) != 3 || v.Parts[2].Name != "Pair, faces" || !v.Parts[2].Set || v.FinishName(2) != "Red" || v.FinishName(0) != "Grey" {
		t.Fatalf("parts %+v", v.Parts)
	}
	if b := v.PartBounds(2); !near(b.Min, geom.V(1, 2, 0.25)) || !near(b.Max, geom.V(1.1, 2.1, 0.35)) {
		t.Errorf("the set stands at %v", b)
	}
	if b := v.PartBounds(0); !near(b.Min, geom.V(0, 2, 0)) || !near(b.Max, geom.V(0.1, 2.1, 0.1)) {
		t.Errorf("the rest stands at %v", b)
	}
	// Made again it is the same memory, so that nothing has to be prepared anew.
	if w := apply(t, u, s); &w.Meshes[w.Parts[2].Mesh].Indices[0] != &v.Meshes[v.Parts[2].Mesh].Indices[0] {
		t.Error("the set was cut out again")
	}
	// Its changes are its own, not those of the part it was taken out of.
	if f, _ := fit(t, &u, s); f.Parts[0].Part != "Pair, faces" {
		t.Errorf("fitted %+v", f.Parts)
	}
	// A set of a set, and one of the part's other half is all of it.
	top, err := NewSet(t.Context(), v, 2, geom.V(1.05, 2.2, 0.3), "angle", 20, "One")
	if err != nil || top.Name != "One 2" || top.Part != "Pair, faces" {
		t.Fatalf("%+v: %v", top, err)
	}
	u.Sets = append(u.Sets, top)
	if w := apply(t, u, s); len(w.Parts) != 4 || len(w.Meshes[w.Parts[3].Mesh].Indices) != 6 || w.PartBounds(3).Size().Y > 1e-6 {
		t.Errorf("a set of the set: %+v", w.Parts)
	}
	if _, err := NewSet(t.Context(), v, 0, geom.V(0, 2, 0), "piece", 0, "All"); err == nil || !strings.Contains(err.Error(), "all of Pair") {
		t.Errorf("all of a part: %v", err)
	}
}

// What a scene has nothing for is told, and the rest stays.
func TestLostSets(t *testing.T) {
	s := joined()
	at := Point{1050, 100, 50}
	u := Setup{Sets: []Set{{"Gone", "Nobody", at, "piece", 30}, {"One", "Pair", at, "piece", 30}, {"Whole", "One", at, "piece", 30}}}
	v, lost := applied(t, &u, s)
	if len(lost) != 3 || len(v.Parts) != 2 {
		t.Errorf("lost %+v, parts %+v", lost, v.Parts)
	}
	for _, bad := range [][]Set{{{"", "Pair", at, "piece", 30}}, {{"a", "Pair", at, "piece", 30}, {"a", "Pair", at, "piece", 30}},
		{{"a", "Pair", Point{X: 1e13}, "piece", 30}}} {
		if (&Setup{Sets: bad}).Fault() == nil {
			t.Errorf("%+v has no fault", bad)
		}
	}
}
