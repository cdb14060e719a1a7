package colour

import "amberproof/core/geom"

// Primaries are CIE chromaticities x, y of red, green, blue and white.
type Primaries [8]float32

// Matrix turns one scene-linear RGB into another; rows of a 3 x 3 matrix.
type Matrix [9]float64

// Rec709 are the primaries of all pictures the core makes.
var Rec709 = Primaries{0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290}

// AP1 are the primaries of ACEScg (S-2014-004), as published.
var AP1 = Primaries{0.713, 0.293, 0.165, 0.830, 0.128, 0.044, 0.32168, 0.33767}

// Apply multiplies a colour.
func (m *Matrix) Apply(c geom.Vec3) geom.Vec3 {
	x, y, z := float64(c.X), float64(c.Y), float64(c.Z)
	return geom.V(float32(m[0]*x+m[1]*y+m[2]*z), float32(m[3]*x+m[4]*y+m[5]*z), float32(m[6]*x+m[7]*y+m[8]*z))
}

func (m Matrix) mul(n Matrix) (r Matrix) {
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				r[3*i+j] += m[3*i+k] * n[3*k+j]
			}
		}
	}
	return r
}

func (m Matrix) inverse() (r Matrix, ok bool) {
	det := m[0]*(m[4]*m[8]-m[5]*m[7]) - m[1]*(m[3]*m[8]-m[5]*m[6]) + m[2]*(m[3]*m[7]-m[4]*m[6])
	if det == 0 || det-det != 0 {
		return r, false
	}
	return Matrix{
		(m[4]*m[8] - m[5]*m[7]) / det, (m[2]*m[7] - m[1]*m[8]) / det, (m[1]*m[5] - m[2]*m[4]) / det,
		(m[5]*m[6] - m[3]*m[8]) / det, (m[0]*m[8] - m[2]*m[6]) / det, (m[2]*m[3] - m[0]*m[5]) / det,
		(m[3]*m[7] - m[4]*m[6]) / det, (m[1]*m[6] - m[0]*m[7]) / det, (m[0]*m[4] - m[1]*m[3]) / det,
	}, true
}

// white is the XYZ of the white at luminance one.
func (p Primaries) white() ([3]float64, bool) {
	x, y := float64(p[6]), float64(p[7])
	return [3]float64{x / y, 1, (1 - x - y) / y}, y > 0
}

// toXYZ is the matrix from RGB of these primaries (SMPTE RP 177).
func (p Primaries) toXYZ() (Matrix, bool) {
	var m Matrix
	for k := range 3 {
		x, y := float64(p[2*k]), float64(p[2*k+1])
		m[k], m[3+k], m[6+k] = x, y, 1-x-y
	}
	inv, ok := m.inverse()
	w, ok2 := p.white()
	if !ok || !ok2 {
		return m, false
	}
	for k := range 3 {
		s := inv[3*k]*w[0] + inv[3*k+1]*w[1] + inv[3*k+2]*w[2]
		m[k], m[3+k], m[6+k] = m[k]*s, m[3+k]*s, m[6+k]*s
	}
	return m, true
}

// bradford is the cone response of the Bradford adaptation (Lam 1985).
var bradford = Matrix{0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296}

// Between is the matrix from one RGB to another, with the white of the one
// adapted to that of the other; ok is false where either makes no sense.
func Between(from, to Primaries) (m Matrix, ok bool) {
	a, ok1 := from.toXYZ()
	b, ok2 := to.toXYZ()
	if !ok1 || !ok2 {
		return m, false
	}
	inv, ok := b.inverse()
	if !ok {
		return m, false
	}
	back, _ := bradford.inverse() // a constant that has one
	wa, _ := from.white()         // checked by toXYZ
	wb, _ := to.white()
	var scale Matrix
	for k := range 3 {
		ca := bradford[3*k]*wa[0] + bradford[3*k+1]*wa[1] + bradford[3*k+2]*wa[2]
		cb := bradford[3*k]*wb[0] + bradford[3*k+1]*wb[1] + bradford[3*k+2]*wb[2]
		if ca == 0 {
			return m, false
		}
		scale[4*k] = cb / ca
	}
	return inv.mul(back).mul(scale).mul(bradford).mul(a), true
}
