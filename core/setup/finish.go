package setup

import (
	"context"
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
	Name string `json:"name" maxlen:"4096"`
	From string `json:"from" maxlen:"4096" def:""`
	Made bool   `json:"made,omitempty" def:"false"`

	Base       *Colour  `json:"base,omitempty"`
	Metal      *float64 `json:"metal,omitempty" min:"0" max:"1" step:"0.05"`
	Roughness  *float64 `json:"roughness,omitempty" min:"0" max:"1" step:"0.01"`
	Index      *float64 `json:"index,omitempty" min:"1" max:"3" step:"0.01"`
	Clear      *float64 `json:"clear,omitempty" min:"0" max:"1" step:"0.05"`
	Tint       *Colour  `json:"tint,omitempty"`
	TintDepth  *float64 `json:"tintDepth,omitempty" unit:"mm" min:"0.001" max:"1000000" step:"1"`
	Coat       *float64 `json:"coat,omitempty" min:"0" max:"1" step:"0.05"`
	CoatRough  *float64 `json:"coatRoughness,omitempty" min:"0" max:"1" step:"0.01"`
	Solid      *bool    `json:"solid,omitempty"`
	Abbe       *float64 `json:"abbe,omitempty" min:"10" max:"1000" step:"1"`
	Shadows    *string  `json:"shadows,omitempty" choices:"ticket,straight,bent"`
	Sheen      *Colour  `json:"sheen,omitempty"`
	SheenRough *float64 `json:"sheenRoughness,omitempty" min:"0" max:"1" step:"0.05"`
	Film       *float64 `json:"film,omitempty" min:"0" max:"1" step:"0.05"`
	FilmIndex  *float64 `json:"filmIndex,omitempty" min:"1" max:"3" step:"0.01"`
	FilmThick  *float64 `json:"filmThickness,omitempty" unit:"nm" min:"1" max:"5000" step:"10"`
	Brushed    *float64 `json:"brushed,omitempty" min:"0" max:"1" step:"0.05"`
	BrushTurn  *float64 `json:"brushTurn,omitempty" unit:"deg" min:"-360" max:"360" step:"5"`
	Bumps      *float64 `json:"bumps,omitempty" unit:"x" min:"0" max:"10" step:"0.1"`
	GreenDown  *bool    `json:"greenDown,omitempty"`
	Tiling     *float64 `json:"tiling,omitempty" unit:"x" min:"0.001" max:"1000" step:"0.1"`
	MapTurn    *float64 `json:"mapTurn,omitempty" unit:"deg" min:"-360" max:"360" step:"5"`
	BaseMap    *Map     `json:"baseMap,omitempty"`
	RoughMap   *Map     `json:"roughnessMap,omitempty"`
	MetalMap   *Map     `json:"metalMap,omitempty"`
	GlowMap    *Map     `json:"glowMap,omitempty"`
	NormalMap  *Map     `json:"normalMap,omitempty"`
	HeightMap  *Map     `json:"heightMap,omitempty"`
	Glow       *float64 `json:"glow,omitempty" unit:"nit" min:"0" max:"1000000" step:"1"`
}

// Colour is scene-linear, Rec.709, each from 0 to 1.
type Colour struct {
	R float64 `json:"r" min:"0" max:"1" step:"0.01" def:"0"`
	G float64 `json:"g" min:"0" max:"1" step:"0.01" def:"0"`
	B float64 `json:"b" min:"0" max:"1" step:"0.01" def:"0"`
}

func (c *Colour) vec() geom.Vec3 { return geom.V(float32(c.R), float32(c.G), float32(c.B)) }

// IsZero tells whether a change of a finish changes nothing.
func (f *Finish) IsZero() bool { return *f == Finish{Name: f.Name} }

// onto lays the change over a finish.
func (f *Finish) onto(to *scene.Finish) {
	for _, v := range []struct {
		from *float64
		by   float64 // from its unit to the finish's
		to   *float32
	}{
		{f.Metal, 1, &to.Metallic}, {f.Roughness, 1, &to.Roughness}, {f.Index, 1, &to.IOR}, {f.Clear, 1, &to.Transmission},
		{f.Coat, 1, &to.Clearcoat}, {f.CoatRough, 1, &to.ClearcoatRoughness},
		{f.TintDepth, 1e-3, &to.AttenuationDistance}, {f.SheenRough, 1, &to.SheenRoughness}, {f.Film, 1, &to.Iridescence},
		{f.FilmIndex, 1, &to.FilmIOR}, {f.FilmThick, 1, &to.FilmThick},
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
func (u *Setup) applyFinishes(ctx context.Context, s *scene.Scene) (out []scene.Finish, lost []Lost) {
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
		if err := f.draw(ctx, &out[at], s); err != nil {
			lost = append(lost, Lost{f.Name, err.Error()})
		}
		f.onto(&out[at])
	}
	return out, lost
}
