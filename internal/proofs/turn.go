package proofs

import (
	"context"
	"slices"
	"sync"

	"amberproof/internal/fault"
)

// mostWaiting is how many pictures may wait to be made; more are refused.
const mostWaiting = 200

// thumbnail is the longer side of a picture, in pixels, up to which others go before it.
const thumbnail = 320

// turn is had by one goroutine at a time. Those that wait get it in the order they came,
// but all thumbnails after what somebody looks at. It is safe for concurrent use.
type turn struct {
	mu      sync.Mutex
	taken   bool
	waiting [2][]chan struct{} // closed when theirs; first what is looked at, then thumbnails
}

// take waits for the turn; its error is the context's, or fault.ErrBusy where too many wait.
func (t *turn) take(ctx context.Context, small bool) error {
	t.mu.Lock()
	if !t.taken {
		t.taken = true
		t.mu.Unlock()
		return nil
	}
	if len(t.waiting[0])+len(t.waiting[1]) >= mostWaiting {
		t.mu.Unlock()
		return fault.ErrBusy
	}
	line := 0
	if small {
		line = 1
	}
	mine := make(chan struct{})
	t.waiting[line] = append(t.waiting[line], mine)
	t.mu.Unlock()
	select {
	case <-mine:
		return nil
	case <-ctx.Done():
	}
	t.mu.Lock()
	i := slices.Index(t.waiting[line], mine)
	if i >= 0 {
		t.waiting[line] = slices.Delete(t.waiting[line], i, i+1)
	}
	t.mu.Unlock()
	if i < 0 {
		t.leave() // it came in the same moment
	}
	return ctx.Err()
}

// leave gives the turn to the next.
func (t *turn) leave() {
	t.mu.Lock()
	defer t.mu.Unlock()
	for line, w := range t.waiting {
		if len(w) > 0 {
			close(w[0])
			t.waiting[line] = w[1:]
			return
		}
	}
	t.taken = false
}
