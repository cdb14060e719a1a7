package optics

import (
	"math"

	"amberproof/core/geom"
)

// The sheen of cloth: the "Charlie" distribution of fibres (Estevez & Kulla
// 2017) with the visibility term of Ashikhmin & Premoze 2007, as the open glTF
// 2.0 sheen extension has it.

func charlieD(cosH, a float32) float32 {
	inv := 1 / a
	sin := geom.Sqrt(max(1-cosH*cosH, 1e-6))
	return (2 + inv) * float32(math.Pow(float64(sin), float64(inv))) / (2 * math.Pi)
}

// sheenValue is the lobe, the cosine of wi not included.
func sheenValue(cosO, cosI, cosH, a float32) float32 {
	return charlieD(cosH, a) / (4 * max(cosO+cosI-cosO*cosI, 1e-4))
}

// sheenTable holds the directional albedo of a white sheen by width and cosine.
var sheenTable = newRows(tableN, func(i int) *[tableN]float32 {
	t := &[tableN]float32{}
	a := sheenWidth(thinnest + (1-thinnest)*float32(i)/(tableN-1))
	for j := range t {
		t[j] = integrateSheen(a, cosOf(j))
	}
	return t
})

// thinnest is the roughness under which the lobe would be but a line.
const thinnest = 0.07

func sheenWidth(roughness float32) float32 { r := max(roughness, thinnest); return r * r }

// A sheen is drawn by its height above the surface, the nearer to grazing the
// narrower it is: the density of the cosine z is (m+1)(1-z)^m.
func sheenPower(a float32) float32 { return 0.7/geom.Sqrt(a) - 0.7 }

// sheenDensity is that of drawing a direction of cosine z, per solid angle.
func sheenDensity(z, m float32) float32 {
	return (m + 1) * float32(math.Pow(float64(1-z), float64(m))) / (2 * math.Pi)
}

// drawSheen draws a direction.
func drawSheen(u, v, m float32) geom.Vec3 {
	z := 1 - float32(math.Pow(float64(1-v), float64(1/(m+1))))
	s, c := geom.SinCosTurn(u)
	r := geom.Sqrt(max(0, 1-z*z))
	return geom.V(r*c, r*s, z)
}

func integrateSheen(a, mu float32) (e float32) {
	wo := geom.V(geom.Sqrt(1-mu*mu), 0, mu)
	m := sheenPower(a)
	const n = 2 * points
	for i := range n {
		u, v := spread(i)
		wi := drawSheen(u/2, v, m) // either side is the same
		e += sheenValue(mu, wi.Z, wo.Add(wi).Unit().Z, a) * wi.Z / (sheenDensity(wi.Z, m) * n)
	}
	return e
}

// sheenAlbedo is what a white sheen would return. Narrow ones would return more
// than they get at grazing angles.
func sheenAlbedo(roughness, mu float32) float32 {
	i, j, fx, fy := cell((roughness-thinnest)/(1-thinnest), geom.Sqrt(geom.Clamp01(mu)))
	return lerpRows(sheenTable.row(i), sheenTable.row(i+1), j, fx, fy)
}
