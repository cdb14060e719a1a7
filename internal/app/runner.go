package app

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"time"

	"amberproof/core/film"
	"amberproof/core/render"
	"amberproof/core/trace"
	"amberproof/internal/deliver"
	"amberproof/internal/farm"
	"amberproof/internal/job"
	"amberproof/internal/shot"
	"amberproof/internal/store"
)

// runner works the queue off, one run at a time.
type runner struct {
	app     *App
	threads int
	wake    chan struct{}

	mu      sync.Mutex
	current int64 // run being worked on, or 0
	cancel  context.CancelFunc
	keep    bool // deliver what is there when stopped
	live    *Proof
}

func newRunner(a *App, threads int) *runner {
	return &runner{app: a, threads: threads, wake: make(chan struct{}, 1)}
}

func (r *runner) nudge() {
	select {
	case r.wake <- struct{}{}:
	default:
	}
}

// errStopped is the cause of a run's cancellation by a person.
var errStopped = errors.New("stopped by request")

// Work renders queued runs until ctx ends. Runs that a dead process left
// running are queued again first; they go on where their films stand.
func (a *App) Work(ctx context.Context) error {
	n, err := a.Store.Requeue(ctx)
	if err != nil {
		return err
	}
	if n > 0 {
		a.log.Info("runs go on after a restart", "runs", n)
	}
	r := a.runner
	for {
		run, mine, ok, err := r.take(ctx)
		switch {
		case ctx.Err() != nil:
			return nil
		case err != nil:
			a.log.Error("the queue cannot be read", "error", err)
			if !pause(ctx, time.Second) {
				return nil
			}
		case ok:
			r.work(ctx, mine, run)
		default:
			select {
			case <-ctx.Done():
				return nil
			case <-r.wake:
			case <-time.After(10 * time.Second):
			}
		}
	}
}

func pause(ctx context.Context, d time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(d):
		return true
	}
}

// take takes the next run from the queue together with a context of its own.
// Both happen under the lock, so that a run is never taken without StopRun
// being able to reach it.
func (r *runner) take(parent context.Context) (run store.Run, ctx context.Context, ok bool, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if run, ok, err = r.app.Store.NextRun(parent); !ok || err != nil {
		return run, nil, false, err
	}
	ctx, cancel := context.WithCancelCause(parent)
	r.current, r.keep = run.ID, false
	r.cancel = func() { cancel(errStopped) }
	return run, ctx, true, nil
}

// work takes one run as far as it goes and records how it ended. ctx is the
// run's own, below parent.
func (r *runner) work(parent, ctx context.Context, run store.Run) {
	a := r.app
	a.log.Info("run starts", "run", run.ID, "ticket", summary(&run))
	err := r.render(ctx, &run)
	r.mu.Lock()
	keep, cause, release := r.keep, context.Cause(ctx), r.cancel
	r.current, r.cancel, r.live = 0, nil, nil
	r.mu.Unlock()
	release() // frees what hangs on the run's context
	if parent.Err() != nil {
		return // the server ends; the run stays "running" and is queued again at the next start
	}
	state, fault := store.Done, ""
	switch {
	case err == nil:
		if keep {
			state = store.Kept
		}
	case errors.Is(cause, errStopped):
		state = store.Stopped
	default:
		state, fault = store.Failed, err.Error()
		a.log.Error("run failed", "run", run.ID, "error", err)
	}
	if err := a.Store.Move(parent, run.ID, state, fault, store.Running, store.Stopping); err != nil {
		a.log.Error("the end of a run cannot be recorded", "run", run.ID, "error", err)
	}
	a.films.drop(run.ID)
	a.log.Info("run ends", "run", run.ID, "state", state)
	e := Event{Run: run.ID, Job: run.Job, State: state, Note: fault}
	if done, err := a.Store.Run(parent, run.ID); err == nil {
		e.Share, e.Samples, e.Noise, e.Seconds = done.Share, done.Samples, done.Noise, done.Seconds
	}
	a.hub.publish(e)
}

// render renders and delivers. With keep set it delivers what is there when
// it is cancelled by a person.
func (r *runner) render(ctx context.Context, run *store.Run) error {
	a := r.app
	e := Event{Run: run.ID, Job: run.Job, State: store.Running, Seconds: run.Seconds, Note: "preparing the scene"}
	a.hub.publish(e)
	s, err := a.scenes.get(run.Resolved.Scene.SHA256)
	if err != nil {
		return err
	}
	t := &run.Resolved.Ticket
	var sh *shot.Shot
	if p := t.Stage.Surround.Picture; p.SHA256 != "" {
		hdr, err := a.hdrs.get(p.SHA256)
		if err != nil {
			return err
		}
		sh, err = shot.Prepare(ctx, &run.Resolved, s, hdr)
		if err != nil {
			return err
		}
	} else if sh, err = shot.Prepare(ctx, &run.Resolved, s, nil); err != nil {
		return err
	}
	if err := a.Store.SetElements(ctx, run.ID, sh.World.Elements()); err != nil {
		return err
	}
	if err := os.MkdirAll(a.Files.RunDir(run.ID), 0o755); err != nil {
		return err
	}
	keeper, err := film.Keep(a.filmPath(run.ID), sh.Film, run.Fingerprint, trace.Revision)
	if errors.Is(err, film.ErrOtherRevision) {
		a.log.Info("a stopped run is begun anew: the renderer has changed since", "run", run.ID)
		if err := os.Remove(a.filmPath(run.ID)); err != nil {
			return err
		}
		keeper, err = film.Keep(a.filmPath(run.ID), sh.Film, run.Fingerprint, trace.Revision)
	}
	if err != nil {
		return err
	}
	defer keeper.Close()
	plan, err := render.NewPlan(sh.Film, t.Stop(), t.NoiseView(), keeper)
	if err != nil {
		return err
	}
	live := &Proof{Run: *run, Scene: s, Film: sh.Film, Passes: sh.Passes}
	r.mu.Lock()
	r.live = live
	r.mu.Unlock()

	e.Note = ""
	began := time.Now()
	before := run.Seconds
	startSamples := plan.Progress().Samples
	var told, saved time.Time
	tell := func() { // with the proof locked
		g := plan.Progress()
		live.version++
		e.measure(g)
		e.Seconds = before + time.Since(began).Seconds()
		e.Picture = live.version
		e.Left = nil
		// A time left is told once two rounds have shown how fast it goes.
		if gained := g.Samples - startSamples; gained > 0 && e.Noise != nil && time.Since(began) > time.Second {
			left := float64(g.Forecast-g.Samples) * time.Since(began).Seconds() / float64(gained)
			e.Left = &left
		}
		a.hub.publish(e)
	}
	pool := farm.NewLocal(sh.World, sh.Film, r.threads)
	if startSamples == 0 {
		// Something of the whole picture is seen at once.
		sketch, err := pool.Sketch(ctx)
		if err != nil {
			return err
		}
		live.mu.Lock()
		sh.Film.Sketch = sketch
		tell()
		live.mu.Unlock()
	}
	gather := farm.Gather(ctx, plan, pool, &live.mu, func() {
		if time.Since(told) < 250*time.Millisecond {
			return
		}
		told = time.Now()
		tell()
		if time.Since(saved) > 2*time.Second {
			saved = told
			if err := a.Store.Record(ctx, run.ID, measured(&e)); err != nil {
				a.log.Warn("progress cannot be recorded", "run", run.ID, "error", err)
			}
		}
	})
	live.mu.Lock()
	tell()
	live.mu.Unlock()
	// The last figures are recorded even when the run was cancelled.
	rest := context.WithoutCancel(ctx)
	if err := a.Store.Record(rest, run.ID, measured(&e)); err != nil {
		return err
	}
	r.mu.Lock()
	keep := r.keep
	r.mu.Unlock()
	if gather != nil && !(keep && errors.Is(context.Cause(ctx), errStopped) && e.Least > 0) {
		return gather
	}
	e.Note = "writing the files"
	a.hub.publish(e)
	return a.deliver(rest, run, sh, gather == nil, &e)
}

func measured(e *Event) store.Measure {
	return store.Measure{Seconds: e.Seconds, Samples: e.Samples, Share: e.Share, Noise: e.Noise}
}

func (a *App) filmPath(run int64) string { return filepath.Join(a.Files.RunDir(run), "film") }

// DeliveryDir is the folder of a run's delivered files.
func (a *App) DeliveryDir(run int64) string { return filepath.Join(a.Files.RunDir(run), "delivery") }

func (a *App) deliver(ctx context.Context, run *store.Run, sh *shot.Shot, complete bool, e *Event) error {
	j, err := a.Store.Job(ctx, run.Job)
	if err != nil {
		return err
	}
	project, err := a.Store.Project(ctx, j.Project)
	if err != nil {
		return err
	}
	row, err := a.Store.Scene(ctx, j.Scene)
	if err != nil {
		return err
	}
	started := run.Queued
	if run.Started != nil {
		started = *run.Started
	}
	m := &deliver.Manifest{
		Software: a.Version, Fingerprint: run.Fingerprint, Started: started, Finished: time.Now().UTC(), Seconds: e.Seconds,
		Samples: e.Samples, Complete: complete, Resolved: run.Resolved,
	}
	if e.Noise != nil {
		m.Noise = *e.Noise
	}
	words := job.Words{Project: project.Name, Scene: row.Name, View: run.Resolved.Ticket.View.Name, Run: run.Number, Date: started.Format("2006-01-02")}
	err = deliver.Write(a.DeliveryDir(run.ID), sh.Film, sh.Passes, words, m)
	if errors.Is(err, deliver.ErrExists) {
		return nil // cut off between delivering and recording it: the delivery is whole
	}
	return err
}

// StartRun queues a run of a job's ticket as it is now.
func (a *App) StartRun(ctx context.Context, jobID int64) (store.Run, error) {
	j, err := a.Store.Job(ctx, jobID)
	if err != nil {
		return store.Run{}, err
	}
	r, _, s, hdr, err := a.resolve(ctx, j)
	if err != nil {
		return store.Run{}, err
	}
	if needs, free := shot.Memory(&r, s, hdr); free > 0 && needs > free/10*9 {
		return store.Run{}, bad("%s", (&shot.TooLargeError{Needs: needs, Has: free}).Error())
	}
	o, err := a.Outlook(ctx, jobID)
	if err != nil {
		return store.Run{}, err
	}
	if len(o.Faults) > 0 {
		return store.Run{}, &BadInputError{"The ticket has faults", o.Faults}
	}
	id, err := a.Store.AddRun(ctx, jobID, r)
	if err != nil {
		return store.Run{}, err
	}
	a.hub.publish(Event{Run: id, Job: jobID, State: store.Queued})
	a.runner.nudge()
	return a.Store.Run(ctx, id)
}

// StopRun stops a run that waits or goes. What it has is kept for resuming; with
// keep, it is delivered as it is.
func (a *App) StopRun(ctx context.Context, id int64, keep bool) error {
	r := a.runner
	r.mu.Lock()
	if r.current == id {
		r.keep = keep
		cancel := r.cancel
		r.mu.Unlock()
		if err := a.Store.Move(ctx, id, store.Stopping, "", store.Running); err != nil {
			return err
		}
		cancel()
		return nil
	}
	r.mu.Unlock()
	if keep {
		return a.keepStopped(ctx, id)
	}
	if err := a.Store.Move(ctx, id, store.Stopped, "", store.Queued); err != nil {
		return err
	}
	run, err := a.Store.Run(ctx, id)
	if err == nil {
		a.hub.publish(Event{Run: id, Job: run.Job, State: store.Stopped, Share: run.Share, Samples: run.Samples, Noise: run.Noise, Seconds: run.Seconds})
	}
	return err
}

// keepStopped delivers what a stopped run has.
func (a *App) keepStopped(ctx context.Context, id int64) error {
	run, err := a.Store.Run(ctx, id)
	if err != nil {
		return err
	}
	if run.State != store.Stopped || run.Samples < 1 {
		return fmt.Errorf("the run is %s and has %.1f samples; only a stopped run with a sample for every pixel can be kept: %w", run.State, run.Samples, store.ErrState)
	}
	p, err := a.OpenProof(ctx, id)
	if err != nil {
		return err
	}
	sh := &shot.Shot{Film: p.Film, Passes: p.Passes}
	e := &Event{Seconds: run.Seconds, Samples: run.Samples, Noise: run.Noise}
	if err := a.deliver(ctx, &run, sh, false, e); err != nil {
		return err
	}
	if err := a.Store.Move(ctx, id, store.Kept, "", store.Stopped); err != nil {
		return err
	}
	a.films.drop(id)
	a.hub.publish(Event{Run: id, Job: run.Job, State: store.Kept, Share: run.Share, Samples: run.Samples, Noise: run.Noise, Seconds: run.Seconds})
	return nil
}

// ResumeRun queues a stopped or failed run again; it goes on where it was.
func (a *App) ResumeRun(ctx context.Context, id int64) error {
	if err := a.Store.Move(ctx, id, store.Queued, "", store.Stopped, store.Failed); err != nil {
		return err
	}
	a.films.drop(id)
	run, err := a.Store.Run(ctx, id)
	if err != nil {
		return err
	}
	a.hub.publish(Event{Run: id, Job: run.Job, State: store.Queued, Share: run.Share, Samples: run.Samples, Noise: run.Noise, Seconds: run.Seconds})
	a.runner.nudge()
	return nil
}
