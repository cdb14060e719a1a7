package scene

import (
	"fmt"
	"math"
	"slices"

	"amberproof/core/geom"
)

// Motion is an animation of the file: what moves its objects over time.
type Motion struct {
	Name  string
	Moves []Move
}

// Move is how one object moves in its parent. A property without a curve stays
// as it is in Rest.
type Move struct {
	Object             int
	Rest               Place
	Shift, Turn, Scale *Curve
}

// Place is a stand in the parent: scaled, then turned (a unit quaternion x, y,
// z, w), then shifted (metres).
type Place struct {
	Shift geom.Vec3
	Turn  [4]float32
	Scale geom.Vec3
}

// Affine is the transform of the place.
func (p *Place) Affine() geom.Affine { return geom.Compose(p.Shift, p.Turn, p.Scale) }

// Curve gives a value of up to four numbers for each moment.
type Curve struct {
	Times  []float32 // seconds, rising
	Values [][4]float32
	// In and Out are the slopes at the keys, per second; nil where the curve is
	// not smooth.
	In, Out [][4]float32
	Stepped bool // holds each value until the next key
}

// Length is when the last key of a motion lies, seconds.
func (m *Motion) Length() (end float32) {
	for i := range m.Moves {
		for _, c := range m.Moves[i].curves() {
			if c != nil {
				end = max(end, c.Times[len(c.Times)-1])
			}
		}
	}
	return end
}

func (v *Move) curves() [3]*Curve { return [3]*Curve{v.Shift, v.Turn, v.Scale} }

// at is the place at a moment.
func (v *Move) at(t float32) Place {
	p := v.Rest
	if v.Shift != nil {
		x := v.Shift.at(t, false)
		p.Shift = geom.V(x[0], x[1], x[2])
	}
	if v.Turn != nil {
		p.Turn = unit4(v.Turn.at(t, true))
	}
	if v.Scale != nil {
		x := v.Scale.at(t, false)
		p.Scale = geom.V(x[0], x[1], x[2])
	}
	return p
}

// at is the value at a moment; before the first key and after the last it
// stands still. Turns go from key to key on the shorter arc at an even pace.
func (c *Curve) at(t float32, turn bool) [4]float32 {
	n := len(c.Times)
	k, found := slices.BinarySearch(c.Times, t)
	switch {
	case found:
		return c.Values[k]
	case k == 0:
		return c.Values[0]
	case k == n || c.Stepped:
		return c.Values[k-1]
	}
	k--
	a, b := c.Values[k], c.Values[k+1]
	span := c.Times[k+1] - c.Times[k]
	s := (t - c.Times[k]) / span
	if c.In != nil {
		// Cubic Hermite spline.
		h00, h10 := (1+2*s)*(1-s)*(1-s), s*(1-s)*(1-s)*span
		h01, h11 := s*s*(3-2*s), s*s*(s-1)*span
		var v [4]float32
		for i := range v {
			v[i] = h00*a[i] + h10*c.Out[k][i] + h01*b[i] + h11*c.In[k+1][i]
		}
		return v
	}
	if turn {
		return slerp(a, b, s)
	}
	for i := range a {
		a[i] += (b[i] - a[i]) * s
	}
	return a
}

func unit4(q [4]float32) [4]float32 {
	l := geom.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
	if !(l > 0) {
		return [4]float32{0, 0, 0, 1}
	}
	for i := range q {
		q[i] /= l
	}
	return q
}

// slerp goes from one unit quaternion to another at an even pace (Shoemake 1985).
func slerp(a, b [4]float32, s float32) [4]float32 {
	cos := a[0]*b[0] + a[1]*b[1] + a[2]*b[2] + a[3]*b[3]
	if cos < 0 {
		cos, b = -cos, [4]float32{-b[0], -b[1], -b[2], -b[3]}
	}
	wa, wb := 1-s, s
	if cos < 0.9999 {
		angle := math.Acos(float64(cos))
		sin := math.Sin(angle)
		wa, wb = float32(math.Sin(float64(1-s)*angle)/sin), float32(math.Sin(float64(s)*angle)/sin)
	}
	for i := range a {
		a[i] = a[i]*wa + b[i]*wb
	}
	return unit4(a)
}

// MotionNamed is the index of a motion, or -1.
func (s *Scene) MotionNamed(name string) int {
	return slices.IndexFunc(s.Motions, func(m Motion) bool { return m.Name == name })
}

// At is the scene as a motion has it at a moment, in seconds. Everything but the
// places of its objects is shared with s, which stays as it is.
func (s *Scene) At(motion int, t float32) *Scene {
	out := *s
	out.Objects = slices.Clone(s.Objects)
	for i, w := range s.moved(motion, t) {
		if w != nil {
			out.Objects[i].World = *w
		}
	}
	return &out
}

// moved lists the places in the world of the objects that a motion moves, by
// itself or with a parent; nil for those that stand still.
func (s *Scene) moved(motion int, t float32) []*geom.Affine {
	out := make([]*geom.Affine, len(s.Objects))
	local := map[int]geom.Affine{}
	for i := range s.Motions[motion].Moves {
		v := &s.Motions[motion].Moves[i]
		p := v.at(t)
		local[v.Object] = p.Affine()
	}
	for i := range s.Objects { // parents come first
		o := &s.Objects[i]
		l, moves := local[i]
		carried := o.Parent >= 0 && out[o.Parent] != nil
		if !moves && !carried {
			continue
		}
		if !moves {
			l = o.Local
		}
		switch {
		case carried:
			l = out[o.Parent].Mul(l)
		case o.Parent >= 0:
			l = s.Objects[o.Parent].World.Mul(l)
		case s.Frame != nil:
			l = s.Frame.Mul(l)
		}
		out[i] = &l
	}
	return out
}

// Moves reports whether any motion moves an object, by itself or with a parent.
func (s *Scene) Moves(object int) bool {
	for i := range s.Motions {
		if s.moved(i, 0)[object] != nil {
			return true
		}
	}
	return false
}

// Bounds of how finely a sweep follows a motion: as finely as needed for the
// corners of what moves to stray from their way by less than a part of its
// size, up to a number of steps.
const (
	sweepStray = 1.0 / 2000
	sweepSteps = 128
)

// Sweep is how objects move between two moments: for each object that does, its
// places in the world at evenly spaced moments, the first at from and the last
// at to. Between two of them it moves in straight lines.
func (s *Scene) Sweep(motion int, from, to float32) map[int][]geom.Affine {
	at := func(k, n int) []*geom.Affine {
		return s.moved(motion, from+(to-from)*float32(k)/float32(n))
	}
	boxes := map[int]geom.Box{} // of the parts of an object, in its own space
	for i := range s.Parts {
		p := &s.Parts[i]
		b, ok := boxes[p.Object]
		if !ok {
			b = geom.EmptyBox()
		}
		for _, v := range s.Meshes[p.Mesh].Positions {
			if p.Place != nil {
				v = p.Place.Point(v)
			}
			b = b.Extend(v)
		}
		boxes[p.Object] = b
	}
	steps := 1
	poses := [][]*geom.Affine{at(0, 1), at(1, 1)}
	for ; steps < sweepSteps; steps *= 2 {
		finer := make([][]*geom.Affine, 2*steps+1)
		fits := true
		for k := range finer {
			if k%2 == 0 {
				finer[k] = poses[k/2]
				continue
			}
			finer[k] = at(k, 2*steps)
			for i, w := range finer[k] {
				if w != nil && fits {
					straight := poses[k/2][i].Lerp(poses[k/2+1][i], 0.5)
					fits = near(w, &straight, boxes[i])
				}
			}
		}
		if fits {
			break
		}
		poses = finer
	}
	out := map[int][]geom.Affine{}
	for i := range s.Objects {
		if poses[0][i] == nil {
			continue
		}
		way := make([]geom.Affine, len(poses))
		still := true
		for k := range poses {
			way[k] = *poses[k][i]
			still = still && way[k] == way[0]
		}
		if !still {
			out[i] = way
		}
	}
	return out
}

// near reports whether two transforms put a box at nearly the same place. An
// object without parts, a camera or a light, counts as a box of a metre.
func near(a, b *geom.Affine, box geom.Box) bool {
	if box.Empty() {
		box = geom.Box{Min: geom.Splat(-0.5), Max: geom.Splat(0.5)}
	}
	most := sweepStray * (a.Box(box).Size().Max() + b.Box(box).Size().Max()) / 2
	for i := range 8 {
		p := box.Corner(i)
		if !(a.Point(p).Sub(b.Point(p)).Len() <= most) {
			return false
		}
	}
	return true
}

// checkMotions reports the first inconsistency of the motions.
func (s *Scene) checkMotions() error {
	for i := range s.Motions {
		m := &s.Motions[i]
		for k := range m.Moves {
			v := &m.Moves[k]
			if v.Object < 0 || v.Object >= len(s.Objects) {
				return fmt.Errorf("animation %d (%s) moves an object that is not there", i, m.Name)
			}
			for _, c := range v.curves() {
				if c == nil {
					continue
				}
				n := len(c.Times)
				if n == 0 || len(c.Values) != n || (c.In != nil || c.Out != nil) && (len(c.In) != n || len(c.Out) != n) || !slices.IsSortedFunc(c.Times, rising) {
					return fmt.Errorf("animation %d (%s) has keys that do not fit each other", i, m.Name)
				}
			}
		}
	}
	return nil
}

// rising orders moments so that two equal ones are out of order.
func rising(a, b float32) int {
	if a > b {
		return 1
	}
	return -1
}
