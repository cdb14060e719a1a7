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

// sheenTable holds the directional albedo of a white sheen.
var sheenTable [tableN][tableN]float32 // [roughness][cos]

func init() {
	for i := range tableN {
		a := sheenWidth(float32(i) / (tableN - 1))
		for j := range tableN {
			sheenTable[i][j] = integrateSheen(a, cosOf(j))
		}
	}
}

// sheenWidth bounds the width below: nearer to nothing the lobe is but a line.
func sheenWidth(roughness float32) float32 { r := max(roughness, 0.07); return r * r }

func integrateSheen(a, mu float32) float32 {
	wo := geom.V(geom.Sqrt(1-mu*mu), 0, mu)
	const n = 48
	var e float32
	for i := range n {
		// Even in solid angle over the upper hemisphere.
		z := (float32(i) + 0.5) / n
		for j := range n {
			s, c := geom.SinCosTurn((float32(j) + 0.5) / n)
			r := geom.Sqrt(1 - z*z)
			wi := geom.V(r*c, r*s, z)
			e += sheenValue(mu, z, wo.Add(wi).Unit().Z, a) * z * 2 * math.Pi / (n * n)
		}
	}
	return e
}

func sheenAlbedo(roughness, mu float32) float32 {
	return lerpTable(&sheenTable, roughness, geom.Sqrt(geom.Clamp01(mu)))
}
