package passes

import (
	"slices"

	"amberproof/core/film"
	"amberproof/core/finish"
)

// Motion is the way of what is seen while the shutter is open, in pixels to the
// right and up.
const Motion Kind = "motion"

type motion struct{}

// MotionPlane names the plane of the ways, summed, and of the weight they are
// divided by.
const MotionPlane = "motion"

func (motion) kind() Kind { return Motion }

func (motion) needs(*Wanted, []string) []film.Plane {
	return []film.Plane{{Name: MotionPlane, Values: 3, Of: film.ScreenMotion}}
}

func (motion) list(*picture) []Pass { return []Pass{{Key: "motion", Title: "Motion", shown: motion{}}} }

// In half, long ways would have steps of a quarter of a pixel.
func (motion) form() form { return form{plane: MotionPlane, channels: []string{"X", "Y"}, float: true} }

func (motion) value(s *film.Sums, i, at int, v *values) {
	if px := s.Pixel(i)[at:]; px[2] > 0 {
		v[0], v[1] = px[0]/px[2], px[1]/px[2]
	}
}

// view shows the way as red and green about a half, which stands still.
func (motion) view(p [][]float32, to *finish.Picture) {
	most := float32(1e-9)
	for _, c := range p {
		for _, v := range c {
			most = max(most, v, -v)
		}
	}
	for _, c := range p {
		for i := range c {
			c[i] = 0.5 + c[i]/(2*most)
		}
	}
	to.R, to.G, to.B = p[0], p[1], slices.Repeat([]float32{0.5}, len(p[0]))
}
