package preflight

import (
	"context"
	"sync"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

// group is parts of the product that hold together, since they touch each other
// directly or by others.
type group struct {
	parts   []int
	carried bool // touches what stands around the product or, where nothing does, reaches lowest
	box     geom.Box

	// How it lies to what is under it, along gravity, metres.
	gap  float32 // down to the nearest of that
	onto int     // that part; -1: nothing is under it
	// How far it reaches under the surface of what carries the product.
	depth float32
	into  int // that part, or -1
}

// groups finds what holds together, in the order of their first parts.
func (b *body) groups(pairs []pair) []*group {
	root := make([]int, len(b.solids))
	for i := range root {
		root[i] = i
	}
	find := func(i int) int {
		for root[i] != i {
			root[i] = root[root[i]]
			i = root[i]
		}
		return i
	}
	stands := map[int]bool{}
	for _, p := range pairs {
		switch {
		case !p.touch || b.around[p.a] && b.around[p.b]:
		case b.around[p.a]:
			stands[p.b] = true
		case b.around[p.b]:
			stands[p.a] = true
		default:
			if x, y := find(p.a), find(p.b); x != y {
				root[max(x, y)] = min(x, y)
			}
		}
	}
	var out []*group
	of := map[int]*group{}
	ground, lowest := false, geom.EmptyBox()
	for i, v := range b.solids {
		if v == nil {
			continue
		}
		if b.around[i] {
			ground = true
			continue
		}
		g := of[find(i)]
		if g == nil {
			g = &group{box: geom.EmptyBox(), onto: -1, into: -1}
			of[find(i)] = g
			out = append(out, g)
		}
		g.parts = append(g.parts, i)
		g.box = g.box.Union(v.box)
		g.carried = g.carried || stands[i]
		lowest = lowest.Union(v.box)
	}
	for _, g := range out {
		g.carried = g.carried || !ground && g.box.Min.Y <= lowest.Min.Y+b.near
	}
	return out
}

// fall drops every group that nothing carries straight down onto the others, and
// finds how far all of them reach under what stands around the product.
func (b *body) fall(ctx context.Context, groups []*group, progress func(share float64)) error {
	of := make([]*group, len(b.solids))
	loose := []*group{}
	for _, g := range groups {
		for _, i := range g.parts {
			of[i] = g
		}
		if !g.carried {
			loose = append(loose, g)
		}
	}
	ground := []int{}
	for i, v := range b.solids {
		if v != nil && b.around[i] {
			ground = append(ground, i)
		}
	}
	var mu sync.Mutex
	front, back := make([]int, len(b.solids)), make([]int, len(b.solids)) // of the ground: seen so often from above
	var deep []sunk
	err := b.work(ctx, len(b.solids), progress, func(st *accel.Stack, i int) {
		v, g := b.solids[i], of[i]
		if v == nil {
			return
		}
		var mine []landing
		if g != nil {
			mine = b.below(st, v, g, func(part int) bool { return of[part] != g })
		}
		for _, l := range loose {
			if l != g {
				mine = append(mine, b.above(st, v, l)...)
			}
		}
		var under []sunk
		seen := map[int][2]int{}
		if g != nil {
			under = b.under(st, v, ground, seen)
		}
		mu.Lock()
		defer mu.Unlock()
		for _, l := range mine {
			l.g.lands(l.onto, l.gap)
		}
		for k, n := range seen {
			front[k], back[k] = front[k]+n[0], back[k]+n[1]
		}
		deep = append(deep, under...)
	})
	for _, s := range deep {
		// What carries the product shows it one side, and a point that looks up at the other
		// lies under the surface.
		if backwards := back[s.into] > front[s.into]; s.leaving != backwards {
			of[s.part].sinks(s.into, s.depth)
		}
	}
	return err
}

// landing is one way for a group to come down.
type landing struct {
	g    *group
	onto int
	gap  float32
}

func (g *group) lands(onto int, gap float32) {
	if g.onto < 0 || gap < g.gap || gap == g.gap && onto < g.onto {
		g.gap, g.onto = gap, onto
	}
}

func (g *group) sinks(into int, depth float32) {
	if g.into < 0 || depth > g.depth || depth == g.depth && into < g.into {
		g.depth, g.into = depth, into
	}
}

// below looks down from a part of a group for what is under it.
func (b *body) below(st *accel.Stack, v *solid, g *group, other func(part int) bool) []landing {
	if g.carried {
		return nil
	}
	var best *landing
	for _, s := range v.samples {
		// From a hair above, so that what lies at the very point is hit.
		h, ok := b.next(st, s.p.Add(up.Scale(b.exact)), down, other)
		if gap := max(0, h.t-b.exact); ok && (best == nil || gap < best.gap) {
			best = &landing{g, h.part, gap}
		}
	}
	if best == nil {
		return nil
	}
	return []landing{*best}
}

// above looks up from a part for a group that might come down onto it.
func (b *body) above(st *accel.Stack, v *solid, g *group) []landing {
	if v.box.Min.X > g.box.Max.X || v.box.Max.X < g.box.Min.X || v.box.Min.Z > g.box.Max.Z || v.box.Max.Z < g.box.Min.Z || v.box.Min.Y > g.box.Max.Y {
		return nil
	}
	best := landing{g: g, onto: v.part, gap: -1}
	for _, s := range v.samples {
		for _, i := range g.parts {
			w := b.solids[i]
			if !beneath(&w.box, s.p) {
				continue
			}
			h, ok := w.hit(st, s.p.Add(down.Scale(b.exact)), up, 0, far)
			if gap := max(0, h.t-b.exact); ok && !h.leaving && (best.gap < 0 || gap < best.gap) {
				best.gap = gap
			}
		}
	}
	if best.gap < 0 {
		return nil
	}
	return []landing{best}
}

// beneath tells whether a point has some of a box straight above it.
func beneath(b *geom.Box, p geom.Vec3) bool {
	return p.X >= b.Min.X && p.X <= b.Max.X && p.Z >= b.Min.Z && p.Z <= b.Max.Z && p.Y <= b.Max.Y
}

// sunk is the deepest point of a part under one side of what stands around.
type sunk struct {
	part, into int
	leaving    bool
	depth      float32
}

// under looks up from a part of the product for the ground, and down to learn which
// side that shows; seen counts the latter by front and back.
func (b *body) under(st *accel.Stack, v *solid, ground []int, seen map[int][2]int) (out []sunk) {
	// What is far over the product is a ceiling.
	most := 4 * b.focus.Radius()
	for _, k := range ground {
		w := b.solids[k]
		var deepest [2]float32
		n := seen[k]
		for _, s := range v.samples {
			if h, ok := w.hit(st, s.p, down, 0, far); ok {
				n[side(h)]++
			}
			if !beneath(&w.box, s.p) {
				continue
			}
			if h, ok := w.hit(st, s.p, up, 0, most); ok && h.t > b.exact {
				deepest[side(h)] = max(deepest[side(h)], h.t)
			}
		}
		seen[k] = n
		for i, d := range deepest {
			if d > 0 {
				out = append(out, sunk{v.part, k, i == 1, d})
			}
		}
	}
	return out
}

func side(h rayHit) int {
	if h.leaving {
		return 1
	}
	return 0
}
