package trace

import (
	"slices"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/names"
	"amberproof/core/scene"
)

// Lights that are called like what is not a light of the scene, or like a
// glowing finish, are kept apart all the same.
func TestElementsOfOneNameAreKeptApart(t *testing.T) {
	b := room(16)
	for i := range b.s.Finishes { // two finishes of one name glow
		if b.s.Finishes[i].Glowing() {
			b.s.Finishes[i].Name = "Glow"
		}
	}
	b.part("second lamp", ball(geom.V(0, 2, 0), 0.1, 12), b.finish(glow(2)))
	for _, n := range []string{"Surround", "backing", "GLOW"} {
		b.light(scene.Light{Name: n, Intensity: 1, Colour: geom.Splat(1)}, geom.Translate(geom.V(0, 3, 0)))
	}
	w := b.world(t)
	got := w.Elements()
	if told := ElementsOf(&b.s, &b.opt); !slices.Equal(got, told) {
		t.Errorf("prepared %q, told %q", got, told)
	}
	seen := map[string]bool{}
	for _, n := range got {
		if seen[names.Fold(n)] {
			t.Errorf("%q twice in %q", n, got)
		}
		seen[names.Fold(n)] = true
	}
	for _, want := range []string{"surround", "backing", "Surround 2", "backing 2"} {
		if !slices.Contains(got, want) {
			t.Errorf("no %q in %q", want, got)
		}
	}
	own := map[int]string{}
	for i := range w.set.Lights {
		l := &w.set.Lights[i]
		if have, ok := own[l.Element]; ok && have != l.Name {
			t.Errorf("%q and %q share an element", have, l.Name)
		}
		own[l.Element] = l.Name
	}
}
