package preflight

import (
	"context"

	"amberproof/core/geom"
)

// Drop tells how far parts, as one, have to go along gravity to stand on what is under
// them, metres: down to the nearest surface below, or up out of what stands around the
// product. onto is what they then stand on; -1, with no way to go, where nothing is
// under them.
func Drop(ctx context.Context, of Subject, parts []int) (shift geom.Vec3, onto int, err error) {
	b, err := gather(ctx, of)
	if err != nil {
		return shift, -1, err
	}
	g := &group{box: geom.EmptyBox(), onto: -1, into: -1}
	mine := map[int]bool{}
	for _, i := range parts {
		if v := b.solids[i]; v != nil && !mine[i] {
			g.parts, g.box, mine[i] = append(g.parts, i), g.box.Union(v.box), true
		}
	}
	if len(g.parts) == 0 {
		return shift, -1, nil
	}
	// What the parts stand on may be anything else, and only what is around the product
	// can be sunk into: they themselves are neither.
	around := b.around
	b.around = make([]bool, len(around))
	for i := range around {
		b.around[i] = around[i] && !mine[i]
	}
	groups := []*group{g}
	for i, v := range b.solids {
		if v != nil && !mine[i] && !b.around[i] {
			groups = append(groups, &group{parts: []int{i}, carried: true, box: v.box, onto: -1, into: -1})
		}
	}
	if err := b.fall(ctx, groups, nil); err != nil {
		return shift, -1, err
	}
	switch {
	case g.into >= 0 && g.depth > b.exact:
		return geom.V(0, g.depth, 0), g.into, nil
	case g.onto >= 0:
		return geom.V(0, -g.gap, 0), g.onto, nil
	}
	return shift, -1, nil
}
