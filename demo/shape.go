package demo

import (
	"math"

	"amberproof/core/geom"
)

// shape is a triangle mesh under construction.
type shape struct {
	pos, nrm []geom.Vec3
	uv       [][2]float32
	idx      []uint32
}

// knot is a corner of a lathe profile in millimetres: radius from the axis,
// height, and the radius of the rounding of the corner.
type knot struct{ r, y, round float64 }

type profilePoint struct {
	x, y, nx, ny float64
}

const arcSteps = 6

// rounded turns knots into a profile with rounded corners and exact normals on
// the left-hand side of the direction of travel. Corners without rounding are
// doubled, so that they shade as edges.
func rounded(k []knot, closed bool) []profilePoint {
	n := len(k)
	dir := func(a, b knot) (float64, float64) {
		dx, dy := b.r-a.r, b.y-a.y
		l := math.Hypot(dx, dy)
		return dx / l, dy / l
	}
	var out []profilePoint
	for i := 0; i < n; i++ {
		if !closed && (i == 0 || i == n-1) {
			j := i
			if i == n-1 {
				j = i - 1
			}
			dx, dy := dir(k[j], k[j+1])
			out = append(out, profilePoint{k[i].r, k[i].y, dy, -dx})
			continue
		}
		prev, cur, next := k[(i+n-1)%n], k[i], k[(i+1)%n]
		ax, ay := dir(prev, cur)
		bx, by := dir(cur, next)
		turn := math.Atan2(ax*by-ay*bx, ax*bx+ay*by)
		if cur.round == 0 || math.Abs(turn) < 1e-3 {
			out = append(out, profilePoint{cur.r, cur.y, ay, -ax}, profilePoint{cur.r, cur.y, by, -bx})
			continue
		}
		t := cur.round * math.Tan(math.Abs(turn)/2)
		t = math.Min(t, 0.49*math.Min(math.Hypot(cur.r-prev.r, cur.y-prev.y), math.Hypot(next.r-cur.r, next.y-cur.y)))
		r := t / math.Tan(math.Abs(turn)/2)
		sx, sy := cur.r-ax*t, cur.y-ay*t
		side := math.Copysign(1, turn)
		cx, cy := sx-ay*r*side, sy+ax*r*side
		for s := 0; s <= arcSteps; s++ {
			a := turn * float64(s) / arcSteps
			nx, ny := ay*math.Cos(a)+ax*math.Sin(a), -ax*math.Cos(a)+ay*math.Sin(a)
			out = append(out, profilePoint{cx + nx*r*side, cy + ny*r*side, nx, ny})
		}
	}
	if closed {
		out = append(out, out[0])
	}
	return out
}

// lathe turns a profile about the Y axis. swell, if given, moves each point
// outwards by millimetres depending on angle (turns) and height.
func lathe(p []profilePoint, segments int, swell func(turn, y float64) float64) *shape {
	s := &shape{}
	if swell != nil {
		p = refine(p, 1)
	}
	var along float64
	for j, q := range p {
		if j > 0 {
			along += math.Hypot(q.x-p[j-1].x, q.y-p[j-1].y)
		}
		for i := 0; i <= segments; i++ {
			turn := float64(i) / float64(segments)
			sin, cos := math.Sincos(2 * math.Pi * turn)
			r, nx, ny, nt := q.x, q.nx, q.ny, 0.0
			if swell != nil {
				const h = 1e-4
				d := swell(turn, q.y)
				r += d
				// The normal tilts against the slopes of the swelling.
				nt = -(swell(turn+h, q.y) - swell(turn-h, q.y)) / (2 * h) / (2 * math.Pi * math.Max(q.x, 1)) * q.nx
				ny -= (swell(turn, q.y+0.01) - swell(turn, q.y-0.01)) / 0.02 * q.nx
			}
			s.pos = append(s.pos, mm(r*cos, q.y, r*sin))
			n := geom.V(float32(nx*cos-nt*sin), float32(ny), float32(nx*sin+nt*cos)).Unit()
			s.nrm = append(s.nrm, n)
			s.uv = append(s.uv, [2]float32{float32(turn * 4), float32(along / 60)})
		}
	}
	w := uint32(segments + 1)
	for j := uint32(0); j+1 < uint32(len(p)); j++ {
		if p[j].x == p[j+1].x && p[j].y == p[j+1].y {
			continue
		}
		for i := uint32(0); i < uint32(segments); i++ {
			a := j*w + i
			if p[j].x > 1e-9 {
				s.idx = append(s.idx, a, a+w, a+1)
			}
			if p[j+1].x > 1e-9 {
				s.idx = append(s.idx, a+1, a+w, a+w+1)
			}
		}
	}
	return s
}

func mm(x, y, z float64) geom.Vec3 {
	return geom.V(float32(x/1000), float32(y/1000), float32(z/1000))
}

// tube sweeps a circle of the given radius (mm) along a path (mm) with round ends.
func tube(path [][3]float64, radius float64, sides int, closed bool) *shape {
	s := &shape{}
	n := len(path)
	at := func(i int) [3]float64 {
		if closed {
			return path[(i+n)%n]
		}
		return path[min(max(i, 0), n-1)]
	}
	vec := func(p [3]float64) geom.Vec3 { return geom.V(float32(p[0]), float32(p[1]), float32(p[2])) }
	tangent := func(i int) geom.Vec3 { return vec(at(i + 1)).Sub(vec(at(i - 1))).Unit() }
	f := geom.NewFrame(tangent(0))
	side := f.S
	var along float32
	ring := func(c geom.Vec3, t, sd geom.Vec3, r, nt float32) {
		up := t.Cross(sd)
		for k := 0; k <= sides; k++ {
			sin, cos := geom.SinCosTurn(float32(k) / float32(sides))
			d := sd.Scale(cos).Add(up.Scale(sin))
			q := c.Add(d.Scale(r))
			s.pos = append(s.pos, q.Scale(0.001))
			s.nrm = append(s.nrm, d.Scale(geom.Sqrt(1-nt*nt)).Add(t.Scale(nt)).Unit())
			s.uv = append(s.uv, [2]float32{float32(k) / float32(sides), along / 60})
		}
	}
	rings := 0
	caps := func(c, t geom.Vec3, sign float32, inward bool) {
		const steps = 6
		for k := 0; k <= steps; k++ {
			a := float64(k) / steps * math.Pi / 2
			if inward {
				a = math.Pi/2 - a
			}
			sin, cos := math.Sincos(a)
			ring(c.MulAdd(t, sign*float32(radius*sin)), t, side, float32(radius*cos), sign*float32(sin))
			rings++
		}
	}
	last := n
	if closed {
		last = n + 1
	}
	for i := 0; i < last; i++ {
		t := tangent(i)
		side = side.Sub(t.Scale(side.Dot(t))).Unit() // carried along without twist
		c := vec(at(i))
		if i > 0 {
			along += c.Sub(vec(at(i - 1))).Len()
		}
		switch {
		case !closed && i == 0:
			caps(c, t, -1, true)
		case !closed && i == n-1:
			caps(c, t, 1, false)
		default:
			ring(c, t, side, float32(radius), 0)
			rings++
		}
	}
	w := uint32(sides + 1)
	for j := uint32(0); j+1 < uint32(rings); j++ {
		for k := uint32(0); k < uint32(sides); k++ {
			a := j*w + k
			s.idx = append(s.idx, a, a+1, a+w, a+1, a+w+1, a+w)
		}
	}
	return s
}

// circle is a closed path about the Y axis.
func circle(r, y float64, n int) [][3]float64 {
	var p [][3]float64
	for i := 0; i < n; i++ {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		p = append(p, [3]float64{r * c, y, r * s})
	}
	return p
}

// curve runs smoothly through the knots (Catmull & Rom 1974).
func curve(k [][3]float64, steps int) [][3]float64 {
	var out [][3]float64
	at := func(i int) [3]float64 { return k[min(max(i, 0), len(k)-1)] }
	for i := 0; i+1 < len(k); i++ {
		for s := 0; s < steps; s++ {
			t := float64(s) / float64(steps)
			var p [3]float64
			for c := range p {
				a, b, d, e := at(i - 1)[c], at(i)[c], at(i + 1)[c], at(i + 2)[c]
				p[c] = 0.5 * (2*b + (d-a)*t + (2*a-5*b+4*d-e)*t*t + (3*b-a-3*d+e)*t*t*t)
			}
			out = append(out, p)
		}
	}
	return append(out, k[len(k)-1])
}

// sweep extrudes a profile (z, y in mm) along X: the backdrop.
func sweep(p []profilePoint, width float64) *shape {
	s := &shape{}
	for _, q := range p {
		for _, x := range []float64{-width / 2, width / 2} {
			s.pos = append(s.pos, mm(x, q.y, q.x))
			s.nrm = append(s.nrm, geom.V(0, float32(q.ny), float32(q.nx)))
			s.uv = append(s.uv, [2]float32{float32(x / 1000), float32(q.x / 1000)})
		}
	}
	for j := uint32(0); j+1 < uint32(len(p)); j++ {
		a := j * 2
		s.idx = append(s.idx, a, a+1, a+2, a+1, a+3, a+2)
	}
	return s
}

// panel is a flat rectangle of the given size (mm) facing -Z, the direction in which lights shine.
func panel(w, h float64) *shape {
	s := &shape{}
	for _, c := range [][2]float64{{-1, -1}, {-1, 1}, {1, 1}, {1, -1}} {
		s.pos = append(s.pos, mm(c[0]*w/2, c[1]*h/2, 0))
		s.nrm = append(s.nrm, geom.V(0, 0, -1))
		s.uv = append(s.uv, [2]float32{float32(c[0]+1) / 2, float32(1-c[1]) / 2})
	}
	s.idx = []uint32{0, 1, 2, 0, 2, 3}
	return s
}

// faceOut turns triangles over whose winding disagrees with their normals.
func (s *shape) faceOut() *shape {
	for i := 0; i < len(s.idx); i += 3 {
		a, b, c := s.idx[i], s.idx[i+1], s.idx[i+2]
		n := s.pos[b].Sub(s.pos[a]).Cross(s.pos[c].Sub(s.pos[a]))
		if n.Dot(s.nrm[a].Add(s.nrm[b]).Add(s.nrm[c])) < 0 {
			s.idx[i+1], s.idx[i+2] = c, b
		}
	}
	return s
}
