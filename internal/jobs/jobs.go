// Package jobs holds what people do with jobs and their tickets: make, save,
// copy and put them away, and see what running one would do.
package jobs

import (
	"context"
	"fmt"
	"slices"
	"time"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store  *store.Store
	files  *store.Files
	guard  identity.Guard
	scenes *scenes.Service
}

// New makes a service.
func New(st *store.Store, files *store.Files, guard identity.Guard, sc *scenes.Service) *Service {
	return &Service{st, files, guard, sc}
}

// Job is a job with its ticket. Version counts the saved states of the ticket.
type Job struct {
	ID      int64         `json:"id"`
	Project int64         `json:"project"`
	Scene   int64         `json:"scene"`
	Name    string        `json:"name"`
	Ticket  ticket.Ticket `json:"ticket"`
	Version int64         `json:"version"`
	Changed time.Time     `json:"changed"`
	PutAway bool          `json:"putAway"`
}

// Line is a job in a list.
type Line struct {
	ID        int64     `json:"id"`
	Scene     int64     `json:"scene"`
	SceneName string    `json:"sceneName"`
	Name      string    `json:"name"`
	Version   int64     `json:"version"`
	Changed   time.Time `json:"changed"`
	PutAway   bool      `json:"putAway"`
	View      string    `json:"view"`
	Width     int       `json:"width" doc:"Of the frame as rendered, pixels"`
	Height    int       `json:"height"`
	Surface   string    `json:"surface" enum:"own,clay,both"`
	Preset    string    `json:"preset"`
	Target    float64   `json:"target" doc:"Noise, percent of display white"`
	Runs      int       `json:"runs"`
	Delivered int       `json:"delivered" doc:"Runs that have delivered"`
	Last      *Last     `json:"last" doc:"The newest run"`
}

// Last is a job's newest run, as a list shows it.
type Last struct {
	ID       int64        `json:"id"`
	Number   int          `json:"number"`
	State    ticket.State `json:"state" enum:"queued,running,stopping,delivering,stopped,done,kept,failed,cancelled"`
	Surface  string       `json:"surface" enum:"own,clay,both"`
	Samples  float64      `json:"samples" doc:"Mean samples per pixel"`
	Noise    *float64     `json:"noise" doc:"Percent of display white; null before it can be told"`
	Seconds  float64      `json:"seconds"`
	Share    float64      `json:"share"`
	Finished *time.Time   `json:"finished"`
}

// Page is a part of a list.
type Page struct {
	Jobs []Line `json:"jobs" nullable:"false"`
	Next string `json:"next" doc:"Where the next page begins; empty at the end"`
}

// perPage is how many rows a page of a list has.
const perPage = 100

// Wanted chooses jobs for a list.
type Wanted struct {
	Project int64 // 0: of all
	PutAway bool
	Scene   int64  // 0: of all scenes
	After   string // Next of the page before; empty for the first
}

// List lists a page of jobs, last changed first.
func (s *Service) List(ctx context.Context, who identity.Actor, w Wanted) (Page, error) {
	out := Page{Jobs: []Line{}}
	of, err := s.guard.Seen(who)
	if err != nil {
		return out, err
	}
	// A page begins behind the last row of the one before, by what it is sorted by: what
	// is added meanwhile shifts no row onto two pages.
	var after store.JobsAfter
	if w.After != "" {
		var ms int64
		if _, err := fmt.Sscanf(w.After, "%d-%d", &ms, &after.ID); err != nil {
			return out, fault.Bad("The page %q is not one of this list; begin at the first", w.After)
		}
		after.Changed = time.UnixMilli(ms).UTC()
	}
	rows, err := s.store.Jobs(ctx, store.JobsWanted{Of: store.Within(of.Only(w.Project)), PutAway: w.PutAway, Scene: w.Scene, After: after, Most: perPage + 1})
	if err != nil {
		return out, err
	}
	if len(rows) > perPage {
		rows = rows[:perPage]
		last := rows[perPage-1]
		out.Next = fmt.Sprintf("%d-%d", last.Changed.UnixMilli(), last.ID)
	}
	for _, r := range rows {
		out.Jobs = append(out.Jobs, lineOf(&r))
	}
	return out, nil
}

func lineOf(r *store.JobLine) Line {
	l := Line{
		ID: r.ID, Scene: r.Scene, SceneName: r.SceneName, Name: r.Name, Version: r.Version, Changed: r.Changed, PutAway: r.PutAway,
		View: r.View, Width: r.Width, Height: r.Height, Surface: r.Surface, Preset: r.Preset, Target: r.Target, Runs: r.Runs, Delivered: r.Delivered,
	}
	if v := r.Last; v != nil {
		l.Last = &Last{v.ID, v.Number, v.State, v.Surface, v.Samples, v.Noise, v.Seconds, v.Share, v.Finished}
	}
	return l
}

// Get reads one job.
func (s *Service) Get(ctx context.Context, who identity.Actor, id int64) (Job, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.JobKind, id); err != nil {
		return Job{}, err
	}
	v, err := s.store.Job(ctx, id)
	return Job(v), err
}

// Create makes a job for a scene, with a ticket or the defaults.
func (s *Service) Create(ctx context.Context, who identity.Actor, sceneID int64, name string, t *ticket.Ticket) (Job, error) {
	if err := s.guard.May(ctx, who, identity.EditJobs, identity.SceneKind, sceneID); err != nil {
		return Job{}, err
	}
	name, err := ticket.NameOf("The job", name)
	if err != nil {
		return Job{}, err
	}
	row, err := s.store.Scene(ctx, sceneID)
	if err != nil {
		return Job{}, err
	}
	if t == nil {
		u, _, err := s.store.Setup(ctx, sceneID)
		if err != nil {
			return Job{}, err
		}
		d := ticket.NewFor(&u)
		t = &d
	}
	if err := s.ready(ctx, row.Project, t); err != nil {
		return Job{}, err
	}
	if t.View.Name == "" {
		views, err := s.store.Views(ctx, sceneID)
		if err != nil {
			return Job{}, err
		}
		if len(views) > 0 {
			t.View.Name = views[0].Name
		}
	}
	id, err := s.store.AddJob(ctx, who.ID, store.Job{Project: row.Project, Scene: sceneID, Name: name, Ticket: *t})
	if err != nil {
		return Job{}, err
	}
	return s.Get(ctx, who, id)
}

// ready tidies a ticket that is to be kept, and lists its faults.
func (s *Service) ready(ctx context.Context, project int64, t *ticket.Ticket) error {
	t.Tidy()
	if f := ticket.Check(t); len(f) > 0 {
		return fault.Ticket(f)
	}
	// A picture that is not here is a fault when the job is run, not now: a ticket
	// may come before its files.
	_ = s.scenes.Pin(ctx, project, t)
	return nil
}

// Copy makes a job like another: its ticket as it is now, under a name.
func (s *Service) Copy(ctx context.Context, who identity.Actor, id int64, name string) (Job, error) {
	v, err := s.Get(ctx, who, id)
	if err != nil {
		return Job{}, err
	}
	return s.Create(ctx, who, v.Scene, name, &v.Ticket)
}

// Variants makes a job like another for each of some variants of its scene, called after
// it and the variant.
func (s *Service) Variants(ctx context.Context, who identity.Actor, id int64, variants []string) ([]Job, error) {
	if err := s.guard.May(ctx, who, identity.EditJobs, identity.JobKind, id); err != nil {
		return nil, err
	}
	v, err := s.Get(ctx, who, id)
	if err != nil {
		return nil, err
	}
	bench, err := s.scenes.Bench(ctx, who, v.Scene)
	if err != nil {
		return nil, err
	}
	have := bench.Subject.Setup.Variants(bench.Subject.Scene)
	for i, n := range variants {
		if !slices.Contains(have, n) || slices.Contains(variants[:i], n) {
			return nil, fault.Bad("The scene has no variant %q, or it was asked for twice", n)
		}
	}
	var out []Job
	for _, n := range variants {
		t := v.Ticket
		t.Surface.Variant = n
		room := max(1, ticket.MostName-len(n)-len(variantJoin))
		made, err := s.Create(ctx, who, v.Scene, names.Cut(names.Cut(v.Name, room)+variantJoin+n, ticket.MostName), &t)
		if err != nil {
			return out, err
		}
		out = append(out, made)
	}
	return out, nil
}

// variantJoin stands between a job's name and its variant's.
const variantJoin = ", "

// SaveTicket saves a job's ticket over the version it was made from; of another
// version it is fault.ErrChanged. Faults are told, and nothing is saved.
func (s *Service) SaveTicket(ctx context.Context, who identity.Actor, id, version int64, t ticket.Ticket) (Job, error) {
	if err := s.guard.May(ctx, who, identity.EditJobs, identity.JobKind, id); err != nil {
		return Job{}, err
	}
	project, _, err := s.store.Owner(ctx, string(identity.JobKind), id)
	if err != nil {
		return Job{}, err
	}
	if err := s.ready(ctx, project, &t); err != nil {
		return Job{}, err
	}
	if _, err := s.store.SaveTicket(ctx, id, version, t); err != nil {
		return Job{}, err
	}
	return s.Get(ctx, who, id)
}

// Versions is a job's ticket as it is kept beside one that could not be saved.
type Versions struct {
	Job    Job      `json:"job" doc:"As it is kept"`
	Mine   []string `json:"mine" nullable:"false" doc:"What the other ticket has changed since both were one, in words"`
	Theirs []string `json:"theirs" nullable:"false" doc:"What the kept one has changed since then"`
}

// Compare tells what a ticket that was made from base, and the kept one, have changed since.
func (s *Service) Compare(ctx context.Context, who identity.Actor, id int64, mine, base ticket.Ticket) (Versions, error) {
	v, err := s.Get(ctx, who, id)
	if err != nil {
		return Versions{}, err
	}
	mine.Tidy()
	base.Tidy()
	since := func(t ticket.Ticket) []string {
		return ticket.Differences(&ticket.Resolved{Ticket: base}, &ticket.Resolved{Ticket: t})
	}
	return Versions{v, since(mine), since(v.Ticket)}, nil
}

// Rename gives a job another name.
func (s *Service) Rename(ctx context.Context, who identity.Actor, id int64, name string) (Job, error) {
	if err := s.guard.May(ctx, who, identity.EditJobs, identity.JobKind, id); err != nil {
		return Job{}, err
	}
	name, err := ticket.NameOf("The job", name)
	if err != nil {
		return Job{}, err
	}
	if err := s.store.RenameJob(ctx, id, name); err != nil {
		return Job{}, err
	}
	return s.Get(ctx, who, id)
}

// PutAway takes a job out of the lists, or back into them.
func (s *Service) PutAway(ctx context.Context, who identity.Actor, id int64, away bool) (Job, error) {
	if err := s.guard.May(ctx, who, identity.EditJobs, identity.JobKind, id); err != nil {
		return Job{}, err
	}
	if err := s.store.PutJobAway(ctx, id, away); err != nil {
		return Job{}, err
	}
	return s.Get(ctx, who, id)
}
