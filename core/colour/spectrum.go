package colour

import (
	"math"

	"amberproof/core/geom"
)

// matching are the colour matching functions of the CIE 1931 observer at a wavelength in
// nanometres, by the fits of Wyman, Sloan & Shirley 2013 (Simple analytic approximations
// to the CIE XYZ color matching functions, several lobes).
func matching(nm float64) (xyz [3]float64) {
	lobe := func(mid, left, right float64) float64 {
		w := right
		if nm < mid {
			w = left
		}
		t := (nm - mid) / w
		return math.Exp(-t * t / 2)
	}
	xyz[0] = 1.056*lobe(599.8, 37.9, 31.0) + 0.362*lobe(442.0, 16.0, 26.7) - 0.065*lobe(501.1, 20.4, 26.2)
	xyz[1] = 0.821*lobe(568.8, 46.9, 40.5) + 0.286*lobe(530.9, 16.3, 31.1)
	xyz[2] = 1.217*lobe(437.0, 11.8, 36.0) + 0.681*lobe(459.0, 26.0, 13.8)
	return xyz
}

// OfReflectance is the scene-linear Rec.709 of what reflects such a share of the light at
// each wavelength in nanometres: as seen under a light of equal energy, which is white.
func OfReflectance(share func(nm float64) float64) geom.Vec3 {
	var seen, white [3]float64
	for nm := 380.0; nm <= 780; nm += 2 {
		c, r := matching(nm), share(nm)
		for k := range c {
			seen[k] += c[k] * r
			white[k] += c[k]
		}
	}
	m, _ := Between(Primaries{1, 0, 0, 1, 0, 0, 1. / 3, 1. / 3}, Rec709) // proper primaries
	return m.Apply(geom.V(float32(seen[0]/white[0]), float32(seen[1]/white[1]), float32(seen[2]/white[2])))
}
