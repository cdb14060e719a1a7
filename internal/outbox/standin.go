package outbox

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// standInHost is where the stand-in for other programs is, within this one.
const standInHost = "stand-in.localhost"

// StandInURL is the address of a project's stand-in.
func StandInURL(project int64) string { return fmt.Sprintf("http://%s/%d", standInHost, project) }

// standIn plays the program that a project tells what happens: it shows what it got, whether
// that was signed as it should be, and refuses when it is asked to, so that one sees what is
// tried again.
type standIn struct {
	store *store.Store
	mu    sync.Mutex
	of    map[string]*inbox // by address
}

// inbox is what the stand-in of a project got.
type inbox struct {
	got     []Got // the newest first
	refuses int   // how many it will refuse
}

// How much the stand-in keeps of a project.
const (
	mostGot      = 20
	mostGotBytes = 64 << 10 // of one
	mostRefusals = 10
)

// Got is something that the stand-in got.
type Got struct {
	ID     string    `json:"id" doc:"Of the event: the same at each attempt"`
	At     time.Time `json:"at"`
	Body   string    `json:"body"`
	Signed bool      `json:"signed" doc:"As the specification says, by the secret of a webhook that leads here"`
	Status int       `json:"status" doc:"That it answered, as HTTP"`
}

func newStandIn(st *store.Store) *standIn { return &standIn{store: st, of: map[string]*inbox{}} }

// ServeHTTP takes something in.
func (s *standIn) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(io.LimitReader(r.Body, mostGotBytes+1))
	if err != nil || len(body) > mostGotBytes {
		w.WriteHeader(http.StatusRequestEntityTooLarge)
		return
	}
	g := Got{ID: r.Header.Get(webhooks.HeaderWebhookID), At: time.Now().UTC(), Body: string(body), Status: http.StatusNoContent}
	all, err := s.store.WebhooksTo(r.Context(), r.URL.String())
	g.Signed = err == nil && slices.ContainsFunc(all, func(h store.Webhook) bool {
		v, err := webhooks.NewWebhook(h.Secret)
		return err == nil && v.Verify(body, r.Header) == nil
	})
	s.mu.Lock()
	defer s.mu.Unlock()
	box := s.box(r.URL.String())
	switch {
	case box.refuses > 0:
		box.refuses--
		g.Status = http.StatusServiceUnavailable
	case !g.Signed:
		g.Status = http.StatusUnauthorized
	}
	box.got = slices.Insert(box.got, 0, g)[:min(len(box.got)+1, mostGot)]
	w.WriteHeader(g.Status)
}

// box is that of an address, with the lock held.
func (s *standIn) box(url string) *inbox {
	b, ok := s.of[url]
	if !ok {
		b = &inbox{}
		s.of[url] = b
	}
	return b
}

// StandIn is what the stand-in of a project shows.
type StandIn struct {
	URL     string `json:"url" doc:"Its address, for a webhook"`
	Refuses int    `json:"refuses" doc:"How many it will refuse before it takes one again"`
	Got     []Got  `json:"got" nullable:"false" doc:"The newest first, since the server was started"`
}

// StandIn tells what the stand-in of a project got.
func (s *Service) StandIn(_ context.Context, who identity.Actor, project int64) (StandIn, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return StandIn{}, err
	}
	s.standIn.mu.Lock()
	defer s.standIn.mu.Unlock()
	b := s.standIn.box(StandInURL(project))
	return StandIn{StandInURL(project), b.refuses, append([]Got{}, b.got...)}, nil
}

// Refuse has the stand-in of a project refuse as many as that.
func (s *Service) Refuse(ctx context.Context, who identity.Actor, project int64, times int) (StandIn, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return StandIn{}, err
	}
	if times < 0 || times > mostRefusals {
		return StandIn{}, fault.Bad("The stand-in refuses 0 to %d", mostRefusals)
	}
	s.standIn.mu.Lock()
	s.standIn.box(StandInURL(project)).refuses = times
	s.standIn.mu.Unlock()
	return s.StandIn(ctx, who, project)
}

// isStandIn tells whether an address is that of a stand-in, however it is written.
func isStandIn(host string) bool {
	return strings.HasSuffix(strings.TrimSuffix(strings.ToLower(host), "."), standInHost)
}
