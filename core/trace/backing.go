package trace

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Gradient goes over the frame from one colour to another: from its top to its foot, or
// turned from there, radians, the first colour against the clock. Beyond the frame, as
// seen through clear parts, the colour of its border goes on.
type Gradient struct {
	Top, Foot geom.Vec3
	Turn      float32
}

// at is the colour at a point of a frame of a size, in pixels from its upper left corner.
func (g *Gradient) at(x, y, width, height float32) geom.Vec3 {
	sin, cos := math.Sincos(float64(g.Turn))
	// Down its own way, from the middle; it reaches from corner to corner.
	down := float64(x-width/2)*sin + float64(y-height/2)*cos
	reach := math.Abs(float64(width)*sin) + math.Abs(float64(height)*cos)
	return g.Top.Lerp(g.Foot, geom.Clamp01(float32(down/reach+0.5)))
}

// flat tells whether the backing is a picture of its own, which lights nothing.
func (b Backing) flat() bool { return b == BackTone || b == BackGradient || b == BackPicture }

// backed is what a flat backing shows along a ray that leaves the scene.
func (t *Tracer) backed(r *geom.Ray) geom.Vec3 {
	o := &t.w.opt
	if o.Backing == BackTone {
		return o.BackingTone
	}
	e := &t.camera
	p := r.O
	if !e.flat { // it is as far away as anything can be
		p = e.origin.Add(r.D)
	}
	x, y, ok := e.seen(p)
	if !ok { // turned aside by more than a right angle: by which half of the frame it leaves
		x, y = e.width/2, e.height/2-e.height*r.D.Dot(e.up)
	}
	if o.Backing == BackPicture {
		return t.w.hue(plateAt(o.Plate, x, y, e.width, e.height).Scale(o.PlateStrength))
	}
	return t.w.hue(o.Gradient.at(x, y, e.width, e.height))
}

// plateAt is the light of a picture that is as large as covers a frame of a size, at a
// point of that; between its pixels it is smooth, and beyond its border that goes on.
func plateAt(img *scene.Image, x, y, width, height float32) geom.Vec3 {
	if img == nil || img.W == 0 || img.H == 0 {
		return geom.Vec3{}
	}
	k := min(float32(img.W)/width, float32(img.H)/height) // pixels of the picture to one of the frame
	px, py := float32(img.W)/2+(x-width/2)*k-0.5, float32(img.H)/2+(y-height/2)*k-0.5
	px, py = min(max(px, -1), float32(img.W)), min(max(py, -1), float32(img.H))
	fx, fy := float32(math.Floor(float64(px))), float32(math.Floor(float64(py)))
	at := func(i, j int) geom.Vec3 {
		p := img.Pix[4*(min(max(j, 0), img.H-1)*img.W+min(max(i, 0), img.W-1)):]
		return geom.V(colour.SRGB8[p[0]], colour.SRGB8[p[1]], colour.SRGB8[p[2]])
	}
	i, j, tx, ty := int(fx), int(fy), px-fx, py-fy
	return at(i, j).Lerp(at(i+1, j), tx).Lerp(at(i, j+1).Lerp(at(i+1, j+1), tx), ty)
}

// backing is what is seen behind the scene along a ray that leaves it, and its alpha.
func (t *Tracer) backing(r *geom.Ray) (c geom.Vec3, alpha float32) {
	w := t.w
	switch {
	case w.opt.Backing == BackClear:
		return c, 0
	case w.opt.Backing.flat():
		return t.backed(r), 1
	}
	w.set.Escaped(r.D, func(i int, rad geom.Vec3, _ float32) {
		if w.shownBehind(i) {
			c = c.Add(rad)
		}
	})
	return c, 1
}
