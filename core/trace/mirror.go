package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// How rough a surface may be, and how metallic or coated it has to be, to show what is
// around it as a mirror does.
const (
	mirrorRoughness = 0.25
	mirrorMetal     = 0.5
)

// Mirror is what a mirror-like metal at the centre of a pixel shows: whether the
// mirrored ray leaves without meeting anything, and what light comes from there then.
// ok is false where the camera sees none.
func (t *Tracer) Mirror(x, y int) (part int, leaves bool, light geom.Vec3, ok bool) {
	w := t.w
	t.rng = sampling.NewStream(x, y, 0, w.opt.Seed)
	t.open(0.5)
	e := t.eye
	e.lens = 0
	r := e.ray(float32(x)+0.5, float32(y)+0.5, 0, 0)
	pt := &t.pt
	if !t.firstSeen(r, t.meet(&r, pt, e.cone()), true, pt) || pt.light >= 0 {
		return 0, false, light, false
	}
	part = int(pt.part)
	s := w.surface(pt, 1)
	if s.Metallic < mirrorMetal || s.Roughness > mirrorRoughness {
		return part, false, light, false
	}
	in := pt.p.Sub(r.O).Unit() // but for what clear parts turned aside on the way
	d := onSide(in.Sub(pt.ns.Scale(2*in.Dot(pt.ns))), pt.ng)
	out := geom.Ray{O: pt.off(pt.ng), D: d, TMax: float32(math.Inf(1))}
	if t.meet(&out, &t.tmp, cone{}) {
		return part, false, light, true
	}
	w.set.Escaped(d, func(_ int, radiance geom.Vec3, _ float32) { light = light.Add(radiance) })
	return part, true, light, true
}
