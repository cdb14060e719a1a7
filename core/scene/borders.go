package scene

import (
	"context"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// mostParted bounds the sides of which borders are looked for that others part.
const mostParted = 1 << 18

// piece is a part of a border, between two points.
type piece struct{ a, b uint32 }

// borders are the open borders among sides that no other has the same ends as. Where one
// lies along several, as where a long side meets two short ones, each piece has faces on
// both sides: it is a crease or nothing.
func (f *folded) borders(ctx context.Context, single []int32) (out []Edge) {
	pieces := map[piece][]int32{}
	var order []piece
	add := func(a, b uint32, side int32) {
		p := piece{min(a, b), max(a, b)}
		if pieces[p] == nil {
			order = append(order, p)
		}
		pieces[p] = append(pieces[p], side)
	}
	near := f.pointsOf(ctx, single)
	for i, k := range single {
		parallel.Check(ctx, i)
		from, to := f.tri[k], f.tri[next(int(k))]
		at := from
		for _, p := range near.between(ctx, f.net, from, to) {
			add(at, p, k)
			at = p
		}
		add(at, to, k)
	}
	for _, p := range order {
		if sides := pieces[p]; len(sides) == 1 || f.turns(sides) {
			out = append(out, Edge{f.place(p.a), f.place(p.b), len(sides) == 1})
		}
	}
	return out
}

// grid finds the points of borders near a place.
type grid struct {
	cells map[[3]int64][]uint32
	size  float32 // of a cell
	reach float32 // how far off a side a point may be that is on it
}

// pointsOf is a grid of the ends of sides; an empty one where they are too many.
func (f *folded) pointsOf(ctx context.Context, sides []int32) *grid {
	g := &grid{cells: map[[3]int64][]uint32{}}
	if len(sides) > mostParted || len(sides) == 0 {
		return g
	}
	box := geom.EmptyBox()
	length := float64(0)
	for _, k := range sides {
		a, b := f.place(f.tri[k]), f.place(f.tri[next(int(k))])
		box = box.Extend(a).Extend(b)
		length += float64(b.Sub(a).Len())
	}
	g.reach = closeBy * box.Size().Max()
	g.size = max(float32(length/float64(len(sides))), 4*g.reach)
	if !(g.size > 0) {
		return g
	}
	seen := map[uint32]bool{}
	for i, k := range sides {
		parallel.Check(ctx, i)
		for _, p := range [2]uint32{f.tri[k], f.tri[next(int(k))]} {
			if !seen[p] {
				seen[p] = true
				c := g.cell(f.place(p))
				g.cells[c] = append(g.cells[c], p)
			}
		}
	}
	return g
}

func (g *grid) cell(p geom.Vec3) [3]int64 {
	at := func(x float32) int64 { return int64(math.Floor(float64(x) / float64(g.size))) }
	return [3]int64{at(p.X), at(p.Y), at(p.Z)}
}

// mostSteps bounds the cells that are gone through along a side.
const mostSteps = 1 << 14

// between are the points of the grid on a side between its ends, in order from the first.
func (g *grid) between(ctx context.Context, n *net, from, to uint32) []uint32 {
	a, b := n.place(from), n.place(to)
	way := b.Sub(a)
	l2 := way.Len2()
	if len(g.cells) == 0 || l2 == 0 {
		return nil
	}
	type on struct {
		p uint32
		t float32
	}
	var all []on
	looked := map[[3]int64]bool{}
	steps := min(mostSteps, 1+int(2*way.Len()/g.size))
	for i := range steps + 1 {
		parallel.Check(ctx, i)
		c := g.cell(a.MulAdd(way, float32(i)/float32(steps)))
		for d := range int64(27) {
			at := [3]int64{c[0] + d%3 - 1, c[1] + d/3%3 - 1, c[2] + d/9 - 1}
			if looked[at] {
				continue
			}
			looked[at] = true
			for _, p := range g.cells[at] {
				x := n.place(p).Sub(a)
				t := x.Dot(way) / l2
				if p != from && p != to && t > 0 && t < 1 && x.MulAdd(way, -t).Len() <= g.reach {
					all = append(all, on{p, t})
				}
			}
		}
	}
	slices.SortFunc(all, func(x, y on) int {
		if x.t < y.t {
			return -1
		}
		return 1
	})
	out := make([]uint32, len(all))
	for i := range all {
		out[i] = all[i].p
	}
	return out
}
