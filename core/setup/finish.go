package setup

import (
	"fmt"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Finish is what was changed of a finish of the scene: all that wear it change with
// it. One with a From was made on the bench, as a copy of that. A value that is not
// there is as the file has it.
type Finish struct {
	Name string `json:"name" label:"Finish" maxlen:"4096" help:"Name of the finish in the scene, or of one made here."`
	From string `json:"from" label:"Copy of" maxlen:"4096" def:"" help:"The scene's finish that one made here began as; empty for those of the scene."`
	Made bool   `json:"made,omitempty" label:"Made here" def:"false" help:"It began as plain matte white, and is no copy of one of the scene."`

	Base       *Colour  `json:"base,omitempty" label:"Colour"`
	Metal      *float64 `json:"metal,omitempty" label:"Metal" min:"0" max:"1" step:"0.05" help:"0 is paint, plastic, wood, glass; 1 is bare metal."`
	Roughness  *float64 `json:"roughness,omitempty" label:"Roughness" min:"0" max:"1" step:"0.01" help:"0 mirrors sharply, 1 is fully matte."`
	Index      *float64 `json:"index,omitempty" label:"Index" min:"1" max:"3" step:"0.01" help:"Index of refraction: water 1.33, glass 1.5, crystal 1.6, diamond 2.42. It sets how strongly what is no metal mirrors, too."`
	Clear      *float64 `json:"clear,omitempty" label:"Clear" min:"0" max:"1" step:"0.05" help:"How much light goes through instead of being scattered."`
	Tint       *Colour  `json:"tint,omitempty" label:"Tint"`
	TintDepth  *float64 `json:"tintDepth,omitempty" label:"Tint at depth" unit:"mm" min:"0.001" max:"1000000" step:"1" help:"How far light has gone through a clear solid when white has become its tint."`
	Coat       *float64 `json:"coat,omitempty" label:"Coat" min:"0" max:"1" step:"0.05" help:"A clear lacquer over it."`
	CoatRough  *float64 `json:"coatRoughness,omitempty" label:"Coat roughness" min:"0" max:"1" step:"0.01" help:"Of the lacquer."`
	Solid      *bool    `json:"solid,omitempty" label:"Solid" help:"Of what is clear: its mesh bounds a body that bends light. Off, it is a thin shell that does not."`
	Abbe       *float64 `json:"abbe,omitempty" label:"Abbe number" min:"10" max:"1000" step:"1" help:"How little a clear solid parts colours: crown glass 59, crystal 30, diamond 55; 1000 is hardly at all."`
	Shadows    *string  `json:"shadows,omitempty" label:"Shadows through it" choices:"ticket,straight,bent" help:"Of what is clear. Straight is quick and clean, bent is true and slow; or as the ticket says."`
	Sheen      *Colour  `json:"sheen,omitempty" label:"Sheen"`
	SheenRough *float64 `json:"sheenRoughness,omitempty" label:"Sheen roughness" min:"0" max:"1" step:"0.05" help:"Of the soft light along the outline of cloth: 0 keeps to the outline, 1 covers all."`
	Film       *float64 `json:"film,omitempty" label:"Thin film" min:"0" max:"1" step:"0.05" help:"Colours of a soap bubble or of tempered steel over it."`
	FilmIndex  *float64 `json:"filmIndex,omitempty" label:"Film index" min:"1" max:"3" step:"0.01" help:"Index of refraction of the film."`
	FilmThick  *float64 `json:"filmThickness,omitempty" label:"Film thickness" unit:"nm" min:"1" max:"5000" step:"10" help:"It sets the colours."`
	Brushed    *float64 `json:"brushed,omitempty" label:"Brushed" min:"0" max:"1" step:"0.05" help:"How far gloss is drawn out across the strokes of a brush."`
	BrushTurn  *float64 `json:"brushTurn,omitempty" label:"Brush direction" unit:"deg" min:"-360" max:"360" step:"5" help:"Against the clock from the direction of the texture."`
	Bumps      *float64 `json:"bumps,omitempty" label:"Bumps" unit:"x" min:"0" max:"10" step:"0.1" help:"Factor on the strength of its normal map."`
	GreenDown  *bool    `json:"greenDown,omitempty" label:"Green points down" help:"Of its normal map: switch it if bumps look like dents."`
	Tiling     *float64 `json:"tiling,omitempty" label:"Tiling" unit:"x" min:"0.001" max:"1000" step:"0.1" help:"How many times as often all its pictures are repeated."`
	MapTurn    *float64 `json:"mapTurn,omitempty" label:"Turn of pictures" unit:"deg" min:"-360" max:"360" step:"5" help:"Turns all its pictures on the surface."`
	BaseMap    *Map     `json:"baseMap,omitempty" label:"Colour from a picture"`
	RoughMap   *Map     `json:"roughnessMap,omitempty" label:"Roughness from a picture"`
	MetalMap   *Map     `json:"metalMap,omitempty" label:"Metal from a picture"`
	GlowMap    *Map     `json:"glowMap,omitempty" label:"Glow from a picture"`
	NormalMap  *Map     `json:"normalMap,omitempty" label:"Bumps from a normal map"`
	HeightMap  *Map     `json:"heightMap,omitempty" label:"Bumps from heights"`
	Glow       *float64 `json:"glow,omitempty" label:"Glow" unit:"nit" min:"0" max:"1000000" step:"1" help:"How bright it shines by itself, in its colour of light; of a panel, how bright the light is."`
}

// Colour is scene-linear, Rec.709, each from 0 to 1.
type Colour struct {
	R float64 `json:"r" label:"Red" min:"0" max:"1" step:"0.01" def:"0" help:"Share of red light that is left."`
	G float64 `json:"g" label:"Green" min:"0" max:"1" step:"0.01" def:"0" help:"Share of green light that is left."`
	B float64 `json:"b" label:"Blue" min:"0" max:"1" step:"0.01" def:"0" help:"Share of blue light that is left."`
}

func (c *Colour) vec() geom.Vec3 { return geom.V(float32(c.R), float32(c.G), float32(c.B)) }

// Nothing tells whether a change of a finish changes nothing.
func (f *Finish) Nothing() bool { return *f == Finish{Name: f.Name} }

// onto lays the change over a finish.
func (f *Finish) onto(to *scene.Finish) {
	for _, v := range []struct {
		from *float64
		by   float64 // from its unit to the finish's
		to   *float32
	}{
		{f.Metal, 1, &to.Metallic}, {f.Roughness, 1, &to.Roughness}, {f.Index, 1, &to.IOR}, {f.Clear, 1, &to.Transmission}, {f.Coat, 1, &to.Clearcoat}, {f.CoatRough, 1, &to.ClearcoatRoughness},
		{f.TintDepth, 1e-3, &to.AttenuationDistance}, {f.SheenRough, 1, &to.SheenRoughness}, {f.Film, 1, &to.Iridescence}, {f.FilmIndex, 1, &to.FilmIOR}, {f.FilmThick, 1, &to.FilmThick},
		{f.Brushed, 1, &to.Anisotropy}, {f.BrushTurn, math.Pi / 180, &to.AnisotropyTurn},
	} {
		if v.from != nil {
			*v.to = float32(*v.from * v.by)
		}
	}
	for _, v := range []struct {
		from *Colour
		to   *geom.Vec3
	}{{f.Base, &to.Base}, {f.Tint, &to.AttenuationColour}, {f.Sheen, &to.Sheen}} {
		if v.from != nil {
			*v.to = v.from.vec()
		}
	}
	if f.Solid != nil {
		to.Thickness = 0
		if *f.Solid {
			to.Thickness = 1
		}
	}
	if f.Abbe != nil {
		to.Dispersion = float32(20 / *f.Abbe)
	}
	if f.Shadows != nil {
		to.Shadows = map[string]scene.ShadowMode{"straight": scene.StraightShadows, "bent": scene.BentShadows}[*f.Shadows]
	}
	if f.Bumps != nil {
		to.NormalScale *= float32(*f.Bumps)
		to.CoatNormalScale *= float32(*f.Bumps)
	}
	if f.GreenDown != nil {
		to.GreenDown = *f.GreenDown
	}
	f.ontoPictures(to)
	if f.Glow != nil {
		hue := geom.Splat(1)
		if most := to.Emission.Max(); most > 0 {
			hue = to.Emission.Scale(1 / most)
		}
		to.Emission = hue.Scale(float32(*f.Glow))
	}
}

// ontoPictures repeats and turns all pictures of a finish, before what they have of that
// themselves.
func (f *Finish) ontoPictures(to *scene.Finish) {
	if f.Tiling == nil && f.MapTurn == nil {
		return
	}
	k, deg := 1.0, 0.0
	if f.Tiling != nil {
		k = *f.Tiling
	}
	if f.MapTurn != nil {
		deg = *f.MapTurn
	}
	sin, cos := math.Sincos(deg * math.Pi / 180)
	s, c := float32(k*sin), float32(k*cos)
	for _, t := range to.Textures() {
		m := t.Transform
		t.Transform = [6]float32{m[0]*c + m[1]*s, -m[0]*s + m[1]*c, m[2], m[3]*c + m[4]*s, -m[3]*s + m[4]*c, m[5]}
	}
}

// applyFinishes lays the changes of finishes over those of a scene.
// The scene's list of images may be appended to.
func (u *Setup) applyFinishes(s *scene.Scene) (out []scene.Finish, lost []Lost) {
	s.Images = slices.Clip(s.Images)
	out = slices.Clone(s.Finishes)
	find := func(name string) int {
		return slices.IndexFunc(out, func(f scene.Finish) bool { return f.Name == name })
	}
	for i := range u.Finishes {
		f := &u.Finishes[i]
		at := find(f.Name)
		switch {
		case (f.From != "" || f.Made) && at >= 0:
			lost = append(lost, Lost{f.Name, "the scene has a finish of this name itself; the one made here is not used"})
			continue
		case f.Made:
			plain := scene.NewFinish(f.Name)
			plain.Metallic = 0
			at = len(out)
			out = append(out, plain)
		case f.From != "":
			from := slices.IndexFunc(s.Finishes, func(g scene.Finish) bool { return g.Name == f.From })
			copied := scene.NewFinish(f.Name)
			if from >= 0 {
				copied = s.Finishes[from]
				copied.Name = f.Name
			} else {
				lost = append(lost, Lost{f.Name, fmt.Sprintf("the scene has no finish %q, of which it was a copy", f.From)})
			}
			at = len(out)
			out = append(out, copied)
		case at < 0:
			lost = append(lost, Lost{f.Name, "the scene has no such finish"})
			continue
		}
		if err := f.draw(&out[at], s); err != nil {
			lost = append(lost, Lost{f.Name, err.Error()})
		}
		f.onto(&out[at])
	}
	return out, lost
}
