package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/sampling"
)

// A shadow ray that clear solids turn too far to stand for a straight line is bent until
// it hits the point of the light that was drawn (manifold next-event estimation after
// Hanika, Droske & Fascione 2015, by Newton's method from the straight line on): where
// that finds a way it is the one, and a path that came by the same way is weighed against
// it. All other ways are left to paths.

const (
	// mostSteps are taken to find the way.
	mostSteps = 5
	// nearEnough is how near the way must come to the point, as a share of its distance.
	nearEnough = 1e-4
	// sameWay is by how much the directions of one way may differ, as found and as come by.
	sameWay = 2e-3
	// mostFaces is through how many faces a way may lead.
	mostFaces = 12
	// nudge is the angle by which it is found what a way misses the point by for an angle.
	nudge = 1e-3
)

// bent is a way by clear faces from a vertex to a point of a light.
type bent struct {
	wi     geom.Vec3 // where it leaves the vertex
	keep   geom.Vec3 // share of light that it lets through
	spread float32   // area across the way, at the point, for a unit of solid angle at the vertex
	last   geom.Ray  // the stretch that ends at the point
}

// bend finds the way from o, in solids in, to y on a light.
func (t *Tracer) bend(o geom.Vec3, in media, light int, y geom.Vec3) (b bent, ok bool) {
	at := t.pt // the surface being scattered at stays what it is
	defer func() { t.pt = at }()
	to := y.Sub(o)
	far := to.Len()
	if !(far > 0) || math.IsInf(float64(far), 1) {
		return b, false
	}
	b.wi = to.Scale(1 / far)
	way := func(wi geom.Vec3) (k walk, miss geom.Vec3, ok bool) {
		k = walk{r: geom.Ray{O: o, D: wi, TMax: float32(math.Inf(1))}, throughput: geom.Splat(1), in: in, from: unsampled}
		miss, ok = t.refracted(&k, light, y)
		return k, miss, ok
	}
	for range mostSteps {
		k, miss, ok := way(b.wi)
		if !ok {
			return b, false
		}
		f := geom.NewFrame(b.wi)
		_, u, oku := way(b.wi.MulAdd(f.S, nudge).Unit())
		_, v, okv := way(b.wi.MulAdd(f.T, nudge).Unit())
		if !oku || !okv {
			return b, false
		}
		u, v = u.Sub(miss).Scale(1/nudge), v.Sub(miss).Scale(1/nudge) // what it misses by, for an angle
		b.keep, b.last, b.spread = k.throughput, k.r, u.Cross(v).Len()
		if miss.Len() < nearEnough*far {
			return b, b.spread > 0
		}
		// The angles that bring it to y if it goes on so, by least squares (Newton's method).
		uu, uv, vv := u.Dot(u), u.Dot(v), v.Dot(v)
		det := uu*vv - uv*uv
		if !(det > 0) {
			return b, false
		}
		mu, mv := miss.Dot(u), miss.Dot(v)
		b.wi = b.wi.MulAdd(f.S, (uv*mv-vv*mu)/det).MulAdd(f.T, (uv*mu-uu*mv)/det).Unit()
	}
	return b, false
}

// density is that of leaving along the way, per solid angle, of a point of a light with
// normal n that is drawn, by a straight shadow ray along to, with density pl. The point's
// density on the light is the same for both.
func (b *bent) density(pl float32, to, n geom.Vec3) float32 {
	d2 := to.Len2()
	slant := geom.Abs(n.Dot(b.last.D))
	if !(d2 > 0) || slant < 1e-6*n.Len() {
		return 0
	}
	return pl * b.spread * geom.Abs(n.Dot(to)) / (slant * d2 * geom.Sqrt(d2))
}

// refracted follows k by clear faces until it passes y, a point of a light, and returns what
// it misses that by; false where something else is in the way.
func (t *Tracer) refracted(k *walk, light int, y geom.Vec3) (miss geom.Vec3, ok bool) {
	w, pt := t.w, &t.pt
	for range mostFaces {
		hit := t.intersect(&k.r, pt, k.wide)
		near := y.Sub(k.r.O).Dot(k.r.D)
		if !(near > 0) {
			return miss, false
		}
		if !hit || pt.t >= near*(1-1e-3) || int(pt.light) == light {
			if k.in.n > 0 {
				k.throughput = k.throughput.Mul(k.in.dim(near - k.r.TMin))
			}
			return y.Sub(k.r.At(near)), true
		}
		if k.in.n > 0 {
			k.throughput = k.throughput.Mul(k.in.dim(pt.t - k.r.TMin))
		}
		switch {
		case pt.f.solid() && k.in.hidden(pt.f):
			k.in = k.in.crossed(pt.f, pt.back)
			k.r.TMin = nextAfter(pt.t, pt.p)
			continue
		case !pt.f.straight || pt.f.alpha || pt.f.Dispersion > 0:
			return miss, false
		}
		s := w.surface(pt, k.in.around(pt.f, pt.f.solid() && pt.back))
		frame := pt.frame()
		b := optics.New(&s, frame.ToLocal(k.r.D.Neg()), pt.back && !pt.f.thin)
		_, through, _, ok := b.Split()
		if !ok || !t.depart(k, &through, &frame, arrival{}, s.Roughness) {
			return miss, false
		}
	}
	return miss, false
}

// fromBent adds what the sample at of light i gives by a bent way; draws is as in fromLight.
func (t *Tracer) fromBent(k *walk, b *optics.BSDF, frame *geom.Frame, i int, at *lights.Picked, radiance geom.Vec3, o geom.Vec3, in media, draws float32) {
	pt, l := &t.pt, &t.w.set.Lights[i]
	if t.drift(i) != nil {
		return // what moves is left to paths
	}
	to := at.Wi.Scale(at.Dist)
	y := pt.p.Add(to)
	way, ok := t.bend(o, in, i, y)
	if !ok {
		return
	}
	local := frame.ToLocal(way.wi)
	if side := way.wi.Dot(pt.nv); (local.Z > 0) != (side > 0) || (side > 0) != (at.Wi.Dot(pt.nv) > 0) {
		return
	}
	if l.Kind == lights.Sphere { // which may shine another way into its cone
		if _, radiance, ok = t.hitSphere(i, &way.last); !ok {
			return
		}
	}
	f, pdf := b.Eval(local)
	n := l.N
	switch l.Kind {
	case lights.Sphere:
		n = y.Sub(l.P)
	case lights.Mesh:
		tri := &t.w.set.Triangles[l.First+at.Tri]
		n = tri.B.Sub(tri.A).Cross(tri.C.Sub(tri.A))
	}
	pl := way.density(at.PDF, to, n)
	if pl <= 0 {
		return
	}
	c := k.throughput.Mul(f).Mul(radiance).Mul(way.keep).Scale(sampling.Balance(pl*draws, pdf) / (pl * draws))
	if !c.IsZero() {
		t.record(k, l.Element, k.scatters+1, c)
	}
}

// bentWeight is that of a path that has hit light i at a distance along its ray, behind
// clear solids that turned it too far for a straight line; pl is the density with which a
// straight shadow ray would have been drawn there. It is one where no bent shadow ray comes
// the same way.
func (t *Tracer) bentWeight(k *walk, i int, pl, dist float32) float32 {
	if !t.turned || t.drift(i) != nil || pl <= 0 || math.IsInf(float64(dist), 1) {
		return 1 // no shadow ray is bent here
	}
	y := k.r.At(dist)
	to := y.Sub(k.from.P)
	if n := k.from.N; !n.IsZero() && to.Dot(n) <= 0 {
		return 1 // no light is sampled below a surface
	}
	normal := t.pt.ng
	if l := &t.w.set.Lights[i]; l.Kind == lights.Sphere {
		if normal = y.Sub(l.P); normal.Dot(to) >= 0 {
			return 1 // nor on the far side of a sphere
		}
	}
	b, ok := t.bend(k.windows.o, k.windows.in, i, y)
	if !ok || b.wi.Sub(k.windows.d).Len2() > sameWay*sameWay {
		return 1
	}
	return t.weight(&k.from, i, b.density(pl, to, normal))
}
