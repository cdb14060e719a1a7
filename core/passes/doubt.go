package passes

import (
	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/finish"
)

// Doubt is how much more the denoised beauty was changed than its noise explains, as a
// share of its light. It comes with denoised pictures.
const Doubt Kind = "doubt"

type doubt struct{}

func (doubt) kind() Kind                           { return Doubt }
func (doubt) needs(*Wanted, []string) []film.Plane { return nil } // it is read off the clean film

func (doubt) list(p *picture) []Pass {
	return []Pass{{Key: "beauty.doubt", Title: "Changed by denoising", Denoised: true, shown: doubt{}}}
}

func (doubt) form() form { return form{plane: denoise.DoubtPlane, channels: []string{"Y"}} }

// view shows a change of a fifth of the light white: one of that much is plain to see.
func (doubt) view(p [][]float32, to *finish.Picture) {
	for i, v := range p[0] {
		p[0][i] = min(1, v*5)
	}
	to.R = p[0]
}

func (doubt) value(s *film.Sums, i, at int, v *values) { v.mean(s, i, at, 1) }
