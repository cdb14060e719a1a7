package trace

import (
	"cmp"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// edgeTree finds the edges of a mesh near a place: boxes in halves, the first half right
// behind its box.
type edgeTree struct {
	edges []scene.Edge
	nodes []edgeNode
}

type edgeNode struct {
	box      geom.Box
	from, to int32 // edges of a leaf
	skip     int32 // the node after this and all in it
}

const edgesInLeaf = 4

func newEdgeTree(edges []scene.Edge) *edgeTree {
	t := &edgeTree{edges: edges}
	if len(edges) > 0 {
		t.split(0, len(edges))
	}
	return t
}

func (t *edgeTree) split(from, to int) {
	at := len(t.nodes)
	t.nodes = append(t.nodes, edgeNode{box: geom.EmptyBox()})
	box, middles := geom.EmptyBox(), geom.EmptyBox()
	for _, e := range t.edges[from:to] {
		box = box.Extend(e.A).Extend(e.B)
		middles = middles.Extend(e.A.Add(e.B))
	}
	if to-from <= edgesInLeaf {
		t.nodes[at] = edgeNode{box, int32(from), int32(to), int32(len(t.nodes))}
		return
	}
	size, axis := middles.Size(), 0
	if size.Y > size.At(axis) {
		axis = 1
	}
	if size.Z > size.At(axis) {
		axis = 2
	}
	slices.SortFunc(t.edges[from:to], func(a, b scene.Edge) int {
		return cmp.Compare(a.A.At(axis)+a.B.At(axis), b.A.At(axis)+b.B.At(axis))
	})
	half := (from + to) / 2
	t.split(from, half)
	t.split(half, to)
	t.nodes[at] = edgeNode{box: box, skip: int32(len(t.nodes))}
}

// near calls f with the edges whose boxes are within reach of a box, until it says true,
// and returns whether it did.
func (t *edgeTree) near(b geom.Box, f func(e *scene.Edge) bool) bool {
	for i := int32(0); int(i) < len(t.nodes); {
		n := &t.nodes[i]
		if !overlap(&n.box, &b) {
			i = n.skip
			continue
		}
		for k := n.from; k < n.to; k++ {
			if f(&t.edges[k]) {
				return true
			}
		}
		i++
	}
	return false
}

func overlap(a, b *geom.Box) bool {
	return a.Min.X <= b.Max.X && b.Min.X <= a.Max.X && a.Min.Y <= b.Max.Y && b.Min.Y <= a.Max.Y && a.Min.Z <= b.Max.Z && b.Min.Z <= a.Max.Z
}
