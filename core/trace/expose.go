package trace

import (
	"cmp"
	"context"
	"sync/atomic"

	"amberproof/core/film"
	"amberproof/core/parallel"
)

// Expose adds the samples [from, to) to every pixel of a film, with so
// many goroutines. It gives up with the context's error.
func Expose(ctx context.Context, w *World, f *film.Film, from, to, workers int) error {
	var next atomic.Int64
	n := min(workers, len(f.Tiles))
	failed := make([]error, n)
	err := parallel.Workers(n, func(k int) {
		t := w.NewTracer()
		for i := int(next.Add(1)) - 1; i < len(f.Tiles) && failed[k] == nil; i = int(next.Add(1)) - 1 {
			var p *film.Patch
			if p, failed[k] = t.Render(ctx, f, Unit{Tile: i, From: from, To: to}); failed[k] == nil {
				_, failed[k] = f.Take(p)
			}
		}
	})
	return cmp.Or(err, cmp.Or(failed...))
}
