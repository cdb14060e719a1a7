package scene

import (
	"math"

	"amberproof/core/geom"
)

// View is a camera that pictures are taken from, and the shape of its frame.
type View struct {
	Name   string
	Camera geom.Affine // to the world; it looks along -Z
	YFov   float32     // radians; 0 for orthographic
	YMag   float32     // half height in metres, orthographic only
	Aspect float32     // width by height
	// Shift moves the frame against the lens to the right and up, in shares of its width and
	// height.
	Shift [2]float32
}

// Ray is a ray of the view through a point of its frame, from -1 to 1 to the right
// and up. d is a unit vector.
func (w *View) Ray(x, y float32) (o, d geom.Vec3) {
	x, y = x+2*w.Shift[0], y+2*w.Shift[1]
	if w.YFov > 0 {
		t := float32(math.Tan(float64(w.YFov) / 2))
		return w.Camera.Origin(), w.Camera.Vector(geom.V(x*t*w.Aspect, y*t, -1)).Unit()
	}
	return w.Camera.Point(geom.V(x*w.YMag*w.Aspect, y*w.YMag, 0)), w.Camera.Vector(geom.V(0, 0, -1)).Unit()
}
