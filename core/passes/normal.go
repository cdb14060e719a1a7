package passes

import (
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Normal is the shading normal in world space, -1 to 1.
const Normal Kind = "normal"

type normal struct{}

// NormalPlane names the plane of the normals, summed.
const NormalPlane = "normal"

func (normal) kind() Kind { return Normal }

func (normal) needs(*Wanted, []string) []film.Plane {
	return []film.Plane{{Name: NormalPlane, Values: 3, Of: film.FirstNormal}}
}

func (normal) list(*picture) []Pass { return []Pass{{Key: "normal", Title: "Normal", shown: normal{}}} }

func (normal) form() form {
	return form{plane: NormalPlane, channels: []string{"X", "Y", "Z"}, alone: []string{"R", "G", "B"}}
}

func (normal) value(s *film.Sums, i, at int, v *values) { v.mean(s, i, at, 3) }

// view brings -1..1 to 0..1.
func (normal) view(p [][]float32, to *finish.Picture) {
	for _, c := range p {
		for i := range c {
			c[i] = c[i]*0.5 + 0.5
		}
	}
	to.R, to.G, to.B = p[0], p[1], p[2]
}
