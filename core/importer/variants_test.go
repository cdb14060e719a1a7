package importer

import (
	"slices"
	"strings"
	"testing"

	"amberproof/core/scene"
)

// The looks of a file come in as what its parts wear in each, for every object that shows a
// mesh; what names nothing is told.
func TestVariants(t *testing.T) {
	doc, bin := square()
	doc["extensionsUsed"] = []any{variantsExtension}
	doc["materials"] = []any{object{"name": "grey"}, object{"name": "red"}, object{"name": "blue"}}
	doc["extensions"] = object{variantsExtension: object{"variants": []any{object{"name": "Warm"}, object{"name": "Cold"}, object{"name": "warm"}, object{}}}}
	doc["nodes"] = []any{object{"name": "left", "mesh": 0}, object{"name": "right", "mesh": 0}}
	doc["scenes"] = []any{object{"nodes": []any{0, 1}}}
	prim := doc["meshes"].([]any)[0].(object)["primitives"].([]any)[0].(object)
	prim["material"] = 0
	prim["extensions"] = object{variantsExtension: object{"mappings": []any{
		object{"material": 1, "variants": []any{0, 2}}, object{"material": 2, "variants": []any{1}},
		object{"material": 9, "variants": []any{3}}, object{"material": 0, "variants": []any{-1, 7}},
	}}}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, v := range s.Variants {
		names = append(names, v.Name)
	}
	if want := []string{"Warm", "Cold", "warm 2", "Variant 4"}; !slices.Equal(names, want) {
		t.Errorf("variants %q, want %q", names, want)
	}
	for i, finish := range []int{1, 2, 1} {
		if got, want := s.Variants[i].Wears, []scene.Wear{{Part: 0, Finish: finish}, {Part: 1, Finish: finish}}; !slices.Equal(got, want) {
			t.Errorf("%s wears %v, want %v", names[i], got, want)
		}
	}
	if len(s.LeftOut) != 1 || len(s.Variants[3].Wears) != 0 {
		t.Errorf("left out %+v, the last wears %v", s.LeftOut, s.Variants[3].Wears)
	}
	prim["extensions"] = object{variantsExtension: "nonsense"}
	if s, err = load(t, doc, bin); err != nil || len(s.LeftOut) != 1 || len(s.Parts) != 2 {
		t.Errorf("nonsense: %+v, %v", s.LeftOut, err)
	}
	many := []any{}
	for range mostVariants + 1 {
		many = append(many, object{"name": "x"})
	}
	doc["extensions"] = object{variantsExtension: object{"variants": many}}
	if _, err = load(t, doc, bin); err == nil || !strings.Contains(err.Error(), "variants") {
		t.Errorf("too many: %v", err)
	}
}
