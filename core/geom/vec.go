// Package geom holds the vectors, boxes, transforms and rays that everything
// else in the core is written in. Lengths are metres, angles radians.
package geom

import "math"

// Vec3 is a point, a direction or a scene-linear RGB triple, by context.
type Vec3 struct{ X, Y, Z float32 }

// V is short for Vec3{x, y, z}.
func V(x, y, z float32) Vec3 { return Vec3{x, y, z} }

// Splat returns a vector with three equal components.
func Splat(s float32) Vec3 { return Vec3{s, s, s} }

func (a Vec3) Add(b Vec3) Vec3      { return Vec3{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }
func (a Vec3) Sub(b Vec3) Vec3      { return Vec3{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }
func (a Vec3) Mul(b Vec3) Vec3      { return Vec3{a.X * b.X, a.Y * b.Y, a.Z * b.Z} }
func (a Vec3) Scale(s float32) Vec3 { return Vec3{a.X * s, a.Y * s, a.Z * s} }
func (a Vec3) Neg() Vec3            { return Vec3{-a.X, -a.Y, -a.Z} }
func (a Vec3) Dot(b Vec3) float32   { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }
func (a Vec3) Len2() float32        { return a.Dot(a) }
func (a Vec3) Len() float32         { return Sqrt(a.Dot(a)) }

// MulAdd returns a + b*s.
func (a Vec3) MulAdd(b Vec3, s float32) Vec3 {
	return Vec3{a.X + b.X*s, a.Y + b.Y*s, a.Z + b.Z*s}
}

// Cross returns the cross product of a and b.
func (a Vec3) Cross(b Vec3) Vec3 {
	return Vec3{a.Y*b.Z - a.Z*b.Y, a.Z*b.X - a.X*b.Z, a.X*b.Y - a.Y*b.X}
}

// Unit returns a at length one, or the zero vector when a has no length.
func (a Vec3) Unit() Vec3 {
	l := a.Dot(a)
	if !(l > 0) {
		return Vec3{}
	}
	return a.Scale(1 / Sqrt(l))
}

// Lerp returns a at t=0 and b at t=1.
func (a Vec3) Lerp(b Vec3, t float32) Vec3 { return a.Scale(1 - t).Add(b.Scale(t)) }

// Max returns the largest component.
func (a Vec3) Max() float32 { return max(a.X, a.Y, a.Z) }

// Mean returns the mean of the components.
func (a Vec3) Mean() float32 { return (a.X + a.Y + a.Z) * (1.0 / 3) }

// IsZero reports whether every component is zero.
func (a Vec3) IsZero() bool { return a.X == 0 && a.Y == 0 && a.Z == 0 }

// Finite reports whether no component is infinite or not a number.
func (a Vec3) Finite() bool {
	s := a.X + a.Y + a.Z
	return s-s == 0
}

// At returns component i (0, 1 or 2).
func (a Vec3) At(i int) float32 {
	switch i {
	case 0:
		return a.X
	case 1:
		return a.Y
	}
	return a.Z
}

// Min3 and Max3 are componentwise.
func Min3(a, b Vec3) Vec3 { return Vec3{min(a.X, b.X), min(a.Y, b.Y), min(a.Z, b.Z)} }
func Max3(a, b Vec3) Vec3 { return Vec3{max(a.X, b.X), max(a.Y, b.Y), max(a.Z, b.Z)} }

// Sqrt is the float32 square root.
func Sqrt(x float32) float32 { return float32(math.Sqrt(float64(x))) }

// Abs is the float32 absolute value.
func Abs(x float32) float32 { return math.Float32frombits(math.Float32bits(x) &^ (1 << 31)) }

// Clamp01 limits x to 0..1.
func Clamp01(x float32) float32 { return min(max(x, 0), 1) }

// Frame is a right-handed orthonormal basis; N is its third axis.
type Frame struct{ S, T, N Vec3 }

// NewFrame builds a basis around the unit vector n (Duff et al. 2017).
func NewFrame(n Vec3) Frame {
	sign := math.Float32frombits(math.Float32bits(n.Z)&(1<<31) | 0x3f800000)
	a := -1 / (sign + n.Z)
	b := n.X * n.Y * a
	return Frame{
		S: Vec3{1 + sign*n.X*n.X*a, sign * b, -sign * n.X},
		T: Vec3{b, sign + n.Y*n.Y*a, -n.Y},
		N: n,
	}
}

// ToWorld takes v from the frame's coordinates to the world's.
func (f *Frame) ToWorld(v Vec3) Vec3 {
	return f.S.Scale(v.X).Add(f.T.Scale(v.Y)).Add(f.N.Scale(v.Z))
}

// ToLocal takes v from the world's coordinates to the frame's.
func (f *Frame) ToLocal(v Vec3) Vec3 { return Vec3{v.Dot(f.S), v.Dot(f.T), v.Dot(f.N)} }
