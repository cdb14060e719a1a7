package store_test

import (
	"errors"
	"slices"
	"sync"
	"testing"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestQueueIsInOrderAndEachRunIsTakenOnce(t *testing.T) {
	s, j := seed(t)
	const n = 6
	for i := 0; i < n; i++ {
		if _, err := s.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{Ticket: j.Ticket}, Frames: 1}); err != nil {
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
		id, err := s.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{}, Frames: 1})
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
	id, err := s.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{}, Frames: 1})
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
	idle, err := s.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{Ticket: j.Ticket}, Frames: 1, Background: true})
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

// Times are of one clock, whatever zone the database's server is set to.
func TestTimesAreNotThoseOfTheServersZone(t *testing.T) {
	dsn := testkit.Database(t)
	s, err := store.Open(ctx, dsn+"&time_zone=%27%2B09%3A00%27")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	from := time.Now().Add(-time.Second)
	j := seedInto(t, s)
	id := add(t, s, j, 1)[0]
	if _, ok, err := s.NextRun(ctx); !ok || err != nil {
		t.Fatal(ok, err)
	}
	if err := s.Move(ctx, id, ticket.Kept, "", ticket.Running); err != nil {
		t.Fatal(err)
	}
	r, err := s.Run(ctx, id)
	if err != nil || r.Started == nil || r.Finished == nil {
		t.Fatalf("%+v %v", r, err)
	}
	for what, at := range map[string]time.Time{"queued": r.Queued, "started": *r.Started, "finished": *r.Finished} {
		if at.Before(from) || at.After(time.Now().Add(time.Second)) {
			t.Errorf("it was %s at %v, between %v and now", what, at, from)
		}
	}
}
