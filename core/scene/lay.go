package scene

import (
	"math"

	"amberproof/core/geom"
)

// Lay is where a frame lies in another: from the other's upper left corner, in shares of its
// width and height.
type Lay struct {
	X, Y, Width, Height float64
	// Same says that both look from one place into one direction, so that they show the same
	// at each point. Frames that do not are laid over each other in the middle, as large as fits.
	Same bool
}

// sameWithin is how far numbers of two cameras may be apart to be taken for the same.
const sameWithin = 1e-5

// Over is where the frame of other lies in that of w.
func (w *View) Over(other *View) Lay {
	same := (w.YFov > 0) == (other.YFov > 0)
	for i := range w.Camera {
		same = same && geom.Abs(w.Camera[i]-other.Camera[i]) <= sameWithin*max(1, geom.Abs(w.Camera[i]))
	}
	if !same {
		k := float64(other.Aspect / w.Aspect) // wider than w: as wide as w, and lower
		l := Lay{Width: min(1, k), Height: min(1, 1/k)}
		l.X, l.Y = (1-l.Width)/2, (1-l.Height)/2
		return l
	}
	a, b := w.plane(), other.plane()
	wide, high := a[2]-a[0], a[3]-a[1]
	if !(wide > 0 && high > 0 && b[2] > b[0]) { // a camera that sees nothing
		return Lay{Width: 1, Height: 1, Same: true}
	}
	return Lay{(b[0] - a[0]) / wide, (b[1] - a[1]) / high, (b[2] - b[0]) / wide, (b[3] - b[1]) / high, true}
}

// plane is the frame in the plane at distance one before the camera, of an orthographic camera
// in metres: left, top, right, bottom, downwards.
func (w *View) plane() [4]float64 {
	half := float64(w.YMag)
	if w.YFov > 0 {
		half = math.Tan(float64(w.YFov) / 2)
	}
	wide, x, y := half*float64(w.Aspect), 2*float64(w.Shift[0]), 2*float64(w.Shift[1])
	return [4]float64{(x - 1) * wide, (-y - 1) * half, (x + 1) * wide, (-y + 1) * half}
}
