package projects_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"

	"amberproof/internal/accounts"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/testkit"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// acting is a person as they come through the door.
func acting(t *testing.T, s *accounts.Service, person int64) identity.Actor {
	t.Helper()
	who, err := s.Acting(ctx, accounts.Session{Person: person})
	if err != nil {
		t.Fatal(err)
	}
	return who
}

// Who made things before there were people is the first lead; others see a project from when
// they join it until they leave.
func TestPeopleOfAProject(t *testing.T) {
	a, j := testkit.App(t)
	s := a.Projects
	lead := acting(t, a.Accounts, 0)
	if lead.Roles[j.Project] != identity.Lead {
		t.Fatalf("the first person is %+v", lead)
	}
	if got := acting(t, a.Accounts, 999); got.ID != lead.ID {
		t.Errorf("a session of somebody who is gone is %+v", got)
	}
	ann, err := s.Join(ctx, lead, j.Project, " Ann Orne ", identity.Artist)
	if err != nil || ann.Name != "Ann Orne" {
		t.Fatalf("%+v %v", ann, err)
	}
	if again, err := s.Join(ctx, lead, j.Project, "ann orne", identity.TD); err != nil || again.ID != ann.ID {
		t.Errorf("one name, two people: %+v %v", again, err)
	}
	if _, err := s.SetRole(ctx, lead, j.Project, ann.ID, identity.Artist); err != nil {
		t.Fatal(err)
	}
	who := acting(t, a.Accounts, ann.ID)
	if _, err := a.Jobs.Get(ctx, who, j.ID); err != nil {
		t.Errorf("an artist sees the job: %v", err)
	}
	if _, err := s.Join(ctx, who, j.Project, "Bo", identity.Lead); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("an artist takes people in: %v", err)
	}
	people, err := s.People(ctx, who, j.Project)
	if err != nil || len(people) != 2 || people[0].Role != identity.Lead || people[1].ID != ann.ID {
		t.Errorf("%+v %v", people, err)
	}
	if err := s.Leave(ctx, lead, j.Project, ann.ID); err != nil {
		t.Fatal(err)
	}
	who = acting(t, a.Accounts, ann.ID)
	if _, err := a.Jobs.Get(ctx, who, j.ID); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("who has left still sees the job: %v", err)
	}
	if page, err := a.Jobs.List(ctx, who, jobs.Wanted{Project: j.Project}); err != nil || len(page.Jobs) > 0 {
		t.Errorf("who has left lists %d jobs, %v", len(page.Jobs), err)
	}
}

// A project keeps a lead, also when two of them leave at once.
func TestAProjectKeepsALead(t *testing.T) {
	a, j := testkit.App(t)
	s := a.Projects
	lead := acting(t, a.Accounts, 0)
	other, err := s.Join(ctx, lead, j.Project, "Other", identity.Lead)
	if err != nil {
		t.Fatal(err)
	}
	var wg sync.WaitGroup
	errs := make([]error, 2)
	for i, id := range []int64{lead.ID, other.ID} {
		wg.Go(func() { _, errs[i] = s.SetRole(ctx, identity.Local, j.Project, id, identity.Artist) })
	}
	wg.Wait()
	bad := 0
	for _, err := range errs {
		var in *fault.Input
		if errors.As(err, &in) {
			bad++
		} else if err != nil {
			t.Error(err)
		}
	}
	if bad != 1 {
		t.Errorf("%d of two were refused: %v", bad, errs)
	}
}

// Projects differ by name; one is seen by its people only.
func TestProjects(t *testing.T) {
	a, j := testkit.App(t)
	s := a.Projects
	lead := acting(t, a.Accounts, 0)
	if _, err := s.Make(ctx, lead, "Pellwick"); !errors.Is(err, fault.ErrTaken) {
		t.Errorf("a second one of the name: %v", err)
	}
	for _, name := range []string{"", " \u200b", strings.Repeat("x", 121)} {
		var in *fault.Input
		if _, err := s.Make(ctx, lead, name); !errors.As(err, &in) {
			t.Errorf("%q: %v", name, err)
		}
	}
	p, err := s.Make(ctx, lead, "灯台")
	if err != nil || p.Role != identity.Lead {
		t.Fatalf("%+v %v", p, err)
	}
	lead = acting(t, a.Accounts, 0)
	ann, err := s.Join(ctx, lead, p.ID, "Ann", identity.TD)
	if err != nil {
		t.Fatal(err)
	}
	who := acting(t, a.Accounts, ann.ID)
	if all, err := s.List(ctx, who); err != nil || len(all) != 1 || all[0].ID != p.ID {
		t.Errorf("she sees %+v %v", all, err)
	}
	if _, err := s.People(ctx, who, j.Project); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("people of another project: %v", err)
	}
	away := true
	if _, err := s.Change(ctx, who, p.ID, nil, &away); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("a TD puts it away: %v", err)
	}
	name := "Beacon"
	if v, err := s.Change(ctx, lead, p.ID, &name, &away); err != nil || v.Name != name || !v.PutAway {
		t.Errorf("%+v %v", v, err)
	}
	if all, err := s.List(ctx, lead); err != nil || len(all) != 2 || all[1].ID != p.ID {
		t.Errorf("put away it stands last: %+v %v", all, err)
	}
}
