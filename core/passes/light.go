package passes

import (
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Light is the light of one element. All elements add up to the beauty.
const Light Kind = "light"

type light struct {
	plane string
	// back is set for the element that is seen behind what catches shadows.
	back bool
}

func (light) kind() Kind { return Light }

func (light) needs(w *Wanted, elements []string) []film.Plane {
	var out []film.Plane
	for i := range elements {
		out = append(out, film.ElementPlane(i, w.Denoise))
	}
	return out
}

func (light) list(p *picture) []Pass {
	var out []Pass
	for i, e := range p.elements {
		out = append(out, p.twice(Pass{Key: "light." + Slug(e), Title: e, shown: light{film.ElementName(i), p.Catches && e == p.Behind}})...)
	}
	return out
}

func (l light) form() form {
	return form{plane: l.plane, channels: []string{"R", "G", "B"}, light: true}
}

func (l light) value(s *film.Sums, i, at int, v *values) {
	v.mean(s, i, at, 3)
	if l.back {
		c := s.Seen(i)
		v[0], v[1], v[2] = v[0]+c.X, v[1]+c.Y, v[2]+c.Z
	}
}

func (light) view(p [][]float32, to *finish.Picture) { to.R, to.G, to.B = p[0], p[1], p[2] }
