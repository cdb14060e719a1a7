// Package budget shares out what a machine has little of: memory for what
// people send and look at, beside that of the run that is going.
package budget

import (
	"context"
	"fmt"
	"sync"

	"golang.org/x/sync/semaphore"

	"amberproof/internal/fault"
)

// Bytes is a number of bytes that users of it share. Who does not get any waits,
// first come first served.
type Bytes struct {
	all int64
	sem *semaphore.Weighted
}

// NewBytes makes a budget of n bytes.
func NewBytes(n int64) *Bytes { return &Bytes{n, semaphore.NewWeighted(n)} }

// Take waits for n bytes, or for all of them where n is more, and returns how to
// give them back. It gives up with the context's error.
func (b *Bytes) Take(ctx context.Context, n int64) (back func(), err error) {
	n = min(max(n, 1), b.all)
	if err := b.sem.Acquire(ctx, n); err != nil {
		return nil, err
	}
	return sync.OnceFunc(func() { b.sem.Release(n) }), nil
}

// Try takes n bytes if they are free now; fault.ErrBusy otherwise.
func (b *Bytes) Try(n int64) (back func(), err error) {
	if n > b.all {
		return nil, fmt.Errorf("%d MB are needed and there are %d in all: %w", n>>20, b.all>>20, fault.ErrBusy)
	}
	if !b.sem.TryAcquire(max(n, 1)) {
		return nil, fault.ErrBusy
	}
	return sync.OnceFunc(func() { b.sem.Release(max(n, 1)) }), nil
}

// Line lets a few do something at a time; those who wait know their place.
type Line struct {
	mu      sync.Mutex
	free    int
	waiting []*Place
}

// Place is somebody's place in a line.
type Place struct {
	line *Line
	turn chan struct{}
}

// NewLine makes a line at whose head n can be served at a time.
func NewLine(n int) *Line { return &Line{free: n} }

// Join takes the last place of the line.
func (l *Line) Join() *Place {
	l.mu.Lock()
	defer l.mu.Unlock()
	p := &Place{l, make(chan struct{})}
	l.waiting = append(l.waiting, p)
	l.call()
	return p
}

// call lets as many in as there is room for; the lock is held.
func (l *Line) call() {
	for l.free > 0 && len(l.waiting) > 0 {
		close(l.waiting[0].turn)
		l.waiting = l.waiting[1:]
		l.free--
	}
}

// Ahead is how many come before this place; -1 when it is its turn.
func (p *Place) Ahead() int {
	p.line.mu.Lock()
	defer p.line.mu.Unlock()
	for i, w := range p.line.waiting {
		if w == p {
			return i
		}
	}
	return -1
}

// Wait waits for the turn and returns how to end it. It gives up its place with
// the context's error.
func (p *Place) Wait(ctx context.Context) (done func(), err error) {
	leave := sync.OnceFunc(func() {
		p.line.mu.Lock()
		defer p.line.mu.Unlock()
		p.line.free++
		p.line.call()
	})
	select {
	case <-p.turn:
		return leave, nil
	case <-ctx.Done():
	}
	p.line.mu.Lock()
	for i, w := range p.line.waiting {
		if w == p {
			p.line.waiting = append(p.line.waiting[:i], p.line.waiting[i+1:]...)
			p.line.mu.Unlock()
			return nil, ctx.Err()
		}
	}
	p.line.mu.Unlock()
	leave() // it was called in the same moment
	return nil, ctx.Err()
}
