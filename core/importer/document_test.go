package importer

import (
	"encoding/json"
	"errors"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"
)

// place is a value within a document, and how to put another there.
type place struct {
	value any
	put   func(any)
}

// placesOf walks a document in a fixed order.
func placesOf(v any, all []place) []place {
	switch v := v.(type) {
	case map[string]any:
		for _, k := range slices.Sorted(maps.Keys(v)) {
			all = placesOf(v[k], append(all, place{v[k], func(x any) { v[k] = x }}))
		}
	case []any:
		for k := range v {
			all = placesOf(v[k], append(all, place{v[k], func(x any) { v[k] = x }}))
		}
	}
	return all
}

// mangled is a document in which a few things point elsewhere, are of another kind, or hold
// what stands in another place.
func mangled(doc map[string]any, seed uint64) map[string]any {
	rng := rand.New(rand.NewPCG(seed, 3))
	for range 1 + rng.IntN(4) {
		all := placesOf(doc, nil)
		at := all[rng.IntN(len(all))]
		if _, number := at.value.(float64); number && rng.IntN(4) > 0 {
			at.put([]any{0.0, 1.0, 2.0, 3.0, float64(rng.IntN(20)), -1.0, 5120.0, 5121.0, 5123.0, 5125.0, 5126.0, 1e9, 0.5}[rng.IntN(13)])
			continue
		}
		switch rng.IntN(4) {
		case 0:
			at.put(nil)
		case 1:
			at.put("SCALAR")
		default:
			// A copy: a place that holds what it lies in would go on for ever.
			raw, err := json.Marshal(all[rng.IntN(len(all))].value)
			var other any
			if err != nil || json.Unmarshal(raw, &other) != nil {
				panic("a value that cannot be copied")
			}
			at.put(other)
		}
	}
	return doc
}

// documents are files of which the parts point at each other in every way.
func documents(t testing.TB) (docs [][]byte, bins [][]byte) {
	add := func(doc any, bin []byte) {
		j, err := json.Marshal(doc)
		if err != nil {
			t.Fatal(err)
		}
		docs, bins = append(docs, j), append(bins, bin)
	}
	d, b := square()
	add(d, b)
	d, b = swing()
	add(d, b)
	for _, kind := range []string{"draco", "meshopt"} {
		j, bin, err := splitGLB(packedRing(t, kind))
		if err != nil {
			t.Fatal(err)
		}
		var doc map[string]any
		if err := json.Unmarshal(j, &doc); err != nil {
			t.Fatal(err)
		}
		// An animation whose numbers are those of the mesh.
		doc["animations"] = []any{object{"name": "a", "channels": []any{object{"sampler": 0, "target": object{"node": 0, "path": "translation"}}},
			"samplers": []any{object{"input": 0, "output": 1}}}}
		add(doc, bin)
	}
	return docs, bins
}

func importMangled(t *testing.T, doc, bin []byte, seed uint64) {
	var d map[string]any
	if err := json.Unmarshal(doc, &d); err != nil {
		t.Fatal(err)
	}
	fuzzed(t, Bundle{"a.glb": glb(mangled(d, seed), bin)})
}

// Whatever the parts of a document point at, it is read or refused.
func TestDocumentsThatPointAnywhere(t *testing.T) {
	docs, bins := documents(t)
	for k := range docs {
		n := uint64(1500)
		if k >= 2 {
			n = 150 // each starts a codec
		}
		for seed := range n {
			importMangled(t, docs[k], bins[k], seed)
			if t.Failed() {
				t.Fatalf("document %d, seed %d", k, seed)
			}
		}
	}
}

func FuzzDocument(f *testing.F) {
	docs, bins := documents(f)
	for k := range docs {
		f.Add(k, uint64(1))
	}
	f.Fuzz(func(t *testing.T, k int, seed uint64) {
		if k >= 0 && k < len(docs) {
			importMangled(t, docs[k], bins[k], seed)
		}
	})
}

// A packed mesh whose animation reads the packed corners as numbers is refused.
func TestPackedCornersAreNoNumbers(t *testing.T) {
	j, bin, err := splitGLB(packedRing(t, "draco"))
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Meshes []struct{ Primitives []struct{ Indices int } }
	}
	var whole map[string]any
	if json.Unmarshal(j, &doc) != nil || json.Unmarshal(j, &whole) != nil {
		t.Fatal("no document")
	}
	at := doc.Meshes[0].Primitives[0].Indices
	whole["animations"] = []any{object{"channels": []any{object{"sampler": 0, "target": object{"node": 0, "path": "scale"}}},
		"samplers": []any{object{"input": at, "output": at}}}}
	s, err := Import(t.Context(), Bundle{"a.glb": glb(whole, bin)}, DefaultLimits)
	if !errors.Is(err, ErrRefused) {
		t.Errorf("%v, of %v", err, s)
	}
}
