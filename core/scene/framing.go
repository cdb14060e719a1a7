package scene

import (
	"math"

	"amberproof/core/geom"
)

// SensorHeight is the height of the sensor that focal lengths are told for, mm: a
// frame of 36 x 24.
const SensorHeight = 24

// Focal is the focal length of the view on such a sensor, mm; 0 for orthographic.
func (w *View) Focal() float64 {
	if w.YFov <= 0 {
		return 0
	}
	return SensorHeight / 2 / math.Tan(float64(w.YFov)/2)
}

// WithFocal is the view from where it is through a lens of so many mm.
func (w View) WithFocal(mm float64) View {
	w.YFov, w.YMag = float32(2*math.Atan(SensorHeight/2/mm)), 0
	return w
}

// Rolled is the view with its horizon level, and then turned about its line of sight
// by an angle in radians, the picture's content against the clock.
func (w View) Rolled(angle float64) View {
	eye, ahead := w.Camera.Origin(), w.Camera.Axis(2).Neg().Unit()
	sin, cos := math.Sincos(-angle)
	roll := geom.Affine{float32(cos), -float32(sin), 0, 0, float32(sin), float32(cos), 0, 0, 0, 0, 1, 0}
	w.Camera = geom.LookAt(eye, eye.Add(ahead), geom.V(0, 1, 0)).Mul(roll)
	return w
}

// Roll is how far the view is turned about its line of sight, radians, as Rolled says it.
func (w *View) Roll() float64 {
	level := w.Rolled(0)
	x := w.Camera.Axis(0).Unit()
	return -math.Atan2(float64(x.Dot(level.Camera.Axis(1))), float64(x.Dot(level.Camera.Axis(0))))
}

// AimedAt is the view from where it is towards a point, as much rolled as before.
func (w View) AimedAt(p geom.Vec3) View {
	roll := w.Roll()
	w.Camera = geom.LookAt(w.Camera.Origin(), p, geom.V(0, 1, 0))
	return w.Rolled(roll)
}

// Fitted is the view moved, but not turned, so that points are in the middle of the
// frame and as large as leaves a margin at each side, as a share of the frame's shorter
// side; of an orthographic view its size changes, too. False without a point.
func (w View) Fitted(points []geom.Vec3, margin float64) (View, bool) {
	if len(points) == 0 {
		return w, false
	}
	short := min(1, float64(w.Aspect)) // against the height
	tall := 1 - 2*margin*short
	wide := 1 - 2*margin*short/float64(w.Aspect)
	if !(tall > 0 && wide > 0) {
		return w, false
	}
	right, up, back := w.Camera.Axis(0).Unit(), w.Camera.Axis(1).Unit(), w.Camera.Axis(2).Unit()
	about := points[0]
	// Tangents of the half angles that points may be seen under; 0: all rays are parallel.
	var th, tv float64
	if w.YFov > 0 {
		tv = math.Tan(float64(w.YFov)/2) * tall
		th = math.Tan(float64(w.YFov)/2) * float64(w.Aspect) * wide
	}
	// A point that lies x to the right of about and d before it is within the right side
	// of a camera at tx, -tz if x - th d <= tx + th tz: the largest of all left sides holds.
	most := [4]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	nearest := math.Inf(1)
	for _, p := range points {
		q := p.Sub(about)
		x, y, d := float64(q.Dot(right)), float64(q.Dot(up)), -float64(q.Dot(back))
		for k, v := range [4]float64{x - th*d, -x - th*d, y - tv*d, -y - tv*d} {
			most[k] = max(most[k], v)
		}
		nearest = min(nearest, d)
	}
	tx, ty := (most[0]-most[1])/2, (most[2]-most[3])/2
	halfX, halfY := (most[0]+most[1])/2, (most[2]+most[3])/2
	var tz float64
	if w.YFov > 0 {
		tz = max(halfX/th, halfY/tv)
		tz = max(tz, -nearest+1e-4) // what is flat, or a point, is not put into the lens
	} else {
		w.YMag = float32(max(halfY/tall, halfX/(wide*float64(w.Aspect)), 1e-6))
		tz = float64(w.Camera.Origin().Sub(about).Dot(back)) // stays as far off
	}
	eye := about.Add(right.Scale(float32(tx))).Add(up.Scale(float32(ty))).Add(back.Scale(float32(tz)))
	c := &w.Camera
	c[3], c[7], c[11] = eye.X, eye.Y, eye.Z
	return w, true
}

// Corners are the corners of all faces of some parts in the world, as they stand.
func (s *Scene) Corners(parts []int) (out []geom.Vec3) {
	for _, i := range parts {
		w := s.World(i)
		for _, p := range s.Meshes[s.Parts[i].Mesh].Positions {
			out = append(out, w.Point(p))
		}
	}
	return out
}
