package accounts_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"amberproof/internal/accounts"
	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/projects"
	"amberproof/internal/testkit"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

const good = "a lamp in the window"

// house is an app with a project, its lead and a reviewer.
type house struct {
	*app.App
	project  int64
	lead     identity.Actor
	reviewer projects.Person
}

func open(t *testing.T) *house {
	t.Helper()
	a, j := testkit.App(t)
	h := &house{App: a, project: j.Project}
	var err error
	if h.reviewer, err = a.Projects.Join(ctx, identity.Local, j.Project, "Bo Reviewer", identity.Reviewer); err != nil {
		t.Fatal(err)
	}
	h.lead = h.acting(t, accounts.Session{})
	return h
}

func (h *house) acting(t *testing.T, by accounts.Session) identity.Actor {
	t.Helper()
	who, err := h.Accounts.Acting(ctx, by)
	if err != nil {
		t.Fatal(err)
	}
	return who
}

// shut ends the open house with the lead's first password.
func (h *house) shut(t *testing.T) accounts.Session {
	t.Helper()
	by, err := h.Accounts.SetPassword(ctx, h.lead, "here", "", good)
	if err != nil {
		t.Fatal(err)
	}
	return by
}

func refused(err error) bool {
	var in *fault.Input
	return errors.As(err, &in)
}

// Whoever acts is told with what they are; with whom the browser may act as only while the
// house is open.
func TestMe(t *testing.T) {
	h := open(t)
	if err := h.Accounts.Rename(ctx, h.lead, "Mara"); err != nil {
		t.Fatal(err)
	}
	me, err := h.Accounts.Me(ctx, h.acting(t, accounts.Session{}))
	if err != nil || me.Name != "Mara" || !me.Open || !me.Leads || len(me.Roles) != 1 || len(me.Others) != 2 || me.Others[1].Roles[0] != identity.Reviewer {
		t.Errorf("%+v %v", me, err)
	}
	if _, err := h.Accounts.ActAs(ctx, h.lead, 99); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("acting as nobody: %v", err)
	}
	by := h.shut(t)
	if me, err = h.Accounts.Me(ctx, h.acting(t, by)); err != nil || me.Open || len(me.Others) != 0 {
		t.Errorf("%+v %v", me, err)
	}
}

// The first password is a lead's, and ends the open house: from then on people are who they
// sign in as.
func TestTheFirstPassword(t *testing.T) {
	h := open(t)
	bo := h.acting(t, accounts.Session{Person: h.reviewer.ID})
	if bo.Name != "Bo Reviewer" {
		t.Fatalf("%+v", bo)
	}
	if _, err := h.Accounts.SetPassword(ctx, bo, "here", "", good); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("a reviewer's: %v", err)
	}
	if _, err := h.Accounts.Invite(ctx, h.lead, h.project, bo.ID, false); !errors.Is(err, fault.ErrState) {
		t.Errorf("an invitation before it: %v", err)
	}
	for _, bad := range []string{"", "short", strings.Repeat("x", 11), strings.Repeat("long ", 50), "this is " + h.lead.Name + " again"} {
		if _, err := h.Accounts.SetPassword(ctx, h.lead, "here", "", bad); !refused(err) {
			t.Errorf("%.20q: %v", bad, err)
		}
	}
	if closed, err := h.Accounts.Closed(ctx); closed || err != nil {
		t.Errorf("closed: %t %v", closed, err)
	}
	by := h.shut(t)
	for what, s := range map[string]accounts.Session{
		"without a session": {}, "as in the open house": {Person: h.lead.ID}, "by another stamp": {Person: h.lead.ID, Stamp: by.Stamp + 1},
		"as somebody without a password": {Person: bo.ID, Stamp: 1}, "as nobody": {Person: 99, Stamp: 1},
	} {
		if who := h.acting(t, s); who.ID != 0 {
			t.Errorf("%s: %+v", what, who)
		}
	}
	if who := h.acting(t, by); who.ID != h.lead.ID || who.Roles[h.project] != identity.Lead {
		t.Errorf("%+v", who)
	}
	if _, err := h.Accounts.ActAs(ctx, h.lead, bo.ID); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("acting as somebody else: %v", err)
	}
	if got, err := h.Accounts.SignIn(ctx, "here", " "+strings.ToUpper(h.lead.Name), good); err != nil || got != by {
		t.Errorf("%+v %v", got, err)
	}
	for name, password := range map[string]string{h.lead.Name: good + "x", "Somebody": good, bo.Name: good, "": ""} {
		if _, err := h.Accounts.SignIn(ctx, "here", name, password); !refused(err) || !strings.Contains(err.Error(), "name or the password") {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A new password ends what was signed in by the last one.
	if _, err := h.Accounts.SetPassword(ctx, h.lead, "here", "not it", "another good one"); !refused(err) {
		t.Errorf("without the one that was: %v", err)
	}
	again, err := h.Accounts.SetPassword(ctx, h.lead, "here", good, "another good one")
	if err != nil || h.acting(t, by).ID != 0 || h.acting(t, again).ID != h.lead.ID {
		t.Errorf("%+v %v", again, err)
	}
	fresh := testkit.AppOver(t, testkit.Store(t), t.TempDir()) // another house is open
	if closed, err := fresh.Accounts.Closed(ctx); err != nil || closed {
		t.Errorf("%t %v", closed, err)
	}
}

// A link sets a password once; another one made after it ends it.
func TestInvitations(t *testing.T) {
	h := open(t)
	h.shut(t)
	first, err := h.Accounts.Invite(ctx, h.lead, h.project, h.reviewer.ID, false)
	if err != nil {
		t.Fatal(err)
	}
	second, err := h.Accounts.Invite(ctx, h.lead, h.project, h.reviewer.ID, false)
	if err != nil || second.Token == first.Token || len(second.Token) < 26 {
		t.Fatalf("%+v %v", second, err)
	}
	for what, token := range map[string]string{"ended": first.Token, "guessed": "AAAAAAAAAAAAAAAAAAAAAAAAAA", "empty": "", "long": strings.Repeat("A", 3000)} {
		if _, err := h.Accounts.Accept(ctx, what, token, good); !refused(err) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := h.Accounts.Accept(ctx, "here", second.Token, "short"); !refused(err) {
		t.Errorf("a bad password: %v", err)
	}
	if name, err := h.Accounts.Invited(ctx, "here", second.Token); err != nil || name != "Bo Reviewer" {
		t.Errorf("%s %v", name, err)
	}
	// Two at once: one of them.
	var wg sync.WaitGroup
	var mu sync.Mutex
	var in []accounts.Session
	for range 4 {
		wg.Go(func() {
			by, err := h.Accounts.Accept(ctx, "here", second.Token, good)
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				in = append(in, by)
			} else if !refused(err) {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if len(in) != 1 || h.acting(t, in[0]).ID != h.reviewer.ID {
		t.Errorf("accepted %d times: %+v", len(in), in)
	}
	// Whom the lead of one project may not take over.
	other, err := h.Projects.Ensure(ctx, identity.Local, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Projects.Leave(ctx, identity.Local, other.ID, h.lead.ID); err == nil {
		t.Error("a project without a lead")
	}
	if _, err := h.Projects.Join(ctx, identity.Local, other.ID, "Elsewhere", identity.Lead); err != nil {
		t.Fatal(err)
	}
	if err := h.Projects.Leave(ctx, identity.Local, other.ID, h.lead.ID); err != nil {
		t.Fatal(err)
	}
	elsewhere, err := h.Projects.Join(ctx, identity.Local, h.project, "Elsewhere", identity.Reviewer)
	if err != nil {
		t.Fatal(err)
	}
	lead, err := h.Accounts.For(ctx, h.lead.ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.Accounts.Invite(ctx, lead, h.project, elsewhere.ID, false); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("the lead of another project: %v", err)
	}
	if back, err := h.Accounts.Recover(ctx, "bo reviewer"); err != nil || back.Token == "" {
		t.Errorf("%+v %v", back, err)
	}
}

// Who tries too often has to wait, by name and by address; who signs in begins anew. What was
// tried before is counted without the time that hashing takes: some may be tried again meanwhile.
func TestTriesAreCounted(t *testing.T) {
	h := open(t)
	h.shut(t)
	slow := func(address, name, password string) bool {
		_, err := h.Accounts.SignIn(ctx, address, name, password)
		var s *fault.Slow
		return errors.As(err, &s) && s.Wait > 0
	}
	if slow("here", h.lead.Name, "wrong password") {
		t.Error("after one try")
	}
	if n := accounts.Exhaust(h.Accounts, func(i int) (address, name string) { return fmt.Sprint("address ", i), "lead" }); n < 6 || n > 20 {
		t.Errorf("one name from many addresses: %d tries", n)
	}
	if !slow("elsewhere", h.lead.Name, good) {
		t.Error("a name that was tried too often is let in")
	}
	if n := accounts.Exhaust(h.Accounts, func(i int) (address, name string) { return "one address", fmt.Sprint("name ", i) }); n < 20 || n > 80 {
		t.Errorf("many names from one address: %d tries", n)
	}
	if !slow("one address", "Bo Reviewer", good) {
		t.Error("an address that tried too often is let in")
	}
}

// Who has signed in may try as often as at first.
func TestSigningInBeginsAnew(t *testing.T) {
	h := open(t)
	h.shut(t)
	byLead := func(i int) (address, name string) { return fmt.Sprint("address ", i), "lead" }
	first := accounts.Exhaust(h.Accounts, byLead)
	fresh := open(t)
	fresh.shut(t)
	for range 3 {
		if _, err := fresh.Accounts.SignIn(ctx, "here", "lead", "wrong password"); !refused(err) {
			t.Error(err)
		}
	}
	if _, err := fresh.Accounts.SignIn(ctx, "here", "lead", good); err != nil {
		t.Fatal(err)
	}
	if n := accounts.Exhaust(fresh.Accounts, byLead); n != first {
		t.Errorf("%d tries, and %d at first", n, first)
	}
}

// The audit trail is told to leads, of their own projects, and nobody changes it.
func TestTheAuditTrail(t *testing.T) {
	h := open(t)
	other, err := h.Projects.Ensure(ctx, identity.Local, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Projects.Leave(ctx, identity.Local, other.ID, 1); err == nil {
		t.Fatal("left without a lead")
	}
	for i := range 450 {
		d := accounts.Deed{Person: h.lead.ID, Name: h.lead.Name, Did: "save-ticket", Kind: "job", Thing: int64(i),
			Project: h.project, Status: 200, Address: "127.0.0.1"}
		switch i % 3 {
		case 1:
			d.Did, d.Person, d.Name = "answer-round", h.reviewer.ID, "=SUM(A1)"
		case 2:
			d.Project = 0
		}
		if err := h.Accounts.Done(ctx, d); err != nil {
			t.Fatal(err)
		}
	}
	if err := h.Accounts.Done(ctx, accounts.Deed{Did: "x", Project: 99}); err != nil {
		t.Fatal(err)
	}
	all, err := h.Accounts.Deeds(ctx, h.lead, accounts.Asked{})
	if err != nil || len(all) != 200 || all[0].Thing != 449 {
		t.Fatalf("%d %v", len(all), err)
	}
	all, err = h.Accounts.Deeds(ctx, h.lead, accounts.Asked{Project: h.project, Person: h.reviewer.ID, Did: "answer-round", Before: all[199].ID})
	if err != nil || len(all) == 0 || all[0].Did != "answer-round" {
		t.Errorf("%d %v", len(all), err)
	}
	if all, err = h.Accounts.Deeds(ctx, h.lead, accounts.Asked{To: all[0].At.AddDate(-1, 0, 0)}); err != nil || len(all) != 0 {
		t.Errorf("a year before: %d %v", len(all), err)
	}
	var file bytes.Buffer
	if err := h.Accounts.DeedsCSV(ctx, h.lead, accounts.Asked{}, &file); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&file).ReadAll()
	if err != nil || len(rows) != 451 || rows[2][3] != "'=SUM(A1)" {
		t.Errorf("%d rows, %v, %v", len(rows), rows[2], err)
	}
	bo, err := h.Accounts.For(ctx, h.reviewer.ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.Accounts.Deeds(ctx, bo, accounts.Asked{}); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("a reviewer reads it: %v", err)
	}
	if _, err := h.Accounts.Deeds(ctx, h.lead, accounts.Asked{Project: 99}); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("of another project: %v", err)
	}
}
