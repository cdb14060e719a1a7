package optics

import (
	"math"
	"sync"

	"amberproof/core/geom"
)

// The directional albedo of a GGX surface with Schlick's Fresnel term splits
// into F0*A(cos, a) + B(cos, a) (Karis 2013). Both, and averages over the
// hemisphere, are integrated once at start-up.
const tableN = 32

var (
	tableAB [tableN][tableN][2]float32 // [roughness][cos]
	avgE    [tableN][tableN]float32    // [roughness][f0]: mean albedo with compensation
)

func init() {
	for i := 0; i < tableN; i++ {
		rough := float32(i) / (tableN - 1)
		for j := 0; j < tableN; j++ {
			tableAB[i][j][0], tableAB[i][j][1] = integrate(rough*rough, cosOf(j))
		}
	}
	for i := 0; i < tableN; i++ {
		for k := 0; k < tableN; k++ {
			f0 := float32(k) / (tableN - 1)
			var sum float32
			const steps = 64
			for s := 0; s < steps; s++ {
				mu := (float32(s) + 0.5) / steps
				sum += albedo(f0, float32(i)/(tableN-1), mu) * 2 * mu / steps
			}
			avgE[i][k] = sum
		}
	}
}

// Cosines are spaced so that grazing angles, where albedo turns fastest, get most entries.
func cosOf(j int) float32 { c := float32(j) / (tableN - 1); return max(c*c, 1e-4) }

func integrate(a, mu float32) (va, vb float32) {
	if a < smooth {
		f := schlick(mu)
		return 1 - f, f
	}
	return integrateGloss(even(a), geom.V(geom.Sqrt(1-mu*mu), 0, mu))
}

func integrateGloss(g gloss, wo geom.Vec3) (va, vb float32) {
	const n = 16
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			h := g.draw(wo, (float32(i)+0.5)/n, (float32(j)+0.5)/n)
			d := wo.Dot(h)
			wi := h.Scale(2 * d).Sub(wo)
			if wi.Z <= 0 {
				continue
			}
			w := g.g2(wo, wi) / g.g1(wo) / (n * n)
			f := schlick(d)
			va += w * (1 - f)
			vb += w * f
		}
	}
	return va, vb
}

// cell finds the four entries around a place in a table and their weights.
func cell(x, y float32) (i, j int, fx, fy float32) {
	x = geom.Clamp01(x) * (tableN - 1)
	y = geom.Clamp01(y) * (tableN - 1)
	i, j = min(int(x), tableN-2), min(int(y), tableN-2)
	return i, j, x - float32(i), y - float32(j)
}

func lerpTable(t *[tableN][tableN]float32, x, y float32) float32 {
	i, j, fx, fy := cell(x, y)
	a := t[i][j]*(1-fy) + t[i][j+1]*fy
	b := t[i+1][j]*(1-fy) + t[i+1][j+1]*fy
	return a*(1-fx) + b*fx
}

func tablesAB(rough, mu float32) (a, b float32) {
	i, j, fx, fy := cell(rough, geom.Sqrt(geom.Clamp01(mu)))
	p, q, r, s := &tableAB[i][j], &tableAB[i][j+1], &tableAB[i+1][j], &tableAB[i+1][j+1]
	w00, w01, w10, w11 := (1-fx)*(1-fy), (1-fx)*fy, fx*(1-fy), fx*fy
	return p[0]*w00 + q[0]*w01 + r[0]*w10 + s[0]*w11, p[1]*w00 + q[1]*w01 + r[1]*w10 + s[1]*w11
}

// compensation scales a single-scattering lobe so that no energy is lost to
// the bounces between facets that it leaves out (Turquin 2019).
func compensation(f0, a, b float32) float32 { return 1 + f0*(1-(a+b))/(a+b) }

// albedo is the directional albedo with compensation.
func albedo(f0, rough, mu float32) float32 {
	a, b := tablesAB(rough, mu)
	return kept(f0, a, b)
}

// kept is the albedo with compensation from the two parts of the table.
func kept(f0, a, b float32) float32 { return min(1, (f0*a+b)*compensation(f0, a, b)) }

func albedoMean(f0, rough float32) float32 { return lerpTable(&avgE, rough, f0) }

// glassTable holds the share of energy that single scattering keeps at a rough
// dielectric interface, for light from outside [0] and inside [1]: with Fresnel's
// reflectance, and with none but where reflection is total. What is kept at a
// share of that reflectance lies as far between the two.
type glassTable struct {
	full, none [2][tableN][tableN]float32
}

var glassTables sync.Map // index of refraction (float32) to *glassTable

// glassOf returns the table for an index of refraction, made at first use.
func glassOf(ior float32) *glassTable {
	if t, ok := glassTables.Load(ior); ok {
		return t.(*glassTable)
	}
	t := &glassTable{}
	for side := range t.full {
		eta := ior
		if side == 1 {
			eta = 1 / ior
		}
		for i := 0; i < tableN; i++ {
			rough := float32(i) / (tableN - 1)
			for j := 0; j < tableN; j++ {
				t.full[side][i][j], t.none[side][i][j] = integrateGlass(rough*rough, cosOf(j), eta)
			}
		}
	}
	got, _ := glassTables.LoadOrStore(ior, t)
	return got.(*glassTable)
}

func integrateGlass(a, mu, eta float32) (full, none float32) {
	if a < smooth {
		return 1, 1
	}
	wo := geom.V(geom.Sqrt(1-mu*mu), 0, mu)
	const n = 20
	gl := even(a)
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			h := gl.draw(wo, (float32(i)+0.5)/n, (float32(j)+0.5)/n)
			d := wo.Dot(h)
			f := FresnelDielectric(d, eta)
			g := 1 / gl.g1(wo) / (n * n)
			if wi := h.Scale(2 * d).Sub(wo); wi.Z > 0 {
				e := f * gl.g2(wo, wi) * g
				full += e
				if f >= 1 {
					none += e
				}
			}
			if wi, ok := Refract(wo, h, eta); ok && wi.Z < 0 {
				e := gl.g2(wo, wi) * g
				full += (1 - f) * e
				none += e
			}
		}
	}
	return max(full, 0.05), max(none, 0.05)
}

// kept is the share kept with so much of Fresnel's reflectance.
func (t *glassTable) kept(inside bool, rough, mu, share float32) float32 {
	side := 0
	if inside {
		side = 1
	}
	y := geom.Sqrt(geom.Clamp01(mu))
	e := lerpTable(&t.full[side], rough, y)
	if share != 1 {
		e = e*share + lerpTable(&t.none[side], rough, y)*(1-share)
	}
	return e
}

// Absorption turns a colour kept after a distance into Beer-Lambert
// coefficients per metre; a distance of zero or infinity absorbs nothing.
func Absorption(kept geom.Vec3, distance float32) geom.Vec3 {
	if !(distance > 0) || math.IsInf(float64(distance), 1) {
		return geom.Vec3{}
	}
	f := func(c float32) float32 {
		return float32(-math.Log(float64(min(max(c, 1e-6), 1)))) / distance
	}
	return geom.V(f(kept.X), f(kept.Y), f(kept.Z))
}

// Transmitted is what is left of light after a distance through an absorber.
func Transmitted(sigma geom.Vec3, distance float32) geom.Vec3 {
	if sigma.IsZero() {
		return geom.Splat(1)
	}
	e := func(s float32) float32 { return float32(math.Exp(float64(-s * distance))) }
	return geom.V(e(sigma.X), e(sigma.Y), e(sigma.Z))
}
