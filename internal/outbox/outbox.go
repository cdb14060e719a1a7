// Package outbox brings messages to where they go: mail by an SMTP server or by the simulated
// one that ships with it, and what webhooks are sent. What could not be brought is tried again.
package outbox

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"amberproof/core/names"
	"amberproof/core/parallel"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// Carrier brings one message to where it goes. said tells what came of it, also beside an
// error; one that wraps ErrFinal says that there is no use in another attempt.
type Carrier interface {
	Carry(ctx context.Context, m *store.Message) (said string, err error)
}

// ErrFinal says that a message will never be taken.
var ErrFinal = errors.New("it is not taken")

// Options of a Service.
type Options struct {
	Store *store.Store
	Guard identity.Guard
	Mail  Mailer
	Log   *slog.Logger
	// Open says that the server is reached from this machine only, and webhooks may lead to
	// programs on it.
	Open bool
}

// Service is safe for concurrent use.
type Service struct {
	store    *store.Store
	guard    identity.Guard
	mail     Mailer
	webhooks *poster
	standIn  *standIn
	log      *slog.Logger
	now      func() time.Time

	mu   sync.Mutex
	busy map[int64]bool // webhooks that are being posted to; 0 for mail
}

// New makes a service. Call Work to let it bring messages.
func New(o Options) *Service {
	s := &Service{store: o.Store, guard: o.Guard, mail: o.Mail, standIn: newStandIn(o.Store), log: o.Log, now: time.Now, busy: map[int64]bool{}}
	s.webhooks = newPoster(o.Store, s.standIn, o.Open)
	return s
}

// waits are how long a message waits after each attempt that failed; after the last it is
// given up.
var waits = []time.Duration{
	10 * time.Second, time.Minute, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 6 * time.Hour, 24 * time.Hour,
}

// attemptLimit is how long an attempt may take.
const attemptLimit = 15 * time.Second

// lookEvery is how often it looks for messages that are due.
const lookEvery = 500 * time.Millisecond

// Work brings messages until ctx ends.
func (s *Service) Work(ctx context.Context) {
	var going sync.WaitGroup
	defer going.Wait()
	for ctx.Err() == nil {
		due, err := s.store.DueMessages(ctx, s.now().UTC())
		if err != nil && ctx.Err() == nil {
			s.log.Warn("messages could not be read", "error", err)
		}
		for i := range due {
			if m := &due[i]; s.take(m.Webhook) {
				going.Go(func() {
					defer s.leave(m.Webhook)
					if err := s.bring(ctx, m); err != nil && ctx.Err() == nil {
						s.log.Warn("a message could not be brought", "message", m.ID, "error", err)
					}
				})
			}
		}
		select {
		case <-ctx.Done():
		case <-time.After(lookEvery):
		}
	}
}

// take marks a way as busy; false where it is. One that does not answer keeps no other waiting.
func (s *Service) take(way int64) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.busy[way] {
		return false
	}
	s.busy[way] = true
	return true
}

func (s *Service) leave(way int64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.busy, way)
}

// bring makes one attempt; the next message on the same way has its turn at the next look.
func (s *Service) bring(ctx context.Context, m *store.Message) (err error) {
	defer parallel.Catch(&err)
	wait := waits[min(m.Attempts, len(waits)-1)]
	ok, err := s.store.ClaimMessage(ctx, m, s.now().UTC().Add(wait+attemptLimit))
	if err != nil || !ok {
		return err
	}
	limited, cancel := context.WithTimeout(ctx, attemptLimit)
	defer cancel()
	said, failed := s.carrier(m).Carry(limited, m)
	if ctx.Err() != nil {
		return nil // the server ends; it is tried again as claimed
	}
	to := store.Sent
	if failed != nil {
		if said == "" {
			said = failed.Error()
		}
		to = store.Waiting
		if errors.Is(failed, ErrFinal) || m.Attempts > len(waits) {
			to = store.GivenUp
		}
	}
	return s.store.EndAttempt(ctx, m.ID, to, names.Cut(names.Text(said), mostSaid), s.mail.Keeps())
}

// mostSaid is how much is kept of what came of an attempt, bytes.
const mostSaid = 400

func (s *Service) carrier(m *store.Message) Carrier {
	if m.Webhook != 0 {
		return s.webhooks
	}
	return s.mail
}

// Message is a message as the team sees it.
type Message struct {
	ID       int64              `json:"id"`
	Webhook  int64              `json:"webhook" doc:"0: mail"`
	Address  string             `json:"address"`
	Subject  string             `json:"subject"`
	Body     string             `json:"body" doc:"Empty once it was sent, where it held a link that lets somebody in"`
	State    store.MessageState `json:"state" enum:"waiting,sent,given up"`
	Attempts int                `json:"attempts"`
	Due      *time.Time         `json:"due" doc:"Of the next attempt"`
	Said     string             `json:"said" doc:"What came of the last attempt"`
	Created  time.Time          `json:"created"`
	Ended    *time.Time         `json:"ended"`
}

func shown(m *store.Message) Message {
	out := Message{m.ID, m.Webhook, m.Address, m.Subject, m.Body, m.State, m.Attempts, nil, m.Said, m.Created, m.Ended}
	if m.State == store.Waiting {
		out.Due = &m.Due
	}
	return out
}

// Wanted chooses messages of a project.
type Wanted struct {
	Webhook int64
	State   store.MessageState
	Before  int64
}

// Page is a page of messages.
type Page struct {
	Messages []Message `json:"messages" nullable:"false" doc:"The newest first"`
	Before   int64     `json:"before" doc:"To be asked with for those that came earlier; 0: there are none"`
	// Simulated says that mail goes nowhere but here.
	Simulated bool `json:"simulated" doc:"Mail goes no further than this page"`
}

// pageSize is how many messages a page has.
const pageSize = 50

// List lists mail of a project, or what a webhook of it was sent.
func (s *Service) List(ctx context.Context, who identity.Actor, project int64, w Wanted) (Page, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return Page{}, err
	}
	rows, err := s.store.Messages(ctx, store.MessagesWanted{Project: project, Webhook: w.Webhook, State: w.State, Before: w.Before, Most: pageSize + 1})
	out := Page{Messages: []Message{}, Simulated: s.mail.Keeps()}
	if len(rows) > pageSize {
		rows = rows[:pageSize]
		out.Before = rows[pageSize-1].ID
	}
	for i := range rows {
		out.Messages = append(out.Messages, shown(&rows[i]))
	}
	return out, err
}

// Retry has a message be tried again at once.
func (s *Service) Retry(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.EditProject, identity.MessageKind, id); err != nil {
		return err
	}
	m, err := s.store.Message(ctx, id)
	if err != nil {
		return err
	}
	if m.State == store.Sent {
		return fmt.Errorf("it was sent already: %w", fault.ErrState)
	}
	return s.store.RetryMessage(ctx, id)
}
