package trace

import (
	"context"
	"sync"
	"sync/atomic"

	"amberproof/core/film"
)

// Expose adds samples from from up to to, without to, to every pixel of a film, with so
// many goroutines. It gives up with the context's error.
func Expose(ctx context.Context, w *World, f *film.Film, from, to, workers int) error {
	var next atomic.Int64
	var wg sync.WaitGroup
	var mu sync.Mutex
	var failed error
	for range min(workers, len(f.Tiles)) {
		wg.Go(func() {
			t := w.NewTracer()
			for i := int(next.Add(1)) - 1; i < len(f.Tiles); i = int(next.Add(1)) - 1 {
				p, err := t.Render(ctx, f, Unit{Tile: i, From: from, To: to})
				if err == nil {
					_, err = f.Take(p)
				}
				if err != nil {
					mu.Lock()
					failed = err
					mu.Unlock()
					return
				}
			}
		})
	}
	wg.Wait()
	return failed
}
