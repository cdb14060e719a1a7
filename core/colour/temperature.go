package colour

import (
	"math"

	"amberproof/core/geom"
)

// Neutral is the temperature, in kelvin, at which a light is white: the correlated
// temperature of D65, the white of Rec.709.
const Neutral = 6504

// Bounds of temperatures, kelvin: where the locus below is known.
const (
	LeastKelvin = 1000
	MostKelvin  = 15000
)

// planckian is the CIE 1960 u, v of a glowing black body, after Krystek 1985 (An
// algorithm to calculate correlated colour temperature), right to 0.0001 from 1000
// to 15000 K.
func planckian(kelvin float64) (u, v float64) {
	t := min(max(kelvin, LeastKelvin), MostKelvin)
	u = (0.860117757 + 1.54118254e-4*t + 1.28641212e-7*t*t) / (1 + 8.42420235e-4*t + 7.08145163e-7*t*t)
	v = (0.317398726 + 4.22806245e-5*t + 4.20481691e-8*t*t) / (1 - 2.89741816e-5*t + 1.61456053e-7*t*t)
	return u, v
}

// Chromaticity is the CIE 1931 x, y of a temperature in kelvin, moved off the curve of
// glowing bodies, and square to it, by duv in CIE 1960 u, v: to green above 0, to
// magenta below.
func Chromaticity(kelvin, duv float64) (x, y float64) {
	u, v := planckian(kelvin)
	u0, v0 := planckian(kelvin * 0.999)
	u1, v1 := planckian(kelvin * 1.001)
	if l := math.Hypot(u1-u0, v1-v0); l > 0 {
		// The curve runs to the left as it gets hotter; green is on its right hand, upwards.
		u, v = u+duv*(v1-v0)/l, v-duv*(u1-u0)/l
	}
	d := 2*u - 8*v + 4
	return 3 * u / d, 2 * v / d
}

// Temperature is the scene-linear colour of a light of a temperature and a tint, as a
// camera that is balanced for Neutral sees it: at Neutral without a tint white, and
// always of luminance one, so that it changes no exposure. What Rec.709 has no colour
// for is brought to its border.
func Temperature(kelvin, duv float64) geom.Vec3 {
	c, white := unbalanced(kelvin, duv), unbalanced(Neutral, 0)
	for k := range c {
		c[k] = max(0, c[k]/white[k])
	}
	out := geom.V(float32(c[0]), float32(c[1]), float32(c[2]))
	return out.Scale(1 / Luminance(out))
}

func unbalanced(kelvin, duv float64) [3]float64 {
	m, _ := Rec709.toXYZ() // proper primaries have one
	inv, _ := m.inverse()
	x, y := Chromaticity(kelvin, duv)
	xyz := [3]float64{x / y, 1, (1 - x - y) / y}
	var c [3]float64
	for k := range c {
		c[k] = inv[3*k]*xyz[0] + inv[3*k+1]*xyz[1] + inv[3*k+2]*xyz[2]
	}
	return c
}
