package preflight

import (
	"math"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

// rayHit is where a ray hits a part: how far along, and whether it comes from behind
// the face, so that it leaves what the part encloses.
type rayHit struct {
	t       float32
	part    int
	leaving bool
	tri     uint32 // of the part
}

// far is how far a ray looks that looks for anything.
const far = math.MaxFloat32

var (
	up   = geom.V(0, 1, 0)
	down = geom.V(0, -1, 0)
)

// hit is where a ray first hits a solid by itself.
func (v *solid) hit(st *accel.Stack, o, d geom.Vec3, from, to float32) (rayHit, bool) {
	h, ok := v.bvh.Closest(st, &geom.Ray{O: o, D: d, TMin: from, TMax: to})
	if !ok {
		return rayHit{}, false
	}
	return rayHit{h.T, v.part, across(&v.tris[h.Prim]).Dot(d) > 0, h.Prim}, true
}

// mostHops is through how many faces a ray is followed for another part.
const mostHops = 48

// next is where a ray first hits a part for which want is true.
func (b *body) next(st *accel.Stack, o, d geom.Vec3, want func(part int) bool) (rayHit, bool) {
	ray := geom.Ray{O: o, D: d, TMin: 0, TMax: far}
	for range mostHops {
		h, ok := b.all.Closest(st, &ray)
		if !ok {
			break
		}
		w := b.owner[h.Prim]
		if want(int(w.part)) {
			return rayHit{h.T, int(w.part), across(&b.solids[w.part].tris[w.tri]).Dot(d) > 0, w.tri}, true
		}
		ray.TMin = math.Nextafter32(h.T, far)
	}
	return rayHit{}, false
}

// ways are directions in which a point within a solid is held to lie within it:
// none of them along an axis, where edges and corners lie in a row.
var ways = []geom.Vec3{
	geom.V(0.9, 0.3, 0.31).Unit(), geom.V(-0.88, 0.29, -0.35).Unit(), geom.V(0.27, 0.91, -0.3).Unit(),
	geom.V(-0.31, -0.9, 0.28).Unit(), geom.V(0.33, -0.28, 0.9).Unit(), geom.V(-0.29, 0.35, -0.89).Unit(),
}

// depth is how far a point lies within a closed solid, metres: the least way out
// along any of some directions and the axes. false for a point outside.
func (v *solid) depth(st *accel.Stack, p geom.Vec3) (float32, bool) {
	least := float32(far)
	for _, d := range ways {
		h, ok := v.hit(st, p, d, 0, far)
		if !ok || h.leaving != (v.volume > 0) {
			return 0, false
		}
		least = min(least, h.t)
	}
	for axis := range 3 {
		for _, sign := range []float32{1, -1} {
			d := [3]geom.Vec3{geom.V(sign, 0, 0), geom.V(0, sign, 0), geom.V(0, 0, sign)}[axis]
			if h, ok := v.hit(st, p, d, 0, least); ok {
				least = h.t
			}
		}
	}
	return least, true
}

// holds tells whether a box holds a point, with so much room around it.
func holds(b *geom.Box, p geom.Vec3, room float32) bool {
	return p.X >= b.Min.X-room && p.X <= b.Max.X+room && p.Y >= b.Min.Y-room && p.Y <= b.Max.Y+room && p.Z >= b.Min.Z-room && p.Z <= b.Max.Z+room
}
