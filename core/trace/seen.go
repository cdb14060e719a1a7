package trace

import (
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/sampling"
)

// maxWindows bounds how many clear surfaces a see-through pass looks through.
const maxWindows = 32

// firstSeen finds the surface a data pass shows along a camera ray: the first
// one or, looking through, the first that is not clear, along the refracted
// view, so that the pass lies exactly over the beauty. The set of dimensions
// decides where holes are, as on the path itself.
// What catches shadows, and what is behind it, is not shown. In pt is what the ray
// hits first, if it does.
func (t *Tracer) firstSeen(r geom.Ray, hits, through bool, pt *point) bool {
	return t.firstHit(r, hits, through, pt) && !t.w.parts[pt.part].catches
}

// firstHit is firstSeen, but finds what catches shadows as well.
func (t *Tracer) firstHit(r geom.Ray, hits, through bool, pt *point) bool {
	w := t.w
	var in media
	wide := w.camera.cone()
	for n := 0; n < maxWindows; n++ {
		if n > 0 {
			hits = t.intersect(&r, pt, wide)
		}
		if !hits {
			return false
		}
		if w.parts[pt.part].catches {
			return true
		}
		if w.parts[pt.part].absent || pt.light >= 0 && invisible(&w.set.Lights[pt.light], true) {
			r.TMin = nextAfter(pt.t, pt.p)
			continue
		}
		if pt.f.alpha {
			if t.rng.One(uint32(dimVertex+n*vertexDims+dimExtra), extraHole) >= w.alphaAt(pt) {
				r.TMin = nextAfter(pt.t, pt.p)
				continue
			}
		}
		if !through || !pt.f.Clear() {
			return true
		}
		if !pt.f.thin && in.hidden(pt.f) {
			in = in.crossed(pt.f, pt.back)
			r.TMin = nextAfter(pt.t, pt.p)
			continue
		}
		wi, n := r.D, pt.ng.Neg()
		if !pt.f.thin {
			bent, ok := optics.Refract(r.D.Neg(), pt.ns, pt.bends(&in))
			if !ok { // total reflection: what is seen there is the inner mirror image
				bent = pt.ns.Scale(2 * -r.D.Dot(pt.ns)).Add(r.D)
				n = pt.ng
			} else {
				in = in.crossed(pt.f, pt.back)
			}
			wi = bent.Unit()
		}
		wi = onSide(wi, n)
		r = geom.Ray{O: pt.off(n), D: wi, TMax: r.TMax}
		wide = wide.bounced(pt.t, 0)
	}
	return true
}

// occlusion is what the occlusion pass shows of a point: 1 is open.
func (t *Tracer) occlusion(pt *point) float32 {
	o := &t.w.opt
	return t.openness(pt, dimAO, o.AOSamples, o.AOReach, o.AOSeeThrough)
}

// openness is the open share of the cosine-weighted hemisphere over the point within
// reach, metres, by n rays whose directions are the sets of dimensions from dim on: 1 is
// open. Looking through, clear parts do not occlude.
func (t *Tracer) openness(pt *point, dim uint32, n int, reach float32, through bool) float32 {
	f := geom.NewFrame(pt.ns)
	from := pt.lifted
	open := float32(0)
	for i := range n {
		u, v := t.rng.Two(dim + uint32(i))
		// What the smooth normal has above and the facet below is turned up: the surface
		// that both stand for has nothing there.
		d := onSide(f.ToWorld(sampling.CosineHemisphere(u, v)), pt.ng)
		r := geom.Ray{O: from, D: d, TMax: reach}
		if !t.w.solid.blocked(t.stack, &r) {
			open += t.passableLets(&r, through)
		}
	}
	return open / float32(n)
}

// passableLets is how much of an occlusion ray gets past what it hits in the
// passable hierarchy: nothing past clear parts unless looking through, and past
// surfaces with holes or a share of alpha as much as light does.
func (t *Tracer) passableLets(r *geom.Ray, through bool) float32 {
	w := t.w
	if w.passable.empty() {
		return 1
	}
	q := *r
	let := float32(1)
	for n := 0; n < maxWindows; n++ {
		h, pr, ok := w.passable.closest(t.stack, &q)
		if !ok {
			return let
		}
		pt := &t.tmp
		t.fill(pt, h, &pr, &q, cone{})
		if !(through && pt.f.Clear()) {
			if !pt.f.alpha {
				return 0
			}
			let *= 1 - w.alphaAt(pt)
		}
		if let < 1e-4 {
			return 0
		}
		q.TMin = nextAfter(h.T, pt.p)
	}
	return 0
}
