package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/optics"
)

// straightEnough is the cosine of how far clear solids may turn light aside (three
// degrees) for a straight shadow ray to stand for it. Light that is turned further
// is found by paths, which bend; so the two share all light between them.
const straightEnough = 0.9986

// shadowWay is a shadow ray on its way to a light, in a straight line.
type shadowWay struct {
	r    geom.Ray
	in   media // the solids it is in
	keep geom.Vec3
	// bent is how the light that the ray stands for goes here, if each face on the
	// line turns it. Zero: unknown, in a solid that the ray began in.
	bent   geom.Vec3
	astray bool // light would be turned too far
}

// through is the share of light that comes straight from r.O to distance
// r.TMax: zero behind solid surfaces, tinted by clear ones, thinned by alpha.
// in are the solids that r.O lies in. Where paths cannot find the light at all,
// alone, it comes straight however far it would be turned. What catches shadows is
// in the way unless they are its own.
func (t *Tracer) through(r geom.Ray, in media, alone, caught bool) geom.Vec3 {
	w := t.w
	t.turned = false
	if w.solid.blocked(t.stack, &r) {
		return geom.Vec3{}
	}
	s := shadowWay{r: r, in: in, keep: geom.Splat(1)}
	if w.passable.empty() {
		return s.keep
	}
	if in.n == 0 {
		s.bent = r.D
	}
	for n := 0; n < 64; n++ {
		h, pr, ok := w.passable.closest(t.stack, &s.r)
		if !ok {
			if s.in.n > 0 && !math.IsInf(float64(r.TMax), 1) {
				s.keep = s.keep.Mul(s.in.dim(r.TMax - s.r.TMin))
			}
			if !alone && (s.astray || !s.bent.IsZero() && s.bent.Dot(r.D) < straightEnough) {
				t.turned = true
				return geom.Vec3{}
			}
			return s.keep
		}
		pt := &t.tmp
		t.fill(pt, h, &pr, &s.r, cone{})
		s.keep = s.keep.Mul(s.in.dim(h.T - s.r.TMin))
		var pass geom.Vec3
		if pt.f.straight {
			pass = s.cross(w, pt)
		} else if pt.light >= 0 && w.set.Lights[pt.light].NoMirror || caught && w.parts[pt.part].catches {
			pass = geom.Splat(1)
		}
		if pt.f.alpha {
			a := w.alphaAt(pt)
			pass = geom.Splat(1 - a).Add(pass.Scale(a))
		}
		if s.keep = s.keep.Mul(pass); s.keep.Max() < 1e-6 {
			return geom.Vec3{}
		}
		if t.notes {
			t.crossed = append(t.crossed, int(pt.part))
		}
		s.r.TMin = nextAfter(h.T, pt.p)
	}
	return geom.Vec3{} // more layers than light could matter through
}

// windows are the clear faces that a path has passed since it left the last vertex
// where lights were sampled: any, and where, which way and in which solids it left there.
type windows struct {
	any  bool
	o, d geom.Vec3
	in   media
}

// enter remembers where a path comes from that is about to pass a clear face.
func (v *windows) enter(k *walk) {
	if !v.any {
		*v = windows{true, k.r.O, k.r.D, k.in}
	}
}

// straightTo reports whether a shadow ray reaches what a path has hit at a distance
// along its ray. Behind clear solids, which turn the path aside, it may not: that
// light is left to the path.
func (t *Tracer) straightTo(k *walk, dist float32) bool {
	v := &k.windows
	if !v.any {
		return true
	}
	r := geom.Ray{O: v.o, D: k.r.D, TMax: dist}
	if !math.IsInf(float64(dist), 1) {
		to := k.r.At(dist).Sub(v.o)
		d := to.Len()
		r.D, r.TMax = to.Scale(1/max(d, 1e-20)), d*(1-1e-4)
	}
	return !t.through(r, v.in, false, false).IsZero()
}

// cross goes through a clear face and returns the share of light that does.
func (s *shadowWay) cross(w *World, pt *point) (pass geom.Vec3) {
	f := pt.f
	if !f.thin && s.in.hidden(f) {
		s.in = s.in.crossed(f, pt.back)
		return geom.Splat(1)
	}
	of := w.surface(pt, s.in.around(f, pt.back))
	frame := geom.NewFrame(pt.ns)
	straight := s.r.D.Neg()
	if f.thin {
		b := optics.New(&of, frame.ToLocal(straight), false)
		return b.Straight()
	}
	eta := of.IOR
	if pt.back {
		eta = 1 / eta
	}
	if s.bent.IsZero() {
		// The straight line is taken for the way outside, as it is for light that came in.
		b := optics.New(&of, frame.ToLocal(straight), pt.back)
		pass = b.Straight()
		s.astray = s.astray || !nearlyUnbent(straight, pt.ns, of.IOR)
	} else {
		wo := s.bent.Neg()
		// A face that light could only come to from its other side lets none through,
		// nor does total reflection: what comes in by one side of a block does not go out
		// by the next.
		cos := wo.Dot(pt.ns)
		if cos <= 0 {
			return geom.Vec3{}
		}
		b := optics.New(&of, frame.ToLocal(wo), pt.back)
		if pt.back {
			pass = b.StraightOut(cos)
		} else {
			pass = b.Straight()
		}
		s.bent, _ = optics.Refract(wo, pt.ns, eta) // at total reflection pass is nothing
	}
	if s.in = s.in.crossed(f, pt.back); s.in.n == 0 && s.bent.IsZero() {
		s.bent = s.r.D
	}
	return pass
}

// nearlyUnbent reports whether light that has direction wo outside a face of normal
// n, on either side, goes on in it nearly as it came.
func nearlyUnbent(wo, n geom.Vec3, ior float32) bool {
	if wo.Dot(n) < 0 {
		n = n.Neg()
	}
	wi, ok := optics.Refract(wo, n, ior)
	return ok && -wi.Dot(wo) >= straightEnough
}
