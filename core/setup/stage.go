package setup

import (
	"fmt"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/names"
	"amberproof/core/scene"
)

// Stage is what was put around the product on the bench: a backdrop and lights. It
// stands around a middle, so that it can be taken to another product.
type Stage struct {
	Middle   Middle   `json:"middle"`
	Floor    float64  `json:"floor" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
	Radius   float64  `json:"radius" unit:"mm" min:"0.001" max:"1000000" step:"1" def:"100"`
	Backdrop Backdrop `json:"backdrop"`
	Lights   []Light  `json:"lights" most:"100" nullable:"false"`
	Card     bool     `json:"card" def:"false"`
	// Begins is nil in the set-up of a run, whose ticket has its own.
	Begins *Begins `json:"begins,omitempty"`
}

// Middle is what a stage stands around, in the world.
type Middle struct {
	X float64 `json:"x" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
	Y float64 `json:"y" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
	Z float64 `json:"z" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
}

// Begins is what a new job of the scene has, and live pictures of no job.
type Begins struct {
	Surround SurroundSetting `json:"surround"`
	Exposure float64         `json:"exposure" unit:"EV" min:"-32" max:"32" step:"0.25" def:"0"`
}

// SurroundSetting lights the product from all round.
type SurroundSetting struct {
	On       bool    `json:"on" def:"true"`
	Kind     string  `json:"kind" choices:"picture,sky" def:"picture"`
	Picture  Picture `json:"picture"`
	Sun      float64 `json:"sun" unit:"deg" min:"0" max:"90" step:"1" def:"40"`
	Haze     float64 `json:"haze" min:"2" max:"10" step:"0.1" def:"3"`
	Tone     float64 `json:"tone" unit:"nit" min:"0" max:"1000" step:"0.05" def:"0.5"`
	Strength float64 `json:"strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1"`
	Turn     float64 `json:"turn" unit:"deg" min:"-360" max:"360" step:"1" def:"0"`
}

// Picture names an environment picture by file name and content.
type Picture struct {
	Name   string `json:"name" maxlen:"200"`
	SHA256 string `json:"sha256" maxlen:"64"`
}

// UnmarshalJSON gives what a stage leaves out its default.
func (g *Stage) UnmarshalJSON(b []byte) error {
	type plain Stage
	p := plain{Radius: 100, Backdrop: Backdrop{Kind: NoBackdrop, Width: 1000, Depth: 500, Front: 500, Height: 800, Bend: 200,
		Colour: Colour{0.7, 0.7, 0.7}, Roughness: 1}}
	err := strictly(b, &p)
	if err == nil {
		*g = Stage(p)
	}
	return err
}

// NewBegins is what a stage begins with that says nothing else.
func NewBegins() Begins {
	return Begins{Surround: SurroundSetting{On: true, Kind: "picture", Sun: 40, Haze: 3, Tone: 0.5, Strength: 1}}
}

// Begin gives a stage on the bench what jobs begin with, if it has nothing of that; nil
// stays nil.
func (g *Stage) Begin() {
	if g != nil && g.Begins == nil {
		b := NewBegins()
		g.Begins = &b
	}
}

// UnmarshalJSON gives what is left out its default.
func (g *Begins) UnmarshalJSON(b []byte) error {
	type plain Begins
	p := plain(NewBegins())
	err := strictly(b, &p)
	if err == nil {
		*g = Begins(p)
	}
	return err
}

// clone is a copy that shares nothing with the stage.
func (g *Stage) clone() *Stage {
	if g == nil {
		return nil
	}
	out := *g
	out.Lights = slices.Clone(g.Lights)
	if g.Begins != nil {
		b := *g.Begins
		out.Begins = &b
	}
	return &out
}

// tidy brings a stage into its canonical form.
func (g *Stage) tidy() {
	if g.Lights == nil {
		g.Lights = []Light{}
	}
	for _, v := range []*float64{&g.Middle.X, &g.Middle.Y, &g.Middle.Z, &g.Floor, &g.Backdrop.Turn} {
		*v += 0 // a negative zero is none
	}
	for i := range g.Lights {
		l := &g.Lights[i]
		for _, v := range []*float64{&l.Aim.X, &l.Aim.Y, &l.Aim.Z, &l.Direction, &l.Height, &l.Tint} {
			*v += 0
		}
	}
}

// fault is the first thing that makes a stage no proper one, or nil.
func (g *Stage) fault() error {
	seen := map[string]bool{}
	for i := range g.Lights {
		l := &g.Lights[i]
		if f := names.Fold(l.Name); l.Name == "" || seen[f] {
			return fmt.Errorf("the light %q is there twice, or has no name", l.Name)
		} else {
			seen[f] = true
		}
		if l.Width == 0 && (l.Kind == "rectangle" || l.Kind == "disk" || l.Held == HeldBrightness && l.Kind != "sun") {
			return fmt.Errorf("the light %q has no width, and so no surface to shine; give it one", l.Name)
		}
	}
	if b := &g.Backdrop; b.Kind == Curved && (b.Bend > b.Depth+b.Front || b.Bend > b.Height) {
		return fmt.Errorf("the bend of the backdrop is larger than its floor is deep or its wall high; make it smaller than %.6g mm", min(b.Depth+b.Front, b.Height))
	}
	return nil
}

// ForRun is the set-up without what no picture of a run shows of it.
func (u *Setup) ForRun() Setup {
	out := u.With()
	out.Aside, out.Looks = nil, nil
	if g := out.Stage; g != nil {
		g.Begins, g.Card = nil, false
		if g.Backdrop.Kind == NoBackdrop && len(g.Lights) == 0 {
			out.Stage = nil
		}
	}
	return out
}

func (g *Stage) middle() geom.Vec3 {
	return geom.V(float32(g.Middle.X/1000), float32(g.Middle.Y/1000), float32(g.Middle.Z/1000))
}

// onto adds what is on a stage to a scene whose lists may be appended to. Lights get
// names that nothing in the scene's file has.
func (g *Stage) onto(s *scene.Scene) {
	free := g.freeNames(s)
	if g.Backdrop.Kind != NoBackdrop {
		add(s, thing{name: "Backdrop", mesh: g.Backdrop.mesh(), finish: g.Backdrop.finish(), world: g.backdropAt()})
	}
	for i := range g.Lights {
		g.Lights[i].onto(s, g, free[i])
	}
}

// Carded is a scene with the grey card of a stage as its last part, if there is one.
func (g *Stage) Carded(s *scene.Scene) *scene.Scene {
	if g == nil || !g.Card {
		return s
	}
	v := *s
	v.Objects, v.Meshes, v.Parts, v.Finishes = slices.Clip(s.Objects), slices.Clip(s.Meshes), slices.Clip(s.Parts), slices.Clip(s.Finishes)
	add(&v, g.card())
	return &v
}

// freeNames are names for the lights of a stage that no part and no light of a scene has.
func (g *Stage) freeNames(s *scene.Scene) []string {
	var all []string
	for _, p := range s.Parts {
		all = append(all, p.Name)
	}
	for _, l := range s.Lights {
		all = append(all, l.Name)
	}
	style := names.Style{Join: " "}
	all = style.Unique(all)
	taken := len(all)
	for _, l := range g.Lights {
		all = append(all, l.Name)
	}
	return style.Unique(all)[taken:]
}

// thing is a part that stands on a stage.
type thing struct {
	name   string
	mesh   scene.Mesh
	finish scene.Finish
	world  geom.Affine
	shine  scene.Shine
}

func add(s *scene.Scene, t thing) {
	t.finish.Name = t.name
	t.mesh.Name, t.mesh.Finish = t.name, len(s.Finishes)
	s.Parts = append(s.Parts, scene.Part{Name: t.name, Object: len(s.Objects), Mesh: len(s.Meshes), Finish: len(s.Finishes), Staged: true, Shine: t.shine})
	s.Objects = append(s.Objects, scene.Object{Name: t.name, Parent: -1, Local: t.world, World: t.world})
	s.Meshes = append(s.Meshes, t.mesh)
	s.Finishes = append(s.Finishes, t.finish)
}

// AroundBox is the stage set around another product, by the box around that, metres:
// scaled to its size, under it and around its middle. What is lit stays as bright.
func (g *Stage) AroundBox(box geom.Box) Stage {
	out := *g.clone()
	c := box.Centre()
	out.Middle = Middle{fine(c.X), fine(c.Y), fine(c.Z)}
	out.Floor = fine(box.Min.Y)
	out.Radius = max(1e-3, 1000*float64(box.Radius()))
	k := out.Radius / g.Radius
	b := &out.Backdrop
	for _, v := range []*float64{&b.Width, &b.Depth, &b.Front, &b.Height, &b.Bend} {
		*v *= k
	}
	for i := range out.Lights {
		l := &out.Lights[i]
		for _, v := range []*float64{&l.Aim.X, &l.Aim.Y, &l.Aim.Z, &l.Distance, &l.Width, &l.Length} {
			*v *= k
		}
		if l.Held == HeldPower {
			l.Strength *= k * k
		}
	}
	return out
}

// fine is a length of metres in millimetres, to a tenth of a micrometre.
func fine(metres float32) float64 { return math.Round(float64(metres)*1e7) / 1e4 }

// rounded is a length in millimetres to three digits, as somebody would have typed it.
func rounded(mm float64) float64 {
	if mm == 0 {
		return 0
	}
	step := math.Pow(10, math.Floor(math.Log10(math.Abs(mm)))-2)
	return math.Round(mm/step) * step
}
