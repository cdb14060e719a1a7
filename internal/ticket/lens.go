package ticket

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// filmHeight is that of the frame by which apertures are counted, metres.
const filmHeight = 0.024

// camera is the resolved camera with the ticket's lens and its way while the
// shutter is open, in the core's terms.
func (r *Resolved) camera(s *scene.Scene) trace.Camera {
	c := trace.Camera{World: geom.Affine(r.Camera.Matrix), Way: r.cameraWay(s), YFov: r.Camera.YFov, YMag: r.Camera.YMag, Shift: r.Camera.shift()}
	l := &r.Ticket.View.Lens
	if !l.On || c.YFov == 0 {
		return c
	}
	focal := filmHeight / 2 / math.Tan(float64(c.YFov)/2)
	c.Aperture = float32(focal / (2 * l.FStop))
	c.Blades, c.BladeTurn = l.Blades, float32(l.BladeTurn*math.Pi/180)
	if l.By == "distance" {
		c.Focus = float32(l.Distance)
	} else {
		c.FocusAt = [2]float32{float32(l.X / 100), float32(l.Y / 100)}
	}
	return c
}
