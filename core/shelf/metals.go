package shelf

import (
	"amberproof/core/colour"
	"amberproof/core/geom"
)

// constants are the index n and the extinction k of a metal at photon energies that fall
// from 3.00 to 1.76 electron volts.
type constants [][3]float64

// Of Johnson & Christy 1972, Optical constants of the noble metals, Phys. Rev. B 6, 4370.
var (
	gold = constants{
		{3.00, 1.46, 1.958}, {2.88, 1.45, 1.948}, {2.75, 1.38, 1.914}, {2.63, 1.31, 1.849}, {2.50, 1.04, 1.833}, {2.38, 0.62, 2.081},
		{2.26, 0.43, 2.455}, {2.14, 0.29, 2.863}, {2.01, 0.21, 3.272}, {1.88, 0.14, 3.697}, {1.76, 0.13, 4.103},
	}
	copper = constants{
		{3.00, 1.28, 2.207}, {2.88, 1.25, 2.305}, {2.75, 1.24, 2.397}, {2.63, 1.25, 2.483}, {2.50, 1.22, 2.564}, {2.38, 1.18, 2.608},
		{2.26, 1.02, 2.577}, {2.14, 0.70, 2.704}, {2.01, 0.30, 3.205}, {1.88, 0.22, 3.747}, {1.76, 0.21, 4.205},
	}
	silver = constants{
		{3.00, 0.05, 2.275}, {2.88, 0.04, 2.462}, {2.75, 0.04, 2.657}, {2.63, 0.05, 2.869}, {2.50, 0.05, 3.093}, {2.38, 0.05, 3.324},
		{2.26, 0.06, 3.586}, {2.14, 0.05, 3.858}, {2.01, 0.06, 4.152}, {1.88, 0.05, 4.483}, {1.76, 0.04, 4.838},
	}
)

// voltNanometres is a photon's energy in electron volts times its wavelength in nanometres.
const voltNanometres = 1239.842

// at are n and k at a wavelength, between the energies that were measured.
func (c constants) at(nm float64) (n, k float64) {
	e := min(max(voltNanometres/nm, c[len(c)-1][0]), c[0][0])
	for i := 1; i < len(c); i++ {
		if a, b := c[i-1], c[i]; e >= b[0] {
			t := (e - b[0]) / (a[0] - b[0])
			return b[1] + t*(a[1]-b[1]), b[2] + t*(a[2]-b[2])
		}
	}
	return c[len(c)-1][1], c[len(c)-1][2]
}

// base is the colour in which a metal reflects light square on (Fresnel).
func (c constants) base() geom.Vec3 {
	return colour.OfReflectance(func(nm float64) float64 {
		n, k := c.at(nm)
		return ((n-1)*(n-1) + k*k) / ((n+1)*(n+1) + k*k)
	})
}
