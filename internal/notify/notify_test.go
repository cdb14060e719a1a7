package notify_test

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"testing"
	"time"

	"amberproof/internal/accounts"
	"amberproof/internal/app"
	"amberproof/internal/guests"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/notify"
	"amberproof/internal/outbox"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// house is a project with a round, its lead, a TD, and two who are asked; all can be reached.
type house struct {
	*app.App
	st            *store.Store
	job           jobs.Job
	lead, td, ann identity.Actor
	bo            identity.Actor
	round         review.Round
	proofs        int
	project       string
}

func must[T any](v T, err error) func(t *testing.T) T {
	return func(t *testing.T) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

func open(t *testing.T) *house {
	t.Helper()
	st := testkit.Store(t)
	h := &house{st: st}
	h.App, h.job = testkit.AppAt(t, st, t.TempDir())
	h.lead = must(h.Accounts.For(ctx, 1))(t)
	for name, to := range map[string]*identity.Actor{"Tess": &h.td, "Ann": &h.ann, "Bo": &h.bo} {
		role := identity.Reviewer
		if name == "Tess" {
			role = identity.TD
		}
		p := must(h.Projects.Join(ctx, h.lead, h.job.Project, name, role))(t)
		*to = must(h.Accounts.For(ctx, p.ID))(t)
	}
	h.lead = must(h.Accounts.For(ctx, 1))(t)
	for _, who := range []identity.Actor{h.lead, h.td, h.ann, h.bo} {
		m := accounts.Mail{Address: strings.ToLower(who.Name) + "@studio.example", Wants: identity.Wants}
		if err := h.Accounts.SetMail(ctx, who, m); err != nil {
			t.Fatal(err)
		}
	}
	h.round = must(h.Review.Make(ctx, h.lead, h.job.Project, review.Terms{Kind: round.Clay, Title: "Shape", Asked: []int64{h.ann.ID, h.bo.ID}}))(t)
	h.project = must(st.Project(ctx, h.job.Project))(t).Name
	h.tell(t, 0)
	return h
}

// putUp puts up a proof without a picture.
func (h *house) putUp(t *testing.T, view string) *store.Proof {
	t.Helper()
	h.proofs++
	p := &store.Proof{Scene: "s", View: view, SHA256: fmt.Sprintf("%064d", h.proofs), Passes: []store.ProofPass{}, Maker: h.td.ID}
	err := h.st.InRound(ctx, store.Person{ID: h.td.ID, Name: h.td.Name}, h.round.ID, func(*store.RoundWhole) (store.RoundChange, error) {
		return store.RoundChange{Proof: p}, nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func (h *house) answer(t *testing.T, who identity.Actor, p *store.Proof, v round.Verdict, words string) {
	t.Helper()
	said := review.Said{Verdict: v, Words: words, Proofs: []review.SeenProof{{ID: p.ID, SHA256: p.SHA256}}}
	if _, err := h.Review.Answer(ctx, who, h.round.ID, said); err != nil {
		t.Fatal(err)
	}
}

// tell tells what there is, some time later, and gives all mail by who gets it.
func (h *house) tell(t *testing.T, later time.Duration) map[string][]outbox.Message {
	t.Helper()
	notify.Later(h.Notify, later)
	if err := notify.Once(ctx, h.Notify); err != nil {
		t.Fatal(err)
	}
	page := must(h.Outbox.List(ctx, h.lead, h.job.Project, outbox.Wanted{}))(t)
	out := map[string][]outbox.Message{}
	for _, m := range page.Messages {
		name, _, _ := strings.Cut(m.Address, "@")
		out[name] = append(out[name], m)
	}
	return out
}

func TestWhoIsAskedGetsOneMail(t *testing.T) {
	h := open(t)
	h.putUp(t, "Front")
	second := h.putUp(t, "Detail")
	if got := h.tell(t, -time.Second); len(got) != 0 {
		t.Errorf("mail goes before news are gathered: %v", got)
	}
	h.answer(t, h.bo, second, round.Approved, "") // before he was told
	got := h.tell(t, time.Minute)
	if len(got["ann"]) != 1 || got["ann"][0].Subject != h.project+": 2 pictures wait for your answer" {
		t.Errorf("Ann: %+v", got["ann"])
	}
	for _, want := range []string{
		"Hello Ann,", "Round 1, Shape", "Tess put up Front, proof 1", "Tess put up Detail, proof 2", fmt.Sprintf("/rounds/%d", h.round.ID)} {
		if !strings.Contains(got["ann"][0].Body, want) {
			t.Errorf("%q is not in %q", want, got["ann"][0].Body)
		}
	}
	if len(got["bo"]) != 1 || strings.Contains(got["bo"][0].Body, "Detail") {
		t.Errorf("Bo has answered to Detail: %+v", got["bo"])
	}
	if again := h.tell(t, time.Hour); len(again["ann"]) != 1 || len(again["bo"]) != 1 {
		t.Error("it is told twice")
	}
}

func TestAnswersAndRemarksReachThoseTheyConcern(t *testing.T) {
	h := open(t)
	p := h.putUp(t, "Front")
	h.tell(t, time.Minute)
	if err := h.Accounts.SetMail(ctx, h.lead, accounts.Mail{Address: "lead@studio.example", Wants: []string{identity.Runs}}); err != nil {
		t.Fatal(err)
	}
	h.answer(t, h.ann, p, round.Changes, "The handle is too thin.")
	got := h.tell(t, time.Minute)
	tess := got["tess"]
	if len(tess) != 1 ||
		!strings.Contains(tess[0].Body, "Ann said of Front, proof 1: changes asked.") || !strings.Contains(tess[0].Body, "The handle is too thin.") {
		t.Errorf("who put it up: %+v", tess)
	}
	if len(got["lead"]) != 0 {
		t.Errorf("who does not want that: %+v", got["lead"])
	}
	r := store.Remark{Project: h.job.Project, Proof: p.ID, Mark: round.Mark{Kind: round.Spot, Points: [][2]float64{{0, 0}}}, Maker: h.ann.ID,
		Lines: []store.RemarkLine{{Person: h.ann.ID, Name: "Ann", Words: "What does @Bo think?"}}}
	id, _, err := h.st.AddRemark(ctx, r, 10)
	if err != nil {
		t.Fatal(err)
	}
	if got = h.tell(t, time.Minute); len(got["bo"]) != 2 || !strings.Contains(got["bo"][0].Body, "Ann remarked on Front, proof 1 (remark 1).") {
		t.Errorf("who is named: %+v", got["bo"])
	}
	if err := h.st.InRemark(ctx, id, func(*store.Remark) (*store.RemarkLine, error) {
		return &store.RemarkLine{Person: h.bo.ID, Name: "Bo", Words: "Fine.", State: round.Done}, nil
	}); err != nil {
		t.Fatal(err)
	}
	if got = h.tell(t, time.Minute); len(got["ann"]) != 2 || !strings.Contains(got["ann"][0].Body, "Bo set a remark on Front, proof 1 to done (remark 1).") {
		t.Errorf("who made it: %+v", got["ann"])
	}
}

func TestWhoHasLeftIsNotTold(t *testing.T) {
	h := open(t)
	h.putUp(t, "Front")
	h.tell(t, -time.Second)
	if err := h.Projects.Leave(ctx, h.lead, h.job.Project, h.ann.ID); err != nil {
		t.Fatal(err)
	}
	if got := h.tell(t, time.Minute); len(got["ann"]) != 0 || len(got["bo"]) != 1 {
		t.Errorf("%v", got)
	}
}

func TestWebhooksAreToldOnce(t *testing.T) {
	h := open(t)
	all := must(h.Outbox.AddWebhook(ctx, h.lead, h.job.Project, outbox.WebhookTerms{URL: "http://127.0.0.1:1/", Kinds: store.EventKinds}))(t)
	answers := []store.EventKind{store.ProofAnswered}
	some := must(h.Outbox.AddWebhook(ctx, h.lead, h.job.Project, outbox.WebhookTerms{URL: "http://127.0.0.1:1/", Kinds: answers}))(t)
	p := h.putUp(t, "Front")
	h.answer(t, h.ann, p, round.Approved, "")
	h.answer(t, h.bo, p, round.WithRemarks, "Watch the rim.")
	events := must(h.st.Untold(ctx, 100))(t)
	if len(events) != 3 {
		t.Fatalf("%d events", len(events))
	}
	h.tell(t, 0)
	// The process dies behind each step and tells again what it has told.
	for _, e := range events {
		m := store.Message{Project: e.Project, Webhook: all.ID, Event: e.ID}
		if err := h.st.Tell(ctx, e.ID, []store.Message{m}, []int64{h.ann.ID}); err != nil {
			t.Fatal(err)
		}
	}
	page := must(h.Outbox.List(ctx, h.lead, h.job.Project, outbox.Wanted{Webhook: all.ID}))(t)
	if len(page.Messages) != 3 {
		t.Fatalf("%d messages", len(page.Messages))
	}
	var d notify.Document
	if err := json.Unmarshal([]byte(page.Messages[0].Body), &d); err != nil {
		t.Fatal(err)
	}
	if d.Version != 1 || d.Kind != store.ProofAnswered || d.By.Name != "Bo" || d.State != string(round.WithRemarks) || d.Words != "Watch the rim." ||
		d.Round.Verdict != round.WithRemarks || d.Proof.View != "Front" || d.Proof.SHA256 != p.SHA256 || d.Run != nil || d.Remark != nil {
		t.Errorf("%+v", d)
	}
	if page = must(h.Outbox.List(ctx, h.lead, h.job.Project, outbox.Wanted{Webhook: some.ID}))(t); len(page.Messages) != 2 {
		t.Errorf("%d messages for who is told of answers only", len(page.Messages))
	}
}

// What an event happened to may be gone when it is told.
func TestWhatIsGoneIsToldAsGone(t *testing.T) {
	h := open(t)
	hook := must(h.Outbox.AddWebhook(ctx, h.lead, h.job.Project, outbox.WebhookTerms{URL: "http://127.0.0.1:1/", Kinds: store.EventKinds}))(t)
	r := must(h.Review.Make(ctx, h.lead, h.job.Project, review.Terms{Kind: round.Light, Title: "Light"}))(t)
	if err := h.Review.Remove(ctx, h.lead, r.ID); err != nil {
		t.Fatal(err)
	}
	h.tell(t, 0)
	page := must(h.Outbox.List(ctx, h.lead, h.job.Project, outbox.Wanted{Webhook: hook.ID}))(t)
	var kinds []string
	for _, m := range page.Messages {
		kinds = append(kinds, m.Subject)
		if !strings.Contains(m.Body, `"round":null`) {
			t.Errorf("%s", m.Body)
		}
	}
	if !slices.Equal(kinds, []string{"round.removed", "round.made"}) {
		t.Errorf("%v", kinds)
	}
}

// An event that cannot be told is given up in the end; what comes after it does not wait for it.
func TestWhatCannotBeToldIsGivenUp(t *testing.T) {
	h := open(t)
	h.tell(t, 0)
	must(h.Outbox.AddWebhook(ctx, h.lead, h.job.Project, outbox.WebhookTerms{URL: "http://127.0.0.1:1/", Kinds: store.EventKinds}))(t)
	broken := notify.New(notify.Options{Store: h.st, Log: slog.New(slog.DiscardHandler)}) // it panics where it looks at a round
	must(h.Review.Make(ctx, h.lead, h.job.Project, review.Terms{Kind: round.Light, Title: "Light"}))(t)
	untold := func() int { return len(must(h.st.Untold(ctx, 10))(t)) }
	for range 2 {
		if err := notify.Once(ctx, broken); err == nil || untold() != 1 {
			t.Fatalf("%d events wait: %v", untold(), err)
		}
	}
	notify.Later(broken, 2*time.Hour)
	if err := notify.Once(ctx, broken); err == nil || !strings.Contains(err.Error(), "given up") || untold() != 0 {
		t.Errorf("%d events wait: %v", untold(), err)
	}
	if err := notify.Once(ctx, h.Notify); err != nil {
		t.Error(err)
	}
}

func TestRunsAreTold(t *testing.T) {
	h := open(t)
	hook := must(h.Outbox.AddWebhook(ctx, h.lead, h.job.Project, outbox.WebhookTerms{URL: "http://127.0.0.1:1/", Kinds: store.EventKinds}))(t)
	run := must(h.Runs.Start(ctx, h.td, h.job.ID, h.job.Version))(t)
	if _, ok, err := h.st.NextRun(ctx); !ok || err != nil {
		t.Fatal(ok, err)
	}
	if err := h.st.Move(ctx, run.ID, ticket.Failed, "the disk is full", ticket.Running); err != nil {
		t.Fatal(err)
	}
	got := h.tell(t, time.Minute)
	if len(got["tess"]) != 1 || !strings.Contains(got["tess"][0].Body, "is failed. the disk is full") || len(got["lead"]) != 0 {
		t.Errorf("%v", got)
	}
	page := must(h.Outbox.List(ctx, h.lead, h.job.Project, outbox.Wanted{Webhook: hook.ID}))(t)
	var states []string
	for _, m := range slices.Backward(page.Messages) {
		var d notify.Document
		if err := json.Unmarshal([]byte(m.Body), &d); err != nil {
			t.Fatal(err)
		}
		states = append(states, string(d.Kind)+" "+d.State)
	}
	if !slices.Equal(states, []string{"run.queued queued", "run.started running", "run.ended failed"}) {
		t.Errorf("%v", states)
	}
}

func TestPagesHearOfRounds(t *testing.T) {
	h := open(t)
	stranger := identity.Actor{ID: 99, Roles: map[int64]identity.Role{h.job.Project + 1: identity.Lead}}
	mine, theirs := must(h.Notify.Listen(h.ann))(t), must(h.Notify.Listen(stranger))(t)
	defer mine.Close()
	defer theirs.Close()
	h.putUp(t, "Front")
	h.tell(t, 0)
	if got := mine.Take(); len(got) != 1 || got[0] != (notify.News{Project: h.job.Project, Round: h.round.ID}) {
		t.Errorf("%v", got)
	}
	if got := theirs.Take(); len(got) != 0 {
		t.Errorf("people of another project hear of it: %v", got)
	}
}

func TestALinkIsSentByMail(t *testing.T) {
	h := open(t)
	terms := guests.Terms{Person: h.ann.ID, Days: 7, Phrase: "under the bridge", Originals: guests.NoOriginals, Mail: "de"}
	l := must(h.Guests.Make(ctx, h.lead, h.round.ID, terms))(t)
	ann := h.tell(t, 0)["ann"]
	if len(ann) != 1 || !strings.Contains(ann[0].Body, "/look#"+l.Token) ||
		!strings.Contains(ann[0].Body, "Kennwort") || strings.Contains(ann[0].Body, "bridge") {
		t.Errorf("%+v", ann)
	}
	if err := h.Accounts.SetMail(ctx, h.ann, accounts.Mail{}); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Guests.Make(ctx, h.lead, h.round.ID, guests.Terms{Person: h.ann.ID, Days: 7, Originals: guests.NoOriginals, Mail: "en"}); err == nil {
		t.Error("a link is sent to nowhere")
	}
	if all := must(h.Guests.List(ctx, h.lead, h.round.ID))(t); len(all) != 1 {
		t.Errorf("%d links: one that could not be sent stays", len(all))
	}
}

// A mail of several things names an answer in its subject before anything else.
func TestTheSubjectOfSeveralThings(t *testing.T) {
	h := open(t)
	p := h.putUp(t, "Front")
	h.tell(t, time.Minute)
	r := store.Remark{Project: h.job.Project, Proof: p.ID, Mark: round.Mark{Kind: round.Spot, Points: [][2]float64{{0, 0}}}, Maker: h.ann.ID,
		Lines: []store.RemarkLine{{Person: h.ann.ID, Name: "Ann", Words: "Thicker."}}}
	if _, _, err := h.st.AddRemark(ctx, r, 10); err != nil {
		t.Fatal(err)
	}
	h.answer(t, h.ann, p, round.Changes, "See the remark.")
	tess := h.tell(t, time.Minute)["tess"]
	if want := h.project + ": Ann said of Front, proof 1: changes asked, and 1 more"; len(tess) != 1 || tess[0].Subject != want {
		t.Errorf("%+v", tess)
	}
}
