package trace

import (
	"fmt"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/scene"
)

// Shutter says between which moments of a motion the picture is taken. The zero
// value takes it of what stands still.
type Shutter struct {
	Motion      int     // of the scene
	Open, Close float32 // seconds
	// Blur shows what moves all along its way. Else it stands as the scene has it,
	// and its way is told by the motion pass only.
	Blur bool
}

// ways are those of the objects that move while the shutter is open.
func (h *Shutter) ways(s *scene.Scene) (map[int][]geom.Affine, error) {
	if !(h.Close > h.Open) || h.Motion < 0 || h.Motion >= len(s.Motions) {
		return nil, nil
	}
	ways := s.Sweep(h.Motion, h.Open, h.Close)
	for i, way := range ways {
		for k := range way {
			if o := way[k].Origin(); !way[k].Finite() || geom.Max3(o, o.Neg()).Max() > scene.Reach {
				return nil, fmt.Errorf("the animation takes %q absurdly far out while the shutter is open; shorten the shutter, or mend the animation", s.Objects[i].Name)
			}
		}
	}
	return ways, nil
}

// place puts a part somewhere else, and its way with it.
func (p *part) place(world geom.Affine) {
	if inv, ok := p.world.Inverse(); ok && p.way != nil {
		ride := inv.Mul(world)
		way := make([]geom.Affine, len(p.way))
		for k := range way {
			way[k] = p.way[k].Mul(ride)
		}
		p.way = way
	}
	p.world = world
}

// rigidTo is how far lengths may change for a way to count as that of a solid.
const rigidTo = 2e-3

// rigid reports whether a way neither stretches nor mirrors what goes along it.
func rigid(way []geom.Affine) bool {
	inv, ok := way[0].Inverse()
	for k := 0; ok && k < len(way); k++ {
		d := way[k].Mul(inv)
		for i := range 3 {
			for j := range i + 1 {
				want := float32(0)
				if i == j {
					want = 1
				}
				a, b := d.Axis(i), d.Axis(j)
				ok = ok && geom.Abs(a.Dot(b)-want) <= rigidTo
			}
		}
		ok = ok && d.Det() > 0
	}
	return ok
}

// turnedOnly is a place without its scale and shear, which lights without a
// surface do not follow.
func turnedOnly(w geom.Affine) geom.Affine {
	z := w.Axis(2).Unit()
	x := w.Axis(0)
	x = x.Sub(z.Scale(x.Dot(z))).Unit()
	y, o := z.Cross(x), w.Origin()
	return geom.Affine{x.X, y.X, z.X, o.X, x.Y, y.Y, z.Y, o.Y, x.Z, y.Z, z.Z, o.Z}
}

// drifter is a light that moves as a solid while the shutter is open.
type drifter struct {
	light int
	way   []geom.Affine
	back  geom.Affine // from where the light set has it to its own space
}

// drifts makes the light added last move along a way; world is where it was added.
func (w *World) drifts(way []geom.Affine, world geom.Affine) {
	back, ok := world.Inverse()
	if !ok {
		return
	}
	i := len(w.set.Lights) - 1
	w.set.Lights[i].Roams = true
	w.drifters = append(w.drifters, drifter{i, way, back})
}

// drift is the motion of a light up to now. Lights are sampled where the set has
// them: what asks is brought there, and the answer back.
type drift struct {
	light     int
	there, to geom.Affine // to where the set has the light, and from there
}

// drawMoment draws the moment of the camera sample.
func (t *Tracer) drawMoment() float32 {
	if !t.w.opt.Shutter.Blur {
		return 0.5
	}
	u, _ := t.rng.Two(dimMoment)
	return u
}

// open brings everything that moves to a moment of the shutter, from 0 to 1.
func (t *Tracer) open(moment float32) {
	w := t.w
	if !w.opt.Shutter.Blur {
		return
	}
	t.moment, t.stack.Moment = moment, moment
	if way := w.opt.Camera.Way; way != nil {
		at := accel.Along(way, moment)
		t.camera.stand(&at)
	}
	for k := range w.drifters {
		d := &w.drifters[k]
		to := accel.Along(d.way, moment).Mul(d.back)
		there, ok := to.Inverse()
		if !ok {
			there, to = geom.Identity(), geom.Identity()
		}
		t.drifts[k] = drift{d.light, there, to}
	}
}

// part is a part where it is now.
func (t *Tracer) part(i uint32) *part {
	p := &t.w.parts[i]
	if p.way == nil || !t.w.opt.Shutter.Blur {
		return p
	}
	t.moved = *p
	t.moved.world = accel.Along(p.way, t.moment)
	return &t.moved
}

// placed is the way of a part that was put somewhere in its object.
func placed(way []geom.Affine, place *geom.Affine) []geom.Affine {
	if way == nil || place == nil {
		return way
	}
	out := make([]geom.Affine, len(way))
	for k := range way {
		out[k] = way[k].Mul(*place)
	}
	return out
}

// drift is that of a light, or nil.
func (t *Tracer) drift(light int) *drift {
	for k := range t.drifts {
		if t.drifts[k].light == light {
			return &t.drifts[k]
		}
	}
	return nil
}

// sampleLight draws a direction from p to a light.
func (t *Tracer) sampleLight(i int, p geom.Vec3, u, v float32) (lights.Picked, bool) {
	d := t.drift(i)
	if d == nil {
		return t.w.set.Sample(i, p, u, v)
	}
	o := d.there.Point(p)
	k, ok := t.w.set.Sample(i, o, u, v)
	// By the point and not the distance: between two places of its way it is a
	// little nearer to itself, and would be found in its own shadow.
	to := d.to.Point(o.MulAdd(k.Wi, k.Dist)).Sub(p)
	k.Wi, k.Dist = to.Unit(), to.Len()
	return k, ok
}

// lightPDF is the density with which sampleLight would have drawn what hits a
// light at q; see lights.Set.PDF.
func (t *Tracer) lightPDF(i int, p, q geom.Vec3, cos float32, tri int) float32 {
	if d := t.drift(i); d != nil {
		p, q = d.there.Point(p), d.there.Point(q)
	}
	return t.w.set.PDF(i, p, q, cos, tri)
}

// hitSphere is where a ray hits a sphere light.
func (t *Tracer) hitSphere(i int, r *geom.Ray) (at float32, radiance geom.Vec3, ok bool) {
	if d := t.drift(i); d != nil {
		q := geom.Ray{O: d.there.Point(r.O), D: d.there.Vector(r.D).Unit(), TMin: r.TMin, TMax: r.TMax}
		return t.w.set.HitSphere(i, &q)
	}
	return t.w.set.HitSphere(i, r)
}

// swept is how far a point of a surface goes in the frame while the shutter is
// open, in pixels to the right and up; false where it is out of sight at either end.
func (t *Tracer) swept(pt *point) (x, y float32, ok bool) {
	w := t.w
	p := &w.parts[pt.part]
	way := w.opt.Camera.Way
	if p.way == nil && way == nil {
		return 0, 0, true
	}
	at := func(world *geom.Affine) geom.Vec3 {
		tri := triangle(p.mesh, int(pt.hit.Prim)*3, world)
		return tri.A.Scale(1 - pt.hit.U - pt.hit.V).Add(tri.B.Scale(pt.hit.U)).Add(tri.C.Scale(pt.hit.V))
	}
	var ends [2][2]float32
	for k := range ends {
		world, e := &p.world, t.w.camera
		if p.way != nil {
			world = &p.way[k*(len(p.way)-1)]
		}
		if way != nil {
			e.stand(&way[k*(len(way)-1)])
		}
		if ends[k][0], ends[k][1], ok = e.seen(at(world)); !ok {
			return 0, 0, false
		}
	}
	return ends[1][0] - ends[0][0], ends[0][1] - ends[1][1], true
}
