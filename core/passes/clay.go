package passes

import (
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Clay is the clay of a picture that is finished and in clay at once: its twin.
const Clay Kind = "clay"

type clay struct{}

func (clay) kind() Kind { return Clay }

func (clay) needs(w *Wanted, _ []string) []film.Plane {
	out := []film.Plane{film.TwinLight}
	if w.Catches {
		out = append(out, film.TwinPlane(film.CaughtPlane))
	}
	if w.Denoise {
		out = append(out, film.TwinPlane(film.GuidePlane))
	}
	return out
}

func (clay) list(p *picture) []Pass {
	return p.twice(Pass{Key: "clay", Title: "Clay", shown: clay{}})
}

func (clay) form() form {
	return form{plane: film.TwinLight.Name, channels: []string{"R", "G", "B", "A"}, light: true}
}

func (clay) value(s *film.Sums, i, _ int, v *values) {
	c, alpha := s.TwinLight(i)
	v[0], v[1], v[2], v[3] = c.X, c.Y, c.Z, min(1, max(0, alpha))
}

func (clay) view(p [][]float32, to *finish.Picture) { beauty{}.view(p, to) }
