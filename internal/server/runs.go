package server

import (
	"context"
	"strings"

	"amberproof/internal/farm"
	"amberproof/internal/identity"
	"amberproof/internal/proofs"
	"amberproof/internal/runs"
	"amberproof/internal/ticket"
)

// workerBody is what one worker is doing.
type workerBody struct {
	Busy    bool    `json:"busy"`
	Tile    int     `json:"tile"`
	From    int     `json:"from" doc:"First sample of the unit"`
	To      int     `json:"to" doc:"After its last sample"`
	Units   int     `json:"units" doc:"Done of this picture"`
	Seconds float64 `json:"seconds" doc:"Since it began that, or rests"`
}

// queueBody is what is going and what waits.
type queueBody struct {
	Runs    []runs.Run   `json:"runs" nullable:"false"`
	Workers []workerBody `json:"workers" nullable:"false" doc:"None while nothing is rendered"`
}

// runs are operations on runs and their place in the queue. What a run may be asked for
// depends on its state, which is checked where it is changed, in the database.
func (s *Server) runs() {
	handle(s, "GET", "/api/runs", "list-runs", "A page of runs, newest first: of a job, of a project, or of all",
		func(ctx context.Context, who identity.Actor, in *struct {
			Job     int64  `query:"job"`
			Project int64  `query:"project" minimum:"0"`
			States  string `query:"states" maxLength:"200" doc:"Parted by commas; empty for any"`
			Before  int64  `query:"before"`
		}) (runs.Page, error) {
			w := runs.Wanted{Job: in.Job, Project: in.Project, Before: in.Before}
			for _, st := range strings.FieldsFunc(in.States, func(r rune) bool { return r == ',' }) {
				w.States = append(w.States, ticket.State(st))
			}
			return s.app.Runs.List(ctx, who, w)
		})
	handle(s, "GET", "/api/queue", "get-queue", "Runs that are going, then those that wait; and what the workers do",
		func(ctx context.Context, who identity.Actor, _ *nothing) (queueBody, error) {
			b := queueBody{Workers: []workerBody{}}
			var err error
			if b.Runs, err = s.app.Runs.Queue(ctx, who); err != nil {
				return b, err
			}
			working, err := s.app.Runs.Workers(who)
			for _, k := range working {
				b.Workers = append(b.Workers, workerOf(k))
			}
			return b, err
		})
	handle(s, "GET", "/api/runs/{id}", "get-run", "A run with its ticket, passes and deliveries",
		func(ctx context.Context, who identity.Actor, in *ByID) (runs.Detail, error) {
			return s.app.Runs.Get(ctx, who, in.ID)
		})
	handle(s, "POST", "/api/runs/{id}/{intent}", "ask-run", "Stop a run for later, keep what it has, cancel it, or resume it",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Intent string `path:"intent" enum:"stop,keep,cancel,resume"`
		}) (runs.Run, error) {
			return s.app.Runs.Ask(ctx, who, in.ID, ticket.Intent(in.Intent))
		})
	perform(s, "PUT", "/api/runs/{id}/place", "place-run", "Move a waiting run in the queue", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			After int64 `json:"after" doc:"Run to stand behind; 0 for the head of the queue"`
		}
	}) error {
		return s.app.Runs.Place(ctx, who, in.ID, in.Body.After)
	})
	handle(s, "PUT", "/api/runs/{id}/delivery", "deliver-again", "Deliver a run anew as its job's ticket says now, without rendering",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64 `json:"version" doc:"Of the ticket on the screen"`
			}
		}) (runs.Detail, error) {
			return s.app.Runs.DeliverAgain(ctx, who, in.ID, in.Body.Version)
		})
	perform(s, "DELETE", "/api/runs/{id}", "remove-run", "Remove a run and its files for good", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Delivered bool `query:"delivered" doc:"Also if it has delivered files"`
	}) error {
		return s.app.Runs.Remove(ctx, who, in.ID, in.Delivered)
	})
	s.runReadings()
	s.noise()
}

// runReadings are what can be measured of the pictures of runs.
func (s *Server) runReadings() {
	handle(s, "GET", "/api/runs/{id}/cast", "measure-cast", "How far the clay of a run's picture is from neutral",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			LookQuery
			Frame int `query:"frame" minimum:"0" maximum:"100000"`
		}) (proofs.Cast, error) {
			p, err := s.app.Proofs.Open(ctx, who, in.ID, in.Frame)
			if err != nil {
				return proofs.Cast{}, err
			}
			return s.app.Proofs.Cast(ctx, p, in.look())
		})
	handle(s, "GET", "/api/runs/{id}/reading", "read-pixel", "What lies under a pixel", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		LookQuery
		Frame int    `query:"frame" minimum:"0" maximum:"100000"`
		Pass  string `query:"pass" required:"true" maxLength:"200"`
		X     int    `query:"x" required:"true"`
		Y     int    `query:"y" required:"true"`
	}) (proofs.Reading, error) {
		p, err := s.app.Proofs.Open(ctx, who, in.ID, in.Frame)
		if err != nil {
			return proofs.Reading{}, err
		}
		return s.app.Proofs.Read(ctx, p, in.Pass, in.X, in.Y, in.look(), in.amount())
	})
}

// workerOf tells a worker's state in the words of the interface.
func workerOf(k farm.Working) workerBody {
	return workerBody{Busy: k.Busy, Tile: k.Unit.Tile, From: k.Unit.From, To: k.Unit.To, Units: k.Units, Seconds: secondsSince(k.Since)}
}
