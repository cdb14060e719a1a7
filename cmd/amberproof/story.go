package main

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"amberproof/demo"
	"amberproof/internal/app"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/runs"
	"amberproof/internal/ticket"
)

// storyEvery is how often it is looked whether a small picture of the demo is there.
const storyEvery = 2 * time.Second

// makeRounds makes the rounds of the demo; what is up in them comes with its pictures.
func makeRounds(ctx context.Context, a *app.App, project int64) error {
	lead, reviewer, err := judges(ctx, a, project)
	if err != nil {
		return err
	}
	b, err := a.Review.Board(ctx, lead, project)
	if err != nil || len(b.Rounds) > 0 {
		return err // made already, at a first start that was cut off
	}
	for _, r := range demo.Rounds {
		due := time.Now().UTC().AddDate(0, 0, r.Days).Format("2006-01-02")
		terms := review.Terms{Kind: round.Kind(r.Kind), Title: r.Title, Due: due, Needs: r.Needs, Note: r.Note, Asked: []int64{reviewer.ID}}
		if _, err := a.Review.Make(ctx, lead, project, terms); err != nil {
			return err
		}
	}
	return nil
}

// judges are who puts up and who answers in the demo.
func judges(ctx context.Context, a *app.App, project int64) (lead, reviewer identity.Actor, err error) {
	people, err := a.Projects.People(ctx, identity.Local, project)
	for _, p := range people {
		who, e := a.Accounts.For(ctx, p.ID)
		switch err = errors.Join(err, e); {
		case p.Role == identity.Lead && lead.ID == 0:
			lead = who
		case p.Role == identity.Reviewer && reviewer.ID == 0:
			reviewer = who
		}
	}
	if err == nil && (lead.ID == 0 || reviewer.ID == 0) {
		err = errors.New("the demo's project has lost its lead or its reviewer")
	}
	return lead, reviewer, err
}

// tellStory puts up in the rounds of the demo what they show, as its small pictures are
// there, and answers to it. It ends with the last of them, or with ctx. Whatever is no longer
// as the demo made it is left to those who changed it.
func tellStory(ctx context.Context, a *app.App, project int64) error {
	lead, reviewer, err := judges(ctx, a, project)
	if err != nil || project == 0 {
		return nil // there is no demo, or they are somebody else's people by now
	}
	for ctx.Err() == nil {
		left, err := tellMore(ctx, a, project, lead, reviewer)
		if err != nil || left == 0 {
			return err
		}
		select {
		case <-ctx.Done():
		case <-time.After(storyEvery):
		}
	}
	return nil
}

// tellMore puts up what is there, and tells of how many pictures there is still hope.
func tellMore(ctx context.Context, a *app.App, project int64, lead, reviewer identity.Actor) (left int, err error) {
	b, err := a.Review.Board(ctx, lead, project)
	if err != nil {
		return 0, err
	}
	page, err := a.Runs.List(ctx, lead, runs.Wanted{})
	if err != nil {
		return 0, err
	}
	for _, told := range demo.Rounds {
		i := slices.IndexFunc(b.Rounds, func(r review.Round) bool { return r.Title == told.Title })
		if i < 0 {
			continue
		}
		for _, p := range told.Proofs {
			is := func(r runs.Run) bool { return r.Background && r.View == p.View && r.Surface == p.Surface }
			done := slices.IndexFunc(page.Runs, func(r runs.Run) bool { return is(r) && r.State == ticket.Done })
			hope := slices.ContainsFunc(page.Runs, func(r runs.Run) bool { return is(r) && (r.State == ticket.Queued || r.State.Going()) })
			up := slices.IndexFunc(b.Rounds[i].Proofs, func(q review.Proof) bool { return q.View == p.View })
			switch {
			case up >= 0:
				// The process may have died before the answer.
				if q := &b.Rounds[i].Proofs[up]; done >= 0 && q.Run == page.Runs[done].ID && len(q.Answers) == 0 {
					if err := tellAnswer(ctx, a, &b.Rounds[i], q, &p, reviewer); err != nil {
						return 0, err
					}
				}
			case done >= 0:
				if err := tellProof(ctx, a, &b.Rounds[i], page.Runs[done].ID, &p, lead, reviewer); err != nil {
					return 0, err
				}
			case hope:
				left++
			}
		}
	}
	return left, nil
}

// tellProof puts a picture up, and has the reviewer answer.
func tellProof(ctx context.Context, a *app.App, r *review.Round, run int64, p *demo.RoundProof, lead, reviewer identity.Actor) error {
	up, err := a.Review.PutUp(ctx, lead, r.ID, review.ToPutUp{Run: run, Passes: []string{"beauty.denoised"}})
	if err != nil {
		return err
	}
	return tellAnswer(ctx, a, r, &up.Proofs[len(up.Proofs)-1], p, reviewer)
}

// tellAnswer has the reviewer remark on a proof and answer to it, where the demo says what. Told
// again after the process has died between the two, the remark is taken for a second click.
func tellAnswer(ctx context.Context, a *app.App, r *review.Round, q *review.Proof, p *demo.RoundProof, reviewer identity.Actor) error {
	if p.Verdict == "" {
		return nil
	}
	if p.Remark != "" {
		at, err := spotOn(ctx, a, q.ID, p.Part, reviewer)
		if err != nil {
			return err
		}
		mark := round.Mark{Kind: round.Spot, Points: [][2]float64{at}}
		if _, err := a.Review.Remark(ctx, reviewer, q.ID, review.ToRemark{Mark: mark, Words: p.Remark, Part: p.Part}); err != nil {
			return err
		}
	}
	_, err := a.Review.Answer(ctx, reviewer, r.ID, review.Said{
		Verdict: round.Verdict(p.Verdict), Words: p.Words, Proofs: []review.SeenProof{{ID: q.ID, SHA256: q.SHA256}},
	})
	return err
}

// spotOn finds where a part is seen in a proof; the middle of the frame where it is nowhere.
func spotOn(ctx context.Context, a *app.App, proof int64, part string, who identity.Actor) ([2]float64, error) {
	all, err := a.Review.Parts(ctx, who, proof)
	for _, p := range all {
		if p.Part == part {
			return [2]float64{p.X, p.Y}, err
		}
	}
	return [2]float64{0.5, 0.5}, err
}

// glance has a small picture of each job rendered, finished and in clay, when nothing else is to
// be done: what is put up in rounds first, and of each job the finished one last so that lists
// show it.
func glance(ctx context.Context, a *app.App, all []jobs.Line) error {
	type picture struct {
		job   int64
		look  func(*ticket.Ticket)
		place int
	}
	var pictures []picture
	seen := map[[2]string]bool{}
	add := func(j *jobs.Line, surface string, look func(*ticket.Ticket)) {
		place, of := demo.PlaceInRounds(j.View, surface), [2]string{j.View, surface}
		if seen[of] { // two jobs show the same: the first is put up
			place = len(demo.Rounds)
		}
		seen[of] = true
		pictures = append(pictures, picture{j.ID, look, place})
	}
	for i := range all {
		add(&all[i], "clay", demo.GlanceInClay)
		if all[i].Surface != "clay" {
			add(&all[i], "own", demo.Glance)
		}
	}
	slices.SortStableFunc(pictures, func(a, b picture) int { return cmp.Compare(a.place, b.place) })
	for _, p := range pictures {
		if _, err := a.Runs.StartBackground(ctx, identity.Local, p.job, p.look); err != nil {
			return err
		}
	}
	return nil
}
