package trace

import (
	"context"
	"fmt"
	"math"
	"slices"
	"sync"

	"amberproof/core/accel"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// World is a scene prepared for one picture. It is only read while tracing.
type World struct {
	opt    Options
	scene  *scene.Scene
	filter *sampling.Filter

	// Triangles are split by whether straight shadow rays and see-through
	// passes may go through them: what stops everything is tested first and at
	// full speed.
	solid, passable         *accel.BVH
	solidPrims, passPrims   []prim
	finishes                []finish
	parts                   []part
	set                     lights.Set
	spheres                 []int // lights that only rays can meet, not triangles
	elements                []string
	surroundElement, backer int
}

// prim finds a triangle's part and vertices, and its place in its glowing mesh.
type prim struct {
	part, tri uint32
	glow      int32
}

type part struct {
	mesh   *scene.Mesh
	world  geom.Affine
	mirror bool // the transform turns triangles inside out
	finish int
	light  int32 // index in set.Lights, or -1
	// element keeps the part's own glow; -1 where it does not glow.
	element int32
}

type finish struct {
	scene.Finish
	sigma    geom.Vec3 // absorption per metre
	thin     bool
	clear    bool // smooth enough to be seen through
	straight bool // shadow rays go straight through it
	alpha    bool // has holes
	textured bool
}

// Elements are the names of the lights kept apart, in the film's order.
func (w *World) Elements() []string { return w.elements }

// Options are those the world was prepared for, with the layout filled in.
func (w *World) Options() *Options { return &w.opt }

// Bytes is the memory held for tracing, the film not counted.
func (w *World) Bytes() int64 {
	return int64(w.solid.Bytes()+w.passable.Bytes()) + int64(len(w.solidPrims)+len(w.passPrims))*12
}

// Forecast is the memory in bytes that preparing and rendering will take,
// known before any of it is done.
func Forecast(s *scene.Scene, o *Options) int64 {
	n := int64(s.Triangles()) * (36 + 12 + accel.BuildBytesPerTriangle + accel.BytesPerTriangle) // corners, prim, hierarchy
	for i := range s.Meshes {
		n += int64(len(s.Meshes[i].Positions)) * 48
	}
	for i := range s.Images {
		n += int64(len(s.Images[i].Pix))
	}
	if o.Surround.Picture != nil {
		n += int64(len(o.Surround.Picture.Pix)) * 4
	}
	l := o.Layout
	if o.Apart {
		l.Elements = len(ElementsOf(s, o))
	}
	return n + film.Bytes(o.Window, l)
}

// Prepare builds the hierarchy and the lights. It returns early with the
// context's error when cancelled.
func Prepare(ctx context.Context, s *scene.Scene, o Options) (*World, error) {
	if len(o.Wears) != len(s.Parts) {
		return nil, fmt.Errorf("the picture dresses %d parts, the scene has %d", len(o.Wears), len(s.Parts))
	}
	w := &World{opt: o, scene: s, filter: sampling.NewFilter(o.Filter, o.FilterWidth)}
	w.elements = ElementsOf(s, &o)
	w.finishes = make([]finish, len(o.Finishes))
	for i, f := range o.Finishes {
		w.finishes[i] = prepareFinish(f, o.StraightShadows)
	}
	lampPart := map[int]int{}
	lamps := LampsOf(s)
	for i, l := range lamps {
		if l.Part >= 0 {
			lampPart[l.Part] = i
		}
	}
	w.parts = make([]part, len(s.Parts))
	var solid, pass []accel.Triangle
	for i, p := range s.Parts {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		world := s.Objects[p.Object].World
		w.parts[i] = part{mesh: &s.Meshes[p.Mesh], world: world, mirror: world.Det() < 0, finish: o.Wears[i], light: -1, element: -1}
		if o.Wears[i] == LeftOutOfPicture {
			continue
		}
		lamp, isLamp := lampPart[i]
		setting := LightSetting{On: true, Strength: 1}
		if isLamp && lamp < len(o.Lamps) {
			setting = o.Lamps[lamp]
		}
		if isLamp && (!setting.On || setting.Strength <= 0) {
			continue // a lamp switched off is not there at all
		}
		f := &w.finishes[o.Wears[i]]
		m := w.parts[i].mesh
		var tris []lights.Triangle
		for k := 0; k+2 < len(m.Indices); k += 3 {
			a, b, c := world.Point(m.Positions[m.Indices[k]]), world.Point(m.Positions[m.Indices[k+1]]), world.Point(m.Positions[m.Indices[k+2]])
			t := accel.Triangle{A: a, B: b, C: c}
			pr := prim{part: uint32(i), tri: uint32(k / 3), glow: -1}
			if f.straight || f.alpha {
				pass = append(pass, t)
				w.passPrims = append(w.passPrims, pr)
				if f.Glowing() { // met by chance only: shadow rays pass through it
					w.parts[i].element = int32(w.element(f.Name))
				}
				continue
			}
			if f.Glowing() {
				pr.glow = int32(len(tris))
				tris = append(tris, lights.Triangle{A: a, B: b, C: c, Prim: uint32(len(w.solidPrims))})
			}
			solid = append(solid, t)
			w.solidPrims = append(w.solidPrims, pr)
		}
		if len(tris) > 0 {
			w.addGlow(i, f, tris, lamps, lamp, isLamp, setting)
		}
	}
	w.addPunctual(lamps)
	w.addSurround()
	if o.Apart {
		w.opt.Layout.Elements = len(w.elements)
	}
	var wg sync.WaitGroup
	wg.Add(1)
	go func() { defer wg.Done(); w.passable = accel.Build(pass) }()
	w.solid = accel.Build(solid)
	wg.Wait()
	return w, ctx.Err()
}

func prepareFinish(f scene.Finish, straight bool) finish {
	p := finish{Finish: f}
	p.sigma = optics.Absorption(f.AttenuationColour, f.AttenuationDistance)
	p.thin = f.Thickness == 0
	p.clear = f.Clear() && optics.Smooth(f.Roughness)
	p.straight = p.clear && (f.Shadows == scene.StraightShadows || straight && f.Shadows != scene.BentShadows)
	p.alpha = f.AlphaMode != scene.Opaque
	for _, t := range f.Textures() {
		p.textured = p.textured || t.Image >= 0
	}
	return p
}

// element returns the index of a named element; ElementsOf has named all.
func (w *World) element(name string) int { return slices.Index(w.elements, name) }

func (w *World) addGlow(i int, f *finish, tris []lights.Triangle, lamps []Lamp, lamp int, isLamp bool, st LightSetting) {
	name := f.Name
	if isLamp {
		name = lamps[lamp].Name
	}
	l := lights.Light{Name: name, Element: w.element(name)}
	w.parts[i].light = int32(len(w.set.Lights))
	w.parts[i].element = int32(l.Element)
	if isLamp {
		q := lamps[lamp]
		l.Kind, l.P, l.N, l.S, l.T, l.W, l.H = lights.Rect, q.rect.p, q.rect.n, q.rect.s, q.rect.t, q.rect.w, q.rect.h
		l.Colour, l.TwoSided = f.Emission.Scale(st.Strength), f.DoubleSided
		w.set.Lights = append(w.set.Lights, l)
		return
	}
	w.set.AddMesh(l, tris, f.Emission)
}

func (w *World) addPunctual(lamps []Lamp) {
	for i, lamp := range lamps {
		if lamp.Part >= 0 {
			continue
		}
		st := LightSetting{On: true, Strength: 1}
		if i < len(w.opt.Lamps) {
			st = w.opt.Lamps[i]
		}
		if !st.On || st.Strength <= 0 {
			continue
		}
		src := w.scene.Lights[lamp.Light]
		world := w.scene.Objects[src.Object].World
		l := lights.Light{
			Name: lamp.Name, Element: w.element(lamp.Name), P: world.Origin(), N: world.Axis(2).Neg().Unit(),
			Colour: src.Colour.Scale(src.Intensity * st.Strength), Range: src.Range, CosInner: -1, CosOuter: -1,
		}
		switch src.Kind {
		case scene.SunLight:
			l.Kind = lights.Sun
			l.OneMinusCos = float32(2 * math.Pow(math.Sin(float64(src.Angle)/4), 2)) // half angle, without cancellation
		case scene.SpotLight:
			l.Kind = lights.Spot
			l.CosInner, l.CosOuter = float32(math.Cos(float64(src.InnerCone))), float32(math.Cos(float64(src.OutCone)))
		}
		if src.Radius > 0 && src.Kind != scene.SunLight {
			l.Kind, l.Radius = lights.Sphere, src.Radius
			l.Colour = l.Colour.Scale(1 / (math.Pi * src.Radius * src.Radius)) // candela to nits
			w.spheres = append(w.spheres, len(w.set.Lights))
		}
		w.set.Lights = append(w.set.Lights, l)
	}
}

// Names of the two elements that are not lights of the scene.
const (
	SurroundName = "surround"
	BackingName  = "backing"
)

func (w *World) addSurround() {
	o := &w.opt
	w.surroundElement, w.backer = -1, -1
	if o.Surround.On && o.Surround.Strength > 0 {
		w.surroundElement = w.element(SurroundName)
		l := lights.Light{Name: SurroundName, Element: w.surroundElement}
		if p := o.Surround.Picture; p != nil {
			w.set.AddEnv(l, lights.Picture(p.W, p.H, p.Pix, o.Surround.Turn, o.Surround.Strength))
		} else {
			w.set.AddEnv(l, lights.EvenTone(o.Surround.Tone.Scale(o.Surround.Strength)))
		}
	}
	if o.Backing == BackTone {
		w.backer = w.element(BackingName)
	}
}
