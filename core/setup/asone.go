package setup

import (
	"fmt"
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Together is what is done to several parts as one, about their common middle: turned about
// an axis of the world, made larger, then moved.
type Together struct {
	Shift Vector  `json:"shift"`
	Axis  string  `json:"axis" enum:"x,y,z"`
	Turn  float64 `json:"turn" minimum:"-100000" maximum:"100000" doc:"Degrees, counter-clockwise about the axis"`
	Scale float64 `json:"scale" minimum:"0.001" maximum:"1000"`
}

// AsOne is a set-up's changes of some parts with a motion of them after what they do
// now. The parts are given as changes, by which they stand as the motion begins; s is the
// scene as the set-up's file has it, without changes of parts. It is an error where a part
// is not there, or would come to lie where no set-up can put it.
func AsOne(s *scene.Scene, begin []Change, by *Together) ([]Change, error) {
	u := Setup{Parts: begin}
	at := u.Match(s)
	box := geom.EmptyBox()
	mids := make([]geom.Vec3, len(begin))
	for k, i := range at {
		if i < 0 {
			return nil, fmt.Errorf("the scene has no part %q", begin[k].Part)
		}
		mids[k] = s.PartBounds(i).Centre()
		place := begin[k].about(mids[k])
		for _, c := range boxCorners(s.PartBounds(i)) {
			box = box.Extend(place.Point(c))
		}
	}
	if box.Empty() {
		return nil, nil
	}
	pivot := box.Centre()
	turn := around(map[string]int{"x": 0, "y": 1, "z": 2}[by.Axis], by.Turn)
	out := make([]Change, len(begin))
	for k, c := range begin {
		now := mids[k].Add(c.Shift.metres())
		to := pivot.Add(turn.Vector(now.Sub(pivot)).Scale(float32(by.Scale))).Add(by.Shift.metres())
		c.Shift = vectorOf(to.Sub(mids[k]))
		if by.Turn != 0 {
			c.Turn = anglesOf(turn.Mul(c.turned()))
		}
		c.Scale *= by.Scale
		if c.Scale < 0.001 || c.Scale > 1000 {
			return nil, fmt.Errorf("%q would be %.3g times as large; 0.001 to 1000 is as far as it goes", c.Part, c.Scale)
		}
		for _, v := range []float64{c.Shift.X, c.Shift.Y, c.Shift.Z} {
			if !(math.Abs(v) <= 1e6) {
				return nil, fmt.Errorf("%q would lie %.3g mm away; 1000000 mm is as far as it goes", c.Part, v)
			}
		}
		out[k] = c
	}
	return out, nil
}

func boxCorners(b geom.Box) (out [8]geom.Vec3) {
	for i := range out {
		out[i] = b.Corner(i)
	}
	return out
}

func (v Vector) metres() geom.Vec3 {
	return geom.V(float32(v.X/1000), float32(v.Y/1000), float32(v.Z/1000))
}

// vectorOf is a way in millimetres, to a tenth of a micrometre.
func vectorOf(m geom.Vec3) Vector {
	mm := func(x float32) float64 { return math.Round(float64(x)*1e7)/1e4 + 0 }
	return Vector{mm(m.X), mm(m.Y), mm(m.Z)}
}

// anglesOf are the turns about x, then y, then z that a turn is made of, degrees to a
// hundredth; where the middle one is a quarter, the first is none.
func anglesOf(m geom.Affine) Angles {
	deg := func(rad float64) float64 { return math.Round(rad*180/math.Pi*100)/100 + 0 }
	cos := math.Hypot(float64(m[0]), float64(m[4]))
	y := math.Atan2(-float64(m[8]), cos)
	if cos < quarter {
		return Angles{0, deg(y), deg(math.Atan2(-float64(m[1]), float64(m[5])))}
	}
	return Angles{deg(math.Atan2(float64(m[9]), float64(m[10]))), deg(y), deg(math.Atan2(float64(m[4]), float64(m[0])))}
}

// quarter is the cosine below which a turn about y is a quarter, and those about x and z
// are one.
const quarter = 3e-4
