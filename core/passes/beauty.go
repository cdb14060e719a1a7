package passes

import (
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Beauty is the picture itself, with its alpha.
const Beauty Kind = "beauty"

type beauty struct{}

func (beauty) kind() Kind                           { return Beauty }
func (beauty) needs(*Wanted, []string) []film.Plane { return nil } // every film has its sums

func (beauty) list(p *picture) []Pass {
	return p.twice(Pass{Key: "beauty", Title: "Beauty", shown: beauty{}})
}

func (beauty) form() form {
	return form{channels: []string{"R", "G", "B", "A"}, whole: true, light: true}
}

func (beauty) value(s *film.Sums, i, _ int, v *values) {
	c, alpha := s.Light(i)
	v[0], v[1], v[2], v[3] = c.X, c.Y, c.Z, min(1, max(0, alpha))
}

func (beauty) view(p [][]float32, to *finish.Picture) {
	to.R, to.G, to.B, to.A = p[0], p[1], p[2], p[3]
}
