package scene

import (
	"context"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// net is a triangle mesh whose points are bare numbers: places, or what lies on
// them. Both are refined by the same rules.
type net struct {
	points [][8]float32
	tri    []uint32
	sides  []side // three a triangle, from its corner to the next
	edges  int
	sharp  []bool // per side: a crease or a border
	corner []bool // per point: stays where it is
}

// side joins a side of a triangle to that of its neighbour.
type side struct {
	twin int32  // the neighbour's side, or -1 at a border
	mid  uint32 // number of the edge that both are
}

// Loop's scheme (Loop 1987, with the weights of Warren 1995) with creases and
// corners (Hoppe et al. 1994): smooth everywhere but along sharp sides, which
// become smooth curves, and at corners, which stay.

// join finds the neighbours. Sides that more than two triangles share, or two of
// different windings, are borders.
func (n *net) join(ctx context.Context) {
	n.sides = make([]side, len(n.tri))
	// The sides by their lower point, in lists.
	first := make([]int32, len(n.points)+1)
	low := func(k int) uint32 { return min(n.tri[k], n.tri[next(k)]) }
	for k := range n.tri {
		parallel.Check(ctx, k)
		first[low(k)+1]++
	}
	for i := 1; i < len(first); i++ {
		first[i] += first[i-1]
	}
	list := make([]int32, len(n.tri))
	at := slices.Clone(first)
	for k := range n.tri {
		parallel.Check(ctx, k)
		list[at[low(k)]] = int32(k)
		at[low(k)]++
	}
	high := func(k int32) uint32 { return max(n.tri[k], n.tri[next(int(k))]) }
	for p := range n.points {
		parallel.Check(ctx, p)
		around := list[first[p]:first[p+1]]
		slices.SortFunc(around, func(a, b int32) int {
			if high(a) != high(b) {
				return int(high(a)) - int(high(b))
			}
			return int(a - b)
		})
		for i := 0; i < len(around); {
			j := i + 1
			for j < len(around) && high(around[j]) == high(around[i]) {
				j++
			}
			paired := j-i == 2 && n.tri[around[i]] != n.tri[around[i+1]]
			for k := i; k < j; k++ {
				n.sides[around[k]] = side{-1, uint32(n.edges)}
				if paired {
					n.sides[around[k]].twin = around[i+j-1-k]
				}
			}
			n.edges++
			i = j
		}
	}
}

// next is the corner after k in its triangle, and side k's far end.
func next(k int) int {
	if k%3 == 2 {
		return k - 2
	}
	return k + 1
}

// around is what a point's neighbourhood sums up to.
type around struct {
	sum, creased [8]float32 // of its neighbours, and of those along sharp sides
	n, sharp     int
}

// survey sums up all neighbourhoods. Each edge counts once for either end.
func (n *net) survey(ctx context.Context) []around {
	out := make([]around, len(n.points))
	for k := range n.tri {
		parallel.Check(ctx, k)
		if t := n.sides[k].twin; t >= 0 && int(t) < k {
			continue
		}
		a, b := n.tri[k], n.tri[next(k)]
		for _, e := range [2][2]uint32{{a, b}, {b, a}} {
			o, p := &out[e[0]], &n.points[e[1]]
			o.n++
			for i := range p {
				o.sum[i] += p[i]
			}
			if n.sharp[k] {
				o.sharp++
				for i := range p {
					o.creased[i] += p[i]
				}
			}
		}
	}
	return out
}

// blend is a point's own share and that of each of its neighbours.
func (o *around) blend(p *[8]float32, own, each float32, sum *[8]float32) (q [8]float32) {
	for i := range q {
		q[i] = own*p[i] + each*sum[i]
	}
	return q
}

// each is the share that a smooth point takes of each of n neighbours.
func each(n int) float32 {
	if n == 3 {
		return 3.0 / 16
	}
	return 3 / (8 * float32(n))
}

// stays reports whether a point is a corner: it was made one, or has other than
// no, one or two sharp sides.
func (n *net) stays(i int, o *around) bool { return n.corner[i] || o.sharp > 2 || o.n == 0 }

// refine makes four triangles of each.
func (n *net) refine(ctx context.Context) *net {
	old := len(n.points)
	out := &net{points: make([][8]float32, old+n.edges), tri: make([]uint32, 0, 4*len(n.tri)), sharp: make([]bool, 0, 4*len(n.tri))}
	out.corner = append(slices.Clone(n.corner), make([]bool, n.edges)...)
	all := n.survey(ctx)
	for i := range n.points {
		parallel.Check(ctx, i)
		p, o := &n.points[i], &all[i]
		switch {
		case n.stays(i, o):
			out.points[i] = *p
		case o.sharp == 2:
			out.points[i] = o.blend(p, 6.0/8, 1.0/8, &o.creased)
		default:
			b := each(o.n)
			out.points[i] = o.blend(p, 1-float32(o.n)*b, b, &o.sum)
		}
	}
	for k := range n.tri {
		parallel.Check(ctx, k)
		a, b := &n.points[n.tri[k]], &n.points[n.tri[next(k)]]
		q := &out.points[old+int(n.sides[k].mid)]
		if n.sharp[k] {
			for i := range q {
				q[i] = (a[i] + b[i]) / 2
			}
			continue
		}
		c, d := &n.points[n.tri[next(next(k))]], &n.points[n.tri[next(next(int(n.sides[k].twin)))]]
		for i := range q {
			q[i] = 3.0/8*(a[i]+b[i]) + 1.0/8*(c[i]+d[i])
		}
	}
	for f := 0; f < len(n.tri); f += 3 {
		parallel.Check(ctx, f/3)
		var m [3]uint32
		for k := range m {
			m[k] = uint32(old) + n.sides[f+k].mid
		}
		a, b, c := n.tri[f], n.tri[f+1], n.tri[f+2]
		ab, bc, ca := n.sharp[f], n.sharp[f+1], n.sharp[f+2]
		out.tri = append(out.tri, a, m[0], m[2], m[0], b, m[1], m[2], m[1], c, m[0], m[1], m[2])
		out.sharp = append(out.sharp, ab, false, ca, ab, bc, false, false, bc, ca, false, false, false)
	}
	n.halve(ctx, out)
	return out
}

// halve joins the sides of what was refined, which is known without a search.
// Of triangle f with corners a, b, c and middles m0, m1, m2 came (a, m0, m2),
// (m0, b, m1), (m2, m1, c) and (m0, m1, m2).
func (n *net) halve(ctx context.Context, out *net) {
	out.sides, out.edges = make([]side, 4*len(n.tri)), 2*n.edges+len(n.tri)
	// Where the two halves of a side came to lie, and the inner sides with their twins.
	first, second := [3]int{0, 4, 8}, [3]int{3, 7, 2}
	inner := [3][2]int{{1, 11}, {5, 9}, {6, 10}}
	for k := range n.tri {
		parallel.Check(ctx, k)
		f, j := k/3*12, k%3
		mid, turned := 2*n.sides[k].mid, uint32(0)
		if n.tri[k] > n.tri[next(k)] {
			turned = 1
		}
		a, b := side{-1, mid + turned}, side{-1, mid + 1 - turned}
		if t := int(n.sides[k].twin); t >= 0 {
			a.twin, b.twin = int32(t/3*12+second[t%3]), int32(t/3*12+first[t%3])
		}
		out.sides[f+first[j]], out.sides[f+second[j]] = a, b
		edge := uint32(2*n.edges + k)
		p, q := f+inner[j][0], f+inner[j][1]
		out.sides[p], out.sides[q] = side{int32(q), edge}, side{int32(p), edge}
	}
}

// settle moves the points to where endless refining would bring them.
func (n *net) settle(ctx context.Context) {
	all := n.survey(ctx)
	moved := make([][8]float32, len(n.points))
	for i := range n.points {
		parallel.Check(ctx, i)
		p, o := &n.points[i], &all[i]
		switch {
		case n.stays(i, o):
			moved[i] = *p
		case o.sharp == 2:
			moved[i] = o.blend(p, 4.0/6, 1.0/6, &o.creased)
		default:
			x := 1 / (3/(8*each(o.n)) + float32(o.n))
			moved[i] = o.blend(p, 1-float32(o.n)*x, x, &o.sum)
		}
	}
	n.points = moved
}

// mark makes corners where two sharp sides turn by more than crease.
func (n *net) mark(ctx context.Context, crease float32) {
	type ends struct {
		to [2]uint32
		n  int
	}
	sharp := make([]ends, len(n.points))
	for k := range n.tri {
		parallel.Check(ctx, k)
		if t := n.sides[k].twin; !n.sharp[k] || t >= 0 && int(t) < k {
			continue
		}
		for _, e := range [2][2]uint32{{n.tri[k], n.tri[next(k)]}, {n.tri[next(k)], n.tri[k]}} {
			if o := &sharp[e[0]]; o.n < 2 {
				o.to[o.n] = e[1]
				o.n++
			}
		}
	}
	cos := float32(math.Cos(float64(crease)))
	for i := range sharp {
		parallel.Check(ctx, i)
		if o := &sharp[i]; o.n == 2 {
			in, out := toward(&n.points[o.to[0]], &n.points[i]), toward(&n.points[i], &n.points[o.to[1]])
			if in.Dot(out) < cos && !in.IsZero() && !out.IsZero() {
				n.corner[i] = true
			}
		}
	}
}

// toward is the direction from one point to another by their first three numbers.
func toward(a, b *[8]float32) geom.Vec3 {
	return geom.V(b[0]-a[0], b[1]-a[1], b[2]-a[2]).Unit()
}
