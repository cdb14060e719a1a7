package farm

import (
	"context"
	"errors"
	"time"

	"amberproof/core/film"
	"amberproof/core/parallel"
	"amberproof/core/render"
	"amberproof/core/trace"
)

// unitTries is how often a unit may fail before the picture is given up.
const unitTries = 3

// gatherer gives the tasks of a plan out and merges the answers. It is the one
// goroutine that changes the plan and its film.
type gatherer struct {
	pool  Pool
	lease int64
	out   map[int64]given
	fails map[trace.Unit]int
	timer *time.Timer
}

type given struct {
	task  Task
	until time.Time
}

// Gather works a plan off on a pool. merged is called after every merge, by the
// goroutine that called Gather, with nothing locked. It returns the context's
// error when cancelled, with every merged unit kept; the units that were out can
// be had of the plan again.
func Gather(ctx context.Context, p *render.Plan, pool Pool, merged func() error) error {
	g := newGatherer(pool)
	defer g.timer.Stop()
	for !p.Done() {
		if err := ctx.Err(); err != nil {
			return g.giveBack(p, err)
		}
		for len(g.out) < pool.Room() {
			u, ok := p.Next()
			if !ok {
				break
			}
			g.give(Task{Unit: u})
		}
		r, late, ok, err := g.next(ctx)
		if err != nil {
			return g.giveBack(p, err)
		}
		for _, t := range late {
			p.GiveBack(t.Unit)
		}
		if !ok {
			continue
		}
		if err := g.take(ctx, p, r); err != nil {
			return g.giveBack(p, err)
		}
		if r.Err == nil {
			if err := merged(); err != nil {
				return g.giveBack(p, err)
			}
		}
	}
	return nil
}

func newGatherer(pool Pool) *gatherer {
	return &gatherer{pool: pool, out: map[int64]given{}, fails: map[trace.Unit]int{}, timer: time.NewTimer(time.Hour)}
}

// give hands a task out under a lease of its own.
func (g *gatherer) give(t Task) {
	g.lease++
	t.Lease, t.Picture = g.lease, g.pool.Picture()
	until := time.Time{}
	if d := g.pool.Lease(); d > 0 {
		until = time.Now().Add(d)
	}
	g.out[t.Lease] = given{t, until}
	g.pool.Give(t)
}

// next waits for an answer to a task that is out, or for a lease to end. Answers
// that come after their lease are passed over: another worker has the task.
func (g *gatherer) next(ctx context.Context) (r Result, late []Task, ok bool, err error) {
	wait := time.Hour
	for _, o := range g.out {
		if !o.until.IsZero() {
			wait = min(wait, time.Until(o.until))
		}
	}
	g.timer.Reset(max(wait, 0))
	select {
	case <-ctx.Done():
		return r, nil, false, ctx.Err()
	case r = <-g.pool.Results():
		_, ok = g.out[r.Lease]
		delete(g.out, r.Lease)
		return r, nil, ok, nil
	case <-g.timer.C:
		for lease, o := range g.out {
			if !o.until.IsZero() && !time.Now().Before(o.until) {
				late = append(late, o.task)
				delete(g.out, lease)
			}
		}
		return r, late, false, nil
	}
}

// take merges an answer, or has its unit done again.
func (g *gatherer) take(ctx context.Context, p *render.Plan, r Result) error {
	if r.Err == nil {
		return p.Take(ctx, r.Patch)
	}
	p.GiveBack(r.Unit)
	var programming *parallel.Panic
	if errors.As(r.Err, &programming) {
		return r.Err
	}
	if g.fails[r.Unit]++; g.fails[r.Unit] >= unitTries {
		return r.Err
	}
	return nil
}

func (g *gatherer) giveBack(p *render.Plan, err error) error {
	for _, o := range g.out {
		p.GiveBack(o.task.Unit)
	}
	return err
}

// spans is how many pieces a sketch is cut into for each worker.
const spans = 4

// Sketch computes the first coarse picture of a film with all workers.
func Sketch(ctx context.Context, f *film.Film, pool Pool) (*film.Sketch, error) {
	g := newGatherer(pool)
	defer g.timer.Stop()
	whole := film.NewSketch(f)
	n := whole.Rect.Dx() * whole.Rect.Dy()
	pieces := min(n, spans*pool.Room())
	var waiting []Span
	for k := range pieces {
		waiting = append(waiting, Span{n * k / pieces, n * (k + 1) / pieces})
	}
	fails := 0
	for len(waiting) > 0 || len(g.out) > 0 {
		for len(waiting) > 0 && len(g.out) < pool.Room() {
			g.give(Task{Sketch: &waiting[0]})
			waiting = waiting[1:]
		}
		r, late, ok, err := g.next(ctx)
		if err != nil {
			return nil, err
		}
		for _, t := range late {
			waiting = append(waiting, *t.Sketch)
		}
		switch {
		case !ok:
		case r.Err == nil:
			whole.Join(r.Pixels)
		case ctx.Err() != nil:
			return nil, ctx.Err()
		default:
			if fails++; fails >= unitTries {
				return nil, r.Err
			}
			waiting = append(waiting, *r.Sketch)
		}
	}
	return whole, nil
}
