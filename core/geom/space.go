package geom

import "math"

// Box is an axis-aligned box. The zero Box is the point at the origin; start a
// union from EmptyBox.
type Box struct{ Min, Max Vec3 }

// EmptyBox contains nothing and is the identity of Union.
func EmptyBox() Box {
	inf := float32(math.Inf(1))
	return Box{Splat(inf), Splat(-inf)}
}

func (b Box) Union(c Box) Box   { return Box{Min3(b.Min, c.Min), Max3(b.Max, c.Max)} }
func (b Box) Extend(p Vec3) Box { return Box{Min3(b.Min, p), Max3(b.Max, p)} }
func (b Box) Size() Vec3        { return b.Max.Sub(b.Min) }
func (b Box) Centre() Vec3      { return b.Min.Add(b.Max).Scale(0.5) }
func (b Box) Empty() bool       { return b.Min.X > b.Max.X }

// Radius is that of the sphere around the centre through the corners.
func (b Box) Radius() float32 {
	if b.Empty() {
		return 0
	}
	return b.Size().Len() * 0.5
}

// Corner is one of the eight corners.
func (b Box) Corner(i int) Vec3 {
	p := b.Min
	if i&1 != 0 {
		p.X = b.Max.X
	}
	if i&2 != 0 {
		p.Y = b.Max.Y
	}
	if i&4 != 0 {
		p.Z = b.Max.Z
	}
	return p
}

// HalfArea is half the surface of the box, the measure of the surface-area heuristic.
func (b Box) HalfArea() float32 {
	s := b.Size()
	if s.X < 0 {
		return 0
	}
	return s.X*s.Y + s.Y*s.Z + s.Z*s.X
}

// Ray is an origin, a direction (not necessarily of unit length) and the open
// interval of distances in which hits count.
type Ray struct {
	O, D       Vec3
	TMin, TMax float32
}

// At is the point at distance t.
func (r *Ray) At(t float32) Vec3 { return r.O.MulAdd(r.D, t) }

// OffsetOrigin moves the point p off the surface with unit geometric normal n,
// to the side of n, by a few units in the last place of p: far enough not to
// hit the surface again, at any scale (Waechter & Binder 2019).
func OffsetOrigin(p, n Vec3) Vec3 {
	return Vec3{offset1(p.X, n.X), offset1(p.Y, n.Y), offset1(p.Z, n.Z)}
}

func offset1(p, n float32) float32 {
	const (
		origin   = 1.0 / 32
		absolute = 1.0 / 65536
		ulps     = 256
	)
	if Abs(p) < origin {
		return p + absolute*n
	}
	of := int32(ulps * n)
	if p < 0 {
		of = -of
	}
	return math.Float32frombits(uint32(int32(math.Float32bits(p)) + of))
}

// Affine is a 3x4 matrix, row-major: rotation, scale and shear in the first
// three columns, translation in the fourth.
type Affine [12]float32

// Identity changes nothing.
func Identity() Affine { return Affine{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0} }

// Translate moves by v.
func Translate(v Vec3) Affine { return Affine{1, 0, 0, v.X, 0, 1, 0, v.Y, 0, 0, 1, v.Z} }

// Compose builds translation * rotation * scale; q is a unit quaternion x, y, z, w.
func Compose(t Vec3, q [4]float32, s Vec3) Affine {
	x, y, z, w := q[0], q[1], q[2], q[3]
	return Affine{
		(1 - 2*(y*y+z*z)) * s.X, 2 * (x*y - z*w) * s.Y, 2 * (x*z + y*w) * s.Z, t.X,
		2 * (x*y + z*w) * s.X, (1 - 2*(x*x+z*z)) * s.Y, 2 * (y*z - x*w) * s.Z, t.Y,
		2 * (x*z - y*w) * s.X, 2 * (y*z + x*w) * s.Y, (1 - 2*(x*x+y*y)) * s.Z, t.Z,
	}
}

// LookAt is the transform of a camera or light at eye whose -Z axis points at
// target and whose Y axis is as near to up as can be.
func LookAt(eye, target, up Vec3) Affine {
	z := eye.Sub(target).Unit()
	x := up.Cross(z).Unit()
	if x.IsZero() {
		f := NewFrame(z)
		x = f.S
	}
	y := z.Cross(x)
	return Affine{x.X, y.X, z.X, eye.X, x.Y, y.Y, z.Y, eye.Y, x.Z, y.Z, z.Z, eye.Z}
}

// Mul returns the transform that applies b first and then a.
func (a Affine) Mul(b Affine) Affine {
	var r Affine
	for i := 0; i < 3; i++ {
		for j := 0; j < 4; j++ {
			s := a[i*4]*b[j] + a[i*4+1]*b[4+j] + a[i*4+2]*b[8+j]
			if j == 3 {
				s += a[i*4+3]
			}
			r[i*4+j] = s
		}
	}
	return r
}

// Point transforms a position.
func (a *Affine) Point(p Vec3) Vec3 {
	return Vec3{
		a[0]*p.X + a[1]*p.Y + a[2]*p.Z + a[3],
		a[4]*p.X + a[5]*p.Y + a[6]*p.Z + a[7],
		a[8]*p.X + a[9]*p.Y + a[10]*p.Z + a[11],
	}
}

// Vector transforms a direction: no translation.
func (a *Affine) Vector(v Vec3) Vec3 {
	return Vec3{
		a[0]*v.X + a[1]*v.Y + a[2]*v.Z,
		a[4]*v.X + a[5]*v.Y + a[6]*v.Z,
		a[8]*v.X + a[9]*v.Y + a[10]*v.Z,
	}
}

// Normal transforms a surface normal by the cofactor matrix, so that it stays
// perpendicular under uneven scale and keeps its side under mirroring. The
// result is not of unit length.
func (a *Affine) Normal(n Vec3) Vec3 {
	c0 := Vec3{a[0], a[4], a[8]}
	c1 := Vec3{a[1], a[5], a[9]}
	c2 := Vec3{a[2], a[6], a[10]}
	return c1.Cross(c2).Scale(n.X).Add(c2.Cross(c0).Scale(n.Y)).Add(c0.Cross(c1).Scale(n.Z))
}

// Det is the determinant of the 3x3 part: negative when the transform mirrors.
func (a *Affine) Det() float32 {
	return Vec3{a[0], a[4], a[8]}.Dot(Vec3{a[1], a[5], a[9]}.Cross(Vec3{a[2], a[6], a[10]}))
}

// Inverse undoes a; ok is false where a flattens space.
func (a *Affine) Inverse() (inv Affine, ok bool) {
	// In double precision: a place far out, or small, would lose its digits.
	m := func(i int) float64 { return float64(a[i]) }
	c := [9]float64{
		m(5)*m(10) - m(6)*m(9), m(2)*m(9) - m(1)*m(10), m(1)*m(6) - m(2)*m(5),
		m(6)*m(8) - m(4)*m(10), m(0)*m(10) - m(2)*m(8), m(2)*m(4) - m(0)*m(6),
		m(4)*m(9) - m(5)*m(8), m(1)*m(8) - m(0)*m(9), m(0)*m(5) - m(1)*m(4),
	}
	det := m(0)*c[0] + m(1)*c[3] + m(2)*c[6]
	if det == 0 || det-det != 0 {
		return inv, false
	}
	for i := range 3 {
		var t float64
		for j := range 3 {
			v := c[3*i+j] / det
			inv[4*i+j] = float32(v)
			t -= v * m(4*j+3)
		}
		inv[4*i+3] = float32(t)
	}
	return inv, inv.Finite()
}

// Box is the box around a transformed box.
func (a *Affine) Box(b Box) Box {
	out := EmptyBox()
	for i := range 8 {
		out = out.Extend(a.Point(b.Corner(i)))
	}
	return out
}

// Lerp is the transform a share t of the way from a to b: every point moves in
// a straight line.
func (a *Affine) Lerp(b *Affine, t float32) (c Affine) {
	for i := range c {
		c[i] = a[i] + (b[i]-a[i])*t
	}
	return c
}

// Finite reports whether all entries are finite.
func (a *Affine) Finite() bool {
	var s float32
	for _, v := range a {
		s += v - v
	}
	return s == 0
}

// Axis returns column i (0..2) and Origin the translation column.
func (a *Affine) Axis(i int) Vec3 { return Vec3{a[i], a[4+i], a[8+i]} }
func (a *Affine) Origin() Vec3    { return Vec3{a[3], a[7], a[11]} }
