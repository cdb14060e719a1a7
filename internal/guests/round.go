package guests

import (
	"context"
	"fmt"
	"slices"

	"amberproof/internal/fault"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/store"
)

// Round is a round as a guest sees it: what is up now, and nothing of how it was made.
type Round struct {
	Project   string        `json:"project"`
	Number    int           `json:"number"`
	Kind      round.Kind    `json:"kind" enum:"clay,light,finish,final,other"`
	Title     string        `json:"title"`
	Due       string        `json:"due" doc:"A day; empty for none"`
	Note      string        `json:"note" doc:"What the team says about the round"`
	Verdict   round.Verdict `json:"verdict" enum:"approved,approved with remarks,changes asked,waiting,nothing put up"`
	Name      string        `json:"name" doc:"That the guest gave"`
	Asked     bool          `json:"asked" doc:"The guest is to answer"`
	Originals bool          `json:"originals" doc:"Pictures can be fetched whole"`
	Pictures  []Picture     `json:"pictures" nullable:"false"`
}

// Picture is what is up of a view.
type Picture struct {
	ID      int64             `json:"id"`
	View    string            `json:"view"`
	SHA256  string            `json:"sha256"`
	Passes  []store.ProofPass `json:"passes" nullable:"false"`
	Width   int               `json:"width" doc:"Of the frame, pixels"`
	Height  int               `json:"height"`
	Area    [4]int            `json:"area" nullable:"false" doc:"Of the frame that was computed: left, top, right, bottom in pixels"`
	Verdict round.Verdict     `json:"verdict" enum:"approved,approved with remarks,changes asked,waiting"`
	Mine    *review.Answered  `json:"mine" doc:"What was answered last by the one whom the link is for"`
	Before  *Before           `json:"before" doc:"The same view as it was put up before; null where this is the first"`
}

// Before is an earlier picture of a view.
type Before struct {
	ID     int64  `json:"id"`
	Round  int    `json:"round" doc:"Its number"`
	SHA256 string `json:"sha256"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Area   [4]int `json:"area" nullable:"false"`
}

// Round is the round that a guest's link is for.
func (s *Service) Round(ctx context.Context, g *Guest) (Round, error) {
	r, up, err := s.review.WithBefore(ctx, g.actor, g.link.Round)
	if err != nil {
		return Round{}, err
	}
	p, err := s.store.Project(ctx, r.Project)
	if err != nil {
		return Round{}, err
	}
	out := Round{
		Project: p.Name, Number: r.Number, Kind: r.Kind, Title: r.Title, Due: r.Due, Note: r.Note, Verdict: r.Verdict, Name: g.actor.Name,
		Asked:     slices.ContainsFunc(r.Asked, func(a review.Asked) bool { return a.ID == g.actor.ID }),
		Originals: g.link.Originals != NoOriginals, Pictures: []Picture{},
	}
	for i := range up {
		q := &up[i]
		v := Picture{
			ID: q.ID, View: q.View, SHA256: q.SHA256, Passes: q.Passes, Width: q.Width, Height: q.Height, Area: q.Area, Verdict: q.Verdict,
		}
		for k := range q.Answers {
			if q.Answers[k].Person == g.actor.ID {
				v.Mine = &q.Answers[k]
			}
		}
		if old := q.Before; old != nil {
			v.Before = &Before{old.ID, q.Round, old.SHA256, old.Width, old.Height, old.Area}
		}
		out.Pictures = append(out.Pictures, v)
	}
	return out, nil
}

// reaches refuses proofs that are not the guest's business: all but what is up in their round,
// and what was before it of the same view. now refuses the latter, too.
func (s *Service) reaches(ctx context.Context, g *Guest, proof int64, now bool) error {
	_, up, err := s.review.WithBefore(ctx, g.actor, g.link.Round)
	if err != nil {
		return err
	}
	for i := range up {
		if q := &up[i]; q.ID == proof || !now && q.Before != nil && q.Before.ID == proof {
			return nil
		}
	}
	return fmt.Errorf("picture %d: %w", proof, fault.ErrNotFound)
}

// Picture is a picture as JPEG, so large as asked.
func (s *Service) Picture(ctx context.Context, g *Guest, proof int64, pass string, side int) ([]byte, error) {
	if err := s.reaches(ctx, g, proof, false); err != nil {
		return nil, err
	}
	return s.review.Picture(ctx, g.actor, proof, review.Seen{Pass: pass, Side: side, JPEG: true})
}

// Original is a picture whole, as PNG, where the link allows that.
func (s *Service) Original(ctx context.Context, g *Guest, proof int64, pass string) ([]byte, error) {
	if g.link.Originals == NoOriginals {
		return nil, fmt.Errorf("%w: this link is for looking only", fault.ErrForbidden)
	}
	if err := s.reaches(ctx, g, proof, true); err != nil {
		return nil, err
	}
	seen := review.Seen{Pass: pass}
	if g.link.Originals == MarkedOriginals {
		seen.Mark = fmt.Sprintf("%s · %s", g.actor.Name, s.now().UTC().Format("2 January 2006"))
	}
	return s.review.Picture(ctx, g.actor, proof, seen)
}

// remarks are those that are meant for guests: made by those who are asked. What the team notes
// for itself stays with the team.
func (s *Service) remarks(ctx context.Context, g *Guest, proof int64) ([]review.Remark, error) {
	all, err := s.review.Remarks(ctx, g.actor, proof)
	return slices.DeleteFunc(all, func(r review.Remark) bool { return !r.Shared }), err
}

// Remarks are those on a picture that are meant for guests.
func (s *Service) Remarks(ctx context.Context, g *Guest, proof int64) ([]review.Remark, error) {
	if err := s.reaches(ctx, g, proof, true); err != nil {
		return nil, err
	}
	return s.remarks(ctx, g, proof)
}

// Remark makes a remark on a picture.
func (s *Service) Remark(ctx context.Context, g *Guest, proof int64, w review.ToRemark) ([]review.Remark, error) {
	if err := s.reaches(ctx, g, proof, true); err != nil {
		return nil, err
	}
	if _, err := s.review.Remark(ctx, g.actor, proof, w); err != nil {
		return nil, err
	}
	return s.remarks(ctx, g, proof)
}

// SayIn adds to what is said in a remark that is seen in a picture.
func (s *Service) SayIn(ctx context.Context, g *Guest, remark int64, say review.Say) ([]review.Remark, error) {
	all, err := s.Remarks(ctx, g, say.In)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(all, func(r review.Remark) bool { return r.ID == remark }) {
		return nil, fmt.Errorf("remark %d: %w", remark, fault.ErrNotFound)
	}
	if _, err := s.review.SayIn(ctx, g.actor, remark, say); err != nil {
		return nil, err
	}
	return s.remarks(ctx, g, say.In)
}

// Answer is what a guest says to pictures of the round, as they were seen.
func (s *Service) Answer(ctx context.Context, g *Guest, said review.Said) (Round, error) {
	if _, err := s.review.Answer(ctx, g.actor, g.link.Round, said); err != nil {
		return Round{}, err
	}
	return s.Round(ctx, g)
}
