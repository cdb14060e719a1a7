package passes

import (
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Depth is the distance along the view axis, in metres; 0 where nothing is.
const Depth Kind = "depth"

type depth struct{}

// DepthPlane names the plane of the depths, summed, and of the weight they are
// divided by: that of the samples that hit something.
const DepthPlane = "depth"

func (depth) kind() Kind { return Depth }

func (depth) needs(*Wanted, []string) []film.Plane {
	return []film.Plane{{Name: DepthPlane, Values: 2, Of: film.FirstDepth}}
}

func (depth) list(*picture) []Pass { return []Pass{{Key: "depth", Title: "Depth", shown: depth{}}} }

// In half it would have steps of millimetres within a metre.
func (depth) form() form { return form{plane: DepthPlane, channels: []string{"Z"}, float: true} }

func (depth) value(s *film.Sums, i, at int, v *values) {
	if px := s.Pixel(i)[at:]; px[1] > 0 {
		v[0] = px[0] / px[1]
	}
}

// view shows the nearest white and the farthest black, as nothing is.
func (depth) view(p [][]float32, to *finish.Picture) {
	near, far := float32(0), float32(0)
	for _, d := range p[0] {
		if d > 0 && (near == 0 || d < near) {
			near = d
		}
		far = max(far, d)
	}
	for i, d := range p[0] {
		if d > 0 && far > near {
			p[0][i] = (far - d) / (far - near)
		}
	}
	to.R = p[0]
}
