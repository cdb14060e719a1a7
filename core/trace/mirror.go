package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// mirrorMetal is how metallic a surface has to be to show what is around it as a mirror
// does.
const mirrorMetal = 0.5

// Mirrored is what a mirror-like metal shows.
type Mirrored struct {
	Part  int       // the metal's
	Way   geom.Vec3 // of the mirrored ray, a unit vector in the world
	Shows int       // the part that it hits; -1: it leaves without hitting anything
	Light geom.Vec3 // that comes from there, if it leaves
}

// Mirror is what a mirror-like metal at the centre of a pixel shows. ok is false where
// the camera sees none.
func (t *Tracer) Mirror(x, y int) (m Mirrored, ok bool) {
	w := t.w
	t.rng = sampling.NewStream(x, y, 0, w.opt.Seed)
	t.open(0.5)
	e := t.camera
	e.lens = 0
	r := e.ray(float32(x)+0.5, float32(y)+0.5, 0, 0)
	pt := &t.pt
	if !t.firstSeen(r, t.intersect(&r, pt, e.cone()), true, pt) || pt.light >= 0 {
		return m, false
	}
	m.Part, m.Shows = int(pt.part), -1
	s := w.surface(pt, 1)
	if s.Metallic < mirrorMetal || s.Roughness > scene.MirrorRoughness {
		return m, false
	}
	in := pt.p.Sub(r.O).Unit() // but for what clear parts turned aside on the way
	m.Way = onSide(in.Sub(pt.ns.Scale(2*in.Dot(pt.ns))), pt.ng)
	out := geom.Ray{O: pt.off(pt.ng), D: m.Way, TMax: float32(math.Inf(1))}
	if t.intersect(&out, &t.tmp, cone{}) {
		m.Shows = int(t.tmp.part)
		return m, true
	}
	w.set.Escaped(m.Way, func(_ int, radiance geom.Vec3, _ float32) { m.Light = m.Light.Add(radiance) })
	return m, true
}
