package trace

import (
	"context"
	"fmt"
	"math"

	"amberproof/core/accel"
	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/parallel"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// Revision tells apart renderers that give different pixels for the same
// ticket; raise it with every change that does.
const Revision = 16

// SourcesFrom is the revision from which on films of pictures have a film.SourcePlane.
const SourcesFrom = 16

// World is a scene prepared for one picture. It is only read while tracing.
type World struct {
	opt    Options
	scene  *scene.Scene
	filter *sampling.Filter
	camera preparedCamera

	// Triangles are split by whether straight shadow rays and see-through
	// passes may go through them: what stops everything is tested first and at
	// full speed.
	solid, passable         layer
	finishes                []preparedFinish
	chains                  chains
	parts                   []part
	set                     lights.Set
	spheres                 []int // lights that only rays can hit, not triangles
	drifters                []drifter
	elements                elements
	surroundElement, backer int
	env                     *lights.Env // the surround, if there is one
	twin                    *World      // with other surfaces; nil: there is none
	alike                   bool        // a ray hits the same in both
	lines                   *lined      // nil: none are drawn
	lineElement             int         // -1: they have no light
}

// prim finds a triangle's part, and its place in the part's mesh.
type prim struct{ part, tri uint32 }

const primBytes = 8

type part struct {
	edges  *edgeTree // of its mesh, where lines are drawn
	mesh   *scene.Mesh
	world  geom.Affine
	laid   []corner      // its vertices in the world, if it stands still and is not held once for many
	way    []geom.Affine // where it is while the shutter is open, if it moves
	mirror bool          // the transform turns triangles inside out
	finish int
	// catches says that the camera sees the backing in its place, and the shadows on it.
	catches bool
	// absent says that neither the camera nor a mirror sees it: it throws its shadow, and
	// light that was scattered hits it.
	absent bool
	// drawn says that lines are drawn along its edges.
	drawn bool
	light int32 // index in set.Lights, or -1
	// element keeps the part's own glow; -1 where it does not glow.
	element int32
	gain    geom.Vec3 // on its glow
}

type preparedFinish struct {
	scene.Finish
	sigma    geom.Vec3 // absorption per metre
	thin     bool
	clear    bool            // smooth enough to be seen through
	straight bool            // shadow rays go straight through it
	crevice  *optics.Crevice // nil: it is as light where it is closed in
	over     optics.Override // has the last word on what a point is made of
	alpha    bool            // has holes
	textured bool
	tangents bool // needs the directions of the texture coordinates of tangentSet

	tangentSet int
}

// Elements are the names of the lights kept apart, in the film's order.
func (w *World) Elements() []string { return w.elements.names }

// Options are those the world was prepared for, with the layout filled in.
func (w *World) Options() *Options { return &w.opt }

// Bytes is the memory held for tracing, the film not counted.
func (w *World) Bytes() int64 {
	n := w.solid.bytes() + w.passable.bytes()
	if w.twin != nil && !w.twin.SameShapes(w) {
		n += w.twin.Bytes()
	}
	for i := range w.parts {
		n += int64(len(w.parts[i].laid)) * cornerBytes
	}
	return n
}

// Forecast is the memory in bytes that preparing and rendering will take,
// known before any of it is done.
func Forecast(s *scene.Scene, o *Options) int64 {
	triangles, corners := held(s, o)
	if o.Twin != nil && !samePlaces(s, o, o.Twin) {
		t, c := held(s, o.Twin)
		triangles, corners = triangles+t, corners+c
	}
	n := triangles*(36+primBytes+accel.BuildBytesPerTriangle+accel.BytesPerTriangle) + corners*cornerBytes // places, prim, hierarchy
	for i := range s.Meshes {
		m := &s.Meshes[i]
		n += int64(len(m.Positions)) * 48
		if m.Shaping.Levels > 0 {
			n += int64(m.Faces()) * shapingBytes
		}
	}
	for i := range s.Images {
		n += int64(len(s.Images[i].Pix)) * 5 / 3 // and its smaller sizes, as colour and as numbers
	}
	if o.Lines != nil || o.Twin != nil && o.Twin.Lines != nil {
		var most int64 // edges are found mesh by mesh
		for i := range s.Meshes {
			most = max(most, scene.EdgeBytes(&s.Meshes[i])<<(2*s.Meshes[i].Shaping.Levels))
		}
		n += most
	}
	if o.Surround.Picture != nil {
		n += int64(len(o.Surround.Picture.Pix))*4 + lights.PictureBytes(o.Surround.Picture.W, o.Surround.Picture.H)
	}
	return n + film.Bytes(o.Window, o.Layout)
}

// shapingBytes is what a triangle takes that subdivision made, vertices and
// indices, with all that is needed while it is made.
const shapingBytes = 430

// held counts the triangles that are laid out, those of shared meshes once, and the
// corners of parts that are laid out each by itself.
func held(s *scene.Scene, o *Options) (triangles, corners int64) {
	prepared := make([]preparedFinish, len(o.Finishes))
	for i, f := range o.Finishes {
		prepared[i] = prepareFinish(f, o.StraightShadows)
	}
	shared := sharedMeshes(s, o.Wears, func(f int) bool { return prepared[f].passable() }, func(f int) bool { return prepared[f].Glowing() })
	seen := map[int]bool{}
	for i, p := range s.Parts {
		k := o.Wears[i]
		if k == LeftOutOfPicture {
			continue
		}
		f, m := &prepared[k], &s.Meshes[p.Mesh]
		if !f.Glowing() && shared[layerOf(f.passable())][p.Mesh] {
			if seen[p.Mesh] {
				continue
			}
			seen[p.Mesh] = true
		} else if m.Shaping.Levels > 0 {
			corners += int64(m.Faces())
		} else {
			corners += int64(len(m.Positions))
		}
		triangles += int64(m.Faces())
	}
	return triangles, corners
}

// Prepare builds the hierarchy and the lights. It ends with the context's error within
// moments of its being cancelled: nothing of it goes on, or holds memory, then.
func Prepare(ctx context.Context, s *scene.Scene, o Options) (*World, error) {
	return PrepareAgain(ctx, s, o, nil)
}

// PrepareAgain is Prepare after something was changed: what is the same in a world of
// before, which may be nil, is taken over. The pixels are those of Prepare.
func PrepareAgain(ctx context.Context, s *scene.Scene, o Options, from *World) (w *World, err error) {
	defer parallel.Catch(&err)
	return prepare(ctx, s, o, from)
}

func prepare(ctx context.Context, s *scene.Scene, o Options, from *World) (*World, error) {
	if len(o.Wears) != len(s.Parts) {
		return nil, fmt.Errorf("the picture dresses %d parts, the scene has %d", len(o.Wears), len(s.Parts))
	}
	s, err := s.Made(ctx, func(part int) bool { return o.Wears[part] != LeftOutOfPicture })
	if err != nil {
		return nil, err
	}
	w := &World{opt: o, scene: s, filter: sampling.NewFilter(o.Filter, o.FilterWidth)}
	w.camera = prepareCamera(&o.Camera, o.Width, o.Height)
	ways, err := o.Shutter.ways(s)
	if err != nil {
		return nil, err
	}
	w.finishes = make([]preparedFinish, len(o.Finishes))
	for i, f := range o.Finishes {
		w.finishes[i] = prepareFinish(f, o.StraightShadows)
		w.finishes[i].Emission = w.hue(f.Emission)
		if i < len(o.Overrides) {
			w.finishes[i].over = o.Overrides[i]
		}
		if i < len(o.Crevices) {
			w.finishes[i].crevice = o.Crevices[i]
		}
	}
	if err := w.prepareTextures(ctx, from); err != nil {
		return nil, err
	}
	in := &placing{ways: ways, lamps: LampsOf(s), lampOf: map[int]int{}}
	w.elements = elementsOf(s, &o, in.lamps)
	for i, l := range in.lamps {
		if l.Part >= 0 {
			in.lampOf[l.Part] = i
		}
	}
	w.parts = make([]part, len(s.Parts))
	in.shared = sharedMeshes(s, o.Wears, func(f int) bool { return w.finishes[f].passable() }, func(f int) bool { return w.finishes[f].Glowing() })
	for i := range s.Parts {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		w.place(i, in)
	}
	w.addPunctual(in.lamps, ways)
	w.addSurround(ctx, from)
	w.passable.aside = true
	if err := w.layOut(ctx, from); err != nil {
		return nil, err
	}
	w.set.Ready()
	w.lineElement = w.element(source{kind: fromLines})
	w.draw(ctx)
	w.findFocus(&o.Camera)
	if o.Twin != nil {
		if err := w.prepareTwin(ctx, s, from); err != nil {
			return nil, err
		}
	}
	return w, ctx.Err()
}

// buildMesh makes the hierarchy of a mesh in its own space.
func buildMesh(ctx context.Context, m *scene.Mesh) (*accel.BVH, error) {
	tris := make([]accel.Triangle, 0, len(m.Indices)/3)
	for k := 0; k+2 < len(m.Indices); k += 3 {
		tris = append(tris, accel.Triangle{A: m.Positions[m.Indices[k]], B: m.Positions[m.Indices[k+1]], C: m.Positions[m.Indices[k+2]]})
	}
	return accel.Build(ctx, tris)
}

// triangle is that of three indices from k on, in the world.
func triangle(m *scene.Mesh, k int, world *geom.Affine) accel.Triangle {
	i := m.Indices[k : k+3]
	return accel.Triangle{A: world.Point(m.Positions[i[0]]), B: world.Point(m.Positions[i[1]]), C: world.Point(m.Positions[i[2]])}
}

// passable reports whether straight shadow rays and see-through passes may go through.
func (f *preparedFinish) passable() bool { return f.straight || f.alpha }

// solid reports whether the finish bounds a body that light goes into.
func (f *preparedFinish) solid() bool { return f.Transmission > 0 && !f.thin }

// placing is what all parts are placed by.
type placing struct {
	ways   map[int][]geom.Affine // of objects, while the shutter is open
	lamps  []Lamp
	lampOf map[int]int     // the lamp that a part is
	shared [2]map[int]bool // meshes that are held once for many parts, by layer
}

// place puts a part into the world: into the layer that its rays look for it in, and among
// the lights if it glows.
func (w *World) place(i int, in *placing) {
	s, o := w.scene, &w.opt
	p := s.Parts[i]
	world := s.World(i)
	w.parts[i] = part{mesh: &s.Meshes[p.Mesh], world: world, way: placed(in.ways[p.Object], p.Place), mirror: world.Det() < 0,
		finish: o.Wears[i], light: -1, element: -1, gain: geom.Splat(1)}
	if o.Wears[i] == LeftOutOfPicture {
		return
	}
	lamp, isLamp := in.lampOf[i]
	setting := AsInScene()
	if isLamp {
		setting = o.setting(lamp, in.lamps)
		if !setting.On || setting.Strength <= 0 {
			return // a lamp switched off is not there at all
		}
		w.parts[i].resize(in.lamps[lamp].rect.p, setting)
		world = w.parts[i].world
	}
	w.parts[i].drawn = !isLamp
	f := &w.finishes[o.Wears[i]]
	m := w.parts[i].mesh
	to := &w.solid
	if isLamp && !setting.Reflections {
		to = &w.passable // rays that light sampling is held against pass it, so shadow rays must
	}
	// By chance only is light hit that shadow rays pass through, or whose shape
	// changes while the picture is taken.
	byChance := f.passable()
	catches := i < len(o.Catches) && o.Catches[i]
	w.parts[i].catches = catches
	w.parts[i].absent = i < len(o.Absent) && o.Absent[i]
	if f.passable() || catches { // its own shadow rays pass it
		to = &w.passable
	}
	moves := o.Shutter.Blur && w.parts[i].way != nil
	if moves && f.Glowing() && !rigid(w.parts[i].way) {
		byChance = true
	}
	if f.Glowing() {
		from := source{fromFinish, o.Wears[i]}
		if isLamp {
			from = source{fromLamp, lamp}
		}
		w.parts[i].element = int32(w.element(from))
	}
	at := stand{part: i, mesh: m, world: world}
	at.once = moves || !f.Glowing() && !catches && in.shared[layerOf(f.passable())][p.Mesh] ||
		o.Apart && !catches && (p.Place != nil || p.Staged && isLamp)
	if moves {
		at.way = w.parts[i].way
	}
	to.stands = append(to.stands, at)
	if f.Glowing() && !byChance && len(m.Indices) > 2 {
		w.addGlow(i, f, in.lamps, lamp, isLamp, setting)
		if moves {
			w.drifts(w.parts[i].way, w.parts[i].world)
		}
	}
}

func prepareFinish(f scene.Finish, straight bool) preparedFinish {
	p := preparedFinish{Finish: f}
	p.sigma = optics.Absorption(f.AttenuationColour, f.AttenuationDistance)
	p.thin = f.Thickness == 0
	p.clear = f.Clear() && optics.Smooth(f.Roughness)
	p.straight = p.clear && (f.Shadows == scene.StraightShadows || straight && f.Shadows != scene.BentShadows)
	p.alpha = f.AlphaMode != scene.Opaque
	p.tangentSet, p.tangents = f.TangentSet()
	for _, t := range f.Textures() {
		p.textured = p.textured || t.Image >= 0
	}
	return p
}

// hue is light as the picture has it: without its colour, if so asked for.
func (w *World) hue(c geom.Vec3) geom.Vec3 {
	if w.opt.Colourless {
		return geom.Splat(colour.Luminance(c))
	}
	return c
}

// element returns the index of the element that light is kept in, or -1.
func (w *World) element(from source) int {
	if e, ok := w.elements.of[from]; ok {
		return e
	}
	return -1
}

// addGlow makes a light of a glowing part.
func (w *World) addGlow(i int, f *preparedFinish, lamps []Lamp, lamp int, isLamp bool, st LightSetting) {
	p := &w.parts[i]
	l := lights.Light{Name: w.elements.names[p.element], Element: int(p.element), Part: i}
	st.onto(&l)
	p.light = int32(len(w.set.Lights))
	radiance := f.Emission.Mul(p.gain)
	if isLamp && lamps[lamp].Kind == "rectangle" {
		q := lamps[lamp].rect
		l.Kind, l.P, l.N, l.S, l.T, l.W, l.H = lights.Rect, q.p, q.n, q.s, q.t, q.w*st.Size, q.h*st.Size
		l.Colour, l.TwoSided = radiance, f.DoubleSided
		w.set.Lights = append(w.set.Lights, l)
		return
	}
	tris := make([]lights.Triangle, 0, len(p.mesh.Indices)/3)
	for k := 0; k+2 < len(p.mesh.Indices); k += 3 {
		tris = append(tris, lights.Triangle(triangle(p.mesh, k, &p.world)))
	}
	w.set.AddMesh(l, tris, radiance)
}

// setting is what the ticket says of lamp i; it does not have it do what the lamp
// itself does not.
func (o *Options) setting(i int, lamps []Lamp) LightSetting {
	st, own := AsInScene(), lamps[i].shine
	if i < len(o.Lamps) {
		st = o.Lamps[i]
	}
	st.On = st.On && !own.Off
	st.Camera = st.Camera && !own.Hidden
	st.Reflections = st.Reflections && !own.NoMirror
	st.Shadows = st.Shadows && !own.NoShadows
	return st
}

// onto gives a light the flags of its setting.
func (st *LightSetting) onto(l *lights.Light) {
	l.Hidden, l.NoMirror, l.NoShadows, l.Samples = !st.Camera, !st.Reflections, !st.Shadows, st.Samples
	if st.Reach > 0 {
		l.Range = st.Reach
	}
}

// resize scales an area light about its middle.
func (p *part) resize(middle geom.Vec3, st LightSetting) {
	gain := st.Strength
	if st.Size != 1 {
		grow := geom.Affine{st.Size, 0, 0, 0, 0, st.Size, 0, 0, 0, 0, st.Size, 0}
		p.place(geom.Translate(middle).Mul(grow).Mul(geom.Translate(middle.Neg())).Mul(p.world))
		if st.KeepsPower {
			gain /= st.Size * st.Size
		}
	}
	p.gain = geom.Splat(gain)
}

func (w *World) addPunctual(lamps []Lamp, ways map[int][]geom.Affine) {
	for i, lamp := range lamps {
		if lamp.Part >= 0 {
			continue
		}
		st := w.opt.setting(i, lamps)
		if !st.On || st.Strength <= 0 {
			continue
		}
		src := w.scene.Lights[lamp.Light]
		world := w.scene.Objects[src.Object].World
		l := lights.Light{
			Name: lamp.Name, Element: w.element(source{fromLamp, i}), P: world.Origin(), N: world.Axis(2).Neg().Unit(),
			Colour: w.hue(src.Colour.Scale(src.Intensity * st.Strength)), Range: src.Range, CosInner: -1, CosOuter: -1,
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
			l.Kind, l.Radius = lights.Sphere, src.Radius*st.Size
			bright := src.Radius
			if st.KeepsPower {
				bright = l.Radius
			}
			l.Colour = l.Colour.Scale(1 / (math.Pi * bright * bright)) // candela to nits
			w.spheres = append(w.spheres, len(w.set.Lights))
		}
		st.onto(&l)
		w.set.Lights = append(w.set.Lights, l)
		if way := ways[src.Object]; way != nil && w.opt.Shutter.Blur && src.Kind != scene.SunLight {
			turns := make([]geom.Affine, len(way))
			for k := range turns {
				turns[k] = turnedOnly(way[k])
			}
			w.drifts(turns, turnedOnly(world))
		}
	}
}

func (w *World) addSurround(ctx context.Context, from *World) {
	o := &w.opt
	w.surroundElement, w.backer = -1, -1
	if o.Surround.On && o.Surround.Strength > 0 {
		w.surroundElement = w.element(source{kind: fromSurround})
		l := lights.Light{Name: SurroundName, Element: w.surroundElement}
		if sky := o.Surround.Sky; sky != nil {
			w.env = sky.Env(ctx, o.Surround.Turn, o.Surround.Strength)
			w.addSkySun(sky)
		} else if p := o.Surround.Picture; p != nil {
			if w.env = from.surroundOf(&o.Surround, o.Colourless); w.env == nil {
				w.env = lights.Picture(ctx, p.W, p.H, p.Pix, o.Surround.Turn, o.Surround.Strength)
			}
		} else {
			w.env = lights.EvenTone(o.Surround.Tone.Scale(o.Surround.Strength))
		}
		if o.Colourless {
			w.env = w.env.Grey()
		}
		w.set.AddEnv(l, w.env)
	}
	if o.Backing.flat() {
		w.backer = w.element(source{kind: fromBacking})
	}
}

// addSkySun adds the sun of a sky, turned with it.
func (w *World) addSkySun(sky *lights.Sky) {
	o := &w.opt
	to := sky.Sun()
	sin, cos := math.Sincos(float64(o.Surround.Turn))
	x, z := float64(to.X), float64(to.Z)
	// A turn is counter-clockwise seen from above, as that of the picture.
	to.X, to.Z = float32(cos*x+sin*z), float32(cos*z-sin*x)
	w.set.Lights = append(w.set.Lights, lights.Light{
		Kind: lights.Sun, Name: SkySunName, Element: w.element(source{kind: fromSkySun}), N: to.Neg(),
		Colour: w.hue(sky.Sunlight().Scale(o.Surround.Strength)), OneMinusCos: float32(2 * math.Pow(math.Sin(lights.SunAngle/2), 2)),
	})
}
