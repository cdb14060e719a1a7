package passes

import "amberproof/core/film"

// Lines are edge lines apart from the picture: how much of each pixel they take.
const Lines Kind = "lines"

type lines struct{ grey }

// LinesPlane names the plane of the share that lines take, summed.
const LinesPlane = "lines"

func (lines) kind() Kind { return Lines }

func (lines) needs(*Wanted, []string) []film.Plane {
	return []film.Plane{{Name: LinesPlane, Values: 1, Of: film.InkShare}}
}

func (lines) list(*picture) []Pass {
	return []Pass{{Key: "lines", Title: "Edge lines", shown: lines{}}}
}

func (lines) form() form { return form{plane: LinesPlane, channels: []string{"Y"}} }

func (lines) value(s *film.Sums, i, at int, v *values) { v.mean(s, i, at, 1) }
