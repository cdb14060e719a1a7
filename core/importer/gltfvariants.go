package importer

import (
	"cmp"
	"encoding/json"
	"fmt"

	"amberproof/core/names"
	"amberproof/core/scene"
)

// variantsExtension lets a file have several looks of its parts (Khronos, ratified 2021).
const variantsExtension = "KHR_materials_variants"

// mostVariants is how many looks a file may have, and mostVariantName how many bytes the
// name of one.
const (
	mostVariants    = 1000
	mostVariantName = 120
)

// gltfVariants is the list of looks in a document.
type gltfVariants struct {
	Variants []struct{ Name string }
}

// look is what a mesh wears in a variant.
type look struct{ variant, finish int }

// variants names the looks of the document; what parts wear in them comes with the parts.
func (g *gltf) variants() error {
	x := g.doc.Extensions.Variants
	if x == nil {
		return nil
	}
	if len(x.Variants) > mostVariants {
		return refuse("%d variants are more than the limit of %d", len(x.Variants), mostVariants)
	}
	all := make([]string, len(x.Variants))
	for i, v := range x.Variants {
		all[i] = cmp.Or(names.Text(v.Name), fmt.Sprintf("Variant %d", i+1))
	}
	for _, n := range (names.Style{Join: " ", Most: mostVariantName}).Unique(all) {
		g.s.Variants = append(g.s.Variants, scene.Variant{Name: n})
	}
	return nil
}

// looks reads what a set of faces wears in which variant; what names nothing that is there
// is told and left out.
func (g *gltf) looks(raw json.RawMessage, name string) (out []look, err error) {
	var x struct {
		Mappings []struct {
			Material int
			Variants []int
		}
	}
	if json.Unmarshal(raw, &x) != nil {
		g.note(name, "its variants cannot be read and are left out")
		return nil, nil
	}
	seen := map[int]bool{}
	for _, m := range x.Mappings {
		for _, v := range m.Variants {
			if v < 0 || v >= len(g.s.Variants) || m.Material < 0 || m.Material >= len(g.s.Finishes) || seen[v] {
				g.note(name, "one of its variants names a finish or a variant that is not there, or is there twice; it is left out")
				continue
			}
			seen[v] = true
			out = append(out, look{v, m.Material})
		}
	}
	return out, g.take(len(out), 16)
}

// dress adds a part to the variants in which its mesh wears something.
func (g *gltf) dress(part, mesh int) error {
	worn := g.worn[mesh]
	for _, l := range worn {
		v := &g.s.Variants[l.variant]
		v.Wears = append(v.Wears, scene.Wear{Part: part, Finish: l.finish})
	}
	return g.take(len(worn), 32)
}
