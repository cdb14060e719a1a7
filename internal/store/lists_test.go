package store_test

import (
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"

	"amberproof/internal/fault"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Many who keep something under one name at once each get a version.
func TestManyKeepInTheLibraryAtOnce(t *testing.T) {
	s, _ := seed(t)
	const n = 60
	var wg sync.WaitGroup
	versions := make([]int, n)
	for i := range n {
		wg.Go(func() {
			e, err := s.AddEntry(ctx, 1, store.Entry{Kind: "clay", Key: "soft", Name: "Soft", Body: []byte("{}")})
			if err != nil {
				t.Error(err)
			}
			versions[i] = e.Version
		})
	}
	wg.Wait()
	slices.Sort(versions)
	for i, v := range versions {
		if v != i+1 {
			t.Fatalf("versions %v", versions)
		}
	}
}

// Lists page, and tell what decides without reading tickets.
func TestListsPage(t *testing.T) {
	s, j := seed(t)
	ids := add(t, s, j, 7)
	var got []int64
	for before := int64(0); ; {
		page, err := s.Runs(ctx, store.RunsWanted{Of: store.Anywhere, Job: j.ID, Before: before, Most: 3})
		if err != nil {
			t.Fatal(err)
		}
		if len(page) == 0 {
			break
		}
		for _, r := range page {
			got = append(got, r.ID)
			if r.JobName != j.Name || r.Width != j.Ticket.Size().X || r.Preset != "proof" {
				t.Errorf("%+v", r)
			}
		}
		before = got[len(got)-1]
	}
	slices.Reverse(got)
	if !slices.Equal(got, ids) {
		t.Errorf("%v, want %v", got, ids)
	}
	for k := range 5 {
		if _, err := s.AddJob(ctx, 1, store.Job{Project: j.Project, Scene: j.Scene, Name: fmt.Sprint("job ", k), Ticket: ticket.New()}); err != nil {
			t.Fatal(err)
		}
	}
	names := map[string]bool{}
	var after store.JobsAfter
	for {
		page, err := s.Jobs(ctx, store.JobsWanted{Of: store.Anywhere, PutAway: false, Scene: 0, After: after, Most: 2})
		if err != nil {
			t.Fatal(err)
		}
		if len(page) == 0 {
			break
		}
		for _, l := range page {
			if names[l.Name] {
				t.Errorf("%q twice", l.Name)
			}
			names[l.Name] = true
			if l.ID == j.ID && (l.Runs != 7 || l.Last == nil || l.Last.Number != 7) {
				t.Errorf("%+v", l)
			}
		}
		last := page[len(page)-1]
		after = store.JobsAfter{Changed: last.Changed, ID: last.ID}
	}
	if len(names) != 6 {
		t.Errorf("%d jobs", len(names))
	}
}

func TestTheLibraryKeepsEveryVersion(t *testing.T) {
	s, _ := seed(t)
	for k := range 3 {
		e, err := s.AddEntry(ctx, 1, store.Entry{Kind: "clay", Key: "pale", Name: fmt.Sprint("Pale ", k), Body: []byte(fmt.Sprintf(`{"tone": %d}`, k))})
		if err != nil || e.Version != k+1 {
			t.Fatalf("%+v %v", e, err)
		}
	}
	all, err := s.Entries(ctx, store.Anywhere, "clay")
	if err != nil || len(all) != 1 || all[0].Name != "Pale 2" {
		t.Errorf("%+v %v", all, err)
	}
	if e, err := s.Entry(ctx, "clay", "pale", 1); err != nil || e.Name != "Pale 0" {
		t.Errorf("%+v %v", e, err)
	}
	if err := s.PutEntryAway(ctx, "clay", "pale"); err != nil {
		t.Fatal(err)
	}
	if all, _ := s.Entries(ctx, store.Anywhere, "clay"); len(all) != 0 {
		t.Errorf("%+v", all)
	}
}

// Lists hold what lies in the projects that they are of, and everything says whose it is.
func TestWhatBelongsToProjects(t *testing.T) {
	s, j := seed(t)
	run := add(t, s, j, 1)[0]
	ann, err := s.EnsurePerson(ctx, "Ann")
	if err != nil {
		t.Fatal(err)
	}
	other, err := s.EnsureProject(ctx, ann.ID, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		of   store.Within
		want int
	}{{store.Anywhere, 1}, {store.Within{Some: []int64{j.Project, other.ID}}, 1}, {store.Within{Some: []int64{other.ID}}, 0}, {store.Within{}, 0}} {
		scenes, err1 := s.Scenes(ctx, c.of, false)
		jobs, err2 := s.Jobs(ctx, store.JobsWanted{Of: c.of, Most: 10})
		runs, err3 := s.Runs(ctx, store.RunsWanted{Of: c.of, Most: 10})
		queue, err4 := s.Queue(ctx, c.of)
		if err := errors.Join(err1, err2, err3, err4); err != nil {
			t.Fatal(err)
		}
		if len(scenes) != c.want || len(jobs) != c.want || len(runs) != c.want || len(queue) != c.want {
			t.Errorf("of %+v there are %d scenes, %d jobs, %d runs, %d in the queue; want %d of each", c.of, len(scenes), len(jobs), len(runs), len(queue), c.want)
		}
	}
	if p, err := s.Projects(ctx, store.Within{Some: []int64{other.ID}}); err != nil || len(p) != 1 || p[0].ID != other.ID {
		t.Errorf("projects %+v %v", p, err)
	}
	mine, err := s.AddEntry(ctx, 7, store.Entry{Kind: "clay", Key: "ours", Name: "Ours", Body: []byte("{}"), Project: &other.ID})
	if err != nil {
		t.Fatal(err)
	}
	if e, err := s.Entries(ctx, store.Within{Some: []int64{j.Project}}, "clay"); err != nil || len(e) != 0 {
		t.Errorf("of another project: %+v %v", e, err)
	}
	if e, err := s.Entries(ctx, store.Within{Some: []int64{other.ID}}, "clay"); err != nil || len(e) != 1 || e[0].ID != mine.ID {
		t.Errorf("of its own: %+v %v", e, err)
	}
	view, err := s.AddView(ctx, 9, store.View{Scene: j.Scene, Name: "By the ninth"})
	if err != nil {
		t.Fatal(err)
	}
	for kind, c := range map[string]struct{ id, maker int64 }{"scene": {j.Scene, 1}, "job": {j.ID, 1}, "run": {run, 1}, "view": {view.ID, 9}} {
		if project, maker, err := s.Owner(ctx, kind, c.id); err != nil || project != j.Project || maker != c.maker {
			t.Errorf("%s %d belongs to %d by %d: %v", kind, c.id, project, maker, err)
		}
	}
	if _, _, err := s.Owner(ctx, "run", run+1000); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("a run that is not there: %v", err)
	}
}
