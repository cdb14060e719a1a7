package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Camera looks along the -Z axis of World.
type Camera struct {
	World geom.Affine
	Way   []geom.Affine // where it is while the shutter is open, if it moves
	YFov  float32       // radians over the full height; 0 for orthographic
	YMag  float32       // metres, half height, orthographic only
	// Shift moves the frame against the lens to the right and up, in shares of its width and
	// height: planes that stand across the axis keep their shape.
	Shift [2]float32

	Aperture  float32 // radius of the lens opening, metres; 0 keeps everything sharp
	Blades    int     // straight edges of the opening; under 3 it is round
	BladeTurn float32 // radians
	Focus     float32 // metres along the axis; 0: what is seen at FocusAt is sharp
	FocusAt   [2]float32
}

// preparedCamera is a camera made ready for a frame.
type preparedCamera struct {
	origin, right, up, back geom.Vec3
	width, height           float32
	shift                   [2]float32 // in halves of the frame
	spread                  float32    // half height of the frame at distance one, or of the orthographic frame
	flat                    bool       // orthographic
	lens                    float32
	blades                  int
	turn                    float32 // in turns
	focus                   float32
}

func prepareCamera(c *Camera, width, height int) preparedCamera {
	e := preparedCamera{
		width: float32(width), height: float32(height), spread: float32(math.Tan(float64(c.YFov) / 2)),
		shift: [2]float32{2 * c.Shift[0], 2 * c.Shift[1]},
		lens:  c.Aperture, blades: c.Blades, turn: c.BladeTurn / (2 * math.Pi), focus: c.Focus,
	}
	if e.flat = c.YFov == 0; e.flat {
		e.spread, e.lens = c.YMag, 0 // all its rays are parallel: nothing to focus
	}
	e.stand(&c.World)
	return e
}

// stand puts the camera in a place.
func (e *preparedCamera) stand(w *geom.Affine) {
	e.origin, e.right, e.up, e.back = w.Origin(), w.Axis(0).Unit(), w.Axis(1).Unit(), w.Axis(2).Unit()
}

// seen is where in the frame a point is seen, in pixels from its upper left
// corner; false behind it.
func (e *preparedCamera) seen(p geom.Vec3) (x, y float32, ok bool) {
	d := p.Sub(e.origin)
	scale := e.spread
	if !e.flat {
		scale *= d.Dot(e.back.Neg())
	}
	if !(scale > 0) {
		return 0, 0, false
	}
	sx, sy := d.Dot(e.right)/(scale*e.width/e.height), d.Dot(e.up)/scale
	return (sx - e.shift[0] + 1) / 2 * e.width, (1 - sy + e.shift[1]) / 2 * e.height, true
}

// ray makes the camera ray through the point (x, y) of the frame, in pixels
// from its upper left corner, and the point (u, v) of the lens.
func (e *preparedCamera) ray(x, y, u, v float32) geom.Ray {
	// Square pixels: the frame's height spans the field of view, its width follows.
	sy := (1 - 2*y/e.height + e.shift[1]) * e.spread
	sx := (2*x/e.width - 1 + e.shift[0]) * (e.width / e.height) * e.spread
	inf := float32(math.Inf(1))
	if e.flat {
		return geom.Ray{O: e.origin.MulAdd(e.right, sx).MulAdd(e.up, sy), D: e.back.Neg(), TMax: inf}
	}
	d := e.right.Scale(sx).Add(e.up.Scale(sy)).Sub(e.back)
	if e.lens == 0 {
		return geom.Ray{O: e.origin, D: d.Unit(), TMax: inf}
	}
	lx, ly := opening(u, v, e.blades, e.turn)
	off := e.right.Scale(lx * e.lens).Add(e.up.Scale(ly * e.lens))
	return geom.Ray{O: e.origin.Add(off), D: d.Scale(e.focus).Sub(off).Unit(), TMax: inf}
}

// Seen is where a point of the world is seen in a frame of so many pixels, from its upper left
// corner; ok is false behind the camera.
func (c *Camera) Seen(p geom.Vec3, width, height int) (x, y float32, ok bool) {
	e := prepareCamera(c, width, height)
	return e.seen(p)
}

// Through is the ray through a point of such a frame, sharp.
func (c *Camera) Through(x, y float32, width, height int) geom.Ray {
	e := prepareCamera(c, width, height)
	e.lens = 0
	return e.ray(x, y, 0, 0)
}

// Footprint is how large a pixel of such a frame is at a point, metres.
func (c *Camera) Footprint(p geom.Vec3, width, height int) float32 {
	e := prepareCamera(c, width, height)
	if e.flat {
		return 2 * e.spread / e.height
	}
	return 2 * e.spread / e.height * p.Sub(e.origin).Len()
}

// cone is that of a camera ray.
func (e *preparedCamera) cone() cone {
	pixel := 2 * e.spread / e.height * pixelShare
	if e.flat {
		return cone{width: pixel}
	}
	return cone{spread: pixel}
}

// opening draws a point of the lens opening of radius one, evenly: a disk, or
// a regular polygon with its corners on the circle.
func opening(u, v float32, blades int, turn float32) (x, y float32) {
	if blades < 3 {
		return sampling.Disk(u, v)
	}
	n := float32(blades)
	k := min(float32(int(u*n)), n-1)
	r := geom.Sqrt(u*n - k)
	at := func(corner float32) (float32, float32) {
		t := corner/n + turn
		s, c := geom.SinCosTurn(t - float32(math.Floor(float64(t))))
		return c, s
	}
	ax, ay := at(k)
	bx, by := at(k + 1)
	return r * (ax*(1-v) + bx*v), r * (ay*(1-v) + by*v)
}

// findFocus puts the sharp plane through what is seen at the camera's point,
// or where nothing is, at the distance of the scene's middle.
func (w *World) findFocus(c *Camera) {
	if w.camera.lens == 0 || c.Focus > 0 {
		return
	}
	lens := w.camera.lens
	w.camera.lens = 0
	t := w.NewTracer()
	t.open(0.5)
	r := t.camera.ray(c.FocusAt[0]*w.camera.width, c.FocusAt[1]*w.camera.height, 0, 0)
	at := w.solid.bounds().Union(w.passable.bounds()).Centre()
	if t.firstHit(r, t.intersect(&r, &t.pt, t.camera.cone()), false, &t.pt) {
		at = t.pt.p
	}
	w.camera.lens, w.camera.focus = lens, max(at.Sub(t.camera.origin).Dot(t.camera.back.Neg()), 1e-3)
}
