package accel

import (
	"math"

	"amberproof/core/parallel"
)

const (
	mostBins     = 32
	parallelFrom = 4096
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
	tree  *collapse // whose nodes are made, and weighed while they are in the cache
	slots chan struct{}
	leaf  int32 // refs that are not parted further; what is a leaf in the end, collapsing decides
}

// split builds the subtree over the region's triangles, which begin at first,
// at index at; its nodes lie in at .. at+2n-2, so that subtrees can be built at
// the same time without asking each other for room.
func (w *splitter) split(at, first int32, r *region, depth int) {
	n := int32(r.n)
	w.tree.two[at] = binary{box: r.box, left: -1, right: -1, first: first, n: n}
	if n > w.leaf && !w.tree.stopped(n) {
		left, right := w.part(w.refs[first:first+n], r, depth)
		mid := int32(left.n)
		nd := &w.tree.two[at]
		nd.left, nd.right = at+1, at+2*mid
		both := func() bool { // at once, if a core has time
			if n < parallelFrom {
				return false
			}
			select {
			case w.slots <- struct{}{}:
				return true
			default:
				return false
			}
		}
		if both() {
			parallel.MustScope(func(g *parallel.Group) {
				g.Go(func() {
					defer func() { <-w.slots }()
					w.split(at+1, first, &left, depth+1)
				})
				w.split(at+2*mid, first+mid, &right, depth+1)
			})
		} else {
			w.split(at+1, first, &left, depth+1)
			w.split(at+2*mid, first+mid, &right, depth+1)
		}
	}
	w.tree.weigh(at)
}

// part orders the triangles of a region so that those of one side come first.
func (w *splitter) part(refs []span, r *region, depth int) (left, right region) {
	grid := newGrid(r)
	if axis, bin := grid.best(refs); axis >= 0 && depth < deepest {
		return partition(refs, &grid, axis, bin)
	}
	// All centres coincide, or the tree gets too deep.
	half := len(refs) / 2
	return around(refs[:half]), around(refs[half:])
}

// grid maps doubled centres to bins along each axis.
type grid struct {
	lo, scale [4]float32
	bins      int
}

// newGrid has few bins for few triangles: most sets are small, and going through bins
// that hold nothing took more than half of a build.
func newGrid(r *region) (g grid) {
	g.bins = min(mostBins, 4+r.n/8)
	for k := range 3 {
		g.lo[k] = -r.centres[k]
		if ext := r.centres[4+k] + r.centres[k]; ext > 0 && mostBins/ext < math.MaxFloat32 {
			g.scale[k] = float32(g.bins) * (1 - 1e-6) / ext
		}
	}
	return g
}

func (g *grid) bin(s *span, k int) int {
	return min(max(int((s.twice(k)-g.lo[k])*g.scale[k]), 0), g.bins-1)
}

// upTo reports whether a triangle's bin, but for the last, is at most this one.
func (g *grid) upTo(s *span, k, bin int) bool {
	return (s.twice(k)-g.lo[k])*g.scale[k] < float32(bin+1)
}

// binned are the triangles of a set by their bin along each axis.
type binned struct {
	box   [3][mostBins]span
	count [3][mostBins]int32
}

// empty makes the bins of the grid empty; the others are not used.
func (b *binned) empty(g *grid) {
	for k := range b.box {
		for i := range b.box[k][:g.bins] {
			b.box[k][i], b.count[k][i] = nowhere, 0
		}
	}
}

// best finds the axis and the last bin of the left side that cost least, or -1
// when no plane parts the set.
func (g *grid) best(refs []span) (axis, bin int) {
	var all binned
	if len(refs) >= 16*parallelFrom {
		all = *g.sortOnAllCores(refs)
	} else {
		all.empty(g)
		g.sort(refs, &all)
	}
	axis = -1
	cost := float32(math.Inf(1))
	var left, right [mostBins]extent // of what lies up to a bin, and from it on
	for k := range 3 {
		if g.scale[k] == 0 {
			continue
		}
		all.sweep(k, g.bins, &left, &right)
		n := int32(0)
		for j := range g.bins - 1 {
			n += all.count[k][j]
			if n == 0 || int(n) == len(refs) {
				continue
			}
			if c := left[j].halfArea()*float32(blocksOf(n)) + right[j+1].halfArea()*float32(blocksOf(int32(len(refs))-n)); c < cost {
				axis, bin, cost = k, j, c
			}
		}
	}
	return axis, bin
}

// sortOnAllCores is sort for many triangles.
func (g grid) sortOnAllCores(refs []span) *binned {
	var parts [64]*binned
	chunks(len(refs), func(k, from, to int) {
		p := new(binned)
		p.empty(&g)
		g.sort(refs[from:to], p)
		parts[k] = p
	})
	all := parts[0]
	for _, p := range parts[1:] {
		if p == nil {
			break
		}
		for k := range 3 {
			for i := range g.bins {
				all.box[k][i].join(&p.box[k][i])
				all.count[k][i] += p.count[k][i]
			}
		}
	}
	return all
}

// extent is how far a box reaches along each axis.
type extent [4]float32

func (e *extent) halfArea() float32 { return e[0]*e[1] + e[1]*e[2] + e[2]*e[0] }

func (s *span) extent() extent { return extent{s[4] + s[0], s[5] + s[1], s[6] + s[2]} }

func (b *binned) sweepPortable(k, bins int, left, right *[mostBins]extent) {
	l, r := nowhere, nowhere
	for i := range bins {
		j := bins - 1 - i
		l.join(&b.box[k][i])
		r.join(&b.box[k][j])
		left[i], right[j] = l.extent(), r.extent()
	}
}

func blocksOf(n int32) int32 { return int32(uint32(n+wide-1) / wide) }

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
// lies on either side. Which side one is on is anybody's guess, so nothing branches on
// it: every triangle changes places with the first of the right side, which may be itself.
func partitionPortable(refs []span, g *grid, axis, bin int) (left, right region) {
	left, right = emptyRegion(), emptyRegion()
	mid := 0
	for i := range refs {
		first := g.upTo(&refs[i], axis, bin)
		refs[i], refs[mid] = refs[mid], refs[i]
		if first {
			left.add(&refs[mid])
			mid++
		} else {
			right.add(&refs[mid])
		}
	}
	return left, right
}
