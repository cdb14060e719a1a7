package setup

import (
	"fmt"
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// seenSteps is how many places along each side of a frame are looked through.
const seenSteps = 24

const (
	// spare is how much larger a backdrop is made than what is seen of it: of a lens that
	// blurs, and of a product that mirrors a little of what is beside.
	spare = 1.08
	// mostGrown is the largest backdrop, in radii of the product.
	mostGrown = 200
)

// Measured is the backdrop of a stage, of the depth and bend that it has, as large as
// the cameras need to see no edge of it, and no larger. cannot names those that would
// see past it whatever its size, and why.
func (g *Stage) Measured(cameras []scene.View) (b Backdrop, cannot []string) {
	b = g.Backdrop
	r := g.Radius
	width, front, height := 3*r, 1.5*r, b.Bend+0.5*r
	at := g.backdropAt()
	back, ok := at.Inverse()
	if !ok {
		return b, nil // a turn and a shift have one
	}
	for i := range cameras {
		c := &cameras[i]
		w, f, h := width, front, height
		why := ""
		for y := range seenSteps + 1 {
			for x := range seenSteps + 1 {
				o, d := c.Ray(float32(x)/seenSteps*2-1, float32(y)/seenSteps*2-1)
				o, d = back.Point(o), back.Vector(d)
				p, miss := b.reached(o, d)
				if miss != "" {
					why = miss
					continue
				}
				w = max(w, 2*spare*math.Abs(p[0]))
				h = max(h, spare*p[1])
				f = max(f, spare*p[2])
			}
		}
		if why == "" && max(w, f, h) > mostGrown*r {
			why = "it looks so flatly along it that it would have no end"
		}
		if why != "" {
			cannot = append(cannot, fmt.Sprintf("%s: %s", c.Name, why))
			continue
		}
		width, front, height = w, f, h
	}
	if len(cannot) == len(cameras) {
		return b, cannot // there is nothing to measure it by
	}
	b.Width, b.Front = rounded(width), rounded(front)
	if b.Kind == Curved {
		b.Height = rounded(height)
	}
	return b, cannot
}

// reached is where a ray, in the space of the backdrop, meets it if it is large enough:
// to the right, upwards and to the front, mm. The bend lies within the corner that floor
// and wall would make, and so asks for no more than they do.
func (b *Backdrop) reached(o, d geom.Vec3) (p [3]float64, miss string) {
	at := func(t float64) [3]float64 {
		return [3]float64{1000 * (float64(o.X) + t*float64(d.X)), 1000 * (float64(o.Y) + t*float64(d.Y)), 1000 * (float64(o.Z) + t*float64(d.Z))}
	}
	if o.Y <= 0 {
		return p, "it looks from under the floor"
	}
	wall := -b.Depth / 1000
	if b.Kind == Curved && float64(o.Z) <= wall {
		return p, "it stands behind the wall"
	}
	toFloor, toWall := math.Inf(1), math.Inf(1)
	if d.Y < 0 {
		toFloor = -float64(o.Y) / float64(d.Y)
	}
	if d.Z < 0 {
		toWall = (wall - float64(o.Z)) / float64(d.Z)
	}
	if b.Kind == Flat {
		switch p = at(toFloor); {
		case math.IsInf(toFloor, 1):
			return p, "it looks over the horizon; a flat floor has none behind it"
		case toWall < toFloor:
			return p, "it looks over the rear edge; set the floor further back, or take a curved backdrop"
		}
		return p, ""
	}
	if math.IsInf(min(toFloor, toWall), 1) {
		return p, "it looks away from the wall; turn the backdrop"
	}
	return at(min(toFloor, toWall)), ""
}

// NewStage is a stage for a product by the box around it: a curved backdrop behind it as
// the first camera sees it, large enough for all of them, a large key light on the left,
// a fill on the right, a rim from behind, and a faint even surround.
func NewStage(box geom.Box, cameras []scene.View) (g Stage, cannot []string) {
	g = Stage{Radius: 100, Backdrop: Backdrop{Kind: Curved, Width: 800, Depth: 260, Front: 300, Height: 500, Bend: 160,
		Colour: Colour{0.7, 0.7, 0.7}, Roughness: 1}}
	light := func(name, kind string, direction, height, distance, width, length, lux, kelvin float64) {
		l := NewLight(name, kind)
		l.Direction, l.Height, l.Distance, l.Width, l.Length, l.Strength, l.Kelvin = direction, height, distance, width, length, lux, kelvin
		g.Lights = append(g.Lights, l)
	}
	light("Key", "rectangle", -48, 38, 420, 260, 260, 3.4, 6000)
	light("Fill", "rectangle", 62, 18, 460, 300, 300, 0.9, 7200)
	light("Rim", "rectangle", 152, 42, 330, 220, 90, 1.4, colour.Neutral)
	begins := NewBegins()
	begins.Surround.Tone = 0.12
	g.Begins = &begins
	g = g.AroundBox(box)
	for _, v := range []*float64{&g.Radius, &g.Backdrop.Depth, &g.Backdrop.Bend} {
		*v = rounded(*v)
	}
	for i := range g.Lights {
		l := &g.Lights[i]
		l.Distance, l.Width, l.Length = rounded(l.Distance), rounded(l.Width), rounded(l.Length)
	}
	if len(cameras) > 0 {
		g.face(&cameras[0])
		g.Backdrop, cannot = g.Measured(cameras)
	}
	return g, cannot
}

// face turns a stage so that a camera looks at it from the front.
func (g *Stage) face(c *scene.View) {
	z := c.Camera.Axis(2) // away from what it looks at
	if math.Hypot(float64(z.X), float64(z.Z)) < 0.05 {
		return // from straight above every side is the front
	}
	deg := math.Round(math.Atan2(float64(z.X), float64(z.Z)) * 180 / math.Pi)
	by := deg - g.Backdrop.Turn
	g.Backdrop.Turn = deg
	for i := range g.Lights {
		l := &g.Lights[i]
		l.Direction = math.Mod(l.Direction+by+540, 360) - 180
	}
}
