package passes

import (
	"amberproof/core/film"
	"amberproof/core/imageio"
)

// Round is the clay of a picture that is finished and in clay at once: its twin.
const Round Kind = "clay"

type round struct{}

func (round) kind() Kind { return Round }

func (round) needs(w *Wanted, _ []string) []film.Plane {
	out := []film.Plane{film.TwinLight}
	if w.Catches {
		out = append(out, film.TwinPlane(film.CaughtPlane))
	}
	if w.Denoise {
		out = append(out, film.TwinPlane(film.GuidePlane))
	}
	return out
}

func (round) list(p *picture) []Pass {
	return p.twice(Pass{Key: "clay", Title: "Clay", shown: round{}})
}

func (round) form() form {
	return form{plane: film.TwinLight.Name, channels: []string{"R", "G", "B", "A"}, light: true}
}

func (round) value(s *film.Sums, i, _ int, v *values) {
	c, alpha := s.TwinLight(i)
	v[0], v[1], v[2], v[3] = c.X, c.Y, c.Z, min(1, max(0, alpha))
}

func (round) view(p [][]float32, to *imageio.Picture) { beauty{}.view(p, to) }
