// Package runs holds what people do with runs: start them, stop them for one
// purpose or another, order the queue, and fetch what they deliver. Its runner
// works the queue off.
package runs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"slices"
	"sync"
	"time"

	"amberproof/core/forecast"
	"amberproof/internal/farm"
	"amberproof/internal/fault"
	"amberproof/internal/forecasts"
	"amberproof/internal/hub"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use. Call Work to let it render.
type Service struct {
	store     *store.Store
	files     *store.Files
	guard     identity.Guard
	scenes    *scenes.Service
	jobs      *jobs.Service
	proofs    *proofs.Service
	log       *slog.Logger
	version   string
	hub       *Hub
	runner    *runner
	watch     *farm.Watch
	asking    sync.Mutex
	forecasts *forecasts.Service         // or nil
	frames    func(*ticket.Resolved) int // how many a run has
}

// Options of a service.
type Options struct {
	Store     *store.Store
	Files     *store.Files
	Guard     identity.Guard
	Scenes    *scenes.Service
	Jobs      *jobs.Service
	Proofs    *proofs.Service
	Log       *slog.Logger
	Version   string             // of the program, for manifests
	Open      farm.Opener        // where units are done
	Watch     *farm.Watch        // what the workers are doing, or nil
	Forecasts *forecasts.Service // of runs that are queued, or nil
}

// New makes a service.
func New(o Options) *Service {
	s := &Service{
		store: o.Store, files: o.Files, guard: o.Guard, scenes: o.Scenes, jobs: o.Jobs, proofs: o.Proofs, log: o.Log, version: o.Version,
		hub: newHub(), watch: o.Watch, forecasts: o.Forecasts, frames: (*ticket.Resolved).Frames,
	}
	s.runner = newRunner(s, o.Open)
	s.proofs.OnCleaning(s.cleaning)
	return s
}

// Listen tells what happens to runs from now on, and the newest of each that is going:
// whatever the listener knew of others before is over. Close the subscription when done.
func (s *Service) Listen(who identity.Actor) (*hub.Subscription[Progress], []Progress, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return nil, nil, err
	}
	sub, going := s.hub.Subscribe(func(e *Progress) bool { return of.All || slices.Contains(of.Some, e.Project) })
	return sub, going, nil
}

// Workers tells what each worker is doing.
func (s *Service) Workers(who identity.Actor) ([]farm.Working, error) {
	if err := s.guard.Any(who, identity.See); err != nil || s.watch == nil {
		return nil, err
	}
	return s.watch.Workers(), nil
}

// Run is a run in a list.
type Run struct {
	ID         int64           `json:"id"`
	Job        int64           `json:"job"`
	JobName    string          `json:"jobName"`
	Project    int64           `json:"project" doc:"Of the job"`
	Scene      int64           `json:"scene" doc:"Of the job"`
	Number     int             `json:"number"`
	State      ticket.State    `json:"state" enum:"queued,running,stopping,delivering,stopped,done,kept,failed,cancelled"`
	Intent     ticket.Intent   `json:"intent" doc:"What a run that is being stopped is stopped for"`
	Fault      string          `json:"fault" doc:"What went wrong, for a failed run"`
	Background bool            `json:"background" doc:"Rendered for the lists, when nothing else is to be done"`
	Frames     int             `json:"frames"`
	View       string          `json:"view"`
	Width      int             `json:"width" doc:"Of the frame as rendered, pixels"`
	Height     int             `json:"height"`
	Surface    string          `json:"surface" enum:"own,clay,both"`
	Preset     string          `json:"preset"`
	Target     float64         `json:"target" doc:"Noise, percent of display white"`
	Queued     time.Time       `json:"queued"`
	Started    *time.Time      `json:"started"`
	Finished   *time.Time      `json:"finished"`
	Seconds    float64         `json:"seconds" doc:"Time spent rendering"`
	Samples    float64         `json:"samples" doc:"Mean samples per pixel"`
	Least      int             `json:"least" doc:"Samples of the pixel with fewest"`
	Noise      *float64        `json:"noise" doc:"Percent of display white; null before it can be told"`
	Share      float64         `json:"share" doc:"Finished share of the forecast samples, 0 to 1"`
	Deliveries int             `json:"deliveries"`
	GoesOn     int64           `json:"goesOn" doc:"Run whose picture it goes on from; 0: none, or one that was removed"`
	Forecast   *forecast.Range `json:"forecast" doc:"Seconds it was told to take when it was queued; null where none was told"`
	Ends       *forecast.Range `json:"ends" doc:"Seconds from now until it is rendered, of a run in the queue; null where that cannot be told"`
	Live       *Progress       `json:"live" doc:"Newest progress while it goes"`
}

func (s *Service) runOf(r *store.RunLine) Run {
	v := Run{
		ID: r.ID, Job: r.Job, JobName: r.JobName, Project: r.Project, Scene: r.Scene, Number: r.Number, State: r.State, Intent: r.Intent, Fault: r.Fault,
		Background: r.Background, Frames: r.Frames,
		View: r.View, Width: r.Width, Height: r.Height, Surface: r.Surface, Preset: r.Preset, Target: r.Target, Queued: r.Queued,
		Started: r.Started, Finished: r.Finished,
		Seconds: r.Seconds, Samples: r.Samples, Least: r.Least, Noise: r.Noise, Share: r.Share, Deliveries: r.Deliveries, GoesOn: r.GoesOn, Forecast: r.Forecast,
	}
	if e, ok := s.hub.Last(r.ID); ok {
		v.Live = &e
	}
	return v
}

func (s *Service) runsOf(rows []store.RunLine, err error) ([]Run, error) {
	out := make([]Run, len(rows))
	for i := range rows {
		out[i] = s.runOf(&rows[i])
	}
	return out, err
}

// Page is a part of a list.
type Page struct {
	Runs []Run `json:"runs" nullable:"false"`
	Next int64 `json:"next" doc:"Where the next page begins; 0 at the end"`
}

// perPage is how many rows a page of a list has.
const perPage = 100

// Wanted chooses runs for a list.
type Wanted struct {
	Project int64 // 0: all of who asks
	Job     int64 // 0: of all jobs
	States  []ticket.State
	Before  int64 // Next of the page before; 0 for the first
}

// List lists a page of runs, newest first.
func (s *Service) List(ctx context.Context, who identity.Actor, w Wanted) (Page, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return Page{Runs: []Run{}}, err
	}
	rows, err := s.store.Runs(ctx, store.RunsWanted{Of: store.Within(of.Only(w.Project)), Job: w.Job, States: w.States, Before: w.Before, Most: perPage + 1})
	p := Page{}
	if len(rows) > perPage {
		rows = rows[:perPage]
		p.Next = rows[perPage-1].ID
	}
	p.Runs, err = s.runsOf(rows, err)
	return p, err
}

// Count counts runs by state.
func (s *Service) Count(ctx context.Context) (map[ticket.State]int, error) {
	return s.store.CountRuns(ctx)
}

// Start queues a run of a job's ticket, of the version that is named: what runs
// is what was seen. fault.ErrChanged if the ticket has another version by now.
func (s *Service) Start(ctx context.Context, who identity.Actor, jobID, version int64) (Run, error) {
	return s.start(ctx, who, jobID, version, nil)
}

// StartBackground queues a run for the lists, at a change of its ticket; it waits
// until nothing else is to be done, and makes way for what is.
func (s *Service) StartBackground(ctx context.Context, who identity.Actor, jobID int64, change func(*ticket.Ticket)) (Run, error) {
	return s.start(ctx, who, jobID, 0, change)
}

func (s *Service) start(ctx context.Context, who identity.Actor, jobID, version int64, background func(*ticket.Ticket)) (Run, error) {
	if err := s.guard.May(ctx, who, identity.RunJobs, identity.JobKind, jobID); err != nil {
		return Run{}, err
	}
	p, err := s.jobs.Resolve(ctx, who, jobID)
	if err != nil {
		return Run{}, err
	}
	if background != nil {
		background(&p.Resolved.Ticket)
		p.Resolved.Ticket.Tidy()
	} else if version != p.Job.Version {
		return Run{}, changed(version, p.Job.Version)
	}
	if err := pipeline.Fits(pipeline.Memory(&p.Resolved, p.Scene, p.Surround)); err != nil {
		return Run{}, fault.Bad("%s", err.Error())
	}
	id, err := s.store.AddRun(ctx, store.NewRun{
		Job: jobID, Maker: who.ID, Resolved: p.Resolved, Frames: s.frames(&p.Resolved), Background: background != nil})
	if err != nil {
		return Run{}, err
	}
	if s.forecasts != nil && background == nil {
		// What was told on the button that was pressed is noted before the run can begin.
		if f, ok := s.forecasts.Known(ctx, jobID, &p.Resolved); !ok {
			signal(s.runner.wakeForecast)
		} else if err := s.store.SetForecast(ctx, id, f.Told, &f.Measured); err != nil {
			s.log.Warn("the forecast of a run cannot be noted", "run", id, "error", err)
		}
	}
	if background == nil {
		s.runner.makeWay()
	}
	s.runner.nudge()
	return s.tell(ctx, id)
}

// tell publishes what a run's row holds, and returns it. Somebody may change the row, and
// tell that, between its being read and published here: it is read once more, until what
// was told last is what it holds.
func (s *Service) tell(ctx context.Context, id int64) (Run, error) {
	r, err := s.store.RunLine(ctx, id)
	for err == nil {
		told := eventOf(&r)
		s.hub.row(told)
		if r, err = s.store.RunLine(ctx, id); err == nil && r.State == told.State && r.Intent == told.Intent {
			return s.runOf(&r), nil
		}
	}
	return Run{}, err
}

// cleaning tells of a run that is delivered how far the taking out of its noise is.
func (s *Service) cleaning(run int64, share float64) {
	s.hub.amend(run, func(e *Progress) bool {
		note := fmt.Sprintf("taking out the noise, %.0f %%", math.Floor(share*20)*5)
		if share >= 1 {
			note = "writing the files"
		}
		if e.State != ticket.Delivering || e.Note == note {
			return false
		}
		e.Note = note
		return true
	})
}

// Ask wants something of a run: to stop for later, to keep what it has, to throw
// that away, or to go on. What takes time goes on after Ask has returned; the
// run's state and intent say so.
func (s *Service) Ask(ctx context.Context, who identity.Actor, id int64, want ticket.Intent) (Run, error) {
	if err := s.guard.May(ctx, who, identity.RunJobs, identity.RunKind, id); err != nil {
		return Run{}, err
	}
	// One at a time: a run that is cancelled must not be resumed while its film is
	// thrown away.
	s.asking.Lock()
	defer s.asking.Unlock()
	was, is, err := s.store.Ask(ctx, id, want)
	if err != nil {
		return Run{}, err
	}
	switch is {
	case ticket.Stopping:
		s.runner.stop(id)
	case ticket.Cancelled:
		s.proofs.Ended(id)
		if err := s.dropFilms(id); err != nil {
			return Run{}, err
		}
	case ticket.Queued:
		s.proofs.Ended(id)
		s.runner.makeWay()
		s.runner.nudge()
	case ticket.Delivering:
		s.runner.nudgeDelivery()
	}
	s.log.Info("run asked", "run", id, "for", want, "was", was, "is", is)
	return s.tell(ctx, id)
}

// Place moves a waiting run in the queue: behind another, or to its head with
// after 0.
func (s *Service) Place(ctx context.Context, who identity.Actor, id, after int64) error {
	if err := s.guard.May(ctx, who, identity.RunJobs, identity.RunKind, id); err != nil {
		return err
	}
	if err := s.store.Place(ctx, id, after); err != nil {
		return err
	}
	_, err := s.tell(ctx, id)
	return err
}

// Remove removes a run for good, with its files. Without delivered, one that has
// delivered is kept: fault.ErrState.
func (s *Service) Remove(ctx context.Context, who identity.Actor, id int64, delivered bool) error {
	if err := s.guard.May(ctx, who, identity.Remove, identity.RunKind, id); err != nil {
		return err
	}
	r, err := s.store.RunLine(ctx, id)
	if err != nil {
		return err
	}
	done, err := s.runner.claimAll([]int64{id})
	if err != nil {
		return err
	}
	defer done()
	if err := s.store.RemoveRun(ctx, id, delivered); err != nil {
		return err
	}
	return s.removed(r.Project, r.Job, []int64{id})
}

// RemoveJob removes a job for good, with its runs and their files. Without delivered, one
// that has delivered is kept: fault.ErrState.
func (s *Service) RemoveJob(ctx context.Context, who identity.Actor, id int64, delivered bool) error {
	if err := s.guard.May(ctx, who, identity.Remove, identity.JobKind, id); err != nil {
		return err
	}
	j, err := s.store.Job(ctx, id)
	if err != nil {
		return err
	}
	all, err := s.store.RunsOf(ctx, id)
	if err != nil {
		return err
	}
	done, err := s.runner.claimAll(all)
	if err != nil {
		return err
	}
	defer done()
	if all, err = s.store.RemoveJob(ctx, id, delivered); err != nil {
		return err
	}
	return s.removed(j.Project, id, all)
}

// removed ends what is shown of runs whose rows are gone, tells who looks, and removes
// their files.
func (s *Service) removed(project, job int64, all []int64) (err error) {
	for _, id := range all {
		s.proofs.Ended(id)
		s.hub.publish(Progress{Run: id, Job: job, Project: project, State: Removed})
		err = errors.Join(err, s.files.RemoveRun(id))
	}
	return err
}

// dropFilms throws away what a run has rendered.
func (s *Service) dropFilms(id int64) error {
	s.proofs.Ended(id)
	return s.files.RemoveFilms(id)
}
