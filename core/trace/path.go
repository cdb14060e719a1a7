package trace

import (
	"math"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// arrival remembers the last vertex at which lights were sampled: what a light
// hit later must be weighed against (multiple importance sampling, Veach 1995).
type arrival struct {
	lights.Receiver
	pdf   float32 // density of the direction taken; infinite: lights were not sampled
	chose bool    // one light was chosen there; else all were sampled, faint ones by chance
	much  float32 // what a light must be expected to give there to be sampled for sure
}

func (a *arrival) sampled() bool { return !math.IsInf(float64(a.pdf), 1) }

// weight of a scattered ray that hit light i, whose own sampling has density pl.
func (t *Tracer) weight(a *arrival, i int, pl float32) float32 {
	if !a.sampled() {
		return 1
	}
	set := &t.w.set
	if a.chose {
		pl *= set.Chance(i, &a.Receiver)
	} else {
		pl *= set.Lights[i].Drawn(set.Expect(i, &a.Receiver), a.much)
	}
	return sampling.Balance(a.pdf, pl)
}

// invisible reports whether a ray passes a light as if it were not there.
func invisible(l *lights.Light, seen bool) bool {
	if seen {
		return l.Hidden
	}
	return l.NoMirror
}

// hitLight records light c of light i, that a path has hit at a distance along its ray; pl
// is the density with which its own sampling would have found it. Nothing is
// recorded where only light sampling counts.
func (t *Tracer) hitLight(k *walk, i int, c geom.Vec3, pl, dist float32) {
	l := &t.w.set.Lights[i]
	turns := k.scatters
	if k.from.sampled() {
		switch {
		case l.Alone():
			return
		case t.straightTo(k, dist):
			c = c.Scale(t.weight(&k.from, i, pl))
		default:
			turns++ // by the solids between
			c = c.Scale(t.bentWeight(k, i, pl, dist))
		}
	}
	t.record(k, l.Element, turns, c)
}

// walk is a path on its way.
type walk struct {
	r          geom.Ray
	throughput geom.Vec3
	share      float32 // of the camera sample's alpha
	from       arrival
	windows    windows
	in         media
	wide       cone
	vertex     uint32
	branched   bool   // it is one of those that a surface made: behind half clear panes each would make more
	stream     uint32 // added to its dimensions, so that branches do not draw alike
	colour     int    // the only channel left once a dispersive solid has bent the path; -1: all
	bounced    [3]int
	last       bool        // it has used up its bounces
	seen       bool        // nothing but windows and holes since the camera
	scatters   int         // its turns; passages that shadow rays make too are not counted
	first      optics.Kind // of turn
	splits     int
	whole      float32 // throughput that roulette takes for all there is: that where the path split off
	guided     bool    // it has hit what guides show
	far        float32 // length of the way behind, while it has not
	pens       pens
	clean      float32 // what lines have left of it
}

// unsampled is an arrival at no vertex where lights were sampled.
var unsampled = arrival{pdf: float32(math.Inf(1))}

// mostSplits is how many times the camera's ray is followed both ways at clear
// surfaces: what glass mirrors would else be hit by few samples, and sparkle.
const mostSplits = 4

// mostHoles bounds what a ray passes as if it were not there.
const mostHoles = 128

// path follows one camera ray and leaves its light in t.light and t.beauty.
// The result is the alpha of the sample.
func (t *Tracer) path(r geom.Ray) (alpha float32) {
	for i := range t.light {
		t.light[i] = geom.Vec3{}
	}
	t.beauty, t.caught, t.paths, t.guide, t.inked, t.covered = geom.Vec3{}, caught{}, t.paths[:0], film.Guide{}, 0, 0
	t.branches = append(t.branches[:0], walk{
		r: r, throughput: geom.Splat(1), whole: 1, share: 1, from: unsampled, wide: t.w.camera.cone(), colour: -1, seen: true, pens: t.pens, clean: 1,
	})
	for len(t.branches) > 0 {
		k := t.branches[len(t.branches)-1]
		t.branches = t.branches[:len(t.branches)-1]
		a := t.follow(&k) // splitting changes k's share
		alpha += a * k.share
	}
	return alpha + t.covered
}

// follow goes on with a path to its end and returns its alpha.
func (t *Tracer) follow(k *walk) float32 {
	w := t.w
	pt := &t.pt
	for ; ; k.vertex++ {
		dim := dimVertex + k.vertex*vertexDims + k.stream
		var hit bool
		if first := &t.foreseen; first.known {
			if hit = first.hits; hit {
				t.fill(pt, first.hit, &first.at, &k.r, k.wide)
			}
			first.known = false
		} else {
			hit = t.intersect(&k.r, pt, k.wide)
		}
		if k.vertex == 0 {
			t.opening, t.opened = *pt, hit
		}
		reach := k.r.TMax
		if hit {
			reach = pt.t
		}
		if t.hitSpheres(k, reach) {
			return 1
		}
		if !hit {
			if t.ink(k, false) {
				return 1
			}
			return t.escape(k)
		}
		if k.in.n > 0 {
			k.throughput = k.throughput.Mul(k.in.dim(pt.t - k.r.TMin))
		}
		if k.seen && w.parts[pt.part].catches {
			if t.ink(k, false) {
				return 1
			}
			t.catch(k, dim+dimLight)
			return 0
		}
		if t.passes(k, dim) {
			// The ray goes on as if nothing were there.
			if k.r.TMin = nextAfter(pt.t, pt.p); k.vertex > mostHoles {
				return 1
			}
			continue
		}
		if t.ink(k, true) {
			return 1
		}
		if e := w.emission(pt); !e.IsZero() {
			t.hitGlow(k, k.throughput.Mul(e))
		}
		if k.last {
			return 1
		}
		solid := pt.f.solid()
		s := w.surface(pt, k.in.around(pt.f, solid && pt.back))
		if c := pt.f.crevice; c != nil {
			t.close(k, c, &s)
		}
		if solid && pt.f.Dispersion > 0 {
			if k.colour < 0 {
				k.colour = min(int(t.rng.One(dim+dimExtra, extraColour)*3), 2)
				k.throughput = only(k.throughput, k.colour)
			}
			s.IOR *= dispersed(&pt.f.Finish, k.colour)
		}
		frame := pt.frame()
		if !pt.coat.IsZero() {
			s.CoatNormal = frame.ToLocal(pt.coat)
		}
		b := optics.New(&s, frame.ToLocal(k.r.D.Neg()), pt.back && !pt.f.thin)
		next := unsampled
		if !b.AllDelta() {
			if t.branching && k.scatters == 0 && !k.branched {
				b.Branch(t.times)
			}
			if t.guides && !k.guided {
				t.guideBy(k, &b)
			}
			next = t.direct(k, &b, &frame, dim+dimLight)
		}
		smp, ok := t.scatter(k, &b, &frame, next, s.Roughness, dim)
		if !ok || !t.bounce(k, &smp, &frame, next, s.Roughness) {
			return 1
		}
		// Roulette by what is left of the light (unbiased: the rest is scaled up). What a
		// path split off with is not held against it: a flame seen twice mirrored is faint by
		// its glass, not by chance.
		if k.vertex >= 2 {
			p := min(k.throughput.Max()/k.whole, 0.95)
			if !(t.rng.One(dim+dimExtra, extraRoulette) < p) {
				return 1
			}
			k.throughput = k.throughput.Scale(1 / p)
		}
	}
}

// passes reports whether the surface hit is none for this path: a light hidden
// from it, a part that only throws its shadow, a hole, or a solid's side within one of
// higher priority.
func (t *Tracer) passes(k *walk, dim uint32) bool {
	pt := &t.pt
	if t.w.parts[pt.part].absent && k.bounced[optics.Diffuse] == 0 {
		return true
	}
	if pt.light >= 0 && invisible(&t.w.set.Lights[pt.light], k.seen) {
		return true
	}
	if pt.f.alpha && t.rng.One(dim+dimExtra, extraHole) >= t.w.alphaAt(pt) {
		return true
	}
	if pt.f.solid() && k.in.hidden(pt.f) {
		k.windows.enter(k)
		k.in = k.in.crossed(pt.f, pt.back)
		return true
	}
	return false
}

// hitGlow adds the light c of the glowing surface hit.
func (t *Tracer) hitGlow(k *walk, c geom.Vec3) {
	w, pt := t.w, &t.pt
	i := int(pt.light)
	if i < 0 {
		t.record(k, int(w.parts[pt.part].element), k.scatters, c)
		return
	}
	pl := float32(0)
	if k.from.sampled() {
		wi := pt.p.Sub(k.from.P)
		d2 := wi.Len2()
		wi = wi.Unit()
		pl = t.lightPDF(i, k.from.P, pt.p, geom.Abs(wi.Dot(pt.ng)), int(pt.hit.Prim))
		c = c.Scale(w.set.Lights[i].Fade(d2))
	}
	t.hitLight(k, i, c, pl, pt.t)
}

// scatter draws where the path goes on. What the camera sees of smooth clear
// surfaces it follows both ways: the mirrored one is kept for later, as all are but the first
// where more are drawn.
func (t *Tracer) scatter(k *walk, b *optics.BSDF, frame *geom.Frame, next arrival, rough float32, dim uint32) (optics.Sample, bool) {
	if k.seen && b.Draws() == 1 && k.splits < mostSplits && k.bounced[optics.Clear] < t.w.opt.ClearBounces {
		if mirror, through, reflected, ok := b.Split(); ok {
			k.splits++
			m := *k
			m.share *= reflected
			k.share *= 1 - reflected
			if t.depart(&m, &mirror, frame, arrival{}, rough) {
				m.vertex++
				m.whole = m.throughput.Max()
				t.branches = append(t.branches, m)
			}
			return through, true
		}
	}
	uc, u, v, _ := t.rng.Four(dim + dimScatter)
	if b.Draws() > 1 {
		t.branch(k, b, frame, next, rough, dim, uc)
	}
	return b.Sample(uc, u, v)
}

// branch keeps for later all directions but the first of those that are drawn of a surface; uc is
// what that one draws its lobe by.
func (t *Tracer) branch(k *walk, b *optics.BSDF, frame *geom.Frame, next arrival, rough float32, dim uint32, uc float32) {
	all := 1
	for uc+float32(all) < b.Draws() {
		all++
	}
	k.branched = true
	k.share /= float32(all)
	k.whole /= b.Draws()
	for j := 1; j < all; j++ {
		u, v := t.rng.Two(dimBranch + dim*64 + uint32(j))
		m := *k
		m.stream = uint32(j) * dimStream
		smp, ok := b.Sample(uc+float32(j), u, v)
		if !ok || !t.bounce(&m, &smp, frame, next, rough) {
			t.covered += m.share
			continue
		}
		m.vertex++
		t.branches = append(t.branches, m)
	}
}

// bounce sends the path on its way as depart does, if it has bounces of that kind left.
func (t *Tracer) bounce(k *walk, smp *optics.Sample, frame *geom.Frame, next arrival, rough float32) bool {
	o := &t.w.opt
	if k.bounced[smp.Kind] >= [3]int{o.DiffuseBounces, o.GlossyBounces, o.ClearBounces}[smp.Kind] {
		if smp.Delta {
			return false
		}
		// One ray more, only to hit lights: the light sampling above was weighed
		// against it, and without it every last bounce would be too dark.
		k.last = true
	}
	return t.depart(k, smp, frame, next, rough)
}

// depart sends the path on its way from the surface hit; next is how lights
// were sampled there. It reports false where the direction makes no sense.
func (t *Tracer) depart(k *walk, smp *optics.Sample, frame *geom.Frame, next arrival, rough float32) bool {
	pt := &t.pt
	k.bounced[smp.Kind]++
	wi := frame.ToWorld(smp.Wi)
	// The side that the true surface says must agree with the shading normal's. Of
	// what is mirrored or let through in one direction nothing may be lost: it is
	// turned to the side it belongs to.
	if side := wi.Dot(pt.nv); smp.Through != (side < 0) {
		if !smp.Delta {
			return false
		}
		to := pt.nv
		if smp.Through {
			to = to.Neg()
		}
		wi = onSide(wi, to)
	}
	k.throughput = k.throughput.Mul(smp.Weight)
	k.far += pt.t
	window := smp.Delta && smp.Through && pt.f.clear
	if k.pens.any {
		if smp.Delta {
			t.turnPens(k, smp.Through, pt.bends(&k.in))
		} else {
			k.pens.any = false
		}
	}
	if window && pt.f.straight {
		k.windows.enter(k)
	}
	from := pt.lifted
	if smp.Through {
		from = pt.off(pt.ng.Neg())
		if pt.f.solid() {
			k.in = k.in.crossed(pt.f, pt.back)
		}
	}
	switch {
	case window && pt.f.straight:
		// Shadow rays may come through here: the vertex before stays the one to weigh against.
	case smp.Delta:
		k.from, k.windows.any = unsampled, false
	default:
		next.pdf = smp.PDF
		k.from, k.windows.any = next, false
	}
	k.seen = k.seen && window
	if !window || !k.seen && !pt.f.straight {
		if k.scatters == 0 {
			k.first = smp.Kind
		}
		k.scatters++
	}
	k.r = geom.Ray{O: from, D: wi.Unit(), TMax: float32(math.Inf(1))}
	switch {
	case smp.Delta:
		k.wide = k.wide.bounced(pt.t, 0)
	case smp.Kind == optics.Diffuse:
		k.wide = cone{k.wide.at(pt.t), coneOfMatte}
	default:
		k.wide = k.wide.bounced(pt.t, rough*rough)
	}
	return true
}

// only keeps one channel, for all three.
func only(c geom.Vec3, channel int) geom.Vec3 {
	switch channel {
	case 0:
		return geom.V(3*c.X, 0, 0)
	case 1:
		return geom.V(0, 3*c.Y, 0)
	}
	return geom.V(0, 0, 3*c.Z)
}

// dispersed is the factor on the index of refraction of one channel, of the
// spread that the open glTF 2.0 dispersion extension gives.
func dispersed(f *scene.Finish, channel int) float32 {
	half := (f.IOR - 1) * 0.025 * f.Dispersion
	return 1 + float32(channel-1)*half/f.IOR
}

// direct samples the lights at the vertex t.pt and returns how.
func (t *Tracer) direct(k *walk, b *optics.BSDF, frame *geom.Frame, dim uint32) arrival {
	w := t.w
	at := arrival{Receiver: lights.Receiver{P: t.pt.p}}
	if !b.LetsThrough() {
		at.N = t.pt.nv
	}
	n := len(w.set.Lights)
	// Where the camera looks, every light is sampled, but those that give little only
	// by chance; further along a path, or among many lights, one chosen by what it is
	// expected to give.
	if n <= manyLights && k.scatters == 0 {
		var gives [manyLights]float32
		for i := range n {
			gives[i] = w.set.Expect(i, &at.Receiver)
			at.much += gives[i] * faintShare
		}
		for i := range n {
			draws := w.set.Lights[i].Drawn(gives[i], at.much)
			if draws <= 0 || draws < 1 && t.rng.One(dim+dimFaint-dimLight+uint32(i/4), i&3) >= draws {
				continue
			}
			u, v := t.rng.Two(dim + uint32(i))
			t.fromLight(k, b, frame, i, u, v, draws)
			for j := 1; j < int(draws); j++ {
				u, v := t.rng.Two(dimDraws + dim*64 + uint32(i*64+j))
				t.fromLight(k, b, frame, i, u, v, draws)
			}
		}
		return at
	}
	at.chose = true
	uc, u, v, _ := t.rng.Four(dim)
	if i, chance, _, ok := w.set.Choose(&at.Receiver, uc); ok {
		t.fromLight(k, b, frame, i, u, v, chance)
	}
	return at
}

// fromLight adds what one sample of light i gives; draws is the expected number
// of samples of that light at this vertex.
func (t *Tracer) fromLight(k *walk, b *optics.BSDF, frame *geom.Frame, i int, u, v, draws float32) {
	w, pt := t.w, &t.pt
	at, ok := t.sampleLight(i, pt.p, u, v)
	if !ok {
		return
	}
	local := frame.ToLocal(at.Wi)
	side := at.Wi.Dot(pt.nv)
	if (local.Z > 0) != (side > 0) {
		return
	}
	l := &w.set.Lights[i]
	f, pdf := b.Eval(local)
	if l.NoMirror {
		f = b.Matte(local)
	}
	if f.IsZero() {
		return
	}
	radiance := at.Radiance
	if at.OnMesh {
		radiance = t.glowAt(l, &at)
	}
	c := k.throughput.Mul(f).Mul(radiance).Scale(1 / draws)
	onlySo := l.Alone() // no path hits the light
	if math.IsInf(float64(at.PDF), 1) {
		onlySo = true
	} else {
		mis := float32(1)
		if !onlySo {
			mis = sampling.Balance(at.PDF*draws, pdf)
		}
		c = c.Scale(mis / at.PDF)
	}
	if c.IsZero() && l.CosOuter <= -1 { // by a bent way there may be some
		return
	}
	o, beyond := pt.lifted, k.in
	if side < 0 { // the light comes from the other side of this surface
		o = pt.off(pt.ng.Neg())
		if pt.f.solid() {
			beyond = k.in.crossed(pt.f, pt.back)
		}
	}
	if !l.NoShadows {
		keep := t.through(pt.shadowRay(o, at.Wi, at.Dist), beyond, onlySo, false)
		if t.turned && keep.IsZero() {
			t.fromBent(k, b, frame, i, &at, radiance, o, beyond, draws)
			return
		}
		c = c.Mul(keep)
	}
	if !c.IsZero() {
		t.record(k, l.Element, k.scatters+1, c)
	}
}

// shadowRay goes from o to just before what lies so far from the point along wi.
func (pt *point) shadowRay(o, wi geom.Vec3, dist float32) geom.Ray {
	if math.IsInf(float64(dist), 1) {
		return geom.Ray{O: o, D: wi, TMax: dist}
	}
	to := pt.p.MulAdd(wi, dist).Sub(o)
	d := to.Len()
	return geom.Ray{O: o, D: to.Scale(1 / max(d, 1e-20)), TMax: d * (1 - 1e-4)}
}

// glowAt is the radiance of the sampled point of a glowing mesh towards the vertex.
func (t *Tracer) glowAt(l *lights.Light, k *lights.Picked) geom.Vec3 {
	w := t.w
	p := &w.parts[l.Part]
	f := &w.finishes[p.finish]
	gain := p.gain.Scale(l.Fade(k.Dist * k.Dist))
	if k.Front == p.mirror && !f.DoubleSided {
		return geom.Vec3{}
	}
	if f.EmissionTexture.Image < 0 {
		return f.Emission.Mul(gain)
	}
	var at place
	i := p.mesh.Indices[k.Tri*3:]
	for s := range at.uv {
		if m := p.mesh.UV[s]; len(m) > 0 {
			for j := range at.uv[s] {
				at.uv[s][j] = m[i[0]][j]*(1-k.U-k.V) + m[i[1]][j]*k.U + m[i[2]][j]*k.V
			}
		}
	}
	c, _ := w.texel(&f.EmissionTexture, &at, true)
	return w.hue(f.Emission.Mul(c).Mul(gain))
}

// hitSpheres adds the sphere lights that the ray hits before reach. A ray
// that looks at them, from the camera or a mirror, ends at the first; scattered
// rays pass, as shadow rays do.
func (t *Tracer) hitSpheres(k *walk, reach float32) (ends bool) {
	q := k.r
	q.TMax = reach
	first, firstRad := -1, geom.Vec3{}
	for _, i := range t.w.spheres {
		if invisible(&t.w.set.Lights[i], k.seen) {
			continue
		}
		at, rad, ok := t.hitSphere(i, &q)
		switch {
		case !ok:
		case k.from.sampled():
			t.hitLight(k, i, k.throughput.Mul(rad), t.lightPDF(i, k.from.P, geom.Vec3{}, 1, 0), at)
		default:
			q.TMax, first, firstRad = at, i, rad
		}
	}
	if first >= 0 {
		t.hitLight(k, first, k.throughput.Mul(firstRad), 0, q.TMax)
	}
	return first >= 0
}

// shownBehind reports whether a light without a place is part of the backing:
// the disc of a sun is not.
func (w *World) shownBehind(i int) bool {
	l := &w.set.Lights[i]
	return l.Kind != lights.Sun && !l.Hidden
}

// escape adds what a ray that leaves the scene hits, and returns its alpha.
func (t *Tracer) escape(k *walk) float32 {
	w := t.w
	if k.seen && w.opt.Backing != BackEnvironment {
		if w.opt.Backing == BackClear {
			return 0
		}
		t.record(k, w.backer, 0, k.throughput.Mul(t.backed(&k.r)))
		return 1
	}
	w.set.Escaped(k.r.D, func(i int, rad geom.Vec3, pl float32) {
		l := &w.set.Lights[i]
		if k.seen && !w.shownBehind(i) || invisible(l, k.seen) {
			return
		}
		t.hitLight(k, i, k.throughput.Mul(rad), pl, k.r.TMax)
	})
	return 1
}
