package importer

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// gltfTexture refers to a picture. Scale is that of normal maps, strength that of baked
// occlusion.
type gltfTexture struct {
	Index      int
	TexCoord   int
	Scale      *float64
	Strength   *float64
	Extensions struct {
		Transform *struct {
			Offset, Scale []float64
			Rotation      float64
			TexCoord      *int
		} `json:"KHR_texture_transform"`
	}
}

// gltfMaterial is a material as the format has it. Its extensions are kept as they came:
// each is read where it is known, and told by name where not.
type gltfMaterial struct {
	Name                 string
	PBRMetallicRoughness struct {
		BaseColorFactor          []float64
		BaseColorTexture         *gltfTexture
		MetallicFactor           *float64
		RoughnessFactor          *float64
		MetallicRoughnessTexture *gltfTexture
	} `json:"pbrMetallicRoughness"`
	NormalTexture    *gltfTexture
	OcclusionTexture *gltfTexture
	EmissiveTexture  *gltfTexture
	EmissiveFactor   []float64
	AlphaMode        string
	AlphaCutoff      *float64
	DoubleSided      bool
	Extensions       map[string]json.RawMessage
	Extras           json.RawMessage
}

// clamp brings v into a range; what is no number becomes its lower end.
func clamp(v, lo, hi float64) float32 {
	if !(v >= lo) {
		return float32(lo)
	}
	return float32(math.Min(v, hi))
}

// material reads one material as a finish. Factors out of range are brought
// into it; what is not understood is noted.
func (g *gltf) material(i int) {
	m := &g.doc.Materials[i]
	name := nameFrom(m.Name)
	if name == "" {
		name = fmt.Sprintf("finish %d", i+1)
	}
	f := scene.NewFinish(name)
	p := &m.PBRMetallicRoughness
	if b := p.BaseColorFactor; len(b) == 4 {
		f.Base = geom.V(clamp(b[0], 0, 1), clamp(b[1], 0, 1), clamp(b[2], 0, 1))
		f.Alpha = clamp(b[3], 0, 1)
	}
	if p.MetallicFactor != nil {
		f.Metallic = clamp(*p.MetallicFactor, 0, 1)
	}
	if p.RoughnessFactor != nil {
		f.Roughness = clamp(*p.RoughnessFactor, 0, 1)
	}
	f.BaseTexture = g.texture(name, p.BaseColorTexture)
	f.MetalRoughTexture = g.texture(name, p.MetallicRoughnessTexture)
	f.NormalTexture = g.texture(name, m.NormalTexture)
	f.NormalScale = normalScale(m.NormalTexture)
	if m.OcclusionTexture != nil {
		g.note(name, "its baked occlusion picture is not used: occlusion is computed")
	}
	f.EmissionTexture = g.texture(name, m.EmissiveTexture)
	e := vec(m.EmissiveFactor, geom.Vec3{})
	f.Emission = geom.V(clamp(float64(e.X), 0, 1e9), clamp(float64(e.Y), 0, 1e9), clamp(float64(e.Z), 0, 1e9))
	switch m.AlphaMode {
	case "MASK":
		f.AlphaMode = scene.Mask
		if m.AlphaCutoff != nil {
			f.Cutoff = clamp(*m.AlphaCutoff, 0, 1)
		}
	case "BLEND":
		f.AlphaMode = scene.Blend
	}
	f.DoubleSided = m.DoubleSided
	// Strength multiplies the emission that was read before, and unlit takes base and its
	// texture as they are: both come after them, here.
	// In a fixed order, so that the notes are too.
	for _, ext := range slices.Sorted(maps.Keys(m.Extensions)) {
		g.materialExtension(&f, ext, m.Extensions[ext])
	}
	g.finishExtras(&f, m.Extras)
	g.s.Finishes = append(g.s.Finishes, f)
}

// normalScale is how strongly a normal map turns normals.
func normalScale(t *gltfTexture) float32 {
	if t == nil || t.Scale == nil {
		return 1
	}
	return clamp(*t.Scale, -10, 10)
}

// gltfMaterialExtension is what any of the extensions of a material says; each its own part.
type gltfMaterialExtension struct {
	EmissiveStrength          *float64
	TransmissionFactor        float64
	TransmissionTexture       *gltfTexture
	IOR                       *float64
	ThicknessFactor           float64
	ThicknessTexture          *gltfTexture
	AttenuationDistance       float64
	AttenuationColor          []float64
	ClearcoatFactor           float64
	ClearcoatTexture          *gltfTexture
	ClearcoatRoughnessFactor  float64
	ClearcoatRoughnessTexture *gltfTexture
	ClearcoatNormalTexture    *gltfTexture

	SpecularFactor       *float64
	SpecularTexture      *gltfTexture
	SpecularColorFactor  []float64
	SpecularColorTexture *gltfTexture

	SheenColorFactor      []float64
	SheenColorTexture     *gltfTexture
	SheenRoughnessFactor  float64
	SheenRoughnessTexture *gltfTexture

	AnisotropyStrength, AnisotropyRotation float64
	AnisotropyTexture                      *gltfTexture

	Dispersion float64

	IridescenceFactor                                        float64
	IridescenceTexture                                       *gltfTexture
	IridescenceIor                                           *float64
	IridescenceThicknessMinimum, IridescenceThicknessMaximum *float64
	IridescenceThicknessTexture                              *gltfTexture
}

// materialExtension takes one extension of a material into its finish. Units are those of
// the extensions: metres for lengths, radians for turns, nanometres for films.
func (g *gltf) materialExtension(f *scene.Finish, ext string, raw json.RawMessage) {
	if !knownExtensions[ext] { // by name: what it holds may have any form
		g.note(f.Name, "%s is not supported and is left out", ext)
		return
	}
	var x gltfMaterialExtension
	if err := json.Unmarshal(raw, &x); err != nil {
		g.note(f.Name, "its %s is damaged and left out", ext)
		return
	}
	switch ext {
	case "KHR_materials_emissive_strength":
		if x.EmissiveStrength != nil {
			f.Emission = f.Emission.Scale(clamp(*x.EmissiveStrength, 0, 1e9))
		}
	case "KHR_materials_transmission":
		f.Transmission = clamp(x.TransmissionFactor, 0, 1)
		f.TransmissionTexture = g.texture(f.Name, x.TransmissionTexture)
	case "KHR_materials_ior":
		if x.IOR != nil && *x.IOR > 0 {
			f.IOR = clamp(*x.IOR, 1, 5)
		}
	case "KHR_materials_volume":
		f.Thickness = clamp(x.ThicknessFactor, 0, 1e6)
		f.AttenuationDistance = clamp(x.AttenuationDistance, 0, 1e9)
		c := vec(x.AttenuationColor, geom.Splat(1))
		f.AttenuationColour = geom.V(clamp(float64(c.X), 0, 1), clamp(float64(c.Y), 0, 1), clamp(float64(c.Z), 0, 1))
		if x.ThicknessTexture != nil {
			g.note(f.Name, "its thickness picture is not used: thickness is traced")
		}
	case "KHR_materials_clearcoat":
		f.Clearcoat = clamp(x.ClearcoatFactor, 0, 1)
		f.ClearcoatRoughness = clamp(x.ClearcoatRoughnessFactor, 0, 1)
		f.CoatTexture = g.texture(f.Name, x.ClearcoatTexture)
		f.CoatRoughTexture = g.texture(f.Name, x.ClearcoatRoughnessTexture)
		f.CoatNormalTexture = g.texture(f.Name, x.ClearcoatNormalTexture)
		f.CoatNormalScale = normalScale(x.ClearcoatNormalTexture)
	case "KHR_materials_specular":
		if x.SpecularFactor != nil {
			f.Specular = clamp(*x.SpecularFactor, 0, 1)
		}
		c := vec(x.SpecularColorFactor, geom.Splat(1))
		f.SpecularColour = geom.V(clamp(float64(c.X), 0, 1e3), clamp(float64(c.Y), 0, 1e3), clamp(float64(c.Z), 0, 1e3))
		f.SpecularTexture, f.SpecColourTexture = g.texture(f.Name, x.SpecularTexture), g.texture(f.Name, x.SpecularColorTexture)
	case "KHR_materials_sheen":
		c := vec(x.SheenColorFactor, geom.Vec3{})
		f.Sheen = geom.V(clamp(float64(c.X), 0, 1), clamp(float64(c.Y), 0, 1), clamp(float64(c.Z), 0, 1))
		f.SheenRoughness = clamp(x.SheenRoughnessFactor, 0, 1)
		f.SheenTexture, f.SheenRoughTexture = g.texture(f.Name, x.SheenColorTexture), g.texture(f.Name, x.SheenRoughnessTexture)
	case "KHR_materials_anisotropy":
		f.Anisotropy = clamp(x.AnisotropyStrength, 0, 1)
		f.AnisotropyTurn = clamp(math.Remainder(x.AnisotropyRotation, 2*math.Pi), -math.Pi, math.Pi)
		f.AnisotropyTexture = g.texture(f.Name, x.AnisotropyTexture)
	case "KHR_materials_dispersion":
		f.Dispersion = clamp(x.Dispersion, 0, 20)
	case "KHR_materials_iridescence":
		f.Iridescence = clamp(x.IridescenceFactor, 0, 1)
		set := func(to *float32, from *float64) {
			if from != nil {
				*to = clamp(*from, 0, 1e5)
			}
		}
		set(&f.FilmIOR, x.IridescenceIor)
		set(&f.FilmThin, x.IridescenceThicknessMinimum)
		set(&f.FilmThick, x.IridescenceThicknessMaximum)
		f.FilmIOR = min(max(f.FilmIOR, 1), 5)
		f.IridescenceTexture, f.FilmTexture = g.texture(f.Name, x.IridescenceTexture), g.texture(f.Name, x.IridescenceThicknessTexture)
	case "KHR_materials_unlit":
		// The even glow of a screen or a label: its colour, whatever the light.
		f.Emission, f.EmissionTexture = f.Base, f.BaseTexture
		f.Base, f.Metallic, f.Roughness, f.IOR = geom.Vec3{}, 0, 1, 1
	default:
		g.note(f.Name, "%s is not supported and is left out", ext)
	}
}

// finishExtras reads what glTF has no word for, from extras of our own:
// priority (a whole number), shadows ("straight" or "bent"), green ("up" or "down").
func (g *gltf) finishExtras(f *scene.Finish, raw json.RawMessage) {
	var x struct {
		Priority       *float64
		Shadows, Green string
	}
	if len(raw) == 0 || json.Unmarshal(raw, &x) != nil {
		return // extras of other programs may be anything
	}
	if x.Priority != nil {
		f.Priority = int(clamp(math.Round(*x.Priority), -1000, 1000))
	}
	switch x.Shadows {
	case "straight":
		f.Shadows = scene.StraightShadows
	case "bent":
		f.Shadows = scene.BentShadows
	}
	f.GreenDown = x.Green == "down"
}

// texture resolves a reference to a picture; what cannot be had is noted and absent.
func (g *gltf) texture(where string, t *gltfTexture) scene.Texture {
	out := scene.NoTexture
	if t == nil {
		return out
	}
	if t.Index < 0 || t.Index >= len(g.doc.Textures) {
		g.note(where, "texture %d is not there", t.Index)
		return out
	}
	src := &g.doc.Textures[t.Index]
	// A picture in another format is meant in place of the one beside it.
	if x, ok := src.Extensions[webpExtension]; ok {
		var webp struct{ Source *int }
		if json.Unmarshal(x, &webp) == nil && webp.Source != nil {
			src.Source = webp.Source
		}
	}
	if src.Source == nil {
		for _, e := range slices.Sorted(maps.Keys(src.Extensions)) {
			g.note(where, "a picture stored as %s is not supported; the finish goes without it", e)
		}
		return out
	}
	out.Set = t.TexCoord
	img, ok := g.images[*src.Source]
	if !ok {
		img = g.image(*src.Source, where)
		g.images[*src.Source] = img
	}
	out.Image = img
	if src.Sampler != nil && *src.Sampler >= 0 && *src.Sampler < len(g.doc.Samplers) {
		s := g.doc.Samplers[*src.Sampler]
		out.WrapU, out.WrapV = wrapOf(s.WrapS), wrapOf(s.WrapT)
	}
	if x := t.Extensions.Transform; x != nil {
		if x.TexCoord != nil {
			out.Set = *x.TexCoord
		}
		ox, oy, sx, sy := 0.0, 0.0, 1.0, 1.0
		if len(x.Offset) == 2 {
			ox, oy = x.Offset[0], x.Offset[1]
		}
		if len(x.Scale) == 2 {
			sx, sy = x.Scale[0], x.Scale[1]
		}
		sin, cos := math.Sincos(x.Rotation)
		out.Transform = [6]float32{float32(cos * sx), float32(sin * sy), float32(ox), float32(-sin * sx), float32(cos * sy), float32(oy)}
	}
	if out.Set < 0 || out.Set > 1 {
		g.note(where, "texture coordinates beyond the second set are not supported; the first is used")
		out.Set = 0
	}
	return out
}

// webpExtension gives textures pictures in WebP.
const webpExtension = "EXT_texture_webp"

// wrapOf is how a picture goes on beyond its edge; anything unknown repeats, as the
// format's own default does.
func wrapOf(mode int) scene.Wrap {
	switch mode {
	case 33071:
		return scene.Clamp
	case 33648:
		return scene.Mirror
	}
	return scene.Repeat
}

// image decodes picture i for whoever wants it first; -1 where it cannot be had, which is
// noted and leaves the finish without it.
func (g *gltf) image(i int, where string) int {
	if i < 0 || i >= len(g.doc.Images) {
		g.note(where, "picture %d is not there", i)
		return -1
	}
	im := g.doc.Images[i]
	name := nameFrom(im.Name)
	if name == "" {
		name = fmt.Sprintf("picture %d", i+1)
	}
	var data []byte
	var err error
	if im.BufferView != nil {
		data, _, err = g.view(*im.BufferView)
	} else {
		data, err = g.resource(im.URI)
	}
	if err != nil {
		// The reason without its opening: the scene is imported.
		g.note(where, "%s; the finish goes without it", strings.TrimPrefix(err.Error(), ErrRefused.Error()+": "))
		return -1
	}
	return g.picture(name, data)
}
