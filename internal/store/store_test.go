package store_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
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

func TestQueueIsInOrderAndEachRunIsTakenOnce(t *testing.T) {
	s, j := seed(t)
	const n = 6
	for i := 0; i < n; i++ {
		if _, err := s.AddRun(ctx, j.ID, 1, ticket.Resolved{Ticket: j.Ticket}, 1, false); err != nil {
			t.Fatal(err)
		}
	}
	first, ok, err := s.NextRun(ctx)
	if err != nil || !ok || first.Number != 1 || first.State != ticket.Running {
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
		id, err := s.AddRun(ctx, j.ID, 1, ticket.Resolved{}, 1, false)
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
	if err := s.Move(ctx, ids[1], ticket.Stopping, "", ticket.Running); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Recover(ctx); err != nil || n != 1 {
		t.Fatalf("%d %v", n, err)
	}
	for i, want := range []ticket.State{ticket.Queued, ticket.Stopped, ticket.Queued} {
		if r, _ := s.Run(ctx, ids[i]); r.State != want {
			t.Errorf("run %d is %s, want %s", i, r.State, want)
		}
	}
}

func TestStatesMoveOnlyWhereTheyMay(t *testing.T) {
	s, j := seed(t)
	id, err := s.AddRun(ctx, j.ID, 1, ticket.Resolved{}, 1, false)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Move(ctx, id, ticket.Done, "", ticket.Running); !errors.Is(err, fault.ErrState) {
		t.Errorf("a waiting run was done: %v", err)
	}
	noise := 1.25
	if err := s.Record(ctx, id, 0, store.Measure{Seconds: 3, Samples: 8, Least: 8, Share: 0.5, Noise: &noise}); err != nil {
		t.Fatal(err)
	}
	if err := s.Move(ctx, id, ticket.Failed, "the disk is full", ticket.Queued); err != nil {
		t.Fatal(err)
	}
	r, err := s.Run(ctx, id)
	if err != nil || r.Finished == nil || r.Fault != "the disk is full" || *r.Noise != 1.25 {
		t.Errorf("%+v %v", r, err)
	}
	if err := s.Move(ctx, 999, ticket.Done, "", ticket.Running); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("got %v", err)
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
		if err := s.AddSurround(ctx, 1, store.Surround{SHA256: fmt.Sprintf("%064d", i), Name: name, Width: 2, Height: 1}, nothing); err != nil {
			t.Fatal(err)
		}
	}
	for i, name := range all {
		got, err := s.SurroundsNamed(ctx, name)
		if err != nil || len(got) != 1 || got[0].SHA256 != fmt.Sprintf("%064d", i) {
			t.Errorf("%q: %v %v", name, got, err)
		}
	}
	failed := errors.New("no room")
	if err := s.AddSurround(ctx, 1, store.Surround{SHA256: "f", Name: "lost.hdr", Width: 2, Height: 1}, func() error { return failed }); !errors.Is(err, failed) {
		t.Errorf("got %v", err)
	}
	if got, err := s.SurroundsNamed(ctx, "lost.hdr"); err != nil || len(got) != 0 {
		t.Errorf("a picture without its file has a row: %v %v", got, err)
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
		id, err := s.AddRun(ctx, j.ID, 1, ticket.Resolved{Ticket: j.Ticket}, 1, false)
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

// What is asked of a run is claimed in one step, and remembered where it takes time.
func TestAnIntentIsKeptUntilTheRunEnds(t *testing.T) {
	s, j := seed(t)
	id := add(t, s, j, 1)[0]
	if _, _, err := s.NextRun(ctx); err != nil {
		t.Fatal(err)
	}
	if was, is, err := s.Ask(ctx, id, ticket.Keep); err != nil || was != ticket.Running || is != ticket.Stopping {
		t.Fatalf("%s %s %v", was, is, err)
	}
	if r, _ := s.RunLine(ctx, id); r.Intent != ticket.Keep {
		t.Errorf("the intent is %q", r.Intent)
	}
	// Without a sample for every pixel it can only be stopped.
	if to, err := s.End(ctx, id, false); err != nil || to != ticket.Stopped {
		t.Fatalf("%s %v", to, err)
	}
	if _, _, err := s.Ask(ctx, id, ticket.Keep); !errors.Is(err, fault.ErrState) {
		t.Errorf("kept without samples: %v", err)
	}
	if err := s.Record(ctx, id, 0, store.Measure{Least: 1, Samples: 1}); err != nil {
		t.Fatal(err)
	}
	if _, is, err := s.Ask(ctx, id, ticket.Keep); err != nil || is != ticket.Delivering {
		t.Fatalf("%s %v", is, err)
	}
	for _, want := range []ticket.Intent{ticket.Keep, ticket.Stop, ticket.Cancel, ticket.Resume} { // somebody has it in hand
		if _, _, err := s.Ask(ctx, id, want); !errors.Is(err, fault.ErrState) {
			t.Errorf("asked to %s while it is delivered: %v", want, err)
		}
	}
	if err := s.Delivered(ctx, id, 1, false); err != nil || state(t, s, id) != ticket.Kept {
		t.Errorf("%s %v", state(t, s, id), err)
	}
	if err := s.Delivered(ctx, id, 1, false); err != nil { // recorded again after a crash
		t.Error(err)
	}
	if d, err := s.Deliveries(ctx, id); err != nil || len(d) != 1 {
		t.Errorf("%v %v", d, err)
	}
}

// Many who ask at once: one gets it.
func TestTwoClicksAtOnceAreOne(t *testing.T) {
	s, j := seed(t)
	id := add(t, s, j, 1)[0]
	if err := s.Record(ctx, id, 0, store.Measure{Least: 1, Samples: 1}); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.Ask(ctx, id, ticket.Stop); err != nil {
		t.Fatal(err)
	}
	var mu sync.Mutex
	var wg sync.WaitGroup
	claims := 0
	for range 8 {
		wg.Go(func() {
			if _, is, err := s.Ask(ctx, id, ticket.Keep); err == nil && is == ticket.Delivering {
				mu.Lock()
				claims++
				mu.Unlock()
			} else if !errors.Is(err, fault.ErrState) {
				t.Errorf("%s %v", is, err)
			}
		})
	}
	wg.Wait()
	if claims != 1 {
		t.Errorf("%d claimed it", claims)
	}
}

func TestARunThatEndsTheProgramIsNotTriedForEver(t *testing.T) {
	s, j := seed(t)
	id := add(t, s, j, 1)[0]
	for try := 1; ; try++ {
		if _, ok, err := s.NextRun(ctx); err != nil || !ok {
			t.Fatalf("try %d: %v %v", try, ok, err)
		}
		if _, err := s.Recover(ctx); err != nil { // the process died
			t.Fatal(err)
		}
		if state(t, s, id) == ticket.Failed {
			if try != ticket.MostAttempts {
				t.Errorf("given up after %d", try)
			}
			break
		}
		if try > ticket.MostAttempts {
			t.Fatal("tried for ever")
		}
	}
	if r, _ := s.RunLine(ctx, id); r.Fault == "" {
		t.Error("nothing says why")
	}
	// Resumed by hand it counts anew, and an orderly end is none of the attempts.
	if _, _, err := s.Ask(ctx, id, ticket.Resume); err != nil {
		t.Fatal(err)
	}
	for range 2 * ticket.MostAttempts {
		if _, ok, err := s.NextRun(ctx); err != nil || !ok {
			t.Fatal(ok, err)
		}
		if err := s.Release(ctx, id); err != nil {
			t.Fatal(err)
		}
	}
	if state(t, s, id) != ticket.Queued {
		t.Errorf("it is %s", state(t, s, id))
	}
}

// Deaths between which the film gained samples are none in vain, however soon they follow.
func TestARunThatGetsOnIsNotGivenUp(t *testing.T) {
	s, j := seed(t)
	id := add(t, s, j, 1)[0]
	for try := range 4 * ticket.MostAttempts {
		if _, ok, err := s.NextRun(ctx); err != nil || !ok {
			t.Fatalf("try %d: %v %v", try, ok, err)
		}
		if err := s.Reached(ctx, id, try/3, int64(100*(try%3+1))); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Recover(ctx); err != nil { // the process died
			t.Fatal(err)
		}
		if state(t, s, id) == ticket.Failed {
			t.Fatalf("given up after %d that got on", try)
		}
	}
	for range ticket.MostAttempts { // it gains nothing any more
		if _, _, err := s.NextRun(ctx); err != nil {
			t.Fatal(err)
		}
		if err := s.Reached(ctx, id, 0, 1100); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Recover(ctx); err != nil {
			t.Fatal(err)
		}
	}
	if got := state(t, s, id); got != ticket.Failed {
		t.Errorf("it is %s", got)
	}
}

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

func TestRecoveryFollowsTheIntent(t *testing.T) {
	s, j := seed(t)
	ids := add(t, s, j, 4)
	want := []ticket.State{ticket.Delivering, ticket.Stopped, ticket.Cancelled, ticket.Stopped}
	for i, intent := range []ticket.Intent{ticket.Keep, ticket.Stop, ticket.Cancel, ticket.Keep} {
		if _, _, err := s.NextRun(ctx); err != nil {
			t.Fatal(err)
		}
		if i < 3 { // the last has no sample to be kept
			if err := s.Record(ctx, ids[i], 0, store.Measure{Least: 2, Samples: 2}); err != nil {
				t.Fatal(err)
			}
		}
		if _, _, err := s.Ask(ctx, ids[i], intent); err != nil {
			t.Fatal(err)
		}
	}
	if n, err := s.Recover(ctx); err != nil || n != 0 {
		t.Fatalf("%d %v", n, err)
	}
	for i, w := range want {
		if got := state(t, s, ids[i]); got != w {
			t.Errorf("run %d is %s, want %s", i, got, w)
		}
	}
}

// A run that comes to its target in the moment it is stopped is delivered, unless it
// was to be thrown away.
func TestWhatIsCompleteInTheSameMoment(t *testing.T) {
	s, j := seed(t)
	for intent, want := range map[ticket.Intent]ticket.State{ticket.NoIntent: ticket.Delivering, ticket.Stop: ticket.Delivering,
		ticket.Keep: ticket.Delivering, ticket.Cancel: ticket.Cancelled} {
		id := add(t, s, j, 1)[0]
		if _, _, err := s.NextRun(ctx); err != nil {
			t.Fatal(err)
		}
		if intent != ticket.NoIntent {
			if _, _, err := s.Ask(ctx, id, intent); err != nil {
				t.Fatal(err)
			}
		}
		if to, err := s.End(ctx, id, true); err != nil || to != want || state(t, s, id) != want {
			t.Errorf("asked to %q it is %s, want %s: %v", intent, to, want, err)
		}
	}
}

func TestTheQueueIsOrderedByHand(t *testing.T) {
	s, j := seed(t)
	ids := add(t, s, j, 4)
	idle, err := s.AddRun(ctx, j.ID, 1, ticket.Resolved{Ticket: j.Ticket}, 1, true)
	if err != nil {
		t.Fatal(err)
	}
	late := add(t, s, j, 1)[0]
	order := func() (out []int64) {
		t.Helper()
		q, err := s.Queue(ctx, store.Anywhere)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range q {
			out = append(out, r.ID)
		}
		return out
	}
	same := func(what string, want ...int64) {
		t.Helper()
		if got := order(); !slices.Equal(got, want) {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	same("as they came, what is for the lists last", ids[0], ids[1], ids[2], ids[3], late, idle)
	place := func(id, after int64) {
		t.Helper()
		if err := s.Place(ctx, id, after); err != nil {
			t.Fatal(err)
		}
	}
	place(ids[3], 0)
	same("to the head", ids[3], ids[0], ids[1], ids[2], late, idle)
	place(ids[3], ids[1])
	same("behind another", ids[0], ids[1], ids[3], ids[2], late, idle)
	place(idle, ids[0])
	same("what was for the lists is wanted", ids[0], idle, ids[1], ids[3], ids[2], late)
	if r, _, err := s.NextRun(ctx); err != nil || r.ID != ids[0] {
		t.Errorf("took %d, %v", r.ID, err)
	}
	for _, c := range [][2]int64{{ids[0], 0}, {ids[1], ids[0]}, {ids[1], ids[1]}, {999, 0}} {
		if err := s.Place(ctx, c[0], c[1]); !errors.Is(err, fault.ErrState) {
			t.Errorf("%v: %v", c, err)
		}
	}
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
	other, err := s.EnsureProject(ctx, 7, "Another campaign")
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
