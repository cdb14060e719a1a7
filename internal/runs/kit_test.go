package runs_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"amberproof/internal/app"
	"amberproof/internal/deliver"
	"amberproof/internal/identity"
	"amberproof/internal/job"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/testkit"
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

// until waits for a run to be in a state.
func until(t *testing.T, a *app.App, id int64, want ...job.State) runs.Run {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		r := get(t, a, id)
		for _, w := range want {
			if r.Run.State == w {
				return r.Run
			}
		}
		if r.Run.State == job.Failed {
			t.Fatalf("the run failed: %s", r.Run.Fault)
		}
	}
	t.Fatalf("run %d is %s and did not become %v", id, get(t, a, id).Run.State, want)
	return runs.Run{}
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
	dir, m, err := a.Runs.Delivered(me, id, d[0].Number)
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

func ask(t *testing.T, a *app.App, id int64, want job.Intent) runs.Run {
	t.Helper()
	r, err := a.Runs.Ask(ctx, me, id, want)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// halted starts a run and asks something of it once every pixel has a sample, which
// brings it to a state before it is done.
func halted(t *testing.T, a *app.App, j jobs.Job, want job.Intent, then job.State) runs.Run {
	t.Helper()
	work(t, a)
	r := start(t, a, j)
	covered(t, a, r.ID)
	ask(t, a, r.ID, want)
	if r = until(t, a, r.ID, then, job.Done); r.State == job.Done {
		t.Fatal("the run was too quick to be stopped")
	}
	return r
}

// change saves a change of a job's ticket.
func change(t *testing.T, a *app.App, j jobs.Job, f func(*job.Ticket)) jobs.Job {
	t.Helper()
	tk := j.Ticket
	f(&tk)
	j, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, tk)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// slowMost is how many samples a slow run has.
const slowMost = 40

// slow makes a job's ticket take long enough to be stopped in the middle, which
// the race detector, as everything takes longer with it, does at a quarter the size.
func slow(t *testing.T, a *app.App, j jobs.Job) jobs.Job {
	t.Helper()
	w, h := 200, 150
	if testing.Short() {
		w, h = w/2, h/2
	}
	return change(t, a, j, func(k *job.Ticket) { k.View.Width, k.View.Height, k.Quality.Most = w, h, slowMost })
}

// newest is the newest event of a run, empty if it is not going.
func newest(t testing.TB, a *app.App, id int64) runs.Event {
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
	return runs.Event{}
}

// covered waits until every pixel of a run has a sample.
func covered(t *testing.T, a *app.App, id int64) {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(2 * time.Millisecond) {
		if newest(t, a, id).Least > 0 {
			return
		}
	}
	t.Fatal("no pixel got a sample")
}
