// Package app puts the use cases together: one service for each thing that
// people work with, over one store, under one guard.
package app

import (
	"cmp"
	"context"
	"log/slog"
	"time"

	"github.com/alexedwards/scs/v2"

	"amberproof/internal/accounts"
	"amberproof/internal/budget"
	"amberproof/internal/farm"
	"amberproof/internal/forecasts"
	"amberproof/internal/guests"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/library"
	"amberproof/internal/live"
	"amberproof/internal/notify"
	"amberproof/internal/outbox"
	"amberproof/internal/pipeline"
	"amberproof/internal/projects"
	"amberproof/internal/proofs"
	"amberproof/internal/review"
	"amberproof/internal/runs"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
)

// App is the use cases.
type App struct {
	Projects  *projects.Service
	Accounts  *accounts.Service
	Guests    *guests.Service
	Scenes    *scenes.Service
	Jobs      *jobs.Service
	Proofs    *proofs.Service
	Runs      *runs.Service
	Forecasts *forecasts.Service
	Review    *review.Service
	Library   *library.Service
	Live      *live.Service
	Outbox    *outbox.Service
	Notify    *notify.Service
	Version   string
	store     *store.Store
}

// Options of an App.
type Options struct {
	Store   *store.Store
	Files   *store.Files
	Version string
	Threads int         // that render
	Open    farm.Opener // of pools of workers; nil: Threads of this process
	Log     *slog.Logger
	// LivePixels is how many pixels a live picture has at most; 0: as many as a screen shows.
	LivePixels int
	Memory     int64 // bytes that are shared out; 0: what is free
	// Site is where people reach the server, as http://127.0.0.1:8460; Beyond says that they do
	// so from other machines.
	Site   string
	Beyond bool
	Mail   outbox.Mailer // nil: the simulated one
	Gather time.Duration // for how long news are gathered before they go into one mail
}

// leastMemory is shared out where the system does not say what is free.
const leastMemory = 4 << 30

// New puts an App together. Call Runs.Work to let it render, Scenes.Draw to have scenes drawn
// when they come in, Notify.Work and Outbox.Work to have people and programs told.
func New(o Options) *App {
	shares := budget.Of(cmp.Or(o.Memory, pipeline.Available(), leastMemory))
	watch := &farm.Watch{}
	if o.Open == nil {
		o.Open = farm.Local(o.Threads, watch)
	}
	a := &App{Version: o.Version, store: o.Store}
	guard := identity.Guard{Owners: o.Store}
	a.Scenes = scenes.New(scenes.Options{Store: o.Store, Files: o.Files, Guard: guard, Log: o.Log, Shares: shares,
		Busy: func() bool { return a.Proofs.Busy() }})
	a.Projects = projects.New(o.Store, guard)
	a.Accounts = accounts.New(o.Store, guard, o.Site)
	a.Jobs = jobs.New(o.Store, o.Files, guard, a.Scenes)
	a.Proofs = proofs.New(o.Store, o.Files, guard, a.Scenes, shares)
	a.Forecasts = forecasts.New(forecasts.Options{Store: o.Store, Jobs: a.Jobs, Scenes: a.Scenes, Threads: o.Threads, Memory: shares.Probe, Busy: a.Proofs.Busy})
	a.Runs = runs.New(runs.Options{
		Store: o.Store, Files: o.Files, Guard: guard, Scenes: a.Scenes, Jobs: a.Jobs, Proofs: a.Proofs, Log: o.Log, Version: o.Version,
		Open: o.Open, Watch: watch, Forecasts: a.Forecasts,
	})
	a.Review = review.New(o.Store, o.Files, guard, a.Proofs, a.Runs, a.Jobs)
	a.Guests = guests.New(o.Store, guard, a.Review, o.Site)
	a.Live = live.New(a.Scenes, shares.Live, cmp.Or(o.LivePixels, live.DefaultPixels), a.Proofs.Busy)
	a.Library = library.New(o.Store, guard)
	if o.Mail == nil {
		o.Mail = outbox.Simulated{}
	}
	a.Outbox = outbox.New(outbox.Options{Store: o.Store, Guard: guard, Mail: o.Mail, Log: o.Log, Open: !o.Beyond})
	a.Notify = notify.New(notify.Options{Store: o.Store, Guard: guard, Review: a.Review, Log: o.Log, Site: o.Site, Gather: o.Gather})
	return a
}

// Sessions is where sessions of browsers are kept; nil without a store.
func (a *App) Sessions() scs.Store {
	if a.store == nil {
		return nil
	}
	return a.store.Sessions()
}

// Ping asks whether the database is there.
func (a *App) Ping(ctx context.Context) error { return a.store.Ping(ctx) }
