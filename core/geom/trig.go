package geom

import "math"

// Trigonometry in float32, since that of float64 would dominate the cost of
// sampling. The polynomials are those of Abramowitz & Stegun 1964.

// SinCosTurn returns sine and cosine of 2*pi*t for t in 0..1 (error below 3e-7).
func SinCosTurn(t float32) (sin, cos float32) {
	// Reduce to the eighth turn around the nearest quarter.
	q := int(t*4 + 0.5)
	x := (t - float32(q)*0.25) * (2 * math.Pi)
	x2 := x * x
	s := x * (1 + x2*(-1.0/6+x2*(1.0/120+x2*(-1.0/5040))))
	c := 1 + x2*(-0.5+x2*(1.0/24+x2*(-1.0/720+x2*(1.0/40320))))
	switch q & 3 {
	case 1:
		return c, -s
	case 2:
		return -s, -c
	case 3:
		return -c, s
	}
	return s, c
}

// Acos is the arc cosine of x, brought into -1..1 (error below 6e-7).
func Acos(x float32) float32 {
	a := min(Abs(x), 1)
	p := float32(-0.0012624911)
	p = p*a + 0.0066700901
	p = p*a - 0.0170881256
	p = p*a + 0.0308918810
	p = p*a - 0.0501743046
	p = p*a + 0.0889789874
	p = p*a - 0.2145988016
	p = p*a + 1.5707963050
	p *= Sqrt(1 - a)
	if x < 0 {
		return math.Pi - p
	}
	return p
}

// Atan2Turn is the angle of (x, y) from the x axis in turns, -0.5 to 0.5
// (error below 1e-7).
func Atan2Turn(y, x float32) float32 {
	ax, ay := Abs(x), Abs(y)
	lo, hi := min(ax, ay), max(ax, ay)
	if hi == 0 {
		return 0
	}
	q := lo / hi
	q2 := q * q
	p := float32(0.0028662257)
	p = p*q2 - 0.0161657367
	p = p*q2 + 0.0429096138
	p = p*q2 - 0.0752896400
	p = p*q2 + 0.1065626393
	p = p*q2 - 0.1420889944
	p = p*q2 + 0.1999355085
	p = p*q2 - 0.3333314528
	t := (p*q2 + 1) * q * (1 / (2 * math.Pi))
	if ay > ax {
		t = 0.25 - t
	}
	if x < 0 {
		t = 0.5 - t
	}
	if y < 0 {
		return -t
	}
	return t
}
