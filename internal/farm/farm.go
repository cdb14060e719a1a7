// Package farm hands units of work to workers and gathers what they send back.
package farm

import (
	"context"
	"errors"
	"sync"

	"amberproof/core/film"
	"amberproof/core/render"
	"amberproof/core/trace"
)

// Pool does units of one picture somewhere. Do may be called from as many
// goroutines as there are Workers; it may fail, and the unit is then given out
// again, at most a few times.
type Pool interface {
	Workers() int
	Do(ctx context.Context, worker int, u trace.Unit) (*film.Patch, error)
}

// Local is a pool of goroutines in this process.
type Local struct {
	film    *film.Film
	tracers []*trace.Tracer
}

// NewLocal makes a pool of n workers over a world.
func NewLocal(w *trace.World, f *film.Film, n int) *Local {
	l := &Local{film: f}
	for i := 0; i < n; i++ {
		l.tracers = append(l.tracers, w.NewTracer())
	}
	return l
}

// Workers is the number of goroutines.
func (l *Local) Workers() int { return len(l.tracers) }

// Do renders the unit here.
func (l *Local) Do(ctx context.Context, worker int, u trace.Unit) (*film.Patch, error) {
	return l.tracers[worker].Render(ctx, l.film, u)
}

// Sketch computes the first coarse picture of the film with all workers.
func (l *Local) Sketch(ctx context.Context) (*film.Sketch, error) {
	made := make([]*film.Sketch, len(l.tracers))
	errs := make([]error, len(l.tracers))
	var wg sync.WaitGroup
	for w := range made {
		made[w] = film.NewSketch(l.film)
		n := made[w].Rect.Dx() * made[w].Rect.Dy()
		wg.Go(func() { errs[w] = l.tracers[w].Sketch(ctx, made[w], n*w/len(made), n*(w+1)/len(made)) })
	}
	wg.Wait()
	for _, o := range made[1:] {
		made[0].Join(o)
	}
	return made[0], errors.Join(errs...)
}

// unitTries is how often a unit may fail before the picture is given up.
const unitTries = 3

// Gather works a plan off on a pool. lock guards the plan and its film against
// readers elsewhere; merged is called, with lock held, after every merge. It
// returns the context's error when cancelled, with every merged unit kept.
func Gather(ctx context.Context, p *render.Plan, pool Pool, lock sync.Locker, merged func()) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	wake := sync.NewCond(lock)
	stop := context.AfterFunc(ctx, func() {
		lock.Lock()
		defer lock.Unlock()
		wake.Broadcast()
	})
	defer stop()
	var first error
	fails := map[trace.Unit]int{}
	var wg sync.WaitGroup
	for k := 0; k < pool.Workers(); k++ {
		wg.Add(1)
		go func() {
			defer wg.Done()
			lock.Lock()
			defer lock.Unlock()
			for first == nil && ctx.Err() == nil && !p.Done() {
				u, ok := p.Next()
				if !ok {
					wake.Wait()
					continue
				}
				lock.Unlock()
				patch, err := pool.Do(ctx, k, u)
				lock.Lock()
				switch {
				case err == nil:
					if err = p.Take(patch); err == nil {
						merged()
					}
				case ctx.Err() != nil:
					p.GiveBack(u)
					err = nil
				default:
					p.GiveBack(u)
					if fails[u]++; fails[u] < unitTries {
						err = nil
					}
				}
				if err != nil && first == nil {
					first = err
					cancel()
				}
				wake.Broadcast()
			}
			wake.Broadcast()
		}()
	}
	wg.Wait()
	if first != nil && !errors.Is(first, context.Canceled) {
		return first
	}
	if p.Done() {
		return nil
	}
	return ctx.Err()
}
