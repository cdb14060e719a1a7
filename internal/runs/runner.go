package runs

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"amberproof/core/parallel"
	"amberproof/internal/farm"
	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// runner works the queue off, one run at a time, and writes the files of runs
// that are to be delivered.
type runner struct {
	s            *Service
	open         farm.Opener
	wake         chan struct{}
	wakeDelivery chan struct{}
	wakeForecast chan struct{}

	mu         sync.Mutex
	current    int64 // run being rendered, or 0
	background bool  // it is
	cancel     context.CancelCauseFunc
	writing    map[int64]bool // runs whose files are being written
}

func newRunner(s *Service, open farm.Opener) *runner {
	return &runner{
		s: s, open: open, writing: map[int64]bool{},
		wake: make(chan struct{}, 1), wakeDelivery: make(chan struct{}, 1), wakeForecast: make(chan struct{}, 1),
	}
}

func signal(c chan struct{}) {
	select {
	case c <- struct{}{}:
	default:
	}
}

func (r *runner) nudge()         { signal(r.wake) }
func (r *runner) nudgeDelivery() { signal(r.wakeDelivery) }

// Causes for which a run's rendering is cancelled.
var (
	errStopped = errors.New("stopped by request")
	errYield   = errors.New("makes way for a run that somebody waits for")
)

// stop cancels a run if it is the one being rendered. Its intent is in its row.
func (r *runner) stop(id int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.current == id {
		r.cancel(errStopped)
	}
}

// makeWay cancels a run that was rendered for the lists only.
func (r *runner) makeWay() {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.current != 0 && r.background {
		r.cancel(errYield)
	}
}

// recheck is how often the queue is looked at without being told to.
const recheck = 10 * time.Second

// Work renders queued runs and writes files until ctx ends. Runs that a dead
// process left in the middle go on first, where their films stand. A database
// that is gone is waited for.
func (s *Service) Work(ctx context.Context) error {
	r := s.runner
	var n int64
	if err := r.insist(ctx, func() (err error) { n, err = s.store.Recover(ctx); return err }); err != nil {
		if ctx.Err() != nil {
			return nil
		}
		return fmt.Errorf("taking up what was going: %w", err)
	}
	if n > 0 {
		s.log.Info("runs go on after a restart", "runs", n)
	}
	r.sweep(ctx)
	var writing sync.WaitGroup
	writing.Go(func() { r.deliverAll(ctx) })
	writing.Go(func() { r.forecastAll(ctx) })
	defer writing.Wait()
	for ctx.Err() == nil {
		var run store.Run
		var ok bool
		err := r.insist(ctx, func() (err error) { run, ok, err = s.store.NextRun(ctx); return err })
		switch {
		case ctx.Err() != nil:
		case err != nil:
			s.log.Error("a run cannot be taken from the queue", "error", err)
			pause(ctx, time.Second)
		case ok:
			r.work(ctx, run)
		default:
			select {
			case <-ctx.Done():
			case <-r.wake:
			case <-time.After(recheck):
			}
		}
	}
	return nil
}

// sweep throws away what cancelled runs have rendered, where a dead process has not
// come to that.
func (r *runner) sweep(ctx context.Context) {
	var cancelled []int64
	err := r.insist(ctx, func() (err error) { cancelled, err = r.s.store.In(ctx, ticket.Cancelled); return err })
	for _, id := range cancelled {
		err = errors.Join(err, r.s.dropFilms(id))
	}
	if err != nil && ctx.Err() == nil {
		r.s.log.Warn("what cancelled runs have left cannot be removed", "error", err)
	}
}

func pause(ctx context.Context, d time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(d):
	}
}

// insist does something with the database, again while that cannot be reached.
func (r *runner) insist(ctx context.Context, f func() error) error {
	for told := false; ; {
		err := f()
		if err == nil || !store.Gone(err) || ctx.Err() != nil {
			return err
		}
		if !told {
			r.s.log.Warn("the database cannot be reached; it is waited for", "error", err)
			told = true
		}
		pause(ctx, 300*time.Millisecond)
	}
}

// work takes one run as far as it goes and records how it ended.
func (r *runner) work(parent context.Context, run store.Run) {
	s := r.s
	ctx, cancel := context.WithCancelCause(parent)
	defer cancel(nil)
	r.mu.Lock()
	r.current, r.background, r.cancel = run.ID, run.Background, cancel
	r.mu.Unlock()
	// What was asked between its being taken and now reached nobody.
	var line store.RunLine
	if err := r.insist(parent, func() (err error) { line, err = s.store.RunLine(parent, run.ID); return err }); err == nil && line.State == ticket.Stopping {
		cancel(errStopped)
	}
	s.log.Info("run starts", "run", run.ID, "view", run.View, "width", run.Width, "height", run.Height, "surface", run.Surface, "attempt", run.Attempts)
	var p *proofs.Proof
	err := r.safely(run.ID, func() (err error) { p, err = r.render(ctx, &run); return err })
	r.mu.Lock()
	r.current, r.cancel = 0, nil
	r.mu.Unlock()
	cause := context.Cause(ctx)
	switch {
	case err == nil:
		var to ticket.State
		if to, err = r.end(parent, run.ID, true); to == ticket.Delivering && err == nil {
			_, _ = s.tell(parent, run.ID)
			r.deliver(parent, run.ID, p)
		}
	case parent.Err() != nil:
		// The server ends: the run goes on where it is at the next start.
		rest, done := context.WithTimeout(context.WithoutCancel(parent), 5*time.Second)
		err = s.store.Release(rest, run.ID)
		done()
	case errors.Is(cause, errYield):
		err = r.yield(parent, run.ID)
	case errors.Is(cause, errStopped):
		if _, err = r.end(parent, run.ID, false); err == nil {
			r.nudgeDelivery()
		}
	default:
		s.log.Error("run failed", "run", run.ID, "error", err)
		why := err.Error()
		err = r.insist(parent, func() error { return s.store.Move(parent, run.ID, ticket.Failed, why, ticket.Running, ticket.Stopping) })
	}
	s.proofs.Ended(run.ID)
	if err != nil && parent.Err() == nil {
		s.log.Error("the end of a run cannot be recorded", "run", run.ID, "error", err)
	}
	if parent.Err() == nil {
		if line, err := s.tell(parent, run.ID); err == nil {
			s.log.Info("run ends", "run", run.ID, "state", line.State)
		}
	}
}

// yield puts a run that makes way back into the queue, unless it was asked to stop in
// the same moment.
func (r *runner) yield(ctx context.Context, id int64) error {
	err := r.insist(ctx, func() error { return r.s.store.Release(ctx, id) })
	line, err2 := r.s.store.RunLine(ctx, id)
	if err != nil || err2 != nil || line.State == ticket.Queued {
		return errors.Join(err, err2)
	}
	if _, err = r.end(ctx, id, false); err == nil {
		r.nudgeDelivery()
	}
	return err
}

// end moves a run that has ended, complete or stopped, to where its intent takes it,
// and returns that.
func (r *runner) end(ctx context.Context, id int64, complete bool) (to ticket.State, err error) {
	s := r.s
	err = r.insist(ctx, func() (err error) {
		s.asking.Lock() // as in Ask
		defer s.asking.Unlock()
		if to, err = s.store.End(ctx, id, complete); err == nil && to == ticket.Cancelled {
			err = s.dropFilms(id)
		}
		return err
	})
	return to, err
}

// caught is what f returns, or its panic.
func caught(f func() error) (err error) {
	defer parallel.Catch(&err)
	return f()
}

// safely turns a programming error into the error of one run.
func (r *runner) safely(run int64, f func() error) (err error) {
	err = caught(f)
	var programming *parallel.Panic
	if errors.As(err, &programming) {
		r.s.log.Error("a run failed by a programming error", "run", run, "error", programming.What, "stack", programming.Stack)
	}
	return err
}

// render renders the frames of a run that are not at their target yet, one after the other,
// and returns the picture of the last that was rendered.
func (r *runner) render(ctx context.Context, run *store.Run) (last *proofs.Proof, err error) {
	s := r.s
	n := newNews(s, run)
	s.hub.publish(n.e)
	v, err := s.scenes.SubjectOf(ctx, &run.Resolved)
	if err != nil {
		return nil, err
	}
	t := run.Resolved.Ticket
	surround, err := s.scenes.Picture(ctx, &t)
	if err != nil {
		return nil, err
	}
	var frames []store.Frame
	if err := r.insist(ctx, func() (err error) { frames, err = s.store.Frames(ctx, run.ID); return err }); err != nil {
		return nil, err
	}
	for i, f := range frames {
		if f.Complete {
			continue
		}
		o := pipeline.Order{Resolved: &run.Resolved, Scene: v, Surround: surround, Frame: f.Number, FilmFile: s.files.Film(run.ID, f.Number), Key: run.Film}
		if run.GoesOn != 0 {
			o.FromFile = s.files.Film(run.GoesOn, f.Number)
		}
		n.goTo(frames, i)
		if last, err = r.renderFrame(ctx, run, o, n); err != nil {
			return last, err
		}
		frames[i].Measure, frames[i].Complete = n.frame.Load().measured(), true
		if err := r.insist(ctx, func() error { return s.store.Complete(ctx, run.ID, f.Number, true) }); err != nil {
			return last, err
		}
	}
	return last, nil
}

// renderFrame renders one frame to its end.
func (r *runner) renderFrame(ctx context.Context, run *store.Run, o pipeline.Order, n *news) (*proofs.Proof, error) {
	s := r.s
	sh, err := pipeline.Prepare(ctx, o)
	if err != nil {
		return nil, err
	}
	defer func() { _ = sh.Close() }() // it was written as it grew
	if sh.Anew {
		s.log.Info("a stopped run is begun anew: the renderer has changed since", "run", run.ID, "frame", o.Frame)
	}
	run.Elements = sh.World.Elements()
	if err := r.insist(ctx, func() error { return s.store.SetElements(ctx, run.ID, run.Elements) }); err != nil {
		return nil, err
	}
	if err := r.insist(ctx, func() error { return s.store.Reached(ctx, run.ID, o.Frame, sh.Progress().Samples) }); err != nil {
		return nil, err
	}
	p := proofs.Of(run, o.Frame, o.Scene, sh)
	s.proofs.Live(p)
	n.follow(sh, p)
	course := &course{r: r, run: run.ID, frame: o.Frame}
	stop := r.record(run.ID, o.Frame, n, course)
	err = sh.Render(ctx, r.open, n.changed)
	n.tell()
	stop()
	if err == nil {
		p.Saved = sh.World.Saved(ctx)
		err = sh.Sync()
	}
	p.Rendered()
	// The last figures are recorded even when the run was cancelled.
	rest := context.WithoutCancel(ctx)
	m := n.frame.Load().measured()
	if err2 := r.insist(ctx, func() error {
		return errors.Join(s.store.Record(rest, run.ID, o.Frame, m), course.note(rest, &m, true))
	}); err == nil {
		err = err2
	}
	return p, err
}

// record writes the newest figures of a frame into its row from time to time,
// without the run's waiting for that.
func (r *runner) record(run int64, frame int, n *news, course *course) (stop func()) {
	ctx, cancel := context.WithCancel(context.Background())
	var done sync.WaitGroup
	done.Go(func() {
		told := false
		for {
			pause(ctx, recordEvery)
			if ctx.Err() != nil {
				return
			}
			e := n.frame.Load()
			if e == nil {
				continue
			}
			m := e.measured()
			if err := errors.Join(r.s.store.Record(ctx, run, frame, m), course.note(ctx, &m, false)); err != nil && ctx.Err() == nil && !told {
				told = true
				r.s.log.Warn("progress cannot be recorded", "run", run, "frame", frame, "error", err)
			}
		}
	})
	return func() { cancel(); done.Wait() }
}
