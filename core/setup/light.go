package setup

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Light is a light that was made on the bench. It stands so far from the middle of the
// stage in such a direction, and shines at what it is aimed at wherever it stands.
type Light struct {
	Name string `json:"name" maxlen:"200"`
	Kind string `json:"kind" choices:"rectangle,disk,sphere,spot,sun" def:"rectangle"`
	On   bool   `json:"on" def:"true"`

	Distance  float64 `json:"distance" unit:"mm" min:"0.01" max:"1000000" step:"10" def:"1000"`
	Direction float64 `json:"direction" unit:"deg" min:"-360" max:"360" step:"5" def:"-40"`
	Height    float64 `json:"height" unit:"deg" min:"-90" max:"90" step:"5" def:"40"`
	Aim       Aim     `json:"aim"`

	Width  float64 `json:"width" unit:"mm" min:"0" max:"1000000" step:"10" def:"600"`
	Length float64 `json:"length" unit:"mm" min:"0.01" max:"1000000" step:"10" def:"600"`
	Cone   float64 `json:"cone" unit:"deg" min:"1" max:"170" step:"1" def:"40"`
	Soft   float64 `json:"soft" unit:"%" min:"0" max:"100" step:"5" def:"30"`
	Disc   float64 `json:"disc" unit:"deg" min:"0" max:"90" step:"0.1" def:"0.53"`

	Held     string  `json:"held" choices:"lux,power,brightness" def:"lux"`
	Strength float64 `json:"strength" min:"0.000001" max:"1000000000" step:"0.1" def:"2"`
	Tinted   string  `json:"tinted" choices:"temperature,colour" def:"temperature"`
	Kelvin   float64 `json:"kelvin" unit:"K" min:"1000" max:"15000" step:"100" def:"6504"`
	Tint     float64 `json:"tint" min:"-50" max:"50" step:"1" def:"0"`
	Colour   Colour  `json:"colour"`

	Camera      bool `json:"camera" def:"false"`
	Reflections bool `json:"reflections" def:"true"`
	Shadows     bool `json:"shadows" def:"true"`
}

// Aim is a point that a light shines at, from the middle of the stage.
type Aim struct {
	X float64 `json:"x" unit:"mm" min:"-1000000" max:"1000000" step:"10" def:"0"`
	Y float64 `json:"y" unit:"mm" min:"-1000000" max:"1000000" step:"10" def:"0"`
	Z float64 `json:"z" unit:"mm" min:"-1000000" max:"1000000" step:"10" def:"0"`
}

// What a light's strength is a number of.
const (
	HeldLux        = "lux"
	HeldPower      = "power"
	HeldBrightness = "brightness"
)

// NewLight is a light of the defaults.
func NewLight(name, kind string) Light {
	return Light{
		Name: name, Kind: kind, On: true, Distance: 1000, Direction: -40, Height: 40, Width: 600, Length: 600, Cone: 40, Soft: 30, Disc: 0.53,
		Held: HeldLux, Strength: 2, Tinted: "temperature", Kelvin: colour.Neutral, Colour: Colour{1, 1, 1}, Reflections: true, Shadows: true,
	}
}

// UnmarshalJSON gives what a light leaves out its default.
func (l *Light) UnmarshalJSON(b []byte) error {
	type plain Light
	p := plain(NewLight("", "rectangle"))
	err := strictly(b, &p)
	if err == nil {
		*l = Light(p)
	}
	return err
}

// Hue is the colour of the light, of luminance one.
func (l *Light) Hue() geom.Vec3 {
	if l.Tinted != "colour" {
		return colour.Temperature(l.Kelvin, l.Tint/1000)
	}
	c := l.Colour.vec()
	y := colour.Luminance(c)
	if y <= 0 {
		return geom.Splat(1)
	}
	return c.Scale(1 / y)
}

// Stands is where the light is in the world and what it is aimed at, metres. A sun
// stands there only to be drawn.
func (l *Light) Stands(g *Stage) (at, aim geom.Vec3) {
	sinD, cosD := math.Sincos(l.Direction * math.Pi / 180)
	sinH, cosH := math.Sincos(l.Height * math.Pi / 180)
	d := l.Distance / 1000
	at = g.middle().Add(geom.V(float32(d*cosH*sinD), float32(d*sinH), float32(d*cosH*cosD)))
	aim = g.middle().Add(geom.V(float32(l.Aim.X/1000), float32(l.Aim.Y/1000), float32(l.Aim.Z/1000)))
	return at, aim
}

// perNit is the illuminance, in lux, that the light gives at a point so many metres off
// that it is aimed at, square on and with nothing in the way, for each nit of its
// surface; of a spot without a width for each candela.
func (l *Light) perNit(d float64) float64 {
	w, h := l.Width/2000, l.Length/2000
	d = max(d, 1e-5)
	switch l.Kind {
	case "rectangle":
		// Of a rectangle square over a point: two terms of its sides' angles (e.g. Howell,
		// A catalog of radiation heat transfer configuration factors, B-4).
		x, y := math.Hypot(w, d), math.Hypot(h, d)
		return 2 * (w/x*math.Atan(h/x) + h/y*math.Atan(w/y))
	case "disk":
		return math.Pi * w * w / (w*w + d*d)
	}
	switch {
	case w == 0:
		return 1 / (d * d)
	case l.Kind == "spot":
		return l.withinCone(min(1, w*w/(d*d)))
	}
	return math.Pi * min(1, w*w/(d*d)) // from within as from its surface
}

// withinCone is the illuminance for each nit of a spot's bulb that is seen within an
// angle, by the square of its sine, from its axis: light leaves each point of the bulb
// within the cone, fading as the square of a line in the cosine.
func (l *Light) withinCone(sin2 float64) float64 {
	outer, inner := l.cones()
	o, i, c := math.Cos(outer), math.Cos(inner), math.Sqrt(1-sin2)
	e := min(sin2, math.Pow(math.Sin(inner), 2)) / 2
	if c = max(c, o); c < i {
		fading := func(c float64) float64 { return math.Pow(c-o, 4)/4 + o*math.Pow(c-o, 3)/3 }
		e += (fading(i) - fading(c)) / ((i - o) * (i - o))
	}
	return 2 * math.Pi * e
}

// cones are the half angles of a spot's cone and of that within which it does not
// fade, radians.
func (l *Light) cones() (outer, inner float64) {
	outer = l.Cone / 2 * math.Pi / 180
	return outer, outer * (1 - l.Soft/100)
}

// perLumen is how many nits the surface of a light has for each lumen that it gives,
// or how many candela where it has none.
func (l *Light) perLumen() float64 {
	w, h := l.Width/1000, l.Length/1000
	switch l.Kind {
	case "rectangle":
		return 1 / (math.Pi * w * h)
	case "disk":
		return 4 / (math.Pi * math.Pi * w * w)
	}
	if w > 0 {
		return 1 / (math.Pi * math.Pi * w * w)
	}
	return 1 / (4 * math.Pi)
}

// Gives is what a light gives in each of the ways to say it.
type Gives struct {
	Lux   float64 // at what it is aimed at
	Lumen float64
	Nit   float64 // 0 for one without a surface
}

// brightest is as bright as a light is at most, nits, whatever its size and strength say:
// the numbers of a picture hold no more.
const brightest = 1e24

// Gives works out what a light on a stage gives.
func (l *Light) Gives(g *Stage) Gives {
	if l.Kind == "sun" {
		return Gives{Lux: l.Strength}
	}
	at, aim := l.Stands(g)
	lux, lumen := l.perNit(float64(at.Sub(aim).Len())), 1/l.perLumen()
	var nit float64
	switch l.Held {
	case HeldLux:
		nit = l.Strength / lux
	case HeldPower:
		nit = l.Strength / lumen
	default:
		nit = l.Strength
	}
	nit = min(nit, brightest)
	out := Gives{Lux: nit * lux, Lumen: nit * lumen, Nit: nit}
	if l.Width == 0 {
		out.Nit = 0
	}
	return out
}

// Placed is a light as it stands in a scene.
type Placed struct {
	Name    string // in the scene, by which jobs switch it
	At, Aim geom.Vec3
	Gives   Gives
	EV      float64 // what it gives against the light that gives most, stops
}

// Placed are the lights of a stage in a scene that it was laid over.
func (g *Stage) Placed(s *scene.Scene) []Placed {
	var flat, other []string
	for i := range s.Parts {
		if f := s.FinishOf(i); s.Parts[i].Staged && f.Glowing() {
			flat = append(flat, s.Parts[i].Name)
		}
	}
	for i := range s.Lights {
		if s.Lights[i].Staged {
			other = append(other, s.Lights[i].Name)
		}
	}
	out := make([]Placed, len(g.Lights))
	var most float64
	for i := range g.Lights {
		l, p := &g.Lights[i], &out[i]
		from := &other
		if l.Kind == "rectangle" || l.Kind == "disk" {
			from = &flat
		}
		if p.Name = l.Name; len(*from) > 0 {
			p.Name, *from = (*from)[0], (*from)[1:]
		}
		p.At, p.Aim = l.Stands(g)
		p.Gives = l.Gives(g)
		if l.On {
			most = max(most, p.Gives.Lux)
		}
	}
	for i := range out {
		if lux := out[i].Gives.Lux; most > 0 && lux > 0 {
			out[i].EV = math.Log2(lux / most)
		}
	}
	return out
}

func (l *Light) shine() scene.Shine {
	return scene.Shine{Off: !l.On, Hidden: !l.Camera, NoMirror: !l.Reflections, NoShadows: !l.Shadows}
}

// onto adds the light to a scene under a name.
func (l *Light) onto(s *scene.Scene, g *Stage, name string) {
	at, aim := l.Stands(g)
	gives, hue := l.Gives(g), l.Hue()
	world := geom.LookAt(at, aim, geom.V(0, 1, 0))
	flat := func(m scene.Mesh) {
		f := scene.NewFinish(name)
		f.Base, f.Metallic, f.Emission = geom.Vec3{}, 0, hue.Scale(float32(gives.Nit))
		add(s, thing{name: name, mesh: m, finish: f, world: world, shine: l.shine()})
	}
	light := scene.Light{Name: name, Object: len(s.Objects), Colour: hue, Staged: true, Shine: l.shine()}
	switch l.Kind {
	case "rectangle":
		flat(rectangle(float32(l.Width/1000), float32(l.Length/1000)))
		return
	case "disk":
		flat(disk(float32(l.Width / 2000)))
		return
	case "sun":
		light.Kind, light.Intensity, light.Angle = scene.SunLight, float32(gives.Lux), float32(l.Disc*math.Pi/180)
	default:
		light.Intensity, light.Radius = float32(gives.Lumen/(4*math.Pi)), float32(l.Width/2000)
		if l.Kind == "spot" {
			light.Kind = scene.SpotLight
			outer, inner := l.cones()
			light.OutCone, light.InnerCone = float32(outer), float32(inner)
		}
	}
	s.Objects = append(s.Objects, scene.Object{Name: name, Parent: -1, Local: world, World: world})
	s.Lights = append(s.Lights, light)
}

// rectangle is one of so many metres that looks along -Z.
func rectangle(w, h float32) scene.Mesh {
	w, h = w/2, h/2
	return scene.Mesh{
		Positions: []geom.Vec3{{X: -w, Y: -h}, {X: -w, Y: h}, {X: w, Y: h}, {X: w, Y: -h}},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
}

// diskCorners is how many corners a disk has.
const diskCorners = 96

// disk is one of a radius in metres that looks along -Z, with the area of a round one.
func disk(r float32) scene.Mesh {
	step := 2 * math.Pi / diskCorners
	// The corners lie outside of the circle by as much as the sides cut off.
	r *= float32(math.Sqrt(step / math.Sin(step)))
	m := scene.Mesh{Positions: []geom.Vec3{{}}}
	for i := range uint32(diskCorners) {
		sin, cos := math.Sincos(-step * float64(i))
		m.Positions = append(m.Positions, geom.V(r*float32(cos), r*float32(sin), 0))
		m.Indices = append(m.Indices, 0, i+1, (i+1)%diskCorners+1)
	}
	return m
}
