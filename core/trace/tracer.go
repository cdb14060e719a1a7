package trace

import (
	"math"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/sampling"
)

// Tracer is the scratch of one goroutine over a shared world.
type Tracer struct {
	w     *World
	stack *accel.Stack
	rng   sampling.Stream
	// The moment of the shutter, and what is somewhere else at another.
	moment float32
	eye    eye
	drifts []drift
	moved  part
	// light gathers the elements of the sample being traced.
	light  []geom.Vec3
	beauty geom.Vec3
	caught caught
	// branches are paths that split off and are still to be followed.
	branches []walk
	pt       point // the surface being scattered at
	tmp      point // surfaces passed by shadow rays
}

// NewTracer makes scratch for one goroutine.
func (w *World) NewTracer() *Tracer {
	return &Tracer{w: w, eye: w.eye, drifts: make([]drift, len(w.drifters)), stack: accel.NewStack(w.solid.flat, w.solid.shared, w.passable.flat, w.passable.shared), light: make([]geom.Vec3, len(w.elements.names))}
}

// Sets of sample dimensions. Each vertex of a path has its own block.
const (
	dimPixel  = 0
	dimMoment = 1 << 15
	dimAO     = 1 << 16
	dimDraws  = 1 << 20 // further samples of one light where the camera looks
	dimVertex = 16      // from here on, vertexDims for each vertex
	// Within a vertex: scatter, roulette and alpha, choice, then one set per light.
	dimScatter = 0
	dimExtra   = 1
	dimLight   = 2
	vertexDims = 64
)

// manyLights is the number of lights above which even the first vertex samples
// one, chosen by expected contribution, instead of each.
const manyLights = 12

// meet finds the nearest surface of either layer.
func (t *Tracer) meet(r *geom.Ray, pt *point, wide cone) bool {
	w := t.w
	h, pr, ok := w.solid.closest(t.stack, r)
	if !w.passable.empty() {
		q := *r
		if ok {
			q.TMax = h.T
		}
		if h2, pr2, ok2 := w.passable.closest(t.stack, &q); ok2 {
			h, ok, pr = h2, true, pr2
		}
	}
	if !ok {
		return false
	}
	t.fill(pt, h, &pr, r, wide)
	return true
}

// through is the share of light that comes straight from r.O to distance
// r.TMax: zero behind solid surfaces, tinted by clear ones, thinned by alpha.
// in are the solids that r.O lies in. What catches shadows is in the way unless
// they are its own.
func (t *Tracer) through(r geom.Ray, in media, caught bool) geom.Vec3 {
	w := t.w
	if w.solid.blocked(t.stack, &r) {
		return geom.Vec3{}
	}
	keep := geom.Splat(1)
	if w.passable.empty() {
		return keep
	}
	wo := r.D.Neg()
	var bent geom.Vec3 // the way light would go in the one body that the ray is in
	for n := 0; n < 64; n++ {
		h, pr, ok := w.passable.closest(t.stack, &r)
		if !ok {
			if in.n > 0 && !math.IsInf(float64(r.TMax), 1) {
				keep = keep.Mul(in.dim(r.TMax - r.TMin))
			}
			return keep
		}
		pt := &t.tmp
		t.fill(pt, h, &pr, &r, cone{})
		keep = keep.Mul(in.dim(h.T - r.TMin))
		var pass geom.Vec3
		if f := pt.f; f.straight {
			if f.thin || !in.hidden(f) {
				s := w.surface(pt, in.around(f, pt.back))
				frame := geom.NewFrame(pt.ns)
				b := optics.New(&s, frame.ToLocal(wo), pt.back && !f.thin)
				// The normal is on the side of the ray's origin: of a body's inside, within.
				switch cos := -bent.Dot(pt.ns); {
				case f.thin || in.n > 1 || in.n == 1 && !pt.back || !t.flat(pt):
					// Of a curved body light finds another way out than the straight line does.
					pass, bent = b.Straight(), geom.Vec3{}
				case pt.back && cos > 0:
					pass = b.StraightOut(cos)
				case pt.back && !bent.IsZero():
					pass = geom.Vec3{} // it would come to this side from without
				default:
					pass = b.Straight()
					if !pt.back {
						bent, _ = optics.Refract(wo, pt.ns, s.IOR)
					}
				}
			} else {
				pass = geom.Splat(1)
			}
			if !f.thin {
				in = in.crossed(f, pt.back)
			}
		} else if pt.light >= 0 && w.set.Lights[pt.light].NoMirror || caught && w.parts[pt.part].catches {
			pass = geom.Splat(1)
		}
		if pt.f.alpha {
			a := w.alphaAt(pt)
			pass = geom.Splat(1 - a).Add(pass.Scale(a))
		}
		if keep = keep.Mul(pass); keep.Max() < 1e-6 {
			return geom.Vec3{}
		}
		r.TMin = nextAfter(h.T, pt.p)
	}
	return geom.Vec3{} // more layers than light could matter through
}

// flat tells whether the face met is one of a body with flat sides, rather than a
// piece of a curved one.
func (t *Tracer) flat(pt *point) bool {
	m := t.w.parts[pt.part].mesh
	if len(m.Normals) == 0 {
		return true
	}
	i := m.Indices[pt.hit.Prim*3 : pt.hit.Prim*3+3]
	const same = 0.9998 // a degree
	a, b, c := m.Normals[i[0]], m.Normals[i[1]], m.Normals[i[2]]
	return a.Dot(b) > same && a.Dot(c) > same && b.Dot(c) > same
}

// nextAfter is a distance just beyond t for a surface at p: past its rounding
// error, so that the same surface is not met again.
func nextAfter(t float32, p geom.Vec3) float32 {
	return t + 4e-7*(t+geom.Abs(p.X)+geom.Abs(p.Y)+geom.Abs(p.Z)) + 1e-9
}

func (t *Tracer) record(element int, c geom.Vec3, indirect bool) {
	if !c.Finite() {
		return
	}
	if limit := t.w.opt.Clamp; limit > 0 && indirect {
		if m := c.Max(); m > limit {
			c = c.Scale(limit / m)
		}
	}
	t.light[element] = t.light[element].Add(c)
	t.beauty = t.beauty.Add(c)
}
