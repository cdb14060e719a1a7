package proofs

import (
	"context"

	"amberproof/core/clay"
	"amberproof/core/finish"
)

// Cast is how far the clay of a picture is from neutral.
type Cast struct {
	Mean   float64    `json:"mean" doc:"How many of 255 steps the strongest channel is over the weakest, in the mean of all clay"`
	Worst  float64    `json:"worst" doc:"And in the worst square of 8 pixels"`
	Tone   [3]float64 `json:"tone" nullable:"false" doc:"Mean of the clay as displayed, red, green and blue, 0 to 255"`
	Places int        `json:"places" doc:"Squares of 8 pixels that are all clay; 0: there is nothing to tell"`
}

// Cast measures the clay of a proof as it is looked at. Open asked whether p may be seen.
func (s *Service) Cast(ctx context.Context, p *Proof, look finish.Finish) (Cast, error) {
	staged := p.Resolved.Staged(p.Scene)
	covered := p.Resolved.Ticket.Covered(staged)
	light := p.Film.Twin() // of a picture finished and in clay
	if light == nil {
		light = p.Film
	}
	var c clay.Cast
	p.Film.Locked(func() { // it may gain samples meanwhile
		c = clay.CastOf(p.Film, light, func(i int) bool { return i < len(covered) && covered[i] }, look.Transform, look.Exposure)
	})
	return Cast(c), ctx.Err()
}
