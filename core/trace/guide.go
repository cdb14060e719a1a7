package trace

import "amberproof/core/optics"

// guideBy takes the surface t.pt for the one that guides show of a path.
func (t *Tracer) guideBy(k *walk, b *optics.BSDF) {
	g, pt := &t.guide, &t.pt
	k.guided = true
	g.Albedo = g.Albedo.Add(k.throughput.Mul(b.Reflectance()))
	g.Normal = g.Normal.MulAdd(pt.ns, k.share)
	g.Far += k.share * (k.far + pt.t)
}
