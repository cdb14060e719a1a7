package pipeline

import (
	"context"
	"runtime"
	"slices"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/passes"
	"amberproof/internal/job"
)

// CleanOrder is how the noise is taken out of a ticket's film; elements are the names of
// the lights that it keeps apart.
func CleanOrder(f *film.Film, t *job.Ticket, elements []string) *denoise.Order {
	w := t.Wanted()
	o := &denoise.Order{Film: f, Behind: -1}
	if t.Passes.Lights {
		o.Elements = len(elements)
	}
	if w.Catches {
		o.Behind = slices.Index(elements, w.Behind)
	}
	return o
}

// Films are what the passes of a ticket are read off: its film and, where it asks for
// that, one with the noise taken out, which takes time. progress, if not nil, is told the
// share that is done, by any goroutine. Cancelled, it returns the context's error.
func Films(ctx context.Context, f *film.Film, t *job.Ticket, elements []string, workers int, progress func(float64)) (passes.Films, error) {
	if !t.Quality.Denoise.On {
		return passes.Of(f), nil
	}
	o := CleanOrder(f, t, elements)
	o.Workers = workers
	clean, err := o.Run(ctx, progress)
	return passes.Films{Film: f, Clean: clean, Amount: float32(t.Quality.Denoise.Amount / 100)}, err
}

// judge takes the noise out of the beauty between two rounds and measures what is left
// where all of it is taken out, whatever the amount that is delivered: so another amount
// needs no other film.
func (sh *Shot) judge(ctx context.Context, asked []bool, quick bool) ([]float64, error) {
	o := denoise.Order{Film: sh.Film, Behind: -1, Workers: sh.Workers, Quick: quick, Wanted: asked}
	if o.Workers == 0 {
		o.Workers = runtime.GOMAXPROCS(0)
	}
	clean, err := o.Run(ctx, nil)
	if err != nil {
		return nil, err
	}
	view := sh.Resolved.Ticket.NoiseView()
	out := make([]float64, len(asked))
	for i := range out {
		out[i] = view.OfDenoised(&sh.Film.Tiles[i], &clean.Tiles[i], 1)
	}
	return out, nil
}
