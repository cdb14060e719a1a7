package server

import (
	"context"

	"amberproof/internal/fault"
	"amberproof/internal/forecasts"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/scenes"
	"amberproof/internal/ticket"
)

// jobs are operations on jobs and their tickets. Who writes a ticket says over which
// version, who starts a run which version was on the screen: two windows never
// overwrite each other unseen.
func (s *Server) jobs() {
	handle(s, "GET", "/api/jobs", "list-jobs", "A page of jobs, last changed first", func(ctx context.Context, who identity.Actor, in *struct {
		Project int64  `query:"project"`
		PutAway bool   `query:"putAway"`
		Scene   int64  `query:"scene"`
		After   string `query:"after" maxLength:"64"`
	}) (jobs.Page, error) {
		return s.app.Jobs.List(ctx, who, jobs.Wanted(*in))
	})
	handle(s, "POST", "/api/jobs", "create-job", "Make a job for a scene", func(ctx context.Context, who identity.Actor, in *struct {
		Body struct {
			Scene  int64          `json:"scene"`
			Name   string         `json:"name" maxLength:"120"`
			Ticket *ticket.Ticket `json:"ticket,omitempty"`
		}
	}) (jobs.Job, error) {
		return s.app.Jobs.Create(ctx, who, in.Body.Scene, in.Body.Name, in.Body.Ticket)
	})
	handle(s, "GET", "/api/jobs/{id}", "get-job", "A job with its ticket", func(ctx context.Context, who identity.Actor, in *ByID) (jobs.Job, error) {
		return s.app.Jobs.Get(ctx, who, in.ID)
	})
	handle(s, "PUT", "/api/jobs/{id}/ticket", "save-ticket", "Save a ticket over the version it was made from",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64         `json:"version"`
				Ticket  ticket.Ticket `json:"ticket"`
			}
		}) (jobs.Job, error) {
			return s.app.Jobs.SaveTicket(ctx, who, in.ID, in.Body.Version, in.Body.Ticket)
		})
	handle(s, "POST", "/api/jobs/{id}/compare", "compare-ticket", "What a ticket and the kept one have changed since both were one",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Ticket ticket.Ticket `json:"ticket" doc:"The other one"`
				Base   ticket.Ticket `json:"base" doc:"What it was made from"`
			}
		}) (jobs.Versions, error) {
			return s.app.Jobs.Compare(ctx, who, in.ID, in.Body.Ticket, in.Body.Base)
		})
	handle(s, "POST", "/api/jobs/{id}/copy", "copy-job", "Make a job like another, under a name", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (jobs.Job, error) {
		return s.app.Jobs.Copy(ctx, who, in.ID, in.Body.Name)
	})
	handle(s, "PATCH", "/api/jobs/{id}", "change-job", "Rename a job, put it away or take it out again", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			Name    *string `json:"name,omitempty" maxLength:"120"`
			PutAway *bool   `json:"putAway,omitempty"`
		}
	}) (v jobs.Job, err error) {
		if in.Body.Name == nil && in.Body.PutAway == nil {
			return v, fault.Bad("Say what to change: name or putAway")
		}
		if in.Body.Name != nil {
			v, err = s.app.Jobs.Rename(ctx, who, in.ID, *in.Body.Name)
		}
		if in.Body.PutAway != nil && err == nil {
			v, err = s.app.Jobs.PutAway(ctx, who, in.ID, *in.Body.PutAway)
		}
		return v, err
	})
	perform(s, "DELETE", "/api/jobs/{id}", "remove-job", "Remove a job and its runs for good", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Delivered bool `query:"delivered" doc:"Also if it has delivered files"`
	}) error {
		return s.app.Runs.RemoveJob(ctx, who, in.ID, in.Delivered)
	})
	s.jobRuns()
}

// jobRuns are what running a job would do, and runs of it.
func (s *Server) jobRuns() {
	handle(s, "GET", "/api/jobs/{id}/outlook", "get-outlook", "What running the job now would do",
		func(ctx context.Context, who identity.Actor, in *ByID) (jobs.Outlook, error) {
			return s.app.Jobs.Outlook(ctx, who, in.ID)
		})
	handle(s, "POST", "/api/jobs/{id}/variants", "make-variants", "A job like this one for each of some variants, and a run of each if asked for",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Variants []string `json:"variants" minItems:"1" maxItems:"200" nullable:"false"`
				Run      bool     `json:"run,omitempty"`
			}
		}) (list[jobs.Job], error) {
			made, err := s.app.Jobs.Variants(ctx, who, in.ID, in.Body.Variants)
			for i := 0; i < len(made) && err == nil && in.Body.Run; i++ {
				_, err = s.app.Runs.Start(ctx, who, made[i].ID, made[i].Version)
			}
			return listed(made, err)
		})
	handle(s, "GET", "/api/jobs/{id}/preflight", "get-job-preflight", "Check the scene as the job's ticket would render it",
		func(ctx context.Context, who identity.Actor, in *ByID) (scenes.Report, error) {
			return s.app.Jobs.Preflight(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/jobs/{id}/blocked", "get-blocked", "What light the job's clay would take from what is seen, estimated",
		func(ctx context.Context, who identity.Actor, in *ByID) (scenes.Blocked, error) {
			return s.app.Jobs.Blocked(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/jobs/{id}/forecast", "get-forecast", "How long a run of the job now would take, and how clean it would be",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Within float64 `query:"within" minimum:"0" maximum:"2592000" doc:"Seconds from now in which it is to be done, to learn what can be had by then; 0: none"`
		}) (forecasts.Forecast, error) {
			wait, err := s.app.Runs.Wait(ctx, who)
			if err != nil {
				return forecasts.Forecast{}, err
			}
			seconds := 0.0
			if wait != nil { // of what comes before it, as sure as the rest
				seconds = max(0, in.Within-wait.High)
			}
			f, err := s.app.Forecasts.Of(ctx, who, in.ID, seconds)
			f.Wait = wait
			return f, err
		})
	handle(s, "POST", "/api/jobs/{id}/runs", "start-run", "Queue a run of the ticket in the version that was seen",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64 `json:"version" doc:"Of the ticket on the screen"`
			}
		}) (runs.Run, error) {
			return s.app.Runs.Start(ctx, who, in.ID, in.Body.Version)
		})
}
