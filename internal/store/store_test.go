package store_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"testing"

	"amberproof/internal/fault"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

func nothing() error { return nil }

// seed makes a project, a scene with two views, and a job.
func seed(t *testing.T) (*store.Store, store.Job) {
	t.Helper()
	s := testkit.Store(t)
	return s, seedInto(t, s)
}

func seedInto(t *testing.T, s *store.Store) store.Job {
	t.Helper()
	p, err := s.EnsureProject(ctx, 1, "Pellwick")
	if err != nil {
		t.Fatal(err)
	}
	cam := ticket.Camera{YFov: 0.3}
	id, err := s.AddScene(ctx, 1, store.Scene{Project: p.ID, Name: "Lantern", File: "lantern.glb", SHA256: "ab"},
		[]ticket.View{{Name: "Hero", Camera: cam}, {Name: "Front", Camera: cam}}, nothing)
	if err != nil {
		t.Fatal(err)
	}
	jid, err := s.AddJob(ctx, 1, store.Job{Project: p.ID, Scene: id, Name: "Bench — ünïcode ✓", Ticket: ticket.New()})
	if err != nil {
		t.Fatal(err)
	}
	j, err := s.Job(ctx, jid)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

func TestMigrationsUpFromEmptyAndAgain(t *testing.T) {
	s, err := store.Open(ctx, testkit.Database(t))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	for i := 0; i < 2; i++ {
		if err := s.Migrate(ctx); err != nil {
			t.Fatalf("time %d: %v", i+1, err)
		}
	}
	if p, err := s.Projects(ctx, store.Anywhere); err != nil || len(p) != 0 {
		t.Fatalf("%v %v", p, err)
	}
}

func TestRowsComeBackAsTheyWere(t *testing.T) {
	s, j := seed(t)
	if j.Name != "Bench — ünïcode ✓" || j.Version != 1 || j.Ticket.Quality != ticket.New().Quality {
		t.Errorf("%+v", j)
	}
	again, err := s.EnsureProject(ctx, 1, "Pellwick")
	if err != nil || again.ID != j.Project {
		t.Errorf("a second project of one name: %v %v", again, err)
	}
	views, err := s.Views(ctx, j.Scene)
	if err != nil || len(views) != 2 || !views[0].Locked || views[0].Camera.YFov != 0.3 {
		t.Errorf("views %v %v", views, err)
	}
	if _, err := s.Job(ctx, 99); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("got %v", err)
	}
}

func TestATicketIsSavedOverItsOwnVersionOnly(t *testing.T) {
	s, j := seed(t)
	change := j.Ticket
	change.View.Width = 640
	v, err := s.SaveTicket(ctx, j.ID, 1, change)
	if err != nil || v != 2 {
		t.Fatalf("%v %v", v, err)
	}
	if _, err := s.SaveTicket(ctx, j.ID, 1, j.Ticket); !errors.Is(err, fault.ErrChanged) {
		t.Fatalf("an old version was saved over a new one: %v", err)
	}
	if got, _ := s.Job(ctx, j.ID); got.Ticket.View.Width != 640 {
		t.Errorf("width %d", got.Ticket.View.Width)
	}
}

func TestLockedViewsChangeOnPurposeOnly(t *testing.T) {
	s, j := seed(t)
	views, _ := s.Views(ctx, j.Scene)
	v := views[0]
	move := func(w *store.View) error { w.Camera.YFov = 0.5; return nil }
	if _, err := s.ChangeView(ctx, v.ID, 1, move); !errors.Is(err, fault.ErrState) {
		t.Errorf("a locked view was moved: %v", err)
	}
	if err := s.RemoveView(ctx, v.ID); !errors.Is(err, fault.ErrState) {
		t.Errorf("a locked view was removed: %v", err)
	}
	if _, err := s.ChangeView(ctx, v.ID, 1, func(w *store.View) error { w.Locked = false; return nil }); err != nil {
		t.Fatal(err)
	}
	if _, err := s.ChangeView(ctx, v.ID, 1, move); !errors.Is(err, fault.ErrChanged) {
		t.Errorf("moved over a version that is not the newest: %v", err)
	}
	if w, err := s.ChangeView(ctx, v.ID, 2, move); err != nil || w.Camera.YFov != 0.5 || w.Version != 3 {
		t.Errorf("%v %v", w, err)
	}
	if _, err := s.ChangeView(ctx, v.ID, 3, func(w *store.View) error { w.Name = "Front"; return nil }); !errors.Is(err, fault.ErrTaken) {
		t.Errorf("two views of one name: %v", err)
	}
	if err := s.RemoveView(ctx, v.ID); err != nil {
		t.Fatal(err)
	}
}

// Names are told apart as they are written: what one person calls two things is
// two things.
func TestNamesThatDifferInWritingOnlyAreTwo(t *testing.T) {
	s, j := seed(t)
	var views []ticket.View
	for _, n := range []string{"front", "FRONT", "Frönt", "Front ", "灯", "灯り", "e\u0301", "\u00e9"} {
		views = append(views, ticket.View{Name: n, Camera: ticket.Camera{YFov: 1}})
	}
	id, err := s.AddScene(ctx, 1, store.Scene{Project: j.Project, Name: "Many", File: "m.glb", SHA256: "cd"}, views, nothing)
	if err != nil {
		t.Fatal(err)
	}
	got, err := s.Views(ctx, id)
	if err != nil || len(got) != len(views) {
		t.Fatalf("%d views, %v", len(got), err)
	}
	for i := range got {
		if got[i].Name != views[i].Name {
			t.Errorf("%q came back as %q", views[i].Name, got[i].Name)
		}
	}
	a, err1 := s.EnsureProject(ctx, 1, "pellwick")
	b, err2 := s.EnsureProject(ctx, 1, "Pellwick")
	if err1 != nil || err2 != nil || a.ID == b.ID {
		t.Errorf("%v %v %v %v", a, b, err1, err2)
	}
}

// Neither rows without files nor files without rows.
// A ticket that names a picture gets that one, and not one of nearly its name.
func TestPicturesAreFoundByTheirVeryName(t *testing.T) {
	s := testkit.Store(t)
	all := []string{"studio.hdr", "Studio.hdr", "stüdio.hdr", "studio.hdr "}
	for i, name := range all {
		v := store.Picture{Kind: store.ForSurrounds, SHA256: fmt.Sprintf("%064d", i), Name: name, Width: 2, Height: 1}
		if err := s.AddPicture(ctx, 1, v, nothing); err != nil {
			t.Fatal(err)
		}
	}
	for i, name := range all {
		got, err := s.PicturesNamed(ctx, store.Within{}, store.ForSurrounds, name)
		if err != nil || len(got) != 1 || got[0].SHA256 != fmt.Sprintf("%064d", i) {
			t.Errorf("%q: %v %v", name, got, err)
		}
	}
	failed := errors.New("no room")
	lost := store.Picture{Kind: store.ForSurrounds, SHA256: "f", Name: "lost.hdr", Width: 2, Height: 1}
	if err := s.AddPicture(ctx, 1, lost, func() error { return failed }); !errors.Is(err, failed) {
		t.Errorf("got %v", err)
	}
	if got, err := s.PicturesNamed(ctx, store.Within{}, store.ForSurrounds, "lost.hdr"); err != nil || len(got) != 0 {
		t.Errorf("a picture without its file has a row: %v %v", got, err)
	}
}

// A picture is its project's under the name that was given there; the studio's is everybody's.
func TestPicturesOfProjects(t *testing.T) {
	s := testkit.Store(t)
	add := func(project int64, sha, name string) {
		t.Helper()
		if err := s.AddPicture(ctx, 1, store.Picture{Kind: store.ForSurrounds, Project: project, SHA256: sha, Name: name, Width: 2, Height: 1}, nothing); err != nil {
			t.Fatal(err)
		}
	}
	add(1, "a", "ours.hdr")
	add(2, "a", "theirs.hdr")
	add(2, "b", "ours.hdr")
	add(0, "c", "all.hdr")
	add(1, "a", "ours too.hdr")
	for _, c := range []struct {
		of    store.Within
		names string
	}{
		{store.Within{}, "[all.hdr]"}, {store.Within{Some: []int64{1}}, "[all.hdr ours too.hdr]"},
		{store.Within{Some: []int64{2}}, "[all.hdr ours.hdr theirs.hdr]"},
		{store.Anywhere, "[all.hdr ours too.hdr ours.hdr theirs.hdr]"},
	} {
		all, err := s.Pictures(ctx, c.of, store.ForSurrounds)
		var got []string
		for _, p := range all {
			got = append(got, p.Name)
		}
		if slices.Sort(got); err != nil || fmt.Sprint(got) != c.names {
			t.Errorf("within %v: %v %v", c.of, got, err)
		}
	}
	if p, err := s.PicturesNamed(ctx, store.Within{Some: []int64{1}}, store.ForSurrounds, "ours.hdr"); err != nil || len(p) != 0 {
		t.Errorf("a picture of another project by its name: %v %v", p, err)
	}
	if p, err := s.Pictures(ctx, store.Anywhere, store.ForFinishes); err != nil || len(p) != 0 {
		t.Errorf("of another kind: %v %v", p, err)
	}
}

func TestASceneWhoseFilesCannotBeKeptHasNoRow(t *testing.T) {
	s, j := seed(t)
	before, _ := s.Scenes(ctx, store.Anywhere, false)
	full := errors.New("the disk is full")
	if _, err := s.AddScene(ctx, 1, store.Scene{Project: j.Project, Name: "x", SHA256: "ef"}, nil, func() error { return full }); !errors.Is(err, full) {
		t.Errorf("got %v", err)
	}
	kept := false
	if _, err := s.AddScene(ctx, 1, store.Scene{Project: 999, Name: "x", SHA256: "ef"}, nil, func() error { kept = true; return nil }); err == nil || kept {
		t.Errorf("files of a row that cannot be: kept %v, %v", kept, err)
	}
	if after, _ := s.Scenes(ctx, store.Anywhere, false); len(after) != len(before) {
		t.Errorf("%d scenes, then %d", len(before), len(after))
	}
}

// add queues runs and returns their numbers.
func add(t *testing.T, s *store.Store, j store.Job, n int) []int64 {
	t.Helper()
	var ids []int64
	for range n {
		id, err := s.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{Ticket: j.Ticket}, Frames: 1})
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	return ids
}

func state(t *testing.T, s *store.Store, id int64) ticket.State {
	t.Helper()
	r, err := s.RunLine(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	return r.State
}

func TestWhatHasDeliveredIsNotRemovedByAccident(t *testing.T) {
	s, j := seed(t)
	id := add(t, s, j, 1)[0]
	if _, _, err := s.NextRun(ctx); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveRun(ctx, id, true); !errors.Is(err, fault.ErrState) {
		t.Errorf("a run that is going was removed: %v", err)
	}
	if _, err := s.RemoveJob(ctx, j.ID, true); !errors.Is(err, fault.ErrState) {
		t.Errorf("its job was removed: %v", err)
	}
	if err := s.Move(ctx, id, ticket.Delivering, "", ticket.Running); err != nil {
		t.Fatal(err)
	}
	if err := s.Delivered(ctx, id, 1, true); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveRun(ctx, id, false); !errors.Is(err, fault.ErrState) {
		t.Errorf("a delivered run was removed: %v", err)
	}
	if _, err := s.RemoveJob(ctx, j.ID, false); !errors.Is(err, fault.ErrState) {
		t.Errorf("its job was removed: %v", err)
	}
	if _, err := s.RemoveScene(ctx, j.Scene); !errors.Is(err, fault.ErrState) {
		t.Errorf("its scene was removed: %v", err)
	}
	if runs, err := s.RemoveJob(ctx, j.ID, true); err != nil || !slices.Equal(runs, []int64{id}) {
		t.Errorf("%v %v", runs, err)
	}
	if sum, err := s.RemoveScene(ctx, j.Scene); err != nil || sum == "" {
		t.Errorf("%q %v", sum, err)
	}
}
