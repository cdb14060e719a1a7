package accel

import (
	"math"
	"sync"
)

const (
	bins         = 32
	parallelFrom = 4096
	// smallLeaf is where splitting ends; what is a leaf in the end, collapsing decides.
	smallLeaf = 2
	// Beyond this depth sets are halved, so that no input makes a deep tree.
	deepest = 60
)

// binary is a node of the two-way tree that is built first.
type binary struct {
	box         span
	left, right int32 // children, or -1
	first, n    int32
}

type splitter struct {
	refs  []span
	nodes []binary
	slots chan struct{}
}

// split builds the subtree over the region's triangles, which begin at first,
// at index at; its nodes lie in at .. at+2n-2, so that subtrees can be built at
// the same time without asking each other for room.
func (w *splitter) split(at, first int32, r region, depth int) {
	n := int32(r.n)
	w.nodes[at] = binary{box: r.box, left: -1, right: -1, first: first, n: n}
	if n <= smallLeaf {
		return
	}
	refs := w.refs[first : first+n]
	grid := newGrid(&r)
	var left, right region
	if axis, bin := grid.best(refs); axis >= 0 && depth < deepest {
		left, right = partition(refs, &grid, axis, bin)
	} else { // all centres coincide, or the tree gets too deep
		left, right = emptyRegion(), emptyRegion()
		for i := range refs {
			if int32(i) < n/2 {
				left.add(&refs[i])
			} else {
				right.add(&refs[i])
			}
		}
	}
	mid := int32(left.n)
	nd := &w.nodes[at]
	nd.left, nd.right = at+1, at+2*mid
	if n >= parallelFrom {
		select {
		case w.slots <- struct{}{}:
			var wg sync.WaitGroup
			wg.Go(func() {
				w.split(at+1, first, left, depth+1)
				<-w.slots
			})
			w.split(at+2*mid, first+mid, right, depth+1)
			wg.Wait()
			return
		default:
		}
	}
	w.split(at+1, first, left, depth+1)
	w.split(at+2*mid, first+mid, right, depth+1)
}

// grid maps doubled centres to bins along each axis.
type grid struct {
	lo, scale [4]float32
}

func newGrid(r *region) (g grid) {
	for k := range 3 {
		g.lo[k] = r.lo[k]
		if ext := r.hi[k] - r.lo[k]; ext > 0 && bins/ext < math.MaxFloat32 {
			g.scale[k] = bins * (1 - 1e-6) / ext
		}
	}
	return g
}

func (g *grid) bin(s *span, k int) int {
	return min(max(int((s.twice(k)-g.lo[k])*g.scale[k]), 0), bins-1)
}

// binned are the triangles of a set by their bin along each axis.
type binned struct {
	box   [3][bins]span
	count [3][bins]int32
}

var emptyBinned = func() (b binned) {
	for k := range b.box {
		for i := range b.box[k] {
			b.box[k][i] = emptySpan()
		}
	}
	return b
}()

// best finds the axis and the last bin of the left side that cost least, or -1
// when no plane parts the set.
func (g *grid) best(refs []span) (axis, bin int) {
	all := emptyBinned
	if len(refs) >= 16*parallelFrom {
		var parts [64]*binned
		chunks(len(refs), func(k, from, to int) {
			p := emptyBinned
			g.sort(refs[from:to], &p)
			parts[k] = &p
		})
		for _, p := range parts {
			if p == nil {
				continue
			}
			for k := range 3 {
				for i := range bins {
					all.box[k][i].join(&p.box[k][i])
					all.count[k][i] += p.count[k][i]
				}
			}
		}
	} else {
		g.sort(refs, &all)
	}
	axis = -1
	cost := float32(math.Inf(1))
	for k := range 3 {
		if g.scale[k] == 0 {
			continue
		}
		var right [bins]float32
		acc, n := emptySpan(), int32(0)
		for j := bins - 1; j > 0; j-- {
			if c := all.count[k][j]; c > 0 {
				acc.join(&all.box[k][j])
				n += c
			}
			right[j] = acc.halfArea() * float32(blocksOf(n))
		}
		acc, n = emptySpan(), 0
		for j := range bins - 1 {
			if c := all.count[k][j]; c > 0 {
				acc.join(&all.box[k][j])
				n += c
			}
			if n == 0 || int(n) == len(refs) {
				continue
			}
			if c := acc.halfArea()*float32(blocksOf(n)) + right[j+1]; c < cost {
				axis, bin, cost = k, j, c
			}
		}
	}
	return axis, bin
}

func blocksOf(n int32) int32 { return (n + wide - 1) / wide }

func (g *grid) sortPortable(refs []span, b *binned) {
	for i := range refs {
		for k := range 3 {
			j := g.bin(&refs[i], k)
			b.box[k][j].join(&refs[i])
			b.count[k][j]++
		}
	}
}

// partition moves the triangles up to the bin to the front and returns what
// lies on either side.
func partitionPortable(refs []span, g *grid, axis, bin int) (left, right region) {
	left, right = emptyRegion(), emptyRegion()
	i, j := 0, len(refs)-1
	for i <= j {
		if g.bin(&refs[i], axis) <= bin {
			left.add(&refs[i])
			i++
		} else {
			right.add(&refs[i])
			refs[i], refs[j] = refs[j], refs[i]
			j--
		}
	}
	return left, right
}
