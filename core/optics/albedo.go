package optics

import (
	"math"
	"sync"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// The directional albedo of a GGX surface with Schlick's Fresnel term splits
// into F0*A(cos, a) + B(cos, a) (Karis 2013). Both, and averages over the
// hemisphere, are integrated once, when the first surface is hit.
const tableN = 64

// splitTable is made of albedos by roughness and cosine.
type splitTable struct {
	ab   [tableN][tableN][2]float32 // [roughness][cos]
	mean [tableN][tableN]float32    // [roughness][f0]: mean albedo with compensation
}

var splits = sync.OnceValue(func() *splitTable {
	t := &splitTable{}
	everyRow(func(i int) {
		rough := float32(i) / (tableN - 1)
		for j := range tableN {
			t.ab[i][j][0], t.ab[i][j][1] = integrate(rough*rough, cosOf(j))
		}
	})
	everyRow(func(i int) {
		for k := range tableN {
			f0 := float32(k) / (tableN - 1)
			var sum float32
			const steps = 64
			for s := range steps {
				mu := (float32(s) + 0.5) / steps
				a, b := t.at(float32(i)/(tableN-1), mu)
				sum += kept(f0, a, b) * 2 * mu / steps
			}
			t.mean[i][k] = sum
		}
	})
	return t
})

// everyRow fills the rows of a table on all cores.
func everyRow(f func(i int)) {
	parallel.MustRanges(tableN, 1, func(i, _ int) { f(i) })
}

// Cosines are spaced so that grazing angles, where albedo turns fastest, get most entries.
func cosOf(j int) float32 { c := float32(j) / (tableN - 1); return max(c*c, 1e-4) }

// spread is a set of points that fill the unit square evenly: the additive
// recurrence of Roberts 2018 on the inverse powers of the plastic number.
func spread(i int) (u, v float32) {
	const g = 1.32471795724474602596
	_, x := math.Modf(0.5 + float64(i)/g)
	_, y := math.Modf(0.5 + float64(i)/(g*g))
	return float32(x), float32(y)
}

// points is how many directions an entry of a table is integrated over.
const points = 1024

func integrate(a, mu float32) (va, vb float32) {
	if a < smooth {
		f := schlick(mu)
		return 1 - f, f
	}
	// What is seen along X is the same to either side: half of the turn will do.
	return integrateGloss(even(a), geom.V(geom.Sqrt(1-mu*mu), 0, mu), points, 0.5)
}

// integrateGloss draws n normals, their turn from 0 to part.
func integrateGloss(g gloss, wo geom.Vec3, n int, part float32) (va, vb float32) {
	for i := range n {
		u, v := spread(i)
		h := g.draw(wo, u*part, v)
		d := wo.Dot(h)
		wi := h.Scale(2 * d).Sub(wo)
		if wi.Z <= 0 {
			continue
		}
		w := g.g2(wo, wi) / g.g1(wo) / float32(n)
		f := schlick(d)
		va += w * (1 - f)
		vb += w * f
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
	return lerpRows(&t[i], &t[i+1], j, fx, fy)
}

// lerpRows is what lies so far between two rows, and between their values j and j+1.
func lerpRows(p, q *[tableN]float32, j int, fx, fy float32) float32 {
	a := p[j]*(1-fy) + p[j+1]*fy
	b := q[j]*(1-fy) + q[j+1]*fy
	return a*(1-fx) + b*fx
}

func tablesAB(rough, mu float32) (a, b float32) { return splits().at(rough, mu) }

func (t *splitTable) at(rough, mu float32) (a, b float32) {
	i, j, fx, fy := cell(rough, geom.Sqrt(geom.Clamp01(mu)))
	p, q, r, s := &t.ab[i][j], &t.ab[i][j+1], &t.ab[i+1][j], &t.ab[i+1][j+1]
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

func albedoMean(f0, rough float32) float32 { return lerpTable(&splits().mean, rough, f0) }

// glassTable holds the share of energy that single scattering keeps at a rough
// dielectric interface, for light from outside [0] and inside [1]: with Fresnel's
// reflectance, and with none but where reflection is total. What is kept at a
// share of that reflectance lies as far between the two.
type glassTable struct{ *rows[glassRow] }

// glassRow is that of a roughness, by cosine.
type glassRow struct {
	full, none [2][tableN]float32
}

var glassTables sync.Map // index of refraction (float32) to *glassTable

// glassOf returns the table for an index of refraction.
func glassOf(ior float32) *glassTable {
	if t, ok := glassTables.Load(ior); ok {
		return t.(*glassTable)
	}
	t := &glassTable{newRows(tableN, func(i int) *glassRow {
		r := &glassRow{}
		rough := float32(i) / (tableN - 1)
		for j := range tableN {
			r.full[0][j], r.none[0][j] = integrateGlass(rough*rough, cosOf(j), ior)
			r.full[1][j], r.none[1][j] = integrateGlass(rough*rough, cosOf(j), 1/ior)
		}
		return r
	})}
	got, _ := glassTables.LoadOrStore(ior, t)
	return got.(*glassTable)
}

// glassPoints are points for glass, whose tables are made for each index.
const glassPoints = 1024

func integrateGlass(a, mu, eta float32) (full, none float32) {
	if a < smooth {
		return 1, 1
	}
	wo := geom.V(geom.Sqrt(1-mu*mu), 0, mu)
	gl := even(a)
	for i := range glassPoints {
		u, v := spread(i)
		h := gl.draw(wo, u/2, v) // the other half of the turn is the same
		d := wo.Dot(h)
		f := FresnelDielectric(d, eta)
		g := 1 / gl.g1(wo) / glassPoints
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
	return max(full, 0.05), max(none, 0.05)
}

// kept is the share kept with so much of Fresnel's reflectance.
func (t *glassTable) kept(inside bool, rough, mu, share float32) float32 {
	side := 0
	if inside {
		side = 1
	}
	i, j, fx, fy := cell(rough, geom.Sqrt(geom.Clamp01(mu)))
	p, q := t.row(i), t.row(i+1)
	e := lerpRows(&p.full[side], &q.full[side], j, fx, fy)
	if share != 1 {
		e = e*share + lerpRows(&p.none[side], &q.none[side], j, fx, fy)*(1-share)
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
