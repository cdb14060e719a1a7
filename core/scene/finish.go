package scene

import "amberproof/core/geom"

// AlphaMode says what a finish's alpha means.
type AlphaMode int

const (
	Opaque AlphaMode = iota
	Mask
	Blend
)

// Texture places an image on a surface: which UV set, a 2x3 transform of the
// coordinates, and how coordinates beyond 0..1 continue.
type Texture struct {
	Image     int
	Set       int
	Transform [6]float32
	WrapU     Wrap
	WrapV     Wrap
}

// Wrap continues an image beyond its edge.
type Wrap int

const (
	Repeat Wrap = iota
	Mirror
	Clamp
)

// NoTexture is the absent texture.
var NoTexture = Texture{Image: -1, Transform: [6]float32{1, 0, 0, 0, 1, 0}}

// Finish is the material a part wears, after the open glTF 2.0 model and its
// ratified extensions. Each texture multiplies the value it stands beside.
type Finish struct {
	Name string

	Base        geom.Vec3 // scene-linear albedo, metal reflectance or glass tint
	BaseTexture Texture   // red, green, blue; alpha
	Alpha       float32
	AlphaMode   AlphaMode
	Cutoff      float32
	DoubleSided bool

	Metallic          float32
	Roughness         float32 // perceptual; the GGX width is its square
	MetalRoughTexture Texture // roughness in green, metallic in blue
	IOR               float32
	Specular          float32 // strength of a dielectric's gloss
	SpecularTexture   Texture // alpha
	SpecularColour    geom.Vec3
	SpecColourTexture Texture

	Anisotropy        float32 // 0 to 1: gloss drawn out along the tangent
	AnisotropyTurn    float32 // radians, counter-clockwise from the tangent
	AnisotropyTexture Texture // direction in red and green, strength in blue

	// Clear parts. Thickness 0 is a thin shell, else the mesh bounds a solid.
	Transmission                  float32
	TransmissionTexture           Texture // red
	Thickness                     float32
	AttenuationColour             geom.Vec3 // what is left of white after AttenuationDistance
	AttenuationDistance           float32   // metres; 0 or infinite: clear
	Dispersion                    float32   // 20 over the Abbe number; 0 is none
	Priority                      int       // of a solid where solids overlap: the highest is really there
	Shadows                       ShadowMode
	Clearcoat, ClearcoatRoughness float32
	CoatTexture, CoatRoughTexture Texture // red; green
	CoatNormalTexture             Texture // without it the coat follows the mesh, not the NormalTexture
	CoatNormalScale               float32

	Sheen              geom.Vec3
	SheenTexture       Texture
	SheenRoughness     float32
	SheenRoughTexture  Texture // alpha
	Iridescence        float32
	IridescenceTexture Texture // red
	FilmIOR            float32
	FilmThin           float32 // nanometres where FilmTexture is 0
	FilmThick          float32 // nanometres where it is 1, or absent
	FilmTexture        Texture // green

	Emission        geom.Vec3 // radiance, in the units of the scene's lights (nits)
	EmissionTexture Texture

	NormalTexture Texture
	NormalScale   float32
	GreenDown     bool // its normal maps have green pointing down
}

// ShadowMode says how a smooth clear finish lets shadow rays through.
type ShadowMode int

const (
	TicketShadows   ShadowMode = iota // as the ticket says
	StraightShadows                   // along a straight line: quick, and without caustics
	BentShadows                       // only along refracted paths: true, and slow
)

// NewFinish returns the finish of the glTF defaults.
func NewFinish(name string) Finish {
	f := Finish{
		Name: name, Base: geom.Splat(1), Alpha: 1, Cutoff: 0.5, Metallic: 1, Roughness: 1, IOR: 1.5, Specular: 1, SpecularColour: geom.Splat(1),
		AttenuationColour: geom.Splat(1), NormalScale: 1, CoatNormalScale: 1, FilmIOR: 1.3, FilmThin: 100, FilmThick: 400,
	}
	for _, t := range f.Textures() {
		*t = NoTexture
	}
	return f
}

// Textures are all the places for one.
func (f *Finish) Textures() []*Texture {
	return []*Texture{
		&f.BaseTexture, &f.MetalRoughTexture, &f.SpecularTexture, &f.SpecColourTexture, &f.AnisotropyTexture,
		&f.TransmissionTexture, &f.CoatTexture, &f.CoatRoughTexture, &f.CoatNormalTexture,
		&f.SheenTexture, &f.SheenRoughTexture, &f.IridescenceTexture, &f.FilmTexture, &f.EmissionTexture, &f.NormalTexture,
	}
}

// TangentSet is the set of texture coordinates whose directions on the surface
// the finish needs to know; false where it needs none.
func (f *Finish) TangentSet() (set int, ok bool) {
	switch {
	case f.NormalTexture.Image >= 0:
		return f.NormalTexture.Set, true
	case f.CoatNormalTexture.Image >= 0:
		return f.CoatNormalTexture.Set, true
	}
	return 0, f.Anisotropy > 0
}

// NoFinish is what a part is said to wear for which the file names no finish.
const NoFinish = "no finish"

// Missing is worn by parts for which the file names no finish: grey, and hatched in the
// picture, so that it is mistaken for no finish of the product.
func Missing() Finish {
	f := NewFinish(NoFinish)
	f.Base, f.Metallic, f.Roughness = geom.Splat(0.42), 0, 0.6
	return f
}

// Clear reports whether most light goes through: glass and its like.
func (f *Finish) Clear() bool { return f.Transmission >= 0.5 && f.Metallic < 0.5 }

// MirrorRoughness is how rough a metal may be at most that shows what is around it as a
// mirror does.
const MirrorRoughness = 0.25

// MirrorLike reports whether a metal shows what is around it, away from pictures on it.
func (f *Finish) MirrorLike() bool { return f.Metallic >= 0.5 && f.Roughness <= MirrorRoughness }

// Glowing reports whether the finish gives light.
func (f *Finish) Glowing() bool { return f.Emission.Max() > 0 }
