package passes

import "amberproof/core/film"

// Occlusion is ambient occlusion: white where nothing near is in the way.
const Occlusion Kind = "occlusion"

type occlusion struct{ grey }

// OcclusionPlane names the plane of the open share, summed.
const OcclusionPlane = "occlusion"

func (occlusion) kind() Kind { return Occlusion }

func (occlusion) needs(*Wanted, []string) []film.Plane {
	return []film.Plane{{Name: OcclusionPlane, Values: 1, Of: film.OpenShare}}
}

func (occlusion) list(*picture) []Pass {
	return []Pass{{Key: "occlusion", Title: "Ambient occlusion", shown: occlusion{}}}
}

func (occlusion) form() form { return form{plane: OcclusionPlane, channels: []string{"Y"}} }

func (occlusion) value(s *film.Sums, i, at int, v *values) { v.mean(s, i, at, 1) }
