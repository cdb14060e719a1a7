package pipeline

import (
	"context"
	"time"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/forecast"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// Probe measures of a picture that is ready to be traced what a run of its ticket will take,
// with so many workers and a budget of their processor time. The seed draws which parts of it.
func Probe(ctx context.Context, w *trace.World, t *ticket.Ticket, workers int, budget time.Duration, seed uint64) (*forecast.Probe, error) {
	o := forecast.Order{World: w, Stop: t.Stop(), View: t.NoiseView(), Workers: workers, Budget: budget, Seed: seed}
	if t.Quality.Denoise.On {
		beauty := *t
		beauty.Passes.Lights = false // as a run judges
		o.Clean = func(f *film.Film) *denoise.Order { return CleanOrder(f, &beauty, w.Elements()) }
	}
	return forecast.Take(ctx, o)
}
