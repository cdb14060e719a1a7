package clay

import (
	"testing"

	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

func shop() *scene.Scene {
	s := &scene.Scene{Meshes: make([]scene.Mesh, 1)}
	glass := scene.NewFinish("Chimney glass")
	glass.Metallic, glass.Transmission = 0, 1
	flame := scene.NewFinish("Flame")
	flame.Emission = geom.Splat(9)
	s.Finishes = []scene.Finish{glass, flame, scene.NewFinish("Brass, satin")}
	s.Objects = []scene.Object{{Name: "Lantern", Parent: -1}, {Name: "Rivets", Parent: 0}}
	add := func(name string, object, finish int) {
		s.Parts = append(s.Parts, scene.Part{Name: name, Object: object, Finish: finish})
	}
	add("Chimney", 0, 0)
	add("Flame", 0, 1)
	add("Rivet", 1, 2)
	add("Rivet", 1, 2)
	add("Cap", 0, 2)
	add("Key panel", 0, 1)
	add("Bare", 0, -1)
	return s
}

func TestFirstMatchingRuleDecidesAndIsKnown(t *testing.T) {
	p := &Plan{Rules: []Rule{
		{By: ByKind, Match: "clear", Do: Keep},
		{By: ByParts, Parts: []string{"Rivet #2"}, Do: Omit},
		{By: ByName, Match: "*rivets*", Do: Second},
		{By: ByKind, Match: "glowing", Do: Keep},
		{By: ByFinish, Match: "brass*", Do: Keep},
	}}
	got := Resolve(shop(), p, func(i int) bool { return i == 5 })
	want := []Decision{{Keep, 0}, {Keep, 3}, {Second, 2}, {Omit, 1}, {Keep, 4}, {Keep, -1}, {Wear, -1}}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("part %d: got %v, want %v", i, got[i], want[i])
		}
	}
}

func TestDressLeavesTheSceneAlone(t *testing.T) {
	s := shop()
	p := &Plan{Tone: 0.6, SecondTone: 0.3, Roughness: 1, Rules: []Rule{{By: ByKind, Match: "clear", Do: Keep}, {By: ByName, Match: "cap", Do: Second}, {By: ByName, Match: "bare", Do: Omit}}}
	worn := Dress(s, p, Resolve(s, p, func(int) bool { return false }), -1)
	f, wears := worn.Finishes, worn.Wears
	if len(s.Finishes) != 3 || s.Parts[4].Finish != 2 {
		t.Fatal("the scene was changed")
	}
	if wears[0] != 0 || f[wears[1]].Name != "clay" || f[wears[4]].Name != "second clay" || wears[6] != -1 {
		t.Errorf("wears %v", wears)
	}
	if c := f[wears[1]]; c.Base != geom.Splat(0.6) || c.Glowing() {
		t.Errorf("clay %+v", c)
	}
	for i, want := range map[int]float32{wears[1]: 0.6, wears[4]: 0.3} {
		tinted := optics.NewSurface()
		tinted.Base = geom.V(0.5, 0.1, 0.9)
		if got := worn.Overrides[i](optics.Spot{}, tinted); got.Base != geom.Splat(want) {
			t.Errorf("over a mesh with colours the clay is %v, want %v", got.Base, want)
		}
	}
	own := Dress(s, nil, nil, -1)
	w := own.Wears
	if own.Finishes[w[6]].Name != "no finish" || w[4] != 2 {
		t.Errorf("own finishes: %v", w)
	}
}
