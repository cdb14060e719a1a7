// Package optics says how surfaces scatter light: the open glTF 2.0 material
// model on GGX microfacets, with energy kept at high roughness.
//
// Directions are unit vectors in the shading frame (Z is the normal), pointing
// away from the surface. Radiance is carried divided by the square of the
// index of refraction (basic radiance), so refraction does not scale it.
package optics

import (
	"math"

	"amberproof/core/geom"
)

// smooth is the GGX width under which a surface is treated as a perfect mirror
// or window.
const smooth = 1e-3

// Smooth reports whether a perceptual roughness counts as perfectly polished.
func Smooth(roughness float32) bool { return roughness*roughness < smooth }

// gloss is the width of a GGX lobe along the two tangents of the frame; equal
// for all but brushed surfaces.
type gloss struct{ x, y float32 }

func even(a float32) gloss { return gloss{a, a} }

// polished surfaces are perfect mirrors or windows.
func (g gloss) polished() bool { return g.x < smooth }

// d is the GGX distribution of micro-normals (Walter et al. 2007; Burley 2012
// for two widths).
func (g gloss) d(h geom.Vec3) float32 {
	x, y := h.X/g.x, h.Y/g.y
	k := x*x + y*y + h.Z*h.Z
	return 1 / (math.Pi * g.x * g.y * k * k)
}

// lambda is Smith's auxiliary function for GGX (Heitz 2014).
func (g gloss) lambda(v geom.Vec3) float32 {
	x, y := g.x*v.X, g.y*v.Y
	return (geom.Sqrt(1+(x*x+y*y)/(v.Z*v.Z)) - 1) * 0.5
}

// g1 and g2 are the uncorrelated and height-correlated Smith terms (Heitz 2014).
func (g gloss) g1(v geom.Vec3) float32 { return 1 / (1 + g.lambda(v)) }

func (g gloss) g2(o, i geom.Vec3) float32 { return 1 / (1 + g.lambda(o) + g.lambda(i)) }

// draw picks a micro-normal visible from wo (Heitz 2018, by spherical caps
// after Dupuy & Benyoub 2023).
func (g gloss) draw(wo geom.Vec3, u, v float32) geom.Vec3 {
	w := geom.V(wo.X*g.x, wo.Y*g.y, wo.Z).Unit()
	s, c := geom.SinCosTurn(u)
	z := (1-v)*(1+w.Z) - w.Z
	r := geom.Sqrt(geom.Clamp01(1 - z*z))
	h := geom.V(r*c, r*s, z).Add(w)
	return geom.V(h.X*g.x, h.Y*g.y, max(h.Z, 1e-9)).Unit()
}

// density is that of draw per solid angle of the micro-normal.
func (g gloss) density(wo, h geom.Vec3) float32 {
	return g.g1(wo) * max(0, wo.Dot(h)) * g.d(h) / wo.Z
}

// schlick is the fifth-power weight of the Fresnel approximation (Schlick 1994).
func schlick(cos float32) float32 {
	m := geom.Clamp01(1 - cos)
	m2 := m * m
	return m2 * m2 * m
}

// FresnelDielectric is the exact reflectance for unpolarised light arriving
// with cosine cos > 0 at an interface of relative index eta (far side over near side).
func FresnelDielectric(cos, eta float32) float32 {
	sin2 := (1 - cos*cos) / (eta * eta)
	if sin2 >= 1 {
		return 1
	}
	t := geom.Sqrt(1 - sin2)
	p := (eta*cos - t) / (eta*cos + t)
	s := (cos - eta*t) / (cos + eta*t)
	return (p*p + s*s) * 0.5
}

// Refract bends a ray that arrives along -wo through a surface with normal n
// on the side of wo. ok is false at total reflection.
func Refract(wo, n geom.Vec3, eta float32) (wi geom.Vec3, ok bool) {
	c := wo.Dot(n)
	sin2 := (1 - c*c) / (eta * eta)
	if sin2 >= 1 {
		return geom.Vec3{}, false
	}
	return wo.Scale(-1 / eta).Add(n.Scale(c/eta - geom.Sqrt(1-sin2))), true
}

// F0OfIOR is the reflectance at normal incidence.
func F0OfIOR(ior float32) float32 {
	r := (ior - 1) / (ior + 1)
	return r * r
}
