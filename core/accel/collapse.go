package accel

import (
	"context"
	"math"
)

const (
	nodeCost = 1.2 // of entering a wide node, against testing one block of triangles
	// slots of a parent that a subtree may take
	mostRoots = wide - 1
)

// collapse finds the cheapest eight-wide tree contained in a two-way one by
// dynamic programming (Ylitie, Karras & Laine 2017): for every subtree the
// least cost of standing in a parent as at most k children.
type collapse struct {
	ctx context.Context
	two []binary
	// cost[i][k-1] of subtree i as at most k roots; choice tells how.
	cost   [][mostRoots]float32
	choice [][mostRoots]int8
	spread []int8 // how many of its eight children the left side of a wide node gets
	nodes  int
	unit   int32 // refs that a unit of a leaf holds
	units  int
	leaves []int32 // the subtrees that became leaves; left is where their units begin
}

const (
	asLeaf int8 = 0
	asNode int8 = -1
	// A positive choice is the number of roots for the left side.
	asFewer int8 = -2
)

// newCollapse makes room for so many nodes.
func newCollapse(ctx context.Context, nodes int, unit int32) *collapse {
	return &collapse{ctx: ctx, two: make([]binary, nodes), unit: unit, cost: make([][mostRoots]float32, nodes),
		choice: make([][mostRoots]int8, nodes), spread: make([]int8, nodes)}
}

// stopped reports whether nobody wants the tree any more; what is made of it then is
// thrown away. Of small sets, which are done in no time, that is not asked.
func (c *collapse) stopped(n int32) bool { return n > 1024 && c.ctx.Err() != nil }

// unitsOf is how many units n refs take.
func (c *collapse) unitsOf(n int32) int32 { return (n + c.unit - 1) / c.unit }

// weigh decides what becomes of a subtree whose sides are weighed.
func (c *collapse) weigh(i int32) {
	nd := &c.two[i]
	area := nd.box.halfArea()
	leaf := float32(math.Inf(1))
	if n := c.unitsOf(nd.n); n <= maxUnits {
		leaf = area * float32(n)
	}
	cost, choice := &c.cost[i], &c.choice[i]
	if nd.left < 0 {
		for k := range cost {
			cost[k] = leaf
		}
		return
	}
	l, r := &c.cost[nd.left], &c.cost[nd.right]
	// parted is the least cost with exactly up to k roots shared by both sides.
	parted := func(k int) (float32, int8) {
		best, at := float32(math.Inf(1)), int8(1)
		for j := max(1, k-mostRoots); j < k && j <= mostRoots; j++ {
			if v := l[j-1] + r[k-j-1]; v < best {
				best, at = v, int8(j)
			}
		}
		return best, at
	}
	inner, at := parted(wide)
	c.spread[i] = at
	inner += area * nodeCost
	cost[0], choice[0] = leaf, asLeaf
	if inner < leaf {
		cost[0], choice[0] = inner, asNode
	}
	for k := 2; k <= mostRoots; k++ {
		v, at := parted(k)
		cost[k-1], choice[k-1] = v, at
		if cost[k-2] <= v {
			cost[k-1], choice[k-1] = cost[k-2], asFewer
		}
	}
}

// roots appends the subtrees that i stands for with at most k places.
func (c *collapse) roots(kids []int32, i int32, k int) []int32 {
	for c.choice[i][k-1] == asFewer {
		k--
	}
	if how := c.choice[i][k-1]; how > 0 {
		kids = c.roots(kids, c.two[i].left, int(how))
		return c.roots(kids, c.two[i].right, k-int(how))
	}
	return append(kids, i)
}

// children are those of the wide node made from subtree i. A tree that is all
// one leaf has a root with that leaf as its only child.
func (c *collapse) children(room *[wide]int32, i int32) []int32 {
	if c.choice[i][0] == asLeaf {
		return append(room[:0], i)
	}
	kids := c.roots(room[:0], c.two[i].left, int(c.spread[i]))
	return c.roots(kids, c.two[i].right, wide-int(c.spread[i]))
}

// count finds how many nodes and units the tree will have.
func (c *collapse) count(i int32) {
	c.nodes++
	var room [wide]int32
	if c.stopped(c.two[i].n) {
		return
	}
	for _, k := range c.children(&room, i) {
		if c.choice[k][0] == asLeaf {
			c.units += int(c.unitsOf(c.two[k].n))
		} else {
			c.count(k)
		}
	}
}

// layOut appends the nodes, those of one parent next to each other, and where
// the leaves' units will lie; it returns the depth.
func (c *collapse) layOut(nodes []node) (_ []node, depth int) {
	nodes = append(nodes, node{})
	c.leaves = make([]int32, 0, c.units)
	next := int32(0)
	depth = c.lay(&nodes, 0, 0, &next)
	return nodes, depth
}

func (c *collapse) lay(nodes *[]node, i int32, at int, next *int32) int {
	var room [wide]int32
	if c.stopped(c.two[i].n) {
		return 1
	}
	kids := c.children(&room, i)
	first := len(*nodes)
	for _, k := range kids {
		if c.choice[k][0] != asLeaf {
			*nodes = append(*nodes, node{})
		}
	}
	rows := &(*nodes)[at].rows
	inner := first
	for k := range wide {
		lo, hi, r := [3]float32{far, far, far}, [3]float32{-far, -far, -far}, uint32(emptyChild)
		if k < len(kids) {
			nd := &c.two[kids[k]]
			lo, hi = [3]float32{-nd.box[0], -nd.box[1], -nd.box[2]}, [3]float32{nd.box[4], nd.box[5], nd.box[6]}
			if c.choice[kids[k]][0] == asLeaf {
				n := c.unitsOf(nd.n)
				r = leafBit | uint32(n-1)<<blockBits | uint32(*next)
				nd.left = *next // the two-way tree is no longer needed
				c.leaves = append(c.leaves, kids[k])
				*next += n
			} else {
				r = uint32(inner)
				inner++
			}
		}
		for a := range 3 {
			rows[2*a][k], rows[2*a+1][k] = lo[a], hi[a]
		}
		rows[6][k] = math.Float32frombits(r)
	}
	depth := 1
	at = first
	for _, k := range kids {
		if c.choice[k][0] != asLeaf {
			depth = max(depth, 1+c.lay(nodes, k, at, next))
			at++
		}
	}
	return depth
}

// fill writes the triangles into their blocks, on all cores.
func (c *collapse) fill(b *BVH, tris []Triangle, refs []span) {
	chunks(len(c.leaves), func(_, from, to int) {
		for i, k := range c.leaves[from:to] {
			if i%1024 == 0 && c.ctx.Err() != nil {
				return
			}
			nd := &c.two[k]
			for j := int32(0); j < nd.n; j += wide {
				b.blocks[nd.left+j/wide].fill(tris, refs[nd.first+j:nd.first+min(nd.n, j+wide)])
			}
		}
	})
}

func (bl *block) fill(tris []Triangle, refs []span) {
	for j := range wide {
		bl.prim[j] = emptyChild
		if j >= len(refs) {
			continue
		}
		p := refs[j].prim()
		t := &tris[p]
		bl.prim[j] = p
		for row, v := range [9]float32{t.A.X, t.A.Y, t.A.Z, t.B.X, t.B.Y, t.B.Z, t.C.X, t.C.Y, t.C.Z} {
			bl.rows[row][j] = v
		}
	}
}
