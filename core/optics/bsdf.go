package optics

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Kind is how a bounce travelled.
type Kind uint8

const (
	Diffuse Kind = iota
	Glossy
	Clear
)

// Surface is what a point of a surface is made of, textures already applied.
// NewSurface has the values that mean nothing special.
type Surface struct {
	Base                geom.Vec3
	Metallic, Roughness float32
	IOR                 float32 // over what lies outside
	Specular            float32 // strength of a dielectric's gloss
	SpecularColour      geom.Vec3
	Anisotropy          float32 // 0 to 1: how far gloss is drawn out along the first tangent
	Transmission        float32
	Thin                bool // a shell without inside
	Coat, CoatRoughness float32
	CoatNormal          geom.Vec3 // in the surface's own frame; zero is along it
	Sheen               geom.Vec3
	SheenRoughness      float32
	Film                Film
}

// NewSurface is a white plastic: no gloss but that of its index of refraction.
func NewSurface() Surface {
	return Surface{Base: geom.Splat(1), IOR: 1.5, Specular: 1, SpecularColour: geom.Splat(1)}
}

// BSDF scatters light at one point for one outgoing direction.
type BSDF struct {
	wo     geom.Vec3
	inside bool // wo is within the solid
	thin   bool
	matte  bool // no gloss at all

	diffuse   geom.Vec3 // albedo over pi, with the share let in on the way out
	f0, f90   geom.Vec3
	specScale geom.Vec3 // energy compensation
	f0d       float32   // of the dielectric part, its strongest colour
	f90d      float32
	rough     float32
	a         gloss

	glass      float32 // share of the clear model
	eta        float32
	tint       geom.Vec3
	glassScale float32
	toned      bool // its reflectance is not that of its index alone
	glass0     geom.Vec3
	glass90    float32
	coat       float32
	coatA      gloss
	coatScale  float32
	tilted     bool // the coat has a normal of its own
	coatFrame  geom.Frame
	coatWo     geom.Vec3
	under      float32 // what coat and sheen let through
	sheen      geom.Vec3
	sheenA     float32
	sheenM     float32 // how near to grazing it is drawn

	// How many directions are expected to be drawn of each lobe, and of all: 1, unless Branch
	// asked for more.
	pCoat, pSpec, pDiffuse, pGlass, pSheen float32
	draws                                  float32
}

// Sample is a scattered direction with its weight f*|cos|/pdf.
type Sample struct {
	Wi      geom.Vec3
	Weight  geom.Vec3
	PDF     float32 // per solid angle; infinite for a perfect mirror or window
	Kind    Kind
	Through bool // went through the surface
	Delta   bool
}

// New prepares the surface for the direction wo; wo.Z > 0 always, and inside
// says that the front of the surface is on the other side.
func New(s *Surface, wo geom.Vec3, inside bool) (b BSDF) {
	mu := max(wo.Z, 1e-4)
	b.wo, b.inside, b.thin, b.under, b.draws = wo, inside, s.Thin, 1, 1
	b.rough = geom.Clamp01(s.Roughness)
	b.a = even(b.rough * b.rough)
	if s.Anisotropy > 0 {
		b.a = drawnGloss(b.a.x, s.Anisotropy)
	}
	b.glass = s.Transmission * (1 - s.Metallic)
	opaque := 1 - b.glass
	var pc, ph, spec, diffuse float32
	if s.Coat > 0 && !inside {
		pc = b.coated(s)
	}
	if !s.Sheen.IsZero() && !inside {
		ph = b.withSheen(s, mu)
	}
	if opaque > 0 && s.IOR == 1 && s.Metallic == 0 {
		// No interface, no gloss: an ideal matte (Lambert 1760).
		b.diffuse = s.Base.Scale(opaque / math.Pi)
		diffuse = colour.Luminance(s.Base) * opaque
		b.matte = true
	} else if opaque > 0 {
		spec, diffuse = b.glossy(s, mu, opaque)
	}
	if b.glass > 0 {
		b.clear(s, mu)
	}
	ps, pd, pg := spec*b.under, diffuse*b.under, b.glass*b.under
	if sum := pc + ph + ps + pd + pg; sum > 0 {
		b.pCoat, b.pSheen, b.pSpec, b.pDiffuse, b.pGlass = pc/sum, ph/sum, ps/sum, pd/sum, pg/sum
	}
	return b
}

// coated lays the coat over the surface and returns the share of light that it reflects.
func (b *BSDF) coated(s *Surface) (took float32) {
	r := geom.Clamp01(s.CoatRoughness)
	b.coat, b.coatA, b.coatWo = s.Coat, even(max(r*r, smooth)), b.wo
	if b.tilted = !s.CoatNormal.IsZero(); b.tilted {
		b.coatFrame = geom.NewFrame(s.CoatNormal)
		b.coatWo = b.coatFrame.ToLocal(b.wo)
		b.coatWo.Z = max(b.coatWo.Z, 1e-4)
	}
	muCoat := max(b.coatWo.Z, 1e-4)
	ca, cb := tablesAB(r, muCoat)
	b.coatScale = compensation(0.04, ca, cb)
	took = s.Coat * albedo(0.04, r, muCoat)
	b.under = 1 - took
	return took
}

// withSheen lays the sheen over the surface and returns the share of light that it reflects;
// mu is the cosine of the outgoing direction.
func (b *BSDF) withSheen(s *Surface, mu float32) (mean float32) {
	e := sheenAlbedo(s.SheenRoughness, mu)
	b.sheen, b.sheenA = s.Sheen.Scale(b.under), sheenWidth(s.SheenRoughness)
	b.sheenM = sheenPower(b.sheenA)
	// One that would return more than it gets is dimmed to what it gets.
	took := s.Sheen.Max() * e
	if took > 1 {
		b.sheen, took = b.sheen.Scale(1/took), 1
	}
	mean = colour.Luminance(b.sheen) * e
	b.under *= 1 - took
	return mean
}

// glossy makes the opaque share a plastic, a metal or what is between, and returns the
// shares of light that its gloss and its diffuse part reflect.
func (b *BSDF) glossy(s *Surface, mu, opaque float32) (spec, diffuse float32) {
	f0d := geom.Min3(s.SpecularColour.Scale(F0OfIOR(s.IOR)), geom.Splat(1))
	metal := s.Base
	if s.Film.Share > 0 {
		f0d, metal = filmF0(s.Film, f0d, mu), filmF0(s.Film, metal, mu)
	}
	b.f0d, b.f90d = f0d.Max(), s.Specular
	b.f0 = f0d.Scale(s.Specular).Lerp(metal, s.Metallic)
	f90 := s.Specular + (1-s.Specular)*s.Metallic
	b.f90 = geom.Splat(f90)
	var ta, tb float32
	if s.Anisotropy > 0 {
		ta, tb = brushedAB(b.rough, s.Anisotropy, b.wo)
		// Where a single roughness must do, that of the mean width.
		b.rough = geom.Sqrt(geom.Sqrt(b.a.x * b.a.y))
	} else {
		ta, tb = tablesAB(b.rough, mu)
	}
	ed := s.Specular * kept(b.f0d, ta, tb)
	// A half metal returns what half a metal and half a plastic would.
	want := geom.V(kept(f0d.X, ta, tb), kept(f0d.Y, ta, tb), kept(f0d.Z, ta, tb)).Scale(s.Specular).Lerp(
		geom.V(kept(metal.X, ta, tb), kept(metal.Y, ta, tb), kept(metal.Z, ta, tb)), s.Metallic)
	got := b.f0.Scale(ta).Add(geom.Splat(f90 * tb))
	share := func(w, g float32) float32 { return w / max(g, 1e-6) }
	b.specScale = geom.V(share(want.X, got.X), share(want.Y, got.Y), share(want.Z, got.Z)).Scale(opaque)
	spec = colour.Luminance(want) * opaque
	mean := s.Specular * albedoMean(b.f0d, b.rough)
	b.diffuse = s.Base.Scale(opaque * (1 - s.Metallic) * (1 - ed) / max(1-mean, 1e-4) / math.Pi)
	diffuse = colour.Luminance(b.diffuse) * math.Pi * (1 - mean)
	return spec, diffuse
}

// clear makes the share that is let through.
func (b *BSDF) clear(s *Surface, mu float32) {
	b.eta = s.IOR
	if b.inside {
		b.eta = 1 / s.IOR
	}
	share := float32(1) // of Fresnel's reflectance
	if b.toned = s.Specular != 1 || s.SpecularColour != geom.Splat(1); b.toned {
		b.glass0 = geom.Min3(s.SpecularColour.Scale(F0OfIOR(s.IOR)), geom.Splat(1)).Scale(s.Specular)
		b.glass90 = s.Specular
		share = colour.Luminance(b.glass0) / max(F0OfIOR(s.IOR), 1e-6)
	}
	b.tint = s.Base
	if !s.Thin { // a body is crossed by two interfaces and shows its tint once
		b.tint = geom.V(geom.Sqrt(max(s.Base.X, 0)), geom.Sqrt(max(s.Base.Y, 0)), geom.Sqrt(max(s.Base.Z, 0)))
	}
	b.glassScale = b.glass
	if !b.a.polished() {
		if s.Thin {
			ta, tb := tablesAB(b.rough, mu)
			b.glassScale = b.glass / (ta + tb)
		} else {
			b.glassScale = b.glass / glassOf(s.IOR).kept(b.inside, b.rough, mu, share)
		}
	}
}

// AllDelta reports whether light cannot be sampled here: every lobe is a
// perfect mirror or window.
func (b *BSDF) AllDelta() bool {
	return b.coat == 0 && b.pSheen == 0 && (b.a.polished() || b.pSpec == 0 && b.pGlass == 0) && b.pDiffuse == 0
}

// LetsThrough reports whether light from the other side of the surface counts.
func (b *BSDF) LetsThrough() bool { return b.pGlass > 0 }

// Reflectance is about the share of light that the surface sends on, all lobes
// together: what tells surfaces apart, not what light is computed by.
func (b *BSDF) Reflectance() geom.Vec3 {
	c := b.diffuse.Scale(math.Pi).Add(b.f0.Mul(b.specScale)).Add(b.tint.Scale(b.glass)).Scale(b.under)
	return c.Add(b.sheen).Add(geom.Splat(b.coat * 0.04))
}

func (b *BSDF) fresnel(cosH float32) geom.Vec3 {
	s := schlick(cosH)
	return b.f0.Scale(1 - s).Add(b.f90.Scale(s))
}

// clearR is the reflectance of the clear model's interface in its strongest
// colour, and the tone of what it reflects: Fresnel's, or with a gloss of other
// strength or colour than its index makes, as much between that at normal
// incidence and that at grazing as Fresnel's is. Total reflection stays total.
func (b *BSDF) clearR(cos, eta float32) (r float32, tone geom.Vec3) {
	f := FresnelDielectric(cos, eta)
	if !b.toned || f >= 1 {
		return f, geom.Splat(1)
	}
	f0 := F0OfIOR(eta)
	w := max(0, (f-f0)/(1-f0))
	c := b.glass0.Scale(1 - w).Add(geom.Splat(b.glass90 * w))
	if r = c.Max(); r <= 0 {
		return 0, geom.Splat(1)
	}
	return r, c.Scale(1 / r)
}

// glassR is the reflectance of the clear model at a micro-normal: of one
// interface, or of both faces of a thin shell with all bounces between them.
func (b *BSDF) glassR(cosH float32) (r float32, tone geom.Vec3) {
	if !b.thin {
		return b.clearR(cosH, b.eta)
	}
	r, tone = b.clearR(cosH, b.outsideEta())
	return 2 * r / (1 + r), tone
}

// outsideEta is the index of refraction as seen from outside.
func (b *BSDF) outsideEta() float32 {
	if b.inside {
		return 1 / b.eta
	}
	return b.eta
}

// Matte is the share of Eval without any gloss.
func (b *BSDF) Matte(wi geom.Vec3) geom.Vec3 {
	if wi.Z <= 0 {
		return geom.Vec3{}
	}
	in := float32(1)
	if !b.matte {
		in = 1 - b.f90d*albedo(b.f0d, b.rough, wi.Z)
	}
	return b.diffuse.Scale(in * wi.Z * b.under)
}

// Eval returns f*|cos(wi)| and the density of Sample for wi, perfect mirrors
// and windows left out.
func (b *BSDF) Eval(wi geom.Vec3) (f geom.Vec3, pdf float32) {
	wo := b.wo
	if wi.Z > 0 {
		h := wo.Add(wi).Unit()
		d := wo.Dot(h)
		if b.pDiffuse > 0 {
			f = b.Matte(wi)
			pdf = b.pDiffuse * wi.Z / math.Pi
		}
		if !b.a.polished() && (b.pSpec > 0 || b.pGlass > 0) {
			dist := b.a.d(h)
			ph := b.a.g1(wo) * dist / (4 * wo.Z) // visible-normal density of wi
			g := b.a.g2(wo, wi) * dist / (4 * wo.Z)
			if b.pSpec > 0 {
				f = f.Add(b.fresnel(d).Mul(b.specScale).Scale(g * b.under))
				pdf += b.pSpec * ph
			}
			if b.pGlass > 0 {
				r, tone := b.glassR(d)
				f = f.Add(tone.Scale(r * b.glassScale * g * b.under))
				pdf += b.pGlass * r * ph
			}
		}
		if b.coat > 0 {
			c, p := b.evalCoat(wi, h)
			f, pdf = f.Add(geom.Splat(c)), pdf+b.pCoat*p
		}
		if b.pSheen > 0 {
			f = f.Add(b.sheen.Scale(sheenValue(wo.Z, wi.Z, h.Z, b.sheenA) * wi.Z))
			pdf += b.pSheen * sheenDensity(wi.Z, b.sheenM)
		}
		return f, pdf
	}
	if b.pGlass == 0 || b.a.polished() || wi.Z == 0 {
		return f, pdf
	}
	if b.thin {
		m := geom.V(wi.X, wi.Y, -wi.Z)
		h := wo.Add(m).Unit()
		r, _ := b.glassR(wo.Dot(h))
		t := 1 - r
		dist := b.a.d(h)
		g := b.a.g2(wo, m) * dist / (4 * wo.Z)
		return b.tint.Scale(t * b.glassScale * g * b.under), b.pGlass * t * b.a.g1(wo) * dist / (4 * wo.Z)
	}
	h := wo.Add(wi.Scale(b.eta)).Unit()
	if h.Z < 0 {
		h = h.Neg()
	}
	do, di := wo.Dot(h), wi.Dot(h)
	if do <= 0 || di >= 0 {
		return f, pdf
	}
	r, _ := b.glassR(do)
	t := 1 - r
	q := do + b.eta*di
	jac := b.eta * b.eta * -di / (q * q)
	p := b.a.density(wo, h) * jac * t
	w := b.a.g2(wo, wi) / b.a.g1(wo)
	return b.tint.Scale(p * w * b.glassScale * b.under), b.pGlass * p
}

// evalCoat is what the coat adds for a direction above the surface, and the
// density of drawing it from the coat.
func (b *BSDF) evalCoat(wi, h geom.Vec3) (f, pdf float32) {
	if !b.tilted {
		return b.coatLobe(wi, h)
	}
	// What a tilted coat sends below the surface comes out above it, mirrored, so
	// that nothing is lost.
	for _, wi := range [2]geom.Vec3{wi, {X: wi.X, Y: wi.Y, Z: -wi.Z}} {
		if wi = b.coatFrame.ToLocal(wi); wi.Z > 0 {
			g, p := b.coatLobe(wi, b.coatWo.Add(wi).Unit())
			f, pdf = f+g, pdf+p
		}
	}
	return f, pdf
}

// coatLobe is the lobe of a coat in the coat's own frame, and its density.
func (b *BSDF) coatLobe(wi, h geom.Vec3) (f, pdf float32) {
	wo := b.coatWo
	share := b.coatA.d(h) / (4 * wo.Z)
	fresnel := 0.04 + 0.96*schlick(wo.Dot(h))
	return b.coat * fresnel * b.coatScale * b.coatA.g2(wo, wi) * share, b.coatA.g1(wo) * share
}

// Draws is how many directions are expected to be drawn: 1, unless Branch asked for more.
func (b *BSDF) Draws() float32 { return b.draws }

// Branch has so many times as many directions of each Kind drawn: all of them together stand
// for the surface, and the densities of Eval and Sample become sums over them, as multiple
// importance sampling takes them (Veach 1995, the multi-sample balance heuristic). Sample
// is to be asked with uc = r, r+1, ... below Draws, where r is uniform in [0, 1). Of a perfect
// mirror or window there is one direction, which is not drawn more often.
func (b *BSDF) Branch(times [3]int) {
	diffuse, glossy, clear := float32(times[Diffuse]), float32(times[Glossy]), float32(times[Clear])
	before := b.pDiffuse + b.pSpec + b.pCoat + b.pSheen + b.pGlass
	b.pDiffuse *= diffuse
	b.pCoat, b.pSheen = b.pCoat*glossy, b.pSheen*glossy
	if !b.a.polished() {
		b.pSpec, b.pGlass = b.pSpec*glossy, b.pGlass*clear
	}
	b.draws += b.pDiffuse + b.pSpec + b.pCoat + b.pSheen + b.pGlass - before
}

// Sample draws a direction. uc chooses the lobe, u and v the direction within it.
func (b *BSDF) Sample(uc, u, v float32) (s Sample, ok bool) {
	wo := b.wo
	switch {
	case uc < b.pDiffuse:
		s.Wi, s.Kind = sampling.CosineHemisphere(u, v), Diffuse
	case uc < b.pDiffuse+b.pSpec:
		s.Kind = Glossy
		if b.a.polished() {
			s.Wi, s.Delta, s.PDF = geom.V(-wo.X, -wo.Y, wo.Z), true, float32(math.Inf(1))
			s.Weight = b.fresnel(wo.Z).Mul(b.specScale).Scale(b.under / b.pSpec)
			return s, true
		}
		h := b.a.draw(wo, u, v)
		s.Wi = h.Scale(2 * wo.Dot(h)).Sub(wo)
	case uc < b.pDiffuse+b.pSpec+b.pCoat:
		s.Kind = Glossy
		h := b.coatA.draw(b.coatWo, u, v)
		s.Wi = h.Scale(2 * b.coatWo.Dot(h)).Sub(b.coatWo)
		if b.tilted && s.Wi.Z > 0 {
			s.Wi = b.coatFrame.ToWorld(s.Wi)
			s.Wi.Z = geom.Abs(s.Wi.Z)
		}
	case uc < b.pDiffuse+b.pSpec+b.pCoat+b.pSheen:
		s.Kind = Glossy
		s.Wi = drawSheen(u, v, b.sheenM)
	case b.pGlass > 0:
		return b.sampleGlass((uc-(b.draws-b.pGlass))/b.pGlass, u, v)
	default:
		return s, false
	}
	if s.Wi.Z <= 0 {
		return s, false
	}
	f, pdf := b.Eval(s.Wi)
	if !(pdf > 0) {
		return s, false
	}
	s.Weight, s.PDF = f.Scale(1/pdf), pdf
	return s, true
}

func (b *BSDF) sampleGlass(uc, u, v float32) (s Sample, ok bool) {
	wo := b.wo
	s.Kind = Clear
	if b.a.polished() {
		s.Delta, s.PDF = true, float32(math.Inf(1))
		r, tone := b.glassR(wo.Z)
		scale := b.glassScale * b.under / b.pGlass
		if uc < r {
			s.Wi, s.Weight = geom.V(-wo.X, -wo.Y, wo.Z), tone.Scale(scale)
			return s, true
		}
		s.Through, s.Weight = true, b.tint.Scale(scale)
		if b.thin {
			s.Wi = wo.Neg()
			return s, true
		}
		s.Wi, ok = Refract(wo, geom.V(0, 0, 1), b.eta)
		return s, ok
	}
	h := b.a.draw(wo, u, v)
	d := wo.Dot(h)
	r, _ := b.glassR(d)
	switch {
	case uc < r:
		s.Wi = h.Scale(2 * d).Sub(wo)
		ok = s.Wi.Z > 0
	case b.thin:
		m := h.Scale(2 * d).Sub(wo)
		s.Wi, s.Through = geom.V(m.X, m.Y, -m.Z), true
		ok = m.Z > 0
	default:
		s.Wi, ok = Refract(wo, h, b.eta)
		s.Through = true
		ok = ok && s.Wi.Z < 0
	}
	if !ok {
		return s, false
	}
	f, pdf := b.Eval(s.Wi)
	if !(pdf > 0) {
		return s, false
	}
	s.Weight, s.PDF = f.Scale(1/pdf), pdf
	return s, true
}

// Split returns both ways that light takes at a perfectly smooth clear surface,
// each with its full weight, for those who want to follow both; reflected is the
// share that is mirrored. ok is false at other surfaces and at total reflection.
func (b *BSDF) Split() (mirror, through Sample, reflected float32, ok bool) {
	if b.pGlass < 1 || !b.a.polished() {
		return mirror, through, 0, false
	}
	reflected, tone := b.glassR(b.wo.Z)
	scale := b.glassScale * b.under
	delta := Sample{PDF: float32(math.Inf(1)), Kind: Clear, Delta: true}
	mirror, through = delta, delta
	mirror.Wi, mirror.Weight = geom.V(-b.wo.X, -b.wo.Y, b.wo.Z), tone.Scale(reflected*scale)
	through.Wi, through.Weight, through.Through = b.wo.Neg(), b.tint.Scale((1-reflected)*scale), true
	ok = true
	if !b.thin {
		through.Wi, ok = Refract(b.wo, geom.V(0, 0, 1), b.eta)
	}
	return mirror, through, reflected, ok && reflected < 1
}

// Straight is the light let through a smooth clear surface along a straight
// line: what shadow rays and see-through passes are multiplied by. A straight
// line keeps the angle it has outside a body; light in a body goes at the bent
// angle, whose reflectance from within is the same (reciprocity). So it is
// always taken from outside, and never has total reflection.
func (b *BSDF) Straight() geom.Vec3 {
	f, _ := b.clearR(b.wo.Z, b.outsideEta())
	if b.thin {
		f = 2 * f / (1 + f)
	}
	return b.tint.Scale((1 - f) * b.glass * b.under)
}

// StraightOut is Straight where light leaves a body in which it is known to have
// gone at another angle, of the cosine cos to this side of it: nothing, where that
// is reflected back. So light that comes in by one side of a block does not go out
// by the next, which it cannot.
func (b *BSDF) StraightOut(cos float32) geom.Vec3 {
	f, _ := b.clearR(cos, 1/b.outsideEta())
	return b.tint.Scale((1 - f) * b.glass * b.under)
}
