package accel

import (
	"context"
	"math"

	"amberproof/core/geom"
)

// Instance is a mesh's hierarchy at a place in the world.
type Instance struct {
	Mesh  *BVH
	World geom.Affine // from the mesh to the world
	// Way, if there, are its places at evenly spaced moments of a shutter that is
	// open from 0 to 1; World does not count then.
	Way []geom.Affine
}

// Along is the place at a moment, from 0 to 1, of what moves in straight lines
// along a way of two places or more.
func Along(way []geom.Affine, moment float32) geom.Affine {
	x := moment * float32(len(way)-1)
	k := min(int(x), len(way)-2)
	return way[k].Lerp(&way[k+1], x-float32(k))
}

// Group is a hierarchy of instances: many places of few meshes, which are held
// once, and meshes that move, at the moment of the stack.
type Group struct {
	nodes  []node
	places []place // in the order of the leaves
	bounds geom.Box
	refs   int // stack for the deepest mesh
	tops   int
}

// place is an instance ready to be tested.
type place struct {
	mesh   *BVH
	toMesh geom.Affine
	way    []geom.Affine
	index  uint32 // among those given
}

// NewGroup makes a group. Instances that are flattened to nothing, or whose mesh
// is empty, are never hit.
func NewGroup(all []Instance) *Group {
	g := &Group{bounds: geom.EmptyBox()}
	var refs []span
	whole := emptyRegion()
	inverse := make([]geom.Affine, len(all))
	for i, in := range all {
		inv, ok := in.World.Inverse()
		if in.Mesh.Empty() || !ok && in.Way == nil {
			continue
		}
		inverse[i] = inv
		box := in.World.Box(in.Mesh.bounds)
		if in.Way != nil {
			box = geom.EmptyBox()
			for k := range in.Way { // between them every point moves in a straight line
				box = box.Union(in.Way[k].Box(in.Mesh.bounds))
			}
		}
		g.bounds = g.bounds.Union(box)
		// The mesh is tested where rounding puts the ray: a little slack around it.
		slack := 1e-5 * (geom.Max3(box.Max, box.Min.Neg()).Max() + box.Size().Max())
		lo, hi := box.Min.Sub(geom.Splat(slack)), box.Max.Add(geom.Splat(slack))
		refs = append(refs, span{-lo.X, -lo.Y, -lo.Z, packPrim(uint32(i)), hi.X, hi.Y, hi.Z, 0})
		whole.add(&refs[len(refs)-1])
		g.refs = max(g.refs, in.Mesh.stack)
	}
	if len(refs) == 0 {
		return g
	}
	c := plan(context.Background(), refs, whole, 1)
	var depth int
	g.nodes, depth = c.layOut(nil)
	g.tops = depth*wide + wide
	g.places = make([]place, len(refs))
	for _, k := range c.leaves {
		nd := &c.two[k]
		for j := range nd.n {
			i := refs[nd.first+j].prim()
			g.places[nd.left+j] = place{all[i].Mesh, inverse[i], all[i].Way, i}
		}
	}
	return g
}

func (g *Group) room() (refs, tops int) { return g.refs, g.tops }

// Bounds is the box around all instances.
func (g *Group) Bounds() geom.Box { return g.bounds }

// Empty reports whether there is nothing to hit.
func (g *Group) Empty() bool { return len(g.places) == 0 }

// Bytes is the memory held besides the meshes.
func (g *Group) Bytes() int { return len(g.nodes)*nodeBytes + len(g.places)*88 }

// at is the ray as the mesh sees it; distances are the same, since the direction
// is not brought back to length one. It is false where the mesh is flattened to
// nothing at that moment.
func (p *place) at(r *geom.Ray, tmax, moment float32) (q geom.Ray, ok bool) {
	to, ok := &p.toMesh, true
	if p.way != nil {
		world := Along(p.way, moment)
		var inv geom.Affine
		inv, ok = world.Inverse()
		to = &inv
	}
	return geom.Ray{O: to.Point(r.O), D: to.Vector(r.D), TMin: r.TMin, TMax: tmax}, ok
}

// Closest finds the nearest triangle in the ray's open interval, and which
// instance it belongs to; of several at one distance that of the first instance.
func (g *Group) Closest(s *Stack, r *geom.Ray) (best Hit, instance uint32, found bool) {
	best.T = r.TMax
	g.walk(s, r, func(p *place) (stop bool, reach float32) {
		q, ok := p.at(r, math.Nextafter32(best.T, math.MaxFloat32), s.Moment) // ties are hit, and decided here
		if !ok {
			return false, best.T
		}
		if h, ok := p.mesh.Closest(s, &q); ok && h.T < r.TMax && (h.T < best.T || found && p.index < instance) {
			best, instance, found = h, p.index, true
		}
		return false, best.T
	})
	return best, instance, found
}

// Blocked reports whether any triangle lies in the ray's open interval.
func (g *Group) Blocked(s *Stack, r *geom.Ray) (blocked bool) {
	g.walk(s, r, func(p *place) (stop bool, reach float32) {
		q, ok := p.at(r, r.TMax, s.Moment)
		blocked = ok && p.mesh.Blocked(s, &q)
		return blocked, r.TMax
	})
	return blocked
}

// walk visits the instances whose boxes the ray hits within reach, roughly the
// nearest first, until visit stops it.
func (g *Group) walk(s *Stack, r *geom.Ray, visit func(p *place) (stop bool, reach float32)) {
	if len(g.places) == 0 {
		return
	}
	l := prepare(r.D)
	reach := r.TMax
	var near [wide]float32
	sp := 0
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := &g.nodes[ref]
			if m := n.boxes(r.O, &l, max(r.TMin, nearest), reach, &near); m != 0 {
				sp = push(s.tops, sp, n, m, &near)
			}
		} else {
			first := int(ref & blockMask)
			for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
				var stop bool
				if stop, reach = visit(&g.places[i]); stop {
					return
				}
			}
		}
		for {
			if sp == 0 {
				return
			}
			sp--
			if math.Float32frombits(uint32(s.tops[sp]>>32)) <= reach*farPad {
				ref = uint32(s.tops[sp])
				break
			}
		}
	}
}
