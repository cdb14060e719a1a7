package farm

import (
	"sync"
	"time"

	"amberproof/core/trace"
)

// Watch knows what each worker is doing. A nil Watch watches nothing.
type Watch struct {
	mu      sync.Mutex
	workers []Working
}

// Working is what one worker is doing.
type Working struct {
	Busy  bool
	Unit  trace.Unit
	Since time.Time // of what it does, or of its rest
	Units int       // done of this picture
}

// Workers tells what each is doing; none when nothing is rendered.
func (w *Watch) Workers() []Working {
	w.mu.Lock()
	defer w.mu.Unlock()
	return append([]Working(nil), w.workers...)
}

func (w *Watch) reset(n int) {
	if w != nil {
		w.mu.Lock()
		defer w.mu.Unlock()
		w.workers = make([]Working, n)
	}
}

func (w *Watch) begins(worker int, t Task) {
	w.set(worker, func(k *Working) { k.Busy, k.Unit, k.Since = true, t.Unit, time.Now() })
}

func (w *Watch) ends(worker int) {
	w.set(worker, func(k *Working) { k.Busy, k.Since, k.Units = false, time.Now(), k.Units+1 })
}

func (w *Watch) set(worker int, f func(*Working)) {
	if w == nil {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if worker < len(w.workers) {
		f(&w.workers[worker])
	}
}
