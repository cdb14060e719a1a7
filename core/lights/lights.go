// Package lights samples the lights of a picture: points, spots, spheres,
// suns, rectangles, glowing meshes and the environment.
//
// Radiance is in nits (cd/m2), intensity in candela, irradiance in lux; the
// numbers are used as they are, per RGB channel.
package lights

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Kind says what shape a light has.
type Kind uint8

const (
	Point Kind = iota
	Spot
	Sphere
	Sun
	Rect
	Mesh
	Environment
)

// Light is one light of the picture. Which fields count depends on the kind.
type Light struct {
	Kind    Kind
	Name    string
	Element int       // index of the element its light is kept apart in
	Colour  geom.Vec3 // radiance (Sphere, Rect), intensity (Point, Spot), irradiance (Sun)
	P       geom.Vec3 // position; for Rect the centre
	N       geom.Vec3 // shining direction of Spot, Sun and Rect
	S, T    geom.Vec3 // unit edges of a Rect
	W, H    float32   // lengths of its edges
	Radius  float32   // of a Sphere; of the bounding sphere of a Mesh
	Range   float32   // no light beyond; 0 is without end

	CosInner, CosOuter float32 // Spot
	OneMinusCos        float32 // Sun: half angle of its disc; 0 is infinitely sharp
	TwoSided           bool    // Rect

	Hidden    bool // the camera does not see it
	NoMirror  bool // it is not seen in reflections
	NoShadows bool // nothing is in its way
	Samples   int  // at each point the camera sees; 0 is one

	// Roams says that its place is only about right, as it moves while the
	// picture is taken: what it faces does not count for what to expect of it.
	Roams bool

	First int // Mesh: first of its triangles in Set.Triangles
	Part  int // Mesh: where the tracer finds its finish
	Area  float32
	table sampling.Table
	env   *Env
}

// Triangle is a piece of a glowing mesh.
type Triangle struct {
	A, B, C geom.Vec3
}

// Set is all lights of a picture.
type Set struct {
	Lights    []Light
	Triangles []Triangle
	tree      *tree
}

// Alone reports whether only light sampling may find the light: scattered rays
// would see it in reflections, or find it in shadow.
func (l *Light) Alone() bool { return l.NoMirror || l.NoShadows }

// Draws is how many times the light is sampled where the camera looks.
func (l *Light) Draws() int { return max(1, l.Samples) }

// Drawn is how many times, in the mean, the light is sampled where the camera looks, of
// which gives is expected there: not at all where that is nothing, and less than once
// where it is less than much.
func (l *Light) Drawn(gives, much float32) float32 {
	switch n := l.Draws(); {
	case gives <= 0:
		return 0
	case n > 1:
		return float32(n)
	}
	return min(1, gives/much)
}

// extent is the radius of the light around P.
func (l *Light) extent() float32 {
	if l.Kind == Rect {
		return 0.5 * geom.Sqrt(l.W*l.W+l.H*l.H)
	}
	return l.Radius
}

// reference is the irradiance at squared distance d2 from a light with a place,
// square on and with its size as a limit to nearness.
func (l *Light) reference(d2 float32) float32 {
	lum := max(colour.Luminance(l.Colour), 1e-9)
	switch l.Kind {
	case Sphere:
		return lum * math.Pi * l.Radius * l.Radius / max(d2, l.Radius*l.Radius)
	case Rect:
		return lum * l.W * l.H / max(d2, 0.25*(l.W*l.W+l.H*l.H))
	case Mesh:
		return lum * l.Area * 0.25 / max(d2, l.Radius*l.Radius)
	}
	return lum / d2
}

// Picked is a direction towards a light.
type Picked struct {
	Wi       geom.Vec3
	Dist     float32
	Radiance geom.Vec3 // for Mesh zero: the tracer looks it up at Tri, U, V
	PDF      float32   // per solid angle; infinite for lights without size
	// Of a Mesh: the triangle's place in it, the weights of its corners B and C,
	// and whether its corners run against the clock as seen.
	Tri    int
	U, V   float32
	Front  bool
	OnMesh bool
}

// AddMesh adds a glowing mesh; weights are proportional to each triangle's
// light, radiance is its mean.
func (s *Set) AddMesh(l Light, tris []Triangle, radiance geom.Vec3) {
	l.Kind, l.First, l.Colour = Mesh, len(s.Triangles), radiance
	w := make([]float32, len(tris))
	box := geom.EmptyBox()
	for i, t := range tris {
		w[i] = t.B.Sub(t.A).Cross(t.C.Sub(t.A)).Len() / 2
		l.Area += w[i]
		box = box.Extend(t.A).Extend(t.B).Extend(t.C)
	}
	l.P, l.Radius = box.Centre(), box.Radius()
	l.table = sampling.NewTable(w)
	s.Triangles = append(s.Triangles, tris...)
	s.Lights = append(s.Lights, l)
}

// AddEnv adds the environment.
func (s *Set) AddEnv(l Light, e *Env) {
	l.Kind, l.env = Environment, e
	s.Lights = append(s.Lights, l)
}

// Receiver is a point that lights are weighed for. N is the unit normal of the side
// that alone can be lit; zero where light counts from either.
type Receiver struct{ P, N geom.Vec3 }

// Expect is a quick estimate of the irradiance that light i would give at r if
// nothing were in the way: how lights are chosen. It is nothing only where the light
// gives none.
func (s *Set) Expect(i int, r *Receiver) float32 {
	l := &s.Lights[i]
	switch l.Kind {
	case Environment:
		if l.env.Even() {
			return 0 // an even surround is hit by scattered rays without noise
		}
		even := l.env.Mean * math.Pi
		if r.N.IsZero() {
			return even
		}
		return max(l.env.spread.onto(r.N), faintest*even)
	case Sun:
		return max(colour.Luminance(l.Colour), 1e-9) * slanted(-l.N.Dot(r.N), geom.Sqrt(l.OneMinusCos*(2-l.OneMinusCos)), 1, r)
	}
	d := r.P.Sub(l.P)
	d2 := max(d.Len2(), 1e-12)
	extent := l.extent()
	if reach := l.Range + extent; l.Range > 0 && d2 > reach*reach {
		return 0
	}
	far := geom.Sqrt(d2)
	gives := l.reference(d2)
	if l.Roams {
		return gives
	}
	switch l.Kind {
	case Spot:
		if d.Dot(l.N) < l.CosOuter*far {
			return 0
		}
	case Rect:
		side := d.Dot(l.N) / far
		if l.TwoSided {
			side = geom.Abs(side)
		}
		if side <= 0 {
			return 0 // in its plane's shadow
		}
		gives *= max(side, faintest)
	}
	return gives * slanted(-d.Dot(r.N), extent, far, r)
}

// faintest is the least that a slant is taken to leave of light.
const faintest = 0.1

// slanted is what a slant leaves, at most, of the light of something that stands so
// high above the plane of the receiver, so far from it, and reaches up by its extent.
func slanted(height, extent, far float32, r *Receiver) float32 {
	switch {
	case r.N.IsZero():
		return 1
	case height+extent <= 0:
		return 0
	}
	return min(1, max((height+extent)/far, faintest))
}

// Fade dims a light towards its reach by 1 - (d/r)^4, as the open glTF 2.0
// extension of punctual lights recommends; it is one for lights without.
func (l *Light) Fade(d2 float32) float32 {
	if l.Range <= 0 {
		return 1
	}
	q := d2 / (l.Range * l.Range)
	return geom.Clamp01(1 - q*q)
}

// Sample draws a direction from p to light i.
func (s *Set) Sample(i int, p geom.Vec3, u, v float32) (k Picked, ok bool) {
	l := &s.Lights[i]
	inf := float32(math.Inf(1))
	switch l.Kind {
	case Point, Spot:
		to := l.P.Sub(p)
		d2 := to.Len2()
		if !(d2 > 0) {
			return k, false
		}
		k.Dist = geom.Sqrt(d2)
		k.Wi = to.Scale(1 / k.Dist)
		k.Radiance = l.Colour.Scale(l.Fade(d2) / d2)
		k.PDF = inf
		if l.Kind == Spot {
			k.Radiance = k.Radiance.Scale(l.cone(-k.Wi.Dot(l.N)))
		}
	case Sphere:
		to := l.P.Sub(p)
		d2 := to.Len2()
		omc := coneOf(l.Radius, d2)
		if omc <= 0 {
			return k, false
		}
		f := geom.NewFrame(to.Unit())
		k.Wi = f.ToWorld(sampling.Cone(u, v, omc)).Unit()
		k.Dist = sphereNear(to, k.Wi, l.Radius)
		k.PDF = 1 / (2 * math.Pi * omc)
		k.Radiance = l.sphereRadiance(d2, k.Wi)
	case Sun:
		k.Dist = inf
		k.Wi = l.N.Neg()
		if l.OneMinusCos == 0 {
			k.Radiance, k.PDF = l.Colour, inf
			break
		}
		f := geom.NewFrame(k.Wi)
		k.Wi = f.ToWorld(sampling.Cone(u, v, l.OneMinusCos))
		k.PDF, k.Radiance = l.sunPDF(), l.sunRadiance()
	case Rect:
		if !l.faces(p) {
			return k, false
		}
		q, pdf := l.sampleRect(p, u, v)
		to := q.Sub(p)
		k.Dist = to.Len()
		if !(k.Dist > 0) || !(pdf > 0) {
			return k, false
		}
		k.Wi = to.Scale(1 / k.Dist)
		k.PDF, k.Radiance = pdf, l.Colour.Scale(l.Fade(k.Dist*k.Dist))
	case Mesh:
		j, pj, rest := l.table.Draw(u)
		t := &s.Triangles[l.First+j]
		r := geom.Sqrt(rest)
		k.U, k.V = r*(1-v), r*v
		q := t.A.Scale(1 - r).Add(t.B.Scale(k.U)).Add(t.C.Scale(k.V))
		n := t.B.Sub(t.A).Cross(t.C.Sub(t.A))
		area := n.Len() / 2
		to := q.Sub(p)
		d2 := to.Len2()
		if !(d2 > 0) || !(area > 0) || pj == 0 {
			return k, false
		}
		k.Dist = geom.Sqrt(d2)
		k.Wi = to.Scale(1 / k.Dist)
		cos := k.Wi.Dot(n) / (2 * area)
		k.Tri, k.Front, k.OnMesh = j, cos < 0, true
		if cos = geom.Abs(cos); cos < 1e-6 {
			return k, false
		}
		k.PDF = pj / area * d2 / cos
	case Environment:
		k.Wi, k.Radiance, k.PDF = l.env.sample(u, v)
		k.Dist = inf
	}
	return k, k.PDF > 0
}

// PDF is the density with which Sample would have drawn the direction from p to
// the point q where it hits light i, a sphere or a surface; cos is of the angle there,
// tri the triangle's place in a mesh. For lights without a place see Escaped.
func (s *Set) PDF(i int, p, q geom.Vec3, cos float32, tri int) float32 {
	l := &s.Lights[i]
	switch l.Kind {
	case Sphere:
		if omc := coneOf(l.Radius, l.P.Sub(p).Len2()); omc > 0 {
			return 1 / (2 * math.Pi * omc)
		}
	case Rect:
		if l.faces(p) {
			return l.rectPDF(p, q)
		}
	case Mesh:
		t := &s.Triangles[l.First+tri]
		area := t.B.Sub(t.A).Cross(t.C.Sub(t.A)).Len() / 2
		if area > 0 && cos > 0 {
			return l.table.P(tri) / area * q.Sub(p).Len2() / cos
		}
	}
	return 0
}

func (l *Light) cone(cos float32) float32 {
	if cos <= l.CosOuter {
		return 0
	}
	f := geom.Clamp01((cos - l.CosOuter) / max(l.CosInner-l.CosOuter, 1e-4))
	return f * f
}

// coneOf is 1 - cos of the half angle under which a sphere of radius r is seen
// from squared distance d2; zero from inside.
func coneOf(r, d2 float32) float32 {
	s2 := r * r / d2
	if !(s2 < 1) {
		return 0
	}
	return s2 / (1 + geom.Sqrt(1-s2)) // 1 - sqrt(1-s2) without cancellation
}

func sphereNear(to, wi geom.Vec3, r float32) float32 {
	b := to.Dot(wi)
	q := to.Sub(wi.Scale(b)).Len2()
	return max(0, b-geom.Sqrt(max(0, r*r-q)))
}

// sphereRadiance of a light with intensity Colour*pi*r^2: Colour is radiance.
func (l *Light) sphereRadiance(d2 float32, wi geom.Vec3) geom.Vec3 {
	c := l.Colour.Scale(l.Fade(d2))
	if l.CosOuter > -1 {
		c = c.Scale(l.cone(-wi.Dot(l.N)))
	}
	return c
}

func (l *Light) sunRadiance() geom.Vec3 {
	// Irradiance of a small disc seen square on: radiance * pi * sin^2.
	sin2 := l.OneMinusCos * (2 - l.OneMinusCos)
	return l.Colour.Scale(1 / (math.Pi * sin2))
}

// sunPDF is the density of a direction within the disc.
func (l *Light) sunPDF() float32 { return 1 / (2 * math.Pi * l.OneMinusCos) }

// HitSphere returns the distance at which a ray hits sphere light i from outside.
func (s *Set) HitSphere(i int, r *geom.Ray) (t float32, radiance geom.Vec3, ok bool) {
	l := &s.Lights[i]
	to := l.P.Sub(r.O)
	d2 := to.Len2()
	if d2 <= l.Radius*l.Radius {
		return 0, radiance, false
	}
	b := to.Dot(r.D)
	if b <= 0 || to.Sub(r.D.Scale(b)).Len2() > l.Radius*l.Radius {
		return 0, radiance, false
	}
	t = sphereNear(to, r.D, l.Radius)
	return t, l.sphereRadiance(d2, r.D), t > r.TMin && t < r.TMax
}

// Even is the radiance of an even surround, which light sampling leaves to
// scattered rays; false where there is none.
func (s *Set) Even() (radiance geom.Vec3, ok bool) {
	for i := range s.Lights {
		if l := &s.Lights[i]; l.Kind == Environment && l.env.Even() {
			return l.env.tone, true
		}
	}
	return radiance, false
}

// Escaped calls f for every light that a ray leaving the scene along d hits, with the
// density with which Sample would have drawn d.
func (s *Set) Escaped(d geom.Vec3, f func(i int, radiance geom.Vec3, pdf float32)) {
	for i := range s.Lights {
		l := &s.Lights[i]
		switch l.Kind {
		case Environment:
			radiance, pdf := l.env.eval(d)
			f(i, radiance, pdf)
		case Sun:
			if l.OneMinusCos > 0 && 1+d.Dot(l.N) <= l.OneMinusCos {
				f(i, l.sunRadiance(), l.sunPDF())
			}
		}
	}
}

func (l *Light) faces(p geom.Vec3) bool {
	side := p.Sub(l.P).Dot(l.N)
	return side > 0 || l.TwoSided && side != 0
}
