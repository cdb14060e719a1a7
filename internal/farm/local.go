package farm

import (
	"context"
	"time"

	"amberproof/core/film"
	"amberproof/core/parallel"
	"amberproof/core/trace"
)

// local is a pool of goroutines in this process.
type local struct {
	picture Picture
	film    *film.Film
	tasks   chan Task
	results chan Result
	cancel  context.CancelFunc
	done    parallel.Group
	workers int
	watch   *Watch
}

// Local opens pools of n goroutines in this process. watch, which may be nil, is
// told what each is doing.
func Local(n int, watch *Watch) Opener {
	return func(ctx context.Context, w *trace.World, f *film.Film, p Picture) Pool {
		ctx, cancel := context.WithCancel(ctx)
		room := n + 1 // one more, so that nobody waits while an answer is merged
		l := &local{picture: p, film: f, tasks: make(chan Task, room), results: make(chan Result, room), cancel: cancel, workers: n, watch: watch}
		watch.reset(n)
		for k := range n {
			l.done.Go(func() { l.work(ctx, k, w.NewTracer()) })
		}
		return l
	}
}

func (l *local) Picture() Picture       { return l.picture }
func (l *local) Room() int              { return l.workers + 1 }
func (l *local) Lease() time.Duration   { return 0 } // they die with us
func (l *local) Give(t Task)            { l.tasks <- t }
func (l *local) Results() <-chan Result { return l.results }

func (l *local) Close() {
	l.cancel()
	l.done.Join()
	l.watch.reset(0)
}

func (l *local) work(ctx context.Context, worker int, tr *trace.Tracer) {
	for {
		select {
		case <-ctx.Done():
			return
		case t := <-l.tasks:
			l.watch.begins(worker, t)
			r := l.do(ctx, tr, t)
			l.watch.ends(worker)
			l.results <- r // there is room for every task that is out
		}
	}
}

// do does a task. A programming error in the tracer fails the one picture and
// not the whole program.
func (l *local) do(ctx context.Context, tr *trace.Tracer, t Task) (r Result) {
	r.Task = t
	defer parallel.Catch(&r.Err)
	if t.Sketch == nil {
		r.Patch, r.Err = tr.Render(ctx, l.film, t.Unit)
		return r
	}
	r.Pixels = film.NewSketch(l.film)
	r.Err = tr.Sketch(ctx, r.Pixels, t.Sketch.From, t.Sketch.To)
	return r
}
