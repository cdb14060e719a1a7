package testkit

import (
	"context"
	"math"
	"sync"
	"testing"

	"amberproof/core/film"
	"amberproof/core/trace"
	"amberproof/internal/farm"
	"amberproof/internal/wait"
)

// Hold keeps runs in the middle: what is rendered from a sample on is not handed back until
// it is let go. A test that stops a run half way need not be quicker than the run then.
type Hold struct {
	mu      sync.Mutex
	from    int
	held    int
	changed chan struct{} // closed when from changes
}

func newHold() *Hold { return &Hold{from: math.MaxInt, changed: make(chan struct{})} }

// From holds units that begin at this sample or later.
func (h *Hold) From(sample int) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.from, h.held = sample, 0
	close(h.changed)
	h.changed = make(chan struct{})
}

// Go lets everything go.
func (h *Hold) Go() { h.From(math.MaxInt) }

// Reached waits until a run has come to where it is held.
func (h *Hold) Reached(t testing.TB) {
	t.Helper()
	wait.Until(t, "a run to come to where it is held", func() bool {
		h.mu.Lock()
		defer h.mu.Unlock()
		return h.held > 0
	}, nil)
}

// now is what closes when something else is held.
func (h *Hold) now() chan struct{} {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.changed
}

// keeps reports whether a result is held.
func (h *Hold) keeps(r *farm.Result) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	keep := r.Sketch == nil && r.Unit.From >= h.from
	if keep {
		h.held++
	}
	return keep
}

// open opens pools that hold.
func (h *Hold) open(inner farm.Opener) farm.Opener {
	return func(ctx context.Context, w *trace.World, f *film.Film, p farm.Picture) farm.Pool {
		pool := inner(ctx, w, f, p)
		held := &heldPool{Pool: pool, out: make(chan farm.Result, pool.Room()), end: make(chan struct{})}
		held.done.Go(func() { held.pass(h) })
		return held
	}
}

type heldPool struct {
	farm.Pool
	out  chan farm.Result
	end  chan struct{}
	done sync.WaitGroup
}

func (p *heldPool) Results() <-chan farm.Result { return p.out }

func (p *heldPool) Close() {
	close(p.end)
	p.done.Wait()
	p.Pool.Close()
}

// pass hands results on; out has room for all that are out.
func (p *heldPool) pass(h *Hold) {
	var kept []farm.Result
	changed := h.now()
	for {
		select {
		case <-p.end:
			return
		case r := <-p.Pool.Results():
			if h.keeps(&r) {
				kept = append(kept, r)
			} else {
				p.out <- r
			}
		case <-changed:
			again := kept
			kept = nil
			changed = h.now()
			for _, r := range again {
				if h.keeps(&r) {
					kept = append(kept, r)
				} else {
					p.out <- r
				}
			}
		}
	}
}
