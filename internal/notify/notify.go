// Package notify tells what happened: webhooks of the project, people by mail, and pages that
// are open. Each event is told once.
package notify

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"amberproof/core/parallel"
	"amberproof/internal/fault"
	"amberproof/internal/hub"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/store"
)

// Options of a Service.
type Options struct {
	Store  *store.Store
	Guard  identity.Guard
	Review *review.Service
	Log    *slog.Logger
	Site   string        // under which people reach the server, without a slash at its end
	Gather time.Duration // for how long news are gathered before they go into one mail
}

// Service is safe for concurrent use.
type Service struct {
	Options
	pages hub.Hub[News]
	now   func() time.Time
}

// New makes a service. Call Work to let it tell.
func New(o Options) *Service { return &Service{Options: o, now: time.Now} }

// News says that something of a round has changed.
type News struct {
	Project int64 `json:"project"`
	Round   int64 `json:"round"`
}

// Listen starts to tell a page of rounds that somebody may see.
func (s *Service) Listen(who identity.Actor) (*hub.Subscription[News], error) {
	of, err := s.Guard.Seen(who)
	if err != nil {
		return nil, err
	}
	return s.pages.Subscribe(func(n *News) bool { return of.All || slices.Contains(of.Some, n.Project) }), nil
}

// lookEvery is how often it looks for what has happened.
const lookEvery = 400 * time.Millisecond

// keepFor is for how long what was told is kept.
const keepFor = 60 * 24 * time.Hour

// Work tells what happens until ctx ends.
func (s *Service) Work(ctx context.Context) {
	swept := time.Time{}
	for ctx.Err() == nil {
		if err := s.once(ctx); err != nil && ctx.Err() == nil {
			s.Log.Warn("what happened could not be told", "error", err)
		}
		if now := s.now(); now.Sub(swept) > time.Hour {
			swept = now
			if err := s.Store.SweepEvents(ctx, now.UTC().Add(-keepFor)); err != nil && ctx.Err() == nil {
				s.Log.Warn("old events could not be removed", "error", err)
			}
		}
		select {
		case <-ctx.Done():
		case <-time.After(lookEvery):
		}
	}
}

// mostAtOnce is how many events are read at once.
const mostAtOnce = 100

// giveUpAfter is how old an event is that is not tried to be told any more: a hundred that
// cannot be would keep all that come later.
const giveUpAfter = time.Hour

// once tells what there is to tell now. One event that cannot be told does not keep the others.
func (s *Service) once(ctx context.Context) (err error) {
	defer parallel.Catch(&err)
	all, err := s.Store.Untold(ctx, mostAtOnce)
	if err != nil {
		return err
	}
	var faults []error
	for i := range all {
		e := &all[i]
		err := s.tell(ctx, e)
		if err != nil && ctx.Err() == nil && s.now().Sub(e.Created) > giveUpAfter {
			err = errors.Join(fmt.Errorf("event %d is given up: %w", e.ID, err), s.Store.Tell(ctx, e.ID, nil, nil))
		}
		faults = append(faults, err)
	}
	ready, err := s.Store.Notified(ctx, s.now().UTC().Add(-s.Gather))
	faults = append(faults, err)
	for _, person := range ready {
		faults = append(faults, s.mail(ctx, person))
	}
	return errors.Join(faults...)
}

// tell tells of one event.
func (s *Service) tell(ctx context.Context, e *store.Event) (err error) {
	defer parallel.Catch(&err)
	if e.Round != 0 {
		s.pages.Tell(e.Round, News{e.Project, e.Round})
	}
	hooks, err := s.Store.Webhooks(ctx, e.Project)
	if err != nil {
		return err
	}
	hooks = slices.DeleteFunc(hooks, func(h store.Webhook) bool { return h.Paused || !slices.Contains(h.Kinds, e.Kind) })
	var out []store.Message
	if len(hooks) > 0 {
		body, err := s.document(ctx, e)
		if err != nil {
			return err
		}
		for _, h := range hooks {
			out = append(out, store.Message{Project: e.Project, Webhook: h.ID, Event: e.ID, Address: h.URL, Subject: string(e.Kind), Body: string(body)})
		}
	}
	people, err := s.concerned(ctx, e)
	if err != nil {
		return err
	}
	return s.Store.Tell(ctx, e.ID, out, people)
}

// gone tells whether something is not there any more, which is no fault of what happened to it.
func gone(err error) bool { return errors.Is(err, fault.ErrNotFound) }
