package ticket

import (
	"math"

	"amberproof/core/clay"
	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/setup"
	"amberproof/core/trace"
)

// evenTone is the radiance of the even light of clay: under it, a matte clay in the
// open has its reflectance as its tone.
const evenTone = 1

// bothSurfaces is what SurfaceSection.Mode says of two pictures: finished, and in clay.
const bothSurfaces = "both"

// InClay tells whether there is a picture in clay, alone or beside the finished one.
func (t *Ticket) InClay() bool { return t.Surface.Mode != "own" }

// clayLight sets the light and the lines of a picture in clay.
func (t *Ticket) clayLight(o *trace.Options) {
	if t.Surface.Mode != "clay" {
		return
	}
	c := &t.Surface.Clay
	o.Colourless = c.Light == "colourless" || c.Light == "even"
	if c.Light == "even" {
		for i := range o.Lamps {
			o.Lamps[i].On = false
		}
		o.Surround = trace.Surround{On: true, Tone: geom.Splat(evenTone), Strength: 1}
	}
	if l := c.Lines; l != nil {
		whole := 1000.0
		if l.By == "pixels" {
			whole = float64(o.Height)
		}
		o.Lines = &trace.Lines{
			Weight:  float32(l.Weight / whole),
			Creases: l.Creases, Outlines: l.Outlines, Borders: l.Borders, Boundaries: l.Boundaries, Angle: float32(l.Angle * math.Pi / 180),
			Tone: geom.Splat(float32(l.Tone)), Fade: l.Fade, Through: l.Through, Apart: t.linesApart(),
		}
	}
}

// linesApart tells whether edge lines are a pass and not in the picture.
func (t *Ticket) linesApart() bool {
	l := t.Surface.Clay.Lines
	return t.InClay() && l != nil && l.As == "pass"
}

// backingTone is the radiance of a backing of one tone.
func (t *Ticket) backingTone() geom.Vec3 {
	switch t.Stage.Backing {
	case backShown:
		return geom.Splat(colour.Transform(t.View.Display).Scene(float32(t.Stage.Shown)/255) / colour.Gain(t.View.Exposure))
	case backClay:
		return clay.Base(float32(t.tones()[0]), hueOf(t.Surface.Clay.Tint)).Scale(evenTone)
	}
	return geom.Splat(float32(t.Stage.BackingTone))
}

// ByLook tells whether the light of the picture depends on how it will be looked at.
func (t *Ticket) ByLook() bool {
	clay := t.InClay() || t.Stage.Backing == backClay
	return t.Stage.Backing == backShown || clay && t.Surface.Clay.ToneAs == toneShown
}

// backed is what of the backing's tones counts.
func (t *Ticket) backed() (tone float64, shown int) {
	switch t.Stage.Backing {
	case "tone":
		return t.Stage.BackingTone, 0
	case backShown:
		return 0, t.Stage.Shown
	}
	return 0, 0
}

// tones are the reflectances of the clays.
func (t *Ticket) tones() [3]float64 {
	c := &t.Surface.Clay
	if c.ToneAs != toneShown {
		return [3]float64{c.Tone, c.SecondTone, c.ThirdTone}
	}
	var out [3]float64
	for i, v := range [3]int{c.Shown, c.SecondShown, c.ThirdShown} {
		out[i] = min(float64(colour.Transform(t.View.Display).Scene(float32(v)/255)/evenTone), mostReflected)
	}
	return out
}

const (
	// toneShown is what ClayPlan.ToneAs says where tones are given by what they read as.
	toneShown = "shown"
	// mostReflected is the most that a clay can reflect of the light on it.
	mostReflected = 0.98
)

// hueOf is a tint in the core's terms; zero without one.
func hueOf(c *setup.Colour) geom.Vec3 {
	if c == nil {
		return geom.Vec3{}
	}
	return geom.V(float32(c.R), float32(c.G), float32(c.B))
}
