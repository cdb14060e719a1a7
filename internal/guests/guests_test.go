package guests_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg"
	"testing"

	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/guests"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// house is an app with two rounds, each with a proof of one view, and two who are asked.
type house struct {
	*app.App
	job           jobs.Job
	lead          identity.Actor
	ann, bo       int64
	first, second review.Round
}

func open(t *testing.T) *house {
	t.Helper()
	h := &house{}
	h.App, h.job = testkit.App(t)
	testkit.Work(t, h.App)
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	var err error
	h.lead, err = h.Accounts.For(ctx, 1)
	must(err)
	for name, id := range map[string]*int64{"Ann": &h.ann, "Bo": &h.bo} {
		p, err := h.Projects.Join(ctx, h.lead, h.job.Project, name, identity.Reviewer)
		must(err)
		*id = p.ID
	}
	run, err := h.Runs.Start(ctx, h.lead, h.job.ID, h.job.Version)
	must(err)
	wait.Until(t, "the run to end", func() bool {
		d, err := h.Runs.Get(ctx, h.lead, run.ID)
		return err == nil && d.Run.State == ticket.Done
	}, nil)
	for i, r := range []*review.Round{&h.first, &h.second} {
		terms := review.Terms{Kind: round.Clay, Title: fmt.Sprint("Round ", i+1), Note: fmt.Sprint("Of round ", i+1), Asked: []int64{h.ann, h.bo}}
		*r, err = h.Review.Make(ctx, h.lead, h.job.Project, terms)
		must(err)
		*r, err = h.Review.PutUp(ctx, h.lead, r.ID, review.ToPutUp{Run: run.ID, Passes: []string{"beauty", "occlusion"}[i : i+1]})
		must(err)
	}
	return h
}

func (h *house) link(t *testing.T, t0 guests.Terms) guests.Link {
	t.Helper()
	l, err := h.Guests.Make(ctx, h.lead, h.second.ID, t0)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

func (h *house) enter(t *testing.T, token, name string) *guests.Guest {
	t.Helper()
	v, err := h.Guests.Open(ctx, "here", token, "", name)
	if err != nil || v.Session == "" {
		t.Fatal(v, err)
	}
	g, err := h.Guests.Enter(ctx, v.Session)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

func signedOut(err error) bool { return errors.Is(err, fault.ErrSignedOut) }

// A guest sees what is up in the round of the link and what was before it, remarks on it and
// answers by the name they give; nothing else is there for them.
func TestAGuest(t *testing.T) {
	h := open(t)
	l := h.link(t, guests.Terms{Person: h.ann, Days: 3, Originals: guests.NoOriginals})
	g := h.enter(t, l.Token, " Ann of the client ")
	p := h.second.Proofs[0]
	r, err := h.Guests.Round(ctx, g)
	if err != nil || r.Project != "Pellwick" || r.Number != 2 || r.Note != "Of round 2" ||
		!r.Asked || r.Originals || r.Name != "Ann of the client (link of Ann)" || len(r.Pictures) != 1 ||
		r.Pictures[0].ID != p.ID || r.Pictures[0].Before == nil || r.Pictures[0].Before.ID != h.first.Proofs[0].ID || r.Pictures[0].Mine != nil {
		t.Fatalf("%+v %v", r, err)
	}
	for _, id := range []int64{p.ID, h.first.Proofs[0].ID} {
		b, err := h.Guests.Picture(ctx, g, id, "", 1600)
		if err != nil {
			t.Fatal(err)
		}
		if c, kind, err := image.DecodeConfig(bytes.NewReader(b)); err != nil || kind != "jpeg" || c.Width != 96 {
			t.Errorf("%s %v %v", kind, c, err)
		}
	}
	// What the team notes for itself is not seen; what another reviewer says is.
	spot := review.ToRemark{Mark: round.Mark{Kind: round.Spot, Points: [][2]float64{{0.5, 0.5}}}}
	for who, words := range map[int64]string{h.bo: "Too dark.", h.lead.ID: "For us: ask for more hours."} {
		a, err := h.Accounts.For(ctx, who)
		if err != nil {
			t.Fatal(err)
		}
		spot.Words = words
		if _, err := h.Review.Remark(ctx, a, p.ID, spot); err != nil {
			t.Fatal(err)
		}
	}
	spot.Words = "And too wide."
	all, err := h.Guests.Remark(ctx, g, p.ID, spot)
	if err != nil || len(all) != 2 ||
		all[1].Lines[0].Name != "Ann of the client (link of Ann)" || !all[1].Mine || all[0].Lines[0].Words == "For us: ask for more hours." {
		t.Fatalf("%+v %v", all, err)
	}
	if _, err := h.Guests.SayIn(ctx, g, all[0].ID, review.Say{Words: "I think so, too.", In: p.ID}); err != nil {
		t.Error(err)
	}
	hidden, err := h.Review.Remarks(ctx, h.lead, p.ID)
	if err != nil || len(hidden) != 3 {
		t.Fatal(hidden, err)
	}
	for _, m := range hidden {
		if !m.Shared {
			if _, err := h.Guests.SayIn(ctx, g, m.ID, review.Say{Words: "What hours?", In: p.ID}); !errors.Is(err, fault.ErrNotFound) {
				t.Errorf("a remark of the team: %v", err)
			}
		}
	}
	r, err = h.Guests.Answer(ctx, g, review.Said{Verdict: round.Changes, Words: "Brighter, please.", Proofs: []review.SeenProof{{ID: p.ID, SHA256: p.SHA256}}})
	if err != nil || r.Pictures[0].Mine == nil || r.Pictures[0].Mine.Name != "Ann of the client (link of Ann)" || r.Verdict != round.Changes {
		t.Errorf("%+v %v", r, err)
	}
	// What is not the guest's business.
	old := h.first.Proofs[0]
	for what, err := range map[string]error{
		"a proof that is not there":  second(h.Guests.Picture(ctx, g, 999, "", 0)),
		"remarks on the one before":  second(h.Guests.Remarks(ctx, g, old.ID)),
		"a remark on the one before": second(h.Guests.Remark(ctx, g, old.ID, spot)),
		"an answer to the one before": second(h.Guests.Answer(ctx, g,
			review.Said{Verdict: round.Approved, Proofs: []review.SeenProof{{ID: old.ID, SHA256: old.SHA256}}})),
		"a remark that is not there": second(h.Guests.SayIn(ctx, g, 999, review.Say{Words: "x", In: p.ID})),
		"a remark in the one before": second(h.Guests.SayIn(ctx, g, all[0].ID, review.Say{Words: "x", In: old.ID})),
		"a pass that was not put up": second(h.Guests.Picture(ctx, g, p.ID, "depth", 0)),
		"the one before, with originals": second(h.Guests.Original(ctx, h.enter(t, h.link(t,
			guests.Terms{Person: h.bo, Days: 1, Originals: "plain"}).Token, "Bo"), old.ID, "")),
	} {
		if !errors.Is(err, fault.ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := h.Guests.Original(ctx, g, p.ID, ""); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("originals that are not allowed: %v", err)
	}
	if _, err := h.Review.Get(ctx, g.Actor(), h.first.ID); err != nil {
		t.Fatal(err) // the reviewer may; the guest has no way to ask
	}
	list, err := h.Guests.List(ctx, h.lead, h.second.ID)
	if err != nil || len(list) != 2 || list[1].Token != "" || len(list[1].Visits) != 1 || list[1].Visits[0].Name != "Ann of the client" {
		t.Errorf("%+v %v", list, err)
	}
}

func second[T any](_ T, err error) error { return err }

// Tokens that were guessed, revoked or have expired open nothing, nor do pages that were open;
// a pass phrase is asked for before anything else is told.
func TestLinksEnd(t *testing.T) {
	h := open(t)
	if _, err := h.Guests.Make(ctx, h.lead, h.second.ID, guests.Terms{Person: h.lead.ID, Days: 3, Originals: "none"}); err == nil {
		t.Error("for somebody who is not asked")
	}
	for _, bad := range []guests.Terms{
		{Person: h.ann, Days: 0, Originals: "none"}, {Person: h.ann, Days: 91, Originals: "none"}, {Person: h.ann, Days: 1, Originals: "some"},
		{Person: h.ann, Days: 1, Originals: "none", Phrase: "ab"},
	} {
		var in *fault.Input
		if _, err := h.Guests.Make(ctx, h.lead, h.second.ID, bad); !errors.As(err, &in) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	l := h.link(t, guests.Terms{Person: h.ann, Days: 3, Originals: guests.MarkedOriginals, Phrase: "blue lantern"})
	v, err := h.Guests.Open(ctx, "here", l.Token, "", "Ann")
	if err != nil || !v.Phrase || v.Session != "" || v.Name != "" {
		t.Errorf("without the phrase: %+v %v", v, err)
	}
	var in *fault.Input
	if _, err := h.Guests.Open(ctx, "here", l.Token, "red lantern", "Ann"); !errors.As(err, &in) {
		t.Errorf("with another phrase: %v", err)
	}
	v, err = h.Guests.Open(ctx, "here", l.Token, " blue lantern", "")
	if err != nil || v.Session != "" || v.Name != "Ann" {
		t.Errorf("without a name: %+v %v", v, err)
	}
	v, err = h.Guests.Open(ctx, "here", l.Token, " blue lantern", "Ann")
	if err != nil || v.Session == "" {
		t.Fatalf("%+v %v", v, err)
	}
	g, err := h.Guests.Enter(ctx, v.Session)
	if err != nil || g.Actor().Name != "Ann" {
		t.Fatal(g, err)
	}
	plain, err := h.Review.Picture(ctx, h.lead, h.second.Proofs[0].ID, review.Seen{})
	if err != nil {
		t.Fatal(err)
	}
	if b, err := h.Guests.Original(ctx, g, h.second.Proofs[0].ID, ""); err != nil || bytes.Equal(b, plain) {
		t.Errorf("it has no watermark: %v", err)
	}
	for what, token := range map[string]string{"a guess": "AAAAAAAAAAAAAAAAAAAAAAAAAA", "nothing": "", "the session": v.Session, "another's case": l.Token + "A"} {
		if _, err := h.Guests.Open(ctx, what, token, "", ""); !signedOut(err) {
			t.Errorf("%s: %v", what, err)
		}
	}
	for _, session := range []string{"", l.Token, v.Session + "A"} {
		if _, err := h.Guests.Enter(ctx, session); !signedOut(err) {
			t.Errorf("entering by %q: %v", session, err)
		}
	}
	// Who has left the project has left it.
	if err := h.Projects.Leave(ctx, h.lead, h.job.Project, h.ann); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Guests.Enter(ctx, v.Session); !signedOut(err) {
		t.Errorf("having left: %v", err)
	}
	if _, err := h.Projects.Join(ctx, h.lead, h.job.Project, "Ann", identity.Reviewer); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Guests.Enter(ctx, v.Session); err != nil {
		t.Errorf("having come back: %v", err)
	}
	reviewer, err := h.Accounts.For(ctx, h.bo)
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Guests.Revoke(ctx, reviewer, l.ID); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("revoked by a reviewer: %v", err)
	}
	if err := h.Guests.Revoke(ctx, h.lead, l.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Guests.Enter(ctx, v.Session); !signedOut(err) {
		t.Errorf("a page that was open: %v", err)
	}
	if _, err := h.Guests.Open(ctx, "here", l.Token, "blue lantern", ""); !signedOut(err) {
		t.Errorf("revoked: %v", err)
	}
	// One that has expired.
	l = h.link(t, guests.Terms{Person: h.ann, Days: 3, Originals: "none"})
	v, err = h.Guests.Open(ctx, "here", l.Token, "", "Ann")
	if err != nil {
		t.Fatal(err)
	}
	guests.Later(h.Guests, 4)
	if _, err := h.Guests.Enter(ctx, v.Session); !signedOut(err) {
		t.Errorf("entering after it has expired: %v", err)
	}
	if _, err := h.Guests.Open(ctx, "here", l.Token, "", ""); !signedOut(err) {
		t.Errorf("opened after it has expired: %v", err)
	}
}

// A link that asks for much is slowed down, and no other.
func TestALinkHasAPace(t *testing.T) {
	h := open(t)
	a := h.link(t, guests.Terms{Person: h.ann, Days: 3, Originals: "none"})
	b := h.link(t, guests.Terms{Person: h.bo, Days: 3, Originals: "none"})
	one, err1 := h.Guests.Open(ctx, "here", a.Token, "", "Ann")
	other, err2 := h.Guests.Open(ctx, "here", b.Token, "", "Bo")
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	if each, atOnce := guests.Pace(h.Guests, a.ID); each != 20 || atOnce != 200 {
		t.Errorf("%v a second, %d at once", each, atOnce)
	}
	guests.Stop(h.Guests, a.ID)
	var slow *fault.Slow
	if _, err := h.Guests.Enter(ctx, one.Session); !errors.As(err, &slow) {
		t.Errorf("a link that has asked for too much: %v", err)
	}
	if _, err := h.Guests.Enter(ctx, other.Session); err != nil {
		t.Error(err)
	}
}
