package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// ink draws what lines there are where a path has hit t.pt, or nothing. It reports
// whether nothing of the path is left to be followed.
func (t *Tracer) ink(k *walk, hit bool) (done bool) {
	l := t.w.lines
	if l == nil || !k.pens.any {
		return false
	}
	here := mark{}
	if hit && t.w.parts[t.pt.part].drawn {
		here = markOf(&t.pt)
	}
	amount, distance := float32(0), float32(0)
	alive := false
	for i := range k.pens.rays {
		if !k.pens.live[i] {
			continue
		}
		r := &k.pens.rays[i]
		there := &t.marks[i]
		*there = t.hitMark(*r, k)
		if amount == 0 && t.edge(k, &here, there, r)&l.kinds != 0 {
			distance = float32(math.MaxFloat32)
			for _, m := range []*mark{&here, there} {
				if m.hit {
					distance = min(distance, k.far+m.t)
				}
			}
			amount = l.strength(distance)
		}
		// Beyond an edge a pen sees something else.
		k.pens.live[i] = there.hit && here.hit && there.part == here.part
		alive = alive || k.pens.live[i]
	}
	k.pens.any = alive && l.Through
	if amount == 0 {
		return false
	}
	t.inked += k.throughput.Max() * k.clean * amount
	k.clean *= 1 - amount
	if l.Apart {
		return false
	}
	if w := t.w; w.lineElement >= 0 {
		t.record(k, w.lineElement, 0, k.throughput.Mul(l.Tone).Scale(amount))
	}
	t.covered += k.share * amount
	k.share *= 1 - amount
	k.throughput = k.throughput.Scale(1 - amount)
	return amount >= 1
}

// hitMark is what a pen hits: what the path would, had it gone there.
func (t *Tracer) hitMark(r geom.Ray, k *walk) mark {
	w, pt := t.w, &t.tmp
	for range mostHoles {
		if !t.intersect(&r, pt, k.wide) || w.parts[pt.part].catches {
			return mark{}
		}
		hole := w.parts[pt.part].absent || pt.light >= 0 && invisible(&w.set.Lights[pt.light], k.seen) ||
			pt.f.alpha && t.rng.One(dimVertex+k.vertex*vertexDims+dimExtra, extraHole) >= w.alphaAt(pt) ||
			pt.f.solid() && k.in.hidden(pt.f)
		if !hole {
			if !w.parts[pt.part].drawn {
				return mark{}
			}
			return markOf(pt)
		}
		r.TMin = nextAfter(pt.t, pt.p)
	}
	return mark{}
}

const (
	// alongArc is how far a chord of a bent surface may be from level with the mean of
	// the normals at its ends, as a sine.
	alongArc = 0.35
	// asideOf is how far a place may be off the plane of a face to be at its edge, by the
	// distance of the two points that the edge is looked for between.
	asideOf = 0.3
	// deepest is how much deeper than wide a fold may be, as seen, for its sides to touch.
	deepest = 4
)

// edge tells which edges are between what a path has hit and what a pen has.
func (t *Tracer) edge(k *walk, a, b *mark, pen *geom.Ray) lineKinds {
	switch {
	case !a.hit && !b.hit:
		return 0
	case !a.hit:
		return outline | t.crosses(b, k.r.D, k.r.At(b.t), border)
	case !b.hit:
		return outline | t.crosses(a, k.r.D, pen.At(a.t), border)
	}
	d := k.r.D
	wide := pen.At(a.t).Sub(a.p)
	wide = wide.MulAdd(d, -wide.Dot(d))
	if !joined(a, b, d, wide) {
		near, to := a, pen.At(a.t)
		if b.t < a.t {
			near, to = b, k.r.At(b.t)
		}
		return outline | t.crosses(near, d, to, border)
	}
	if a.part != b.part {
		return boundary | t.crosses(a, d, b.p, border) | t.crosses(b, d, a.p, border)
	}
	return t.crosses(a, d, b.p, crease|border)
}

// joined tells whether two points are of surfaces that hang together between them, as
// seen along d with the second wide of the first: bent evenly from the one to the other,
// or in a fold at which their planes meet.
func joined(a, b *mark, d, wide geom.Vec3) bool {
	way := b.p.Sub(a.p)
	slack := 8e-7 * (geom.Abs(a.p.X) + geom.Abs(a.p.Y) + geom.Abs(a.p.Z) + a.t)
	away := way.Len()
	sum := a.n.Add(b.n)
	if steep := max(min(-a.n.Dot(d), -b.n.Dot(d)), 1e-3); geom.Abs(sum.Dot(way)) <= alongArc*sum.Len()*away+slack &&
		sum.Len() > 1 && away*steep <= 4*wide.Len()+slack {
		return true
	}
	// In the plane of d and wide: by how much each surface goes deeper for a step aside.
	l := wide.Len()
	if l == 0 {
		return true
	}
	e := wide.Scale(1 / l)
	deeper := func(n geom.Vec3) float32 { return -n.Dot(e) / min(n.Dot(d), -1e-6) }
	sa, sb := deeper(a.n), deeper(b.n)
	x, deep := way.Dot(e), way.Dot(d)
	if sa == sb || !(x > 0) {
		return false
	}
	fold := (deep - sb*x) / (sa - sb) // from the first
	return fold > -0.25*x-slack && fold < 1.25*x+slack && geom.Abs(sa*fold) <= deepest*x+slack && geom.Abs(sb*(x-fold)) <= deepest*x+slack
}

// crosses tells which of some kinds of edges of the part at a mark are crossed, as seen
// along d, on the way from it to a place.
func (t *Tracer) crosses(a *mark, d, to geom.Vec3, kinds lineKinds) (found lineKinds) {
	kinds &= t.w.lines.kinds
	p := t.part(a.part)
	tree := p.edges
	if kinds == 0 || tree == nil || len(tree.nodes) == 0 {
		return 0
	}
	back, ok := p.world.Inverse()
	if !ok {
		return 0
	}
	way := to.Sub(a.p)
	far := way.Len()
	from, end := back.Point(a.p), back.Point(to)
	down := back.Vector(d).Unit()
	ahead := end.Sub(from)
	reach := ahead.Len()
	ahead = ahead.MulAdd(down, -ahead.Dot(down))
	l2 := ahead.Len2()
	if l2 == 0 {
		return 0
	}
	across := down.Cross(ahead)
	box := geom.EmptyBox().Extend(from).Extend(end)
	grow := geom.Splat(reach)
	box.Min, box.Max = box.Min.Sub(grow), box.Max.Add(grow)
	tree.near(box, func(e *scene.Edge) bool {
		kind := crease
		if e.Border {
			kind = border
		}
		if kind&kinds == 0 || found&kind != 0 {
			return false
		}
		u, v := e.A.Sub(from), e.B.Sub(from)
		su, sv := u.Dot(across), v.Dot(across)
		if su > 0 == (sv > 0) {
			return false
		}
		q := u.Lerp(v, su/(su-sv))
		x := q.Dot(ahead)
		if x < 0 || x >= l2 {
			return false
		}
		// It is an edge of what is seen here, and not one behind.
		at := p.world.Vector(q)
		if geom.Abs(at.Dot(a.n)) > asideOf*far {
			return false
		}
		found |= kind
		return found == kinds
	})
	return found
}

// turnPens sends the pens on as the path goes on from t.pt, mirrored or through; eta is
// the relative index of refraction where it goes through a solid's side.
func (t *Tracer) turnPens(k *walk, through bool, eta float32) {
	if !k.pens.any {
		return
	}
	pt := &t.pt
	for i := range k.pens.rays {
		if !k.pens.live[i] {
			continue
		}
		m, r := &t.marks[i], &k.pens.rays[i]
		side := m.n
		switch {
		case !through:
			r.D = onSide(r.D.MulAdd(m.ns, -2*r.D.Dot(m.ns)), m.n)
		case pt.f.thin:
			side = side.Neg()
		default:
			bent, ok := optics.Refract(r.D.Neg(), m.ns, eta)
			if !ok {
				k.pens.live[i] = false
				continue
			}
			side = side.Neg()
			r.D = onSide(bent.Unit(), side)
		}
		r.O, r.TMin, r.TMax = geom.OffsetOrigin(m.p.MulAdd(side, pt.slack), side), 0, float32(math.Inf(1))
	}
}
