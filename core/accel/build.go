package accel

import (
	"math"
	"runtime"
	"sync"

	"amberproof/core/geom"
)

const (
	bins         = 32
	traverseCost = 1.2 // of a wide node, against testing one block of triangles
	parallelFrom = 4096
)

type ref struct {
	box  geom.Box
	prim uint32
}

// binary is a node of the two-way tree that is built first and then widened.
type binary struct {
	box         geom.Box
	left, right int32 // children, or -1 for a leaf
	first, n    int32
}

type builder struct {
	tris  []Triangle
	refs  []ref
	nodes []binary
	slots chan struct{}
}

// Build makes a hierarchy over the triangles with a binned surface-area
// heuristic (Wald 2007) whose leaf cost counts blocks of eight, on all cores.
// The result does not depend on the number of cores.
func Build(tris []Triangle) *BVH {
	b := &BVH{bounds: geom.EmptyBox()}
	if len(tris) == 0 {
		return b
	}
	w := &builder{tris: tris, refs: make([]ref, len(tris)), nodes: make([]binary, 2*len(tris)), slots: make(chan struct{}, runtime.GOMAXPROCS(0))}
	for i, t := range tris {
		box := geom.Box{Min: geom.Min3(geom.Min3(t.A, t.B), t.C), Max: geom.Max3(geom.Max3(t.A, t.B), t.C)}
		w.refs[i] = ref{box, uint32(i)}
		b.bounds = b.bounds.Union(box)
	}
	w.split(0, 0, int32(len(tris)))
	b.nodes = make([]node, 0, len(tris)/8+1)
	b.blocks = make([]block, 0, len(tris)/4+1)
	depth := w.widen(b, 0, 1)
	b.stack = depth*wide + wide
	return b
}

// split builds the subtree over refs[first:first+n] at index at; its nodes lie
// in at .. at+2n-2, so that subtrees can be built at the same time without
// asking each other for room.
func (w *builder) split(at, first, n int32) {
	refs := w.refs[first : first+n]
	box, cent := geom.EmptyBox(), geom.EmptyBox()
	for i := range refs {
		box = box.Union(refs[i].box)
		cent = cent.Extend(refs[i].box.Centre())
	}
	nd := &w.nodes[at]
	*nd = binary{box: box, left: -1, right: -1, first: first, n: n}
	if n <= 2 {
		return
	}
	axis, bin, cost := bestSplit(refs, cent)
	leafCost := float32(blocksOf(n)) * box.HalfArea()
	var mid int32
	switch {
	case axis >= 0 && (n > wide || cost+traverseCost*box.HalfArea()*0.5 < leafCost):
		mid = partition(refs, cent, axis, bin)
	case n <= wide:
		return
	}
	if mid == 0 || mid == n {
		if n <= maxBlocks*wide {
			return // all centres coincide: one leaf takes them all
		}
		mid = n / 2
	}
	nd.left, nd.right = at+1, at+2*mid
	if n >= parallelFrom {
		select {
		case w.slots <- struct{}{}:
			var wg sync.WaitGroup
			wg.Add(1)
			go func() {
				defer wg.Done()
				w.split(at+1, first, mid)
				<-w.slots
			}()
			w.split(at+2*mid, first+mid, n-mid)
			wg.Wait()
			return
		default:
		}
	}
	w.split(at+1, first, mid)
	w.split(at+2*mid, first+mid, n-mid)
}

func blocksOf(n int32) int32 { return (n + wide - 1) / wide }

func binOf(c, lo, scale float32) int {
	return min(max(int((c-lo)*scale), 0), bins-1)
}

func bestSplit(refs []ref, cent geom.Box) (axis, bin int, cost float32) {
	axis, cost = -1, float32(math.Inf(1))
	size := cent.Size()
	for k := 0; k < 3; k++ {
		lo, ext := cent.Min.At(k), size.At(k)
		if !(ext > 0) || float32(bins)/ext > math.MaxFloat32 {
			continue
		}
		scale := bins / ext
		var box [bins]geom.Box
		var count [bins]int32
		for i := range box {
			box[i] = geom.EmptyBox()
		}
		for i := range refs {
			b := &refs[i].box
			j := binOf((b.Min.At(k)+b.Max.At(k))*0.5, lo, scale)
			box[j] = box[j].Union(*b)
			count[j]++
		}
		var right [bins]float32
		acc, n := geom.EmptyBox(), int32(0)
		for j := bins - 1; j > 0; j-- {
			acc = acc.Union(box[j])
			n += count[j]
			right[j] = acc.HalfArea() * float32(blocksOf(n))
		}
		acc, n = geom.EmptyBox(), 0
		for j := 0; j < bins-1; j++ {
			acc = acc.Union(box[j])
			n += count[j]
			if n == 0 || int(n) == len(refs) {
				continue
			}
			if c := acc.HalfArea()*float32(blocksOf(n)) + right[j+1]; c < cost {
				axis, bin, cost = k, j, c
			}
		}
	}
	return axis, bin, cost
}

func partition(refs []ref, cent geom.Box, axis, bin int) int32 {
	lo := cent.Min.At(axis)
	scale := bins / cent.Size().At(axis)
	i, j := 0, len(refs)-1
	for i <= j {
		b := &refs[i].box
		if binOf((b.Min.At(axis)+b.Max.At(axis))*0.5, lo, scale) <= bin {
			i++
		} else {
			refs[i], refs[j] = refs[j], refs[i]
			j--
		}
	}
	return int32(i)
}

// widen turns the binary subtree at index i into eight-wide nodes and returns its depth.
func (w *builder) widen(b *BVH, i int32, depth int) int {
	at := len(b.nodes)
	b.nodes = append(b.nodes, node{})
	kids := []int32{i}
	if w.nodes[i].left >= 0 {
		kids = []int32{w.nodes[i].left, w.nodes[i].right}
	}
	for len(kids) < wide {
		open, area := -1, float32(-1)
		for k, c := range kids {
			if nd := &w.nodes[c]; nd.left >= 0 && nd.box.HalfArea() > area {
				open, area = k, nd.box.HalfArea()
			}
		}
		if open < 0 {
			break
		}
		c := w.nodes[kids[open]]
		kids[open] = c.left
		kids = append(kids, c.right)
	}
	deepest := depth
	for k := 0; k < wide; k++ {
		lo, hi, r := geom.Splat(far), geom.Splat(-far), uint32(emptyChild)
		if k < len(kids) {
			c := &w.nodes[kids[k]]
			lo, hi = c.box.Min, c.box.Max
			if c.left < 0 {
				r = w.leaf(b, c)
			} else {
				r = uint32(len(b.nodes))
				deepest = max(deepest, w.widen(b, kids[k], depth+1))
			}
		}
		rows := &b.nodes[at].rows
		rows[0][k], rows[1][k] = lo.X, hi.X
		rows[2][k], rows[3][k] = lo.Y, hi.Y
		rows[4][k], rows[5][k] = lo.Z, hi.Z
		rows[6][k] = math.Float32frombits(r)
	}
	return deepest
}

func (w *builder) leaf(b *BVH, c *binary) uint32 {
	first := len(b.blocks)
	for k := int32(0); k < c.n; k += wide {
		var bl block
		for j := range bl.prim {
			bl.prim[j] = emptyChild
		}
		for j := int32(0); j < wide && k+j < c.n; j++ {
			p := w.refs[c.first+k+j].prim
			t := &w.tris[p]
			bl.prim[j] = p
			for row, v := range [9]float32{t.A.X, t.A.Y, t.A.Z, t.B.X, t.B.Y, t.B.Z, t.C.X, t.C.Y, t.C.Z} {
				bl.rows[row][j] = v
			}
		}
		b.blocks = append(b.blocks, bl)
	}
	return leafBit | uint32(len(b.blocks)-first-1)<<blockBits | uint32(first)
}
