package store_test

import (
	"context"
	"errors"
	"sync"
	"testing"

	"amberproof/internal/job"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// seed makes a project, a scene with two views, and a job.
func seed(t *testing.T) (*store.Store, store.Job) {
	t.Helper()
	s := testkit.Store(t)
	p, err := s.EnsureProject(ctx, "Pellwick")
	if err != nil {
		t.Fatal(err)
	}
	cam := job.Camera{YFov: 0.3}
	id, err := s.AddScene(ctx, store.Scene{Project: p.ID, Name: "Lantern", File: "lantern.glb", SHA256: "ab"}, []job.View{{Name: "Hero", Camera: cam}, {Name: "Front", Camera: cam}})
	if err != nil {
		t.Fatal(err)
	}
	jid, err := s.AddJob(ctx, store.Job{Project: p.ID, Scene: id, Name: "Bench — ünïcode ✓", Ticket: job.New()})
	if err != nil {
		t.Fatal(err)
	}
	j, err := s.Job(ctx, jid)
	if err != nil {
		t.Fatal(err)
	}
	return s, j
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
	if p, err := s.Projects(ctx); err != nil || len(p) != 0 {
		t.Fatalf("%v %v", p, err)
	}
}

func TestRowsComeBackAsTheyWere(t *testing.T) {
	s, j := seed(t)
	if j.Name != "Bench — ünïcode ✓" || j.Version != 1 || j.Ticket.Quality != job.New().Quality {
		t.Errorf("%+v", j)
	}
	again, err := s.EnsureProject(ctx, "Pellwick")
	if err != nil || again.ID != j.Project {
		t.Errorf("a second project of one name: %v %v", again, err)
	}
	views, err := s.Views(ctx, j.Scene)
	if err != nil || len(views) != 2 || !views[0].Locked || views[0].Camera.YFov != 0.3 {
		t.Errorf("views %v %v", views, err)
	}
	if _, err := s.Job(ctx, 99); !errors.Is(err, store.ErrNotFound) {
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
	if _, err := s.SaveTicket(ctx, j.ID, 1, j.Ticket); !errors.Is(err, store.ErrChanged) {
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
	if _, err := s.ChangeView(ctx, v.ID, move); !errors.Is(err, store.ErrState) {
		t.Errorf("a locked view was moved: %v", err)
	}
	if err := s.RemoveView(ctx, v.ID); !errors.Is(err, store.ErrState) {
		t.Errorf("a locked view was removed: %v", err)
	}
	if _, err := s.ChangeView(ctx, v.ID, func(w *store.View) error { w.Locked = false; return nil }); err != nil {
		t.Fatal(err)
	}
	if w, err := s.ChangeView(ctx, v.ID, move); err != nil || w.Camera.YFov != 0.5 {
		t.Errorf("%v %v", w, err)
	}
	if _, err := s.ChangeView(ctx, v.ID, func(w *store.View) error { w.Name = "Front"; return nil }); !errors.Is(err, store.ErrTaken) {
		t.Errorf("two views of one name: %v", err)
	}
	if err := s.RemoveView(ctx, v.ID); err != nil {
		t.Fatal(err)
	}
}

func TestQueueIsInOrderAndEachRunIsTakenOnce(t *testing.T) {
	s, j := seed(t)
	const n = 6
	for i := 0; i < n; i++ {
		if _, err := s.AddRun(ctx, j.ID, job.Resolved{Ticket: j.Ticket}); err != nil {
			t.Fatal(err)
		}
	}
	first, ok, err := s.NextRun(ctx)
	if err != nil || !ok || first.Number != 1 || first.State != store.Running {
		t.Fatalf("%+v %v %v", first, ok, err)
	}
	var mu sync.Mutex
	taken := map[int64]int{first.ID: 1}
	var wg sync.WaitGroup
	for k := 0; k < 4; k++ {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for {
				r, ok, err := s.NextRun(ctx)
				if err != nil {
					t.Error(err)
					return
				}
				if !ok {
					return
				}
				mu.Lock()
				taken[r.ID]++
				mu.Unlock()
			}
		}()
	}
	wg.Wait()
	for id, times := range taken {
		if times != 1 {
			t.Errorf("run %d was taken %d times", id, times)
		}
	}
	if len(taken) < n-1 { // a locked row is passed over, so one may wait for the next look
		t.Errorf("%d of %d runs taken", len(taken), n)
	}
}

func TestARestartQueuesWhatWasRunning(t *testing.T) {
	s, j := seed(t)
	var ids []int64
	for i := 0; i < 3; i++ {
		id, err := s.AddRun(ctx, j.ID, job.Resolved{})
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	if _, _, err := s.NextRun(ctx); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.NextRun(ctx); err != nil {
		t.Fatal(err)
	}
	if err := s.Move(ctx, ids[1], store.Stopping, "", store.Running); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Requeue(ctx); err != nil || n != 1 {
		t.Fatalf("%d %v", n, err)
	}
	for i, want := range []store.State{store.Queued, store.Stopped, store.Queued} {
		if r, _ := s.Run(ctx, ids[i]); r.State != want {
			t.Errorf("run %d is %s, want %s", i, r.State, want)
		}
	}
}

func TestStatesMoveOnlyWhereTheyMay(t *testing.T) {
	s, j := seed(t)
	id, err := s.AddRun(ctx, j.ID, job.Resolved{})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Move(ctx, id, store.Done, "", store.Running); !errors.Is(err, store.ErrState) {
		t.Errorf("a waiting run was done: %v", err)
	}
	noise := 1.25
	if err := s.Record(ctx, id, store.Measure{Seconds: 3, Samples: 8, Share: 0.5, Noise: &noise}); err != nil {
		t.Fatal(err)
	}
	if err := s.Move(ctx, id, store.Failed, "the disk is full", store.Queued); err != nil {
		t.Fatal(err)
	}
	r, err := s.Run(ctx, id)
	if err != nil || r.Finished == nil || r.Fault != "the disk is full" || *r.Noise != 1.25 {
		t.Errorf("%+v %v", r, err)
	}
	if err := s.Move(ctx, 999, store.Done, "", store.Running); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("got %v", err)
	}
}
