package runs_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"amberproof/internal/app"
	"amberproof/internal/deliver"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

var me = identity.Local

// work lets the app render in the background until the test ends or stop is called.
func work(t *testing.T, a *app.App) (stop func()) {
	t.Helper()
	c, cancel := context.WithCancel(ctx)
	done := make(chan error, 1)
	go func() { done <- a.Runs.Work(c) }()
	ended := false
	stop = func() {
		if !ended {
			ended = true
			cancel()
			if err := <-done; err != nil {
				t.Error(err)
			}
		}
	}
	t.Cleanup(stop)
	return stop
}

// until waits for a run to be in a state, for as long as any run gets on.
func until(t *testing.T, a *app.App, id int64, want ...ticket.State) runs.Run {
	t.Helper()
	var r runs.Run
	wait.Until(t, fmt.Sprintf("run %d to become %v", id, want), func() bool {
		r = get(t, a, id).Run
		if slices.Contains(want, r.State) {
			return true
		}
		if r.State == ticket.Failed {
			t.Fatalf("the run failed: %s", r.Fault)
		}
		return false
	}, func() any { return fmt.Sprint(r.State, r.Fault, going(t, a)) })
	return r
}

// going is how far the runs that go are.
func going(t testing.TB, a *app.App) string {
	t.Helper()
	sub, events, err := a.Runs.Listen(me)
	if err != nil {
		t.Fatal(err)
	}
	defer sub.Close()
	var at []string
	for _, e := range events {
		at = append(at, fmt.Sprintf("run %d %s %s %v", e.Run, e.State, e.Note, e.Samples))
	}
	return strings.Join(at, ", ")
}

func get(t *testing.T, a *app.App, id int64) runs.Detail {
	t.Helper()
	r, err := a.Runs.Get(ctx, me, id)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// manifest reads that of a run's newest delivery.
func manifest(t *testing.T, a *app.App, id int64) (dir string, m deliver.Manifest) {
	t.Helper()
	d := get(t, a, id).Deliveries
	if len(d) == 0 {
		t.Fatalf("run %d has delivered nothing", id)
	}
	dir, m, err := a.Runs.Delivered(ctx, me, id, d[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	return dir, m
}

// delivered reads the one EXR of a run's newest delivery.
func delivered(t *testing.T, a *app.App, id int64) []byte {
	t.Helper()
	dir, m := manifest(t, a, id)
	for _, f := range m.Files {
		if f.Format == "exr" {
			b, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(f.Path)))
			if err != nil {
				t.Fatal(err)
			}
			return b
		}
	}
	t.Fatal("no EXR was delivered")
	return nil
}

func start(t *testing.T, a *app.App, j jobs.Job) runs.Run {
	t.Helper()
	r, err := a.Runs.Start(ctx, me, j.ID, j.Version)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func ask(t *testing.T, a *app.App, id int64, want ticket.Intent) runs.Run {
	t.Helper()
	r, err := a.Runs.Ask(ctx, me, id, want)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// halted starts a run, which is held in the middle, and asks something of it there.
func halted(t *testing.T, a *app.App, j jobs.Job, hold *testkit.Hold, want ticket.Intent, then ticket.State) runs.Run {
	t.Helper()
	work(t, a)
	hold.From(middle)
	defer hold.Go()
	r := start(t, a, j)
	hold.Reached(t)
	ask(t, a, r.ID, want)
	return until(t, a, r.ID, then)
}

// change saves a change of a job's ticket.
func change(t *testing.T, a *app.App, j jobs.Job, f func(*ticket.Ticket)) jobs.Job {
	t.Helper()
	tk := j.Ticket
	f(&tk)
	j, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, tk)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// Of the samples of the bench's ticket, most are all; from the middle on runs are held.
const most, middle = 16, 6

// newest is the newest event of a run, empty if it is not going.
func newest(t testing.TB, a *app.App, id int64) runs.Progress {
	t.Helper()
	sub, going, err := a.Runs.Listen(me)
	if err != nil {
		t.Fatal(err)
	}
	defer sub.Close()
	for _, e := range going {
		if e.Run == id {
			return e
		}
	}
	return runs.Progress{}
}
