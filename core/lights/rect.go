package lights

import (
	"math"

	"amberproof/core/geom"
)

// spherical is a rectangle as seen from a point, in the terms of Urena,
// Fajardo & King 2013. Lengths are in double precision, angles in single: a
// rectangle so small that their difference would lose its digits is sampled by
// area.
type spherical struct {
	x0, y0, z0, x1, y1 float64
	b0, b1, k, solid   float64
}

// Below this solid angle (steradians) a rectangle is sampled by area instead:
// it is even enough, and the formula by angles has lost its digits.
const smallSolid = 0.01

// A rectangle whose longer edge, squared, is less than this part of the square of how
// near any of it may be is sampled by area too: what that adds to the noise is too little
// to measure (docs/decisions/0025), and the angles take as long as a ray.
const farOff = 0.5

func (l *Light) seenFrom(p geom.Vec3) spherical {
	c := l.P.Sub(l.S.Scale(l.W / 2)).Sub(l.T.Scale(l.H / 2)).Sub(p)
	s := spherical{x0: float64(c.Dot(l.S)), y0: float64(c.Dot(l.T)), z0: -math.Abs(float64(c.Dot(l.N)))}
	s.x1, s.y1 = s.x0+float64(l.W), s.y0+float64(l.H)
	z2 := s.z0 * s.z0
	// Third components of the unit normals of the four side planes; the others
	// cancel in the products.
	n0 := -s.y0 / math.Sqrt(z2+s.y0*s.y0)
	n1 := s.x1 / math.Sqrt(z2+s.x1*s.x1)
	n2 := s.y1 / math.Sqrt(z2+s.y1*s.y1)
	n3 := -s.x0 / math.Sqrt(z2+s.x0*s.x0)
	s.b0, s.b1 = n0, n2
	acos := func(x float64) float64 { return float64(geom.Acos(float32(x))) }
	s.k = max(0, 2*math.Pi-acos(-n2*n3)-acos(-n3*n0))
	s.solid = acos(-n0*n1) + acos(-n1*n2) - s.k
	return s
}

// seenBig also tells whether the rectangle is to be sampled by solid angle; the
// angles of one that is far off are not worked out.
func (l *Light) seenBig(p geom.Vec3) (s spherical, big bool) {
	d := max(0, l.P.Sub(p).Len()-0.5*geom.Sqrt(l.W*l.W+l.H*l.H))
	if long := max(l.W, l.H); long*long < farOff*d*d {
		return s, false
	}
	s = l.seenFrom(p)
	return s, s.solid > smallSolid
}

func (l *Light) sampleRect(p geom.Vec3, u, v float32) (q geom.Vec3, pdf float32) {
	at := func(x, y float32) geom.Vec3 { // in lengths from the centre
		return l.P.MulAdd(l.S, x).MulAdd(l.T, y)
	}
	s, big := l.seenBig(p)
	if !big {
		q = at((u-0.5)*l.W, (v-0.5)*l.H)
		return q, l.areaPDF(p, q)
	}
	au := float64(u)*s.solid + s.k
	sin, cos := geom.SinCosTurn(float32(au) * (1 / (2 * math.Pi)))
	fu := (float64(cos)*s.b0 - s.b1) / float64(sin)
	cu := math.Copysign(1/math.Sqrt(fu*fu+s.b0*s.b0), fu)
	cu = math.Max(-1+1e-12, math.Min(1-1e-12, cu))
	xu := math.Max(s.x0, math.Min(s.x1, -cu*s.z0/math.Sqrt(1-cu*cu)))
	d2 := xu*xu + s.z0*s.z0
	h0, h1 := s.y0/math.Sqrt(d2+s.y0*s.y0), s.y1/math.Sqrt(d2+s.y1*s.y1)
	hv := h0 + float64(v)*(h1-h0)
	yv := s.y1
	if hv*hv < 1-1e-12 {
		yv = hv * math.Sqrt(d2/(1-hv*hv))
	}
	return at(float32(xu-s.x0)-l.W/2, float32(yv-s.y0)-l.H/2), float32(1 / s.solid)
}

func (l *Light) rectPDF(p, q geom.Vec3) float32 {
	if s, big := l.seenBig(p); big {
		return float32(1 / s.solid)
	}
	return l.areaPDF(p, q)
}

func (l *Light) areaPDF(p, q geom.Vec3) float32 {
	to := q.Sub(p)
	d2 := to.Len2()
	cos := geom.Abs(to.Dot(l.N)) / geom.Sqrt(d2)
	if cos < 1e-6 {
		return 0
	}
	return d2 / (cos * l.W * l.H)
}
