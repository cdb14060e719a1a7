package setup

import (
	"fmt"
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

	Base      *Colour  `json:"base,omitempty" label:"Colour"`
	Metal     *float64 `json:"metal,omitempty" label:"Metal" min:"0" max:"1" step:"0.05" help:"0 is paint, plastic, wood, glass; 1 is bare metal."`
	Roughness *float64 `json:"roughness,omitempty" label:"Roughness" min:"0" max:"1" step:"0.01" help:"0 mirrors sharply, 1 is fully matte."`
	Index     *float64 `json:"index,omitempty" label:"Index" min:"1" max:"3" step:"0.01" help:"Index of refraction: water 1.33, glass 1.5, crystal 1.6, diamond 2.42. It sets how strongly what is no metal mirrors, too."`
	Clear     *float64 `json:"clear,omitempty" label:"Clear" min:"0" max:"1" step:"0.05" help:"How much light goes through instead of being scattered."`
	Tint      *Colour  `json:"tint,omitempty" label:"Tint"`
	TintDepth *float64 `json:"tintDepth,omitempty" label:"Tint at depth" unit:"mm" min:"0.001" max:"1000000" step:"1" help:"How far light has gone through a clear solid when white has become its tint."`
	Coat      *float64 `json:"coat,omitempty" label:"Coat" min:"0" max:"1" step:"0.05" help:"A clear lacquer over it."`
	CoatRough *float64 `json:"coatRoughness,omitempty" label:"Coat roughness" min:"0" max:"1" step:"0.01" help:"Of the lacquer."`
	Glow      *float64 `json:"glow,omitempty" label:"Glow" unit:"nit" min:"0" max:"1000000" step:"1" help:"How bright it shines by itself, in its colour of light; of a panel, how bright the light is."`
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
		to   *float32
	}{{f.Metal, &to.Metallic}, {f.Roughness, &to.Roughness}, {f.Index, &to.IOR}, {f.Clear, &to.Transmission}, {f.Coat, &to.Clearcoat}, {f.CoatRough, &to.ClearcoatRoughness}} {
		if v.from != nil {
			*v.to = float32(*v.from)
		}
	}
	if f.Base != nil {
		to.Base = f.Base.vec()
	}
	if f.Tint != nil {
		to.AttenuationColour = f.Tint.vec()
	}
	if f.TintDepth != nil {
		to.AttenuationDistance = float32(*f.TintDepth / 1000)
	}
	if f.Glow != nil {
		hue := geom.Splat(1)
		if most := to.Emission.Max(); most > 0 {
			hue = to.Emission.Scale(1 / most)
		}
		to.Emission = hue.Scale(float32(*f.Glow))
	}
}

// applyFinishes lays the changes of finishes over those of a scene.
func (u *Setup) applyFinishes(s *scene.Scene) (out []scene.Finish, lost []Lost) {
	out = slices.Clone(s.Finishes)
	find := func(name string) int {
		return slices.IndexFunc(out, func(f scene.Finish) bool { return f.Name == name })
	}
	for i := range u.Finishes {
		f := &u.Finishes[i]
		at := find(f.Name)
		switch {
		case f.From != "" && at >= 0:
			lost = append(lost, Lost{f.Name, "the scene has a finish of this name itself; the one made here is not used"})
			continue
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
		f.onto(&out[at])
	}
	return out, lost
}
