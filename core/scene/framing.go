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

// steepest is how far up or down the middle of a frame may be seen whose verticals are kept
// upright, radians: beyond, what is nearest grows out of all proportion.
const steepest = 50 * math.Pi / 180

// Upright is the view with a level axis and the frame shifted instead, as with a shift lens:
// what stands upright is upright in the picture, and what was in the middle of the frame
// stays there, as large as it was. False of views too steep for that.
func (w View) Upright() (View, bool) {
	if w.YFov <= 0 {
		w = w.Rolled(0)
		return w, math.Abs(float64(w.Camera.Axis(2).Unit().Y)) < 1e-3
	}
	eye, middle := w.Ray(0, 0)
	rise := math.Asin(float64(middle.Y))
	if math.Abs(rise) > steepest {
		return w, false
	}
	before := float64(middle.Dot(w.Camera.Axis(2).Neg().Unit())) // of the way to the middle, along the axis
	spread := math.Tan(float64(w.YFov)/2) * before / math.Cos(rise)
	level := geom.V(middle.X, 0, middle.Z).Unit()
	w.Camera = geom.LookAt(eye, eye.Add(level), geom.V(0, 1, 0))
	w.YFov = float32(2 * math.Atan(spread))
	w.Shift = [2]float32{0, float32(math.Tan(rise) / (2 * spread))}
	return w, true
}

// AimedAt is the view from where it is towards a point, as much rolled as before and with the
// frame straight before the lens.
func (w View) AimedAt(p geom.Vec3) View {
	roll := w.Roll()
	w.Shift = [2]float32{}
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
	// The frame's sides in the picture plane, at distance one or, where all rays are parallel,
	// in metres for half a height of one; a shift moves both sides of a pair.
	spread := 1.0
	if w.YFov > 0 {
		spread = math.Tan(float64(w.YFov) / 2)
	}
	aspect := float64(w.Aspect)
	sides := [4]float64{
		spread * aspect * (2*float64(w.Shift[0]) + wide), spread * aspect * (2*float64(w.Shift[0]) - wide),
		spread * (2*float64(w.Shift[1]) + tall), spread * (2*float64(w.Shift[1]) - tall),
	}
	// A point that lies x to the right of about and d before it is within the right side of a
	// camera at tx, -tz if x - right d <= tx + right tz: the largest of all left sides holds.
	// For the left side it is the other way round.
	reach := [4]float64{math.Inf(-1), math.Inf(1), math.Inf(-1), math.Inf(1)}
	nearest := math.Inf(1)
	for _, p := range points {
		q := p.Sub(about)
		x, y, d := float64(q.Dot(right)), float64(q.Dot(up)), -float64(q.Dot(back))
		nearest = min(nearest, d)
		if w.YFov <= 0 {
			d = 0
		}
		reach[0], reach[1] = max(reach[0], x-sides[0]*d), min(reach[1], x-sides[1]*d)
		reach[2], reach[3] = max(reach[2], y-sides[2]*d), min(reach[3], y-sides[3]*d)
	}
	var tx, ty, tz float64
	if w.YFov > 0 {
		tz = max((reach[0]-reach[1])/(sides[0]-sides[1]), (reach[2]-reach[3])/(sides[2]-sides[3]))
		tz = max(tz, -nearest+1e-4) // what is flat, or a point, is not put into the lens
		tx = (reach[0] + reach[1] - (sides[0]+sides[1])*tz) / 2
		ty = (reach[2] + reach[3] - (sides[2]+sides[3])*tz) / 2
	} else {
		mag := max((reach[0]-reach[1])/(sides[0]-sides[1]), (reach[2]-reach[3])/(sides[2]-sides[3]), 1e-6)
		w.YMag = float32(mag)
		tx, ty = (reach[0]+reach[1]-(sides[0]+sides[1])*mag)/2, (reach[2]+reach[3]-(sides[2]+sides[3])*mag)/2
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
