package review_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// house is an app with a project of people, a job and a folder.
type house struct {
	*app.App
	st                 *store.Store
	dir                string
	job                jobs.Job
	lead, td, ann, bob identity.Actor // ann and bob are reviewers
	outside            identity.Actor
}

func open(t *testing.T) *house {
	t.Helper()
	h := &house{st: testkit.Store(t), dir: t.TempDir()}
	h.App, h.job = testkit.AppAt(t, h.st, h.dir)
	testkit.Work(t, h.App)
	for name, role := range map[string]identity.Role{"Tam": identity.TD, "Ann": identity.Reviewer, "Bob": identity.Reviewer} {
		if _, err := h.Projects.Join(ctx, identity.Local, h.job.Project, name, role); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := h.st.EnsurePerson(ctx, "Outside"); err != nil {
		t.Fatal(err)
	}
	all, err := h.st.Actors(ctx, 0)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range all {
		for name, at := range map[string]*identity.Actor{"Lead": &h.lead, "Tam": &h.td, "Ann": &h.ann, "Bob": &h.bob, "Outside": &h.outside} {
			if a.Name == name {
				*at = a
			}
		}
	}
	return h
}

// render makes a run of the job at a change of its ticket, and waits for its end.
func (h *house) render(t *testing.T, change func(*ticket.Ticket)) int64 {
	t.Helper()
	j, err := h.Jobs.Get(ctx, h.td, h.job.ID)
	if err != nil {
		t.Fatal(err)
	}
	change(&j.Ticket)
	if j, err = h.Jobs.SaveTicket(ctx, h.td, j.ID, j.Version, j.Ticket); err != nil {
		t.Fatal(err)
	}
	r, err := h.Runs.Start(ctx, h.td, j.ID, j.Version)
	if err != nil {
		t.Fatal(err)
	}
	wait.Until(t, "the run to end", func() bool {
		d, err := h.Runs.Get(ctx, h.td, r.ID)
		return err == nil && d.Run.State == ticket.Done
	}, func() any {
		d, err := h.Runs.Get(ctx, h.td, r.ID)
		return fmt.Sprint(d.Run.State, d.Run.Samples, err)
	})
	return r.ID
}

func nothing(*ticket.Ticket) {}

// round makes the next round, in which people are asked.
func (h *house) round(t *testing.T, needs bool, asked ...identity.Actor) review.Round {
	t.Helper()
	terms := review.Terms{Kind: round.Clay, Title: "Shape", Needs: needs, Asked: []int64{}}
	for _, a := range asked {
		terms.Asked = append(terms.Asked, a.ID)
	}
	r, err := h.Review.Make(ctx, h.td, h.job.Project, terms)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func (h *house) putUp(t *testing.T, id, run int64) review.Round {
	t.Helper()
	r, err := h.Review.PutUp(ctx, h.td, id, review.ToPutUp{Run: run, Passes: []string{"beauty"}})
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// answer has somebody answer to all newest proofs of a round.
func (h *house) answer(who identity.Actor, r review.Round, v round.Verdict, words string) (review.Round, error) {
	said := review.Said{Verdict: v, Words: words}
	for _, p := range r.Proofs {
		if p.Newest {
			said.Proofs = append(said.Proofs, review.SeenProof{ID: p.ID, SHA256: p.SHA256})
		}
	}
	return h.Review.Answer(ctx, who, r.ID, said)
}

// A round from the first proof to its approval: changes are asked, a later proof is put up,
// all say yes, and nothing shifts it after.
func TestARoundToItsApproval(t *testing.T) {
	h := open(t)
	first := h.render(t, nothing)
	r := h.round(t, false, h.ann, h.bob)
	if r.Number != 1 || r.Verdict != round.Empty || len(r.Asked) != 2 || r.Asked[0].Waits != 0 {
		t.Fatalf("%+v", r)
	}
	r = h.putUp(t, r.ID, first)
	p := r.Proofs[0]
	if r.Verdict != round.Waiting || r.Asked[0].Waits != 1 || r.Asked[0].Since == nil || p.By != "Tam" || !p.Newest ||
		!strings.Contains(p.Slug, "96 × 64 px") || p.Width != 96 {
		t.Fatalf("%+v", r)
	}
	var in *fault.Input
	if _, err := h.answer(h.ann, r, round.Changes, " "); !errors.As(err, &in) {
		t.Errorf("changes without words: %v", err)
	}
	if _, err := h.answer(h.td, r, round.Approved, ""); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("who is not asked answers: %v", err)
	}
	if _, err := h.answer(h.ann, r, round.Changes, "The foot stands in the table."); err != nil {
		t.Fatal(err)
	}
	seen := r
	if r, _ = h.Review.Get(ctx, h.bob, r.ID); r.Verdict != round.Changes || r.Proofs[0].Answers[0].SHA256 != p.SHA256 {
		t.Errorf("%+v", r)
	}
	if _, err := h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: first, Passes: []string{"beauty"}}); !errors.Is(err, fault.ErrTaken) {
		t.Errorf("the very same again: %v", err)
	}
	second := h.render(t, func(t *ticket.Ticket) { t.View.Exposure = 1 })
	r = h.putUp(t, r.ID, second)
	if r.Verdict != round.Waiting || r.Proofs[0].Newest || !r.Proofs[1].Newest || r.Proofs[0].Verdict != round.Changes {
		t.Errorf("%+v", r)
	}
	if _, err := h.answer(h.bob, seen, round.Approved, ""); !errors.Is(err, fault.ErrChanged) {
		t.Errorf("an answer to what was superseded: %v", err)
	}
	// Bob leaves the project; what is agreed on by whom can be changed with him in it.
	if err := h.Projects.Leave(ctx, identity.Local, h.job.Project, h.bob.ID); err != nil {
		t.Fatal(err)
	}
	terms := review.Terms{Kind: round.Clay, Title: "Shape", Due: "2031-03-12", Note: " The bail is\n\nthicker. \n", Asked: []int64{h.ann.ID, h.bob.ID}}
	if changed, err := h.Review.Change(ctx, h.td, r.ID, r.Version, terms); err != nil || changed.Due != "2031-03-12" || changed.Note != "The bail is\n\nthicker." {
		t.Errorf("changed with somebody who has left: %+v %v", changed, err)
	}
	if _, err := h.Projects.Join(ctx, identity.Local, h.job.Project, "Bob", identity.Reviewer); err != nil {
		t.Fatal(err)
	}
	terms.Note = strings.Repeat("x", 4001)
	if _, err := h.Review.Change(ctx, h.td, r.ID, r.Version+1, terms); err == nil || !strings.Contains(err.Error(), "4000 bytes") {
		t.Errorf("a long note: %v", err)
	}
	r.Proofs = append(r.Proofs, r.Proofs[1])                    // named twice
	for _, who := range []identity.Actor{h.ann, h.bob, h.bob} { // the last one is a second click
		var err error
		if r, err = h.answer(who, r, round.WithRemarks, "Wick a little shorter."); err != nil {
			t.Fatal(err)
		}
	}
	if r.Verdict != round.WithRemarks || len(r.Proofs[1].Answers) != 2 || r.Asked[0].Waits != 0 {
		t.Errorf("%+v", r)
	}
	for what, err := range map[string]error{
		"another answer":  second2(h.answer(h.ann, r, round.Changes, "After all, no.")),
		"a later proof":   second2(h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: first, Passes: []string{"beauty"}})),
		"taken down":      h.Review.Withdraw(ctx, h.td, r.Proofs[1].ID),
		"removed":         h.Review.Remove(ctx, h.td, r.ID),
		"somebody asked":  second2(h.Review.Change(ctx, h.td, r.ID, r.Version, review.Terms{Kind: round.Clay, Title: "Shape", Asked: []int64{h.ann.ID}})),
		"begun once more": h.Review.Remove(ctx, h.td, r.ID),
	} {
		if !errors.Is(err, fault.ErrState) {
			t.Errorf("an approved round, %s: %v", what, err)
		}
	}
	// The next one says what it was asked for, and what changed.
	next := h.round(t, true, h.ann)
	if len(next.Carried) != 2 || next.Carried[0].Words != "Wick a little shorter." || next.Carried[0].Round != 1 || next.Blocked {
		t.Errorf("%+v", next)
	}
	third := h.render(t, func(t *ticket.Ticket) { t.View.Exposure = 1.5 })
	next = h.putUp(t, next.ID, third)
	c, err := h.Review.Compare(ctx, h.ann, next.Proofs[0].ID)
	if err != nil || c.Before == nil || c.Before.ID != r.Proofs[1].ID || c.Round != 1 || !slices.Equal(c.Words, []string{"Exposure 1.5 EV, was 1 EV"}) {
		t.Errorf("%+v %v", c, err)
	}
	if c, err := h.Review.Compare(ctx, h.ann, r.Proofs[0].ID); err != nil || c.Before != nil || len(c.Words) != 0 {
		t.Errorf("the first of all: %+v %v", c, err)
	}
	b, err := h.Review.Board(ctx, h.bob, h.job.Project)
	cells := []int64{r.Proofs[1].ID, next.Proofs[0].ID}
	if err != nil || len(b.Rounds) != 2 || len(b.Views) != 1 || !slices.Equal(b.Views[0].Cells, cells) || b.Next != round.Clay {
		t.Errorf("%+v %v", b, err)
	}
}

func second2[T any](_ T, err error) error { return err }

// A proof outlives its run, its job and its scene, as it was.
func TestAProofOutlivesWhatItCameOf(t *testing.T) {
	h := open(t)
	run := h.render(t, nothing)
	r := h.round(t, false, h.ann)
	r, err := h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: run, Passes: []string{"beauty", "occlusion"}})
	if err != nil {
		t.Fatal(err)
	}
	p := r.Proofs[0]
	look := func(pass string, side int) []byte {
		png, err := h.Review.Picture(ctx, h.ann, p.ID, review.Seen{Pass: pass, Side: side})
		if err != nil {
			t.Fatal(err)
		}
		return png
	}
	before := [][]byte{look("", 0), look("occlusion", 0), look("", 48)}
	live, err := h.Proofs.Open(ctx, h.td, run, 0)
	if err != nil {
		t.Fatal(err)
	}
	shown, err := h.Proofs.PNG(ctx, live, "beauty", live.Resolved.Ticket.Finish(), 0, -1)
	if err != nil {
		t.Fatal(err)
	}
	if far := apart(t, shown, before[0]); far > 1 {
		t.Errorf("what is put up differs by %d of 255 from what was seen", far)
	}
	if err := h.Runs.RemoveJob(ctx, h.td, h.job.ID, true); err != nil {
		t.Fatal(err)
	}
	if err := h.Scenes.Remove(ctx, h.td, h.job.Scene); err != nil {
		t.Fatal(err)
	}
	for i, want := range before {
		if got := [][]byte{look("", 0), look("occlusion", 0), look("", 48)}[i]; !slices.Equal(got, want) {
			t.Errorf("picture %d has changed", i)
		}
	}
	if _, err := h.answer(h.ann, r, round.Approved, ""); err != nil {
		t.Error(err)
	}
	// Who tampers with its files is found out.
	file := filepath.Join(h.dir, "proofs", p.SHA256, "1.exr")
	b, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	b[len(b)/2] ^= 1
	if err := os.WriteFile(file, b, 0o644); err != nil {
		t.Fatal(err)
	}
	// What was looked at before is at hand, and as it was.
	if _, err := h.Review.Picture(ctx, h.ann, p.ID, review.Seen{Side: 4000}); !errors.Is(err, frozen.ErrDamaged) {
		t.Error("a changed file is shown")
	}
}

// A round may need the one before approved; beginning anyway takes a reason, which is kept.
func TestARoundThatNeedsTheOneBefore(t *testing.T) {
	h := open(t)
	run := h.render(t, nothing)
	h.round(t, true, h.ann) // the first needs nothing
	r := h.round(t, true, h.ann)
	if !r.Blocked {
		t.Fatalf("%+v", r)
	}
	wish := review.ToPutUp{Run: run, Passes: []string{"beauty"}}
	if _, err := h.Review.PutUp(ctx, h.td, r.ID, wish); !errors.Is(err, fault.ErrState) {
		t.Errorf("put up before: %v", err)
	}
	var in *fault.Input
	if _, err := h.Review.Begin(ctx, h.td, r.ID, ""); !errors.As(err, &in) {
		t.Errorf("begun without a reason: %v", err)
	}
	r, err := h.Review.Begin(ctx, h.td, r.ID, "The fair is on Monday.")
	if err != nil || r.Blocked || r.Anyway != "The fair is on Monday." {
		t.Errorf("%+v %v", r, err)
	}
	h.putUp(t, r.ID, run)
}

// Ten people press at once: what is put up gets numbers of its own, one version is changed by
// one, and answers to one proof are all kept.
func TestManyAtOnce(t *testing.T) {
	h := open(t)
	run := h.render(t, nothing)
	r := h.round(t, false, h.ann, h.bob)
	var wg sync.WaitGroup
	put, changed := make([]error, 8), make([]error, 8)
	for i := range put {
		wg.Go(func() {
			_, put[i] = h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: run, Passes: []string{[]string{"beauty", "occlusion"}[i%2]}})
		})
		wg.Go(func() {
			terms := review.Terms{Kind: round.Light, Title: fmt.Sprint("T", i), Asked: []int64{h.ann.ID, h.bob.ID}}
			_, changed[i] = h.Review.Change(ctx, h.td, r.ID, r.Version, terms)
		})
	}
	wg.Wait()
	won := 0
	for i := range put {
		if put[i] != nil && !errors.Is(put[i], fault.ErrTaken) {
			t.Errorf("put up: %v", put[i])
		}
		if changed[i] == nil {
			won++
		} else if !errors.Is(changed[i], fault.ErrChanged) {
			t.Errorf("changed: %v", changed[i])
		}
	}
	if won != 1 {
		t.Errorf("%d of one version won", won)
	}
	r, err := h.Review.Get(ctx, h.td, r.ID)
	if err != nil || len(r.Proofs) < 2 {
		t.Fatalf("%d proofs, %v", len(r.Proofs), err)
	}
	for i, p := range r.Proofs {
		if p.Number != i+1 {
			t.Errorf("proof %d has number %d", i+1, p.Number)
		}
	}
	for _, who := range []identity.Actor{h.ann, h.bob} {
		for range 4 {
			wg.Go(func() {
				if _, err := h.answer(who, r, round.Approved, ""); err != nil {
					t.Error(err)
				}
			})
		}
	}
	wg.Wait()
	r, err = h.Review.Get(ctx, h.td, r.ID)
	if n := len(r.Proofs[len(r.Proofs)-1].Answers); err != nil || r.Verdict != round.Approved || n != 2 {
		t.Errorf("%s with %d answers, %v", r.Verdict, n, err)
	}
}

// What was written when the process died before it was noted goes at the next start; what is
// up stays.
func TestWhatWasNeverPutUpGoes(t *testing.T) {
	h := open(t)
	run := h.render(t, nothing)
	r := h.putUp(t, h.round(t, false, h.ann).ID, run)
	folder := filepath.Join(h.dir, "proofs")
	if err := os.Mkdir(filepath.Join(folder, strings.Repeat("ab", 32)), 0o755); err != nil {
		t.Fatal(err)
	}
	again := testkit.AppOver(t, h.st, h.dir)
	if err := again.Review.Sweep(ctx); err != nil {
		t.Fatal(err)
	}
	left, err := os.ReadDir(folder)
	if err != nil || len(left) != 1 || left[0].Name() != r.Proofs[0].SHA256 {
		t.Errorf("left are %v, %v", left, err)
	}
	if err := h.Review.Withdraw(ctx, h.td, r.Proofs[0].ID); err != nil {
		t.Fatal(err)
	}
	if err := again.Review.Sweep(ctx); err != nil {
		t.Fatal(err)
	}
	if left, err := os.ReadDir(folder); err != nil || len(left) != 0 {
		t.Errorf("left are %v, %v", left, err)
	}
}

// What is asked for wrongly is refused with a reason, and changes nothing.
func TestBadWishes(t *testing.T) {
	h := open(t)
	run := h.render(t, nothing)
	r := h.round(t, false, h.ann)
	terms := func(change func(*review.Terms)) review.Terms {
		v := review.Terms{Kind: round.Light, Title: "Light", Asked: []int64{}}
		change(&v)
		return v
	}
	for what, v := range map[string]review.Terms{
		"no title":           terms(func(v *review.Terms) { v.Title = " " }),
		"a kind of its own":  terms(func(v *review.Terms) { v.Kind = "lunch" }),
		"a day that is none": terms(func(v *review.Terms) { v.Due = "2031-02-30" }),
		"a day long ago":     terms(func(v *review.Terms) { v.Due = "0001-01-01" }),
		"a stranger":         terms(func(v *review.Terms) { v.Asked = []int64{h.outside.ID} }),
	} {
		var in *fault.Input
		if _, err := h.Review.Make(ctx, h.td, h.job.Project, v); !errors.As(err, &in) {
			t.Errorf("%s: %v", what, err)
		}
	}
	for what, w := range map[string]review.ToPutUp{
		"no pass":       {Run: run},
		"a pass twice":  {Run: run, Passes: []string{"beauty", "beauty"}},
		"too many":      {Run: run, Passes: slices.Repeat([]string{"beauty"}, 9)},
		"not there":     {Run: run, Passes: []string{"../beauty"}},
		"another frame": {Run: run, Frame: 7, Passes: []string{"beauty"}},
		"another run":   {Run: 99, Passes: []string{"beauty"}},
	} {
		if _, err := h.Review.PutUp(ctx, h.td, r.ID, w); err == nil {
			t.Errorf("%s was put up", what)
		}
	}
	if left, err := os.ReadDir(filepath.Join(h.dir, "proofs")); err != nil || len(left) != 0 {
		t.Errorf("left are %v, %v", left, err)
	}
	if _, err := h.Review.Get(ctx, h.outside, r.ID); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("a stranger sees the round: %v", err)
	}
}
