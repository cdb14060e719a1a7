package notify

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// documentVersion is that of the form of what webhooks are sent.
const documentVersion = 1

// Document is what a webhook is sent: see docs/webhook.md. What the event happened to stands in
// it as it was when the event was told; null where it was gone by then.
type Document struct {
	Version int             `json:"version"`
	ID      string          `json:"id"`
	Kind    store.EventKind `json:"kind"`
	At      time.Time       `json:"at"`
	Project Named           `json:"project"`
	By      *Named          `json:"by"`
	State   string          `json:"state"`
	Words   string          `json:"words"`
	Round   *Round          `json:"round"`
	Proof   *Proof          `json:"proof"`
	Remark  *Remark         `json:"remark"`
	Run     *Run            `json:"run"`
}

// Named is something with a name.
type Named struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Round is a round in a document.
type Round struct {
	ID      int64         `json:"id"`
	Number  int           `json:"number"`
	Kind    round.Kind    `json:"kind"`
	Title   string        `json:"title"`
	Due     string        `json:"due"`
	Verdict round.Verdict `json:"verdict"`
	URL     string        `json:"url"`
}

// Proof is a proof in a document.
type Proof struct {
	ID      int64         `json:"id"`
	Number  int           `json:"number"`
	Scene   string        `json:"scene"`
	View    string        `json:"view"`
	SHA256  string        `json:"sha256"`
	Slug    string        `json:"slug"`
	Verdict round.Verdict `json:"verdict"`
	URL     string        `json:"url"`
}

// Remark is a remark in a document.
type Remark struct {
	ID     int64             `json:"id"`
	Number int               `json:"number"`
	State  round.RemarkState `json:"state"`
	Part   string            `json:"part"`
	URL    string            `json:"url"`
}

// Run is a run in a document.
type Run struct {
	ID      int64        `json:"id"`
	Number  int          `json:"number"`
	Job     Named        `json:"job"`
	State   ticket.State `json:"state"`
	Seconds float64      `json:"seconds"`
	Samples float64      `json:"samples"`
	Noise   *float64     `json:"noise"`
	URL     string       `json:"url"`
}

// about is what an event happened to, as it is now.
type about struct {
	project store.Project
	round   *review.Round
	proof   *review.Proof
	remark  *store.Remark
	run     *store.RunLine
}

// about reads what an event happened to.
func (s *Service) about(ctx context.Context, e *store.Event) (a about, err error) {
	if a.project, err = s.Store.Project(ctx, e.Project); err != nil {
		return a, err
	}
	if e.Round != 0 {
		r, err := s.Review.Get(ctx, identity.Local, e.Round)
		switch {
		case err == nil:
			a.round = &r
			if i := slices.IndexFunc(r.Proofs, func(p review.Proof) bool { return p.ID == e.Proof }); i >= 0 {
				a.proof = &r.Proofs[i]
			}
		case !gone(err):
			return a, err
		}
	}
	if e.Remark != 0 {
		r, err := s.Store.Remark(ctx, e.Remark)
		switch {
		case err == nil:
			a.remark = &r
		case !gone(err):
			return a, err
		}
	}
	if e.Run != 0 {
		r, err := s.Store.RunLine(ctx, e.Run)
		switch {
		case err == nil:
			a.run = &r
		case !gone(err):
			return a, err
		}
	}
	return a, nil
}

// document is what webhooks are told of an event.
func (s *Service) document(ctx context.Context, e *store.Event) ([]byte, error) {
	a, err := s.about(ctx, e)
	if err != nil {
		return nil, err
	}
	d := Document{
		Version: documentVersion, ID: fmt.Sprintf("evt_%d", e.ID), Kind: e.Kind, At: e.Created, Project: Named{a.project.ID, a.project.Name},
		State: e.State, Words: e.Words,
	}
	if e.By.ID != 0 {
		d.By = &Named{e.By.ID, e.By.Name}
	}
	if r := a.round; r != nil {
		d.Round = &Round{r.ID, r.Number, r.Kind, r.Title, r.Due, r.Verdict, s.roundURL(r.ID)}
	}
	if p := a.proof; p != nil {
		d.Proof = &Proof{p.ID, p.Number, p.Scene, p.View, p.SHA256, p.Slug, p.Verdict, s.proofURL(p)}
	}
	if r := a.remark; r != nil && a.proof != nil {
		d.Remark = &Remark{ID: r.ID, Number: r.Number, State: r.State, URL: s.remarkURL(a.proof, r.ID)}
		if r.Place != nil {
			d.Remark.Part = r.Place.Title
		}
	}
	if r := a.run; r != nil {
		d.Run = &Run{r.ID, r.Number, Named{r.Job, r.JobName}, r.State, r.Seconds, r.Samples, r.Noise, fmt.Sprintf("%s/runs/%d", s.Site, r.ID)}
	}
	return json.Marshal(d)
}

func (s *Service) roundURL(id int64) string { return fmt.Sprintf("%s/rounds/%d", s.Site, id) }

func (s *Service) proofURL(p *review.Proof) string {
	return fmt.Sprintf("%s?proof=%d", s.roundURL(p.Round), p.ID)
}

func (s *Service) remarkURL(p *review.Proof, id int64) string {
	return fmt.Sprintf("%s&side=remarks&remark=%d", s.proofURL(p), id)
}
