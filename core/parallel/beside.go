package parallel

import (
	"context"
	"sync"
	"time"
)

// Beside is a context for work that leaves most of the machine to other work while busy
// tells that there is some: each call of its Err, which is where work may be given up, may
// then rest first, for as long as was worked since the last rest. What is worked in between
// shares the cores. busy is called by one goroutine at a time.
func Beside(ctx context.Context, busy func() bool) context.Context {
	return &beside{Context: ctx, busy: busy, woke: time.Now()}
}

const (
	// leastWork is before a rest. Whoever wakes waits for a core until the scheduler takes it
	// from others, 10 ms; after 5 ms of work each a check took seven times as long.
	leastWork   = 20 * time.Millisecond
	longestRest = time.Second
)

type beside struct {
	context.Context
	busy  func() bool
	mu    sync.Mutex
	woke  time.Time // since when work counts: the end of the last rest, or the last look alone
	until time.Time // the end of the last rest, which may be to come
}

func (b *beside) Err() error {
	if rest := b.rest(time.Now()); rest > 0 {
		t := time.NewTimer(rest)
		defer t.Stop()
		select {
		case <-t.C:
		case <-b.Done():
		}
	}
	return b.Context.Err()
}

// rest is how long whoever looks now is to rest: all goroutines do at the same time.
func (b *beside) rest(now time.Time) time.Duration {
	b.mu.Lock()
	defer b.mu.Unlock()
	if now.Before(b.until) {
		return b.until.Sub(now)
	}
	if b.woke.Before(b.until) {
		b.woke = b.until
	}
	worked := now.Sub(b.woke)
	if worked < leastWork {
		return 0
	}
	if !b.busy() {
		b.woke = now
		return 0
	}
	rest := min(worked, longestRest)
	b.until = now.Add(rest)
	return rest
}
