package app_test

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"amberproof/core/importer"
	"amberproof/internal/app"
	"amberproof/internal/deliver"
	"amberproof/internal/job"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

// work lets the app render in the background until the test ends or stop is called.
func work(t *testing.T, a *app.App) (stop func()) {
	t.Helper()
	c, cancel := context.WithCancel(ctx)
	done := make(chan error, 1)
	go func() { done <- a.Work(c) }()
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
func until(t *testing.T, a *app.App, id int64, want ...store.State) store.Run {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		r, err := a.Store.Run(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range want {
			if r.State == w {
				return r
			}
		}
		if r.State == store.Failed {
			t.Fatalf("the run failed: %s", r.Fault)
		}
	}
	t.Fatalf("run %d did not become %v", id, want)
	return store.Run{}
}

// delivered reads the one EXR of a run's delivery.
func delivered(t *testing.T, a *app.App, id int64) []byte {
	t.Helper()
	m, err := a.Manifest(id)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range m.Files {
		if f.Format == "exr" {
			b, err := os.ReadFile(filepath.Join(a.DeliveryDir(id), filepath.FromSlash(f.Path)))
			if err != nil {
				t.Fatal(err)
			}
			return b
		}
	}
	t.Fatal("no EXR was delivered")
	return nil
}

func start(t *testing.T, a *app.App, j store.Job) store.Run {
	t.Helper()
	r, err := a.StartRun(ctx, j.ID)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// slow makes a job's ticket take long enough to be stopped in the middle.
func slow(t *testing.T, a *app.App, j store.Job) store.Job {
	t.Helper()
	tk := j.Ticket
	tk.View.Width, tk.View.Height, tk.Quality.Most = 256, 192, 64
	j, err := a.SaveTicket(ctx, j.ID, j.Version, tk)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

func TestARunGoesFromTicketToFiles(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	r := until(t, a, start(t, a, j).ID, store.Done)
	m, err := a.Manifest(r.ID)
	if err != nil || !m.Complete || m.Fingerprint != r.Fingerprint || m.Fingerprint != m.Resolved.Fingerprint() {
		t.Fatalf("manifest %+v %v", m, err)
	}
	if r.Samples != 16 || r.Noise == nil || r.Seconds <= 0 || r.Share != 1 {
		t.Errorf("measures %+v", r)
	}
	p, err := a.OpenProof(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	read, err := p.Read("beauty", 48, 30, r.Resolved.Ticket.Look())
	if err != nil || read.Part != "Box" || read.Finish != "Ochre" || read.Wears != "Ochre" || len(read.Display) != 3 || read.Samples != 16 {
		t.Errorf("reading %+v %v", read, err)
	}
	var png bytes.Buffer
	if err := p.PNG(&png, "occlusion", r.Resolved.Ticket.Look(), 40); err != nil || !bytes.HasPrefix(png.Bytes(), []byte("\x89PNG")) {
		t.Errorf("picture: %v", err)
	}
	if _, err := p.Read("beauty", 96, 0, r.Resolved.Ticket.Look()); err == nil {
		t.Error("a point outside the picture was read")
	}
}

func TestStoppedAndResumedGivesTheSameBytes(t *testing.T) {
	a, j := testkit.App(t)
	j = slow(t, a, j)
	work(t, a)
	whole := until(t, a, start(t, a, j).ID, store.Done)
	cut := start(t, a, j)
	stops := 0
	for {
		r := until(t, a, cut.ID, store.Running, store.Done)
		if r.State == store.Done {
			break
		}
		time.Sleep(60 * time.Millisecond)
		if err := a.StopRun(ctx, cut.ID, false); err != nil {
			if errors.Is(err, store.ErrState) {
				continue // it ended meanwhile
			}
			t.Fatal(err)
		}
		if until(t, a, cut.ID, store.Stopped, store.Done).State == store.Done {
			break
		}
		stops++
		if err := a.ResumeRun(ctx, cut.ID); err != nil {
			t.Fatal(err)
		}
		if stops >= 3 {
			until(t, a, cut.ID, store.Done)
			break
		}
	}
	if stops == 0 {
		t.Fatal("the run was too quick to be stopped")
	}
	if !bytes.Equal(delivered(t, a, whole.ID), delivered(t, a, cut.ID)) {
		t.Fatalf("%d stops show in the file", stops)
	}
}

// The process dies at each step of a run in turn; a new one finishes it, with
// the same bytes.
func TestADeathBetweenAnyTwoStepsIsRecovered(t *testing.T) {
	st := testkit.Store(t)
	dir := t.TempDir()
	a, j := testkit.AppAt(t, st, dir)
	stop := work(t, a)
	whole := until(t, a, start(t, a, j).ID, store.Done)
	want := delivered(t, a, whole.ID)
	stop()
	id := start(t, a, j).ID
	set := func(s store.State) {
		if err := st.Move(ctx, id, s, "", store.Queued, store.Running, store.Done, store.Stopped); err != nil {
			t.Fatal(err)
		}
	}
	recovered := func(step string) {
		t.Helper()
		b, _ := testkit.AppAt(t, st, dir)
		stop := work(t, b)
		until(t, b, id, store.Done)
		stop()
		if !bytes.Equal(delivered(t, b, id), want) {
			t.Errorf("%s: the file differs", step)
		}
	}
	set(store.Running)
	recovered("taken from the queue, nothing rendered")

	set(store.Running)
	recovered("delivered, not recorded")

	if err := os.Rename(a.DeliveryDir(id), a.DeliveryDir(id)+".part"); err != nil {
		t.Fatal(err)
	}
	set(store.Running)
	recovered("in the middle of writing the files")

	if err := os.RemoveAll(a.DeliveryDir(id)); err != nil {
		t.Fatal(err)
	}
	film := filepath.Join(a.Files.RunDir(id), "film")
	b, err := os.ReadFile(film)
	if err != nil {
		t.Fatal(err)
	}
	for i := len(b) / 3; i < len(b)/2; i++ { // a stretch of the film was never written
		b[i] = 0
	}
	if err := os.WriteFile(film, b, 0o600); err != nil {
		t.Fatal(err)
	}
	set(store.Running)
	recovered("in the middle of keeping the film")

	if err := os.RemoveAll(a.DeliveryDir(id)); err != nil {
		t.Fatal(err)
	}
	if err := os.Truncate(film, 100); err != nil {
		t.Fatal(err)
	}
	set(store.Running)
	recovered("in the middle of making the film")
}

func TestStopAndKeepDeliversWhatIsThere(t *testing.T) {
	a, j := testkit.App(t)
	j = slow(t, a, j)
	work(t, a)
	r := start(t, a, j)
	until(t, a, r.ID, store.Running)
	for { // until every pixel has a sample
		if e, ok := a.Hub().Last(r.ID); ok && e.Least > 0 {
			break
		}
		time.Sleep(5 * time.Millisecond)
	}
	if err := a.StopRun(ctx, r.ID, true); err != nil {
		t.Fatal(err)
	}
	if until(t, a, r.ID, store.Kept, store.Done).State == store.Done {
		t.Fatal("the run was too quick to be stopped")
	}
	m, err := a.Manifest(r.ID)
	if err != nil || m.Complete || len(m.Files) == 0 || m.Samples >= 64 {
		t.Errorf("manifest %+v %v", m, err)
	}
	if err := a.ResumeRun(ctx, r.ID); !errors.Is(err, store.ErrState) {
		t.Errorf("a kept run was resumed: %v", err)
	}
}

func TestTwoRunsQueue(t *testing.T) {
	a, j := testkit.App(t)
	first, second := start(t, a, j), start(t, a, j)
	third := start(t, a, j)
	if err := a.StopRun(ctx, third.ID, false); err != nil {
		t.Fatal(err)
	}
	work(t, a)
	x, y := until(t, a, first.ID, store.Done), until(t, a, second.ID, store.Done)
	if x.Number != 1 || y.Number != 2 || y.Finished.Before(*x.Finished) {
		t.Errorf("order: %v %v", x.Finished, y.Finished)
	}
	if r, _ := a.Store.Run(ctx, third.ID); r.State != store.Stopped {
		t.Errorf("a run stopped while it waited is %s", r.State)
	}
}

func TestBadScenesLeaveNothingBehind(t *testing.T) {
	a, j := testkit.App(t)
	before, _ := a.Store.Scenes(ctx)
	var b *app.BadInputError
	if _, err := a.ImportScene(ctx, j.Project, importer.Bundle{"x.glb": []byte("not a scene at all, sorry")}); !errors.As(err, &b) {
		t.Fatalf("got %v", err)
	}
	after, _ := a.Store.Scenes(ctx)
	kept, err := os.ReadDir(filepath.Join(filepath.Dir(filepath.Dir(a.Files.RunDir(1))), "scenes"))
	if err != nil || len(after) != len(before) || len(kept) != 1 {
		t.Errorf("%d scenes, %d files, %v", len(after), len(kept), err)
	}
	if _, err := a.ImportSurround(ctx, "sky.hdr", []byte("#?RADIANCE\n\nbroken")); !errors.As(err, &b) {
		t.Errorf("got %v", err)
	}
}

func TestFaultsAreToldAndNothingIsSaved(t *testing.T) {
	a, j := testkit.App(t)
	bad := j.Ticket
	bad.Quality.Least = 9999
	var b *app.BadInputError
	if _, err := a.SaveTicket(ctx, j.ID, j.Version, bad); !errors.As(err, &b) || len(b.Faults) != 1 {
		t.Fatalf("got %v", err)
	}
	if now, _ := a.Store.Job(ctx, j.ID); now.Version != j.Version {
		t.Error("it was saved")
	}
	gone := j.Ticket
	gone.Stage.Surround.Picture.Name = "gone.hdr"
	j, err := a.SaveTicket(ctx, j.ID, j.Version, gone)
	if err != nil {
		t.Fatal(err)
	}
	if o, err := a.Outlook(ctx, j.ID); err != nil || len(o.Faults) != 1 || !strings.Contains(o.Faults[0].Message, "gone.hdr") {
		t.Errorf("%+v %v", o.Faults, err)
	}
	if _, err := a.StartRun(ctx, j.ID); !errors.As(err, &b) {
		t.Errorf("a run without its picture was started: %v", err)
	}
}

func TestTooLargeAPictureIsRefusedBeforeAnythingIsDone(t *testing.T) {
	a, j := testkit.App(t)
	big := j.Ticket
	big.View.Width, big.View.Height = 16384, 16384
	big.Passes.PartMasks = true
	j, err := a.SaveTicket(ctx, j.ID, j.Version, big)
	if err != nil {
		t.Fatal(err)
	}
	o, err := a.Outlook(ctx, j.ID)
	if err != nil || o.Memory < 16384*16384*9*4 {
		t.Fatalf("%d bytes told, %v", o.Memory, err)
	}
	if o.Fits != (o.Memory <= o.Free/10*9) {
		t.Fatalf("told that %d bytes fit into %d: %v", o.Memory, o.Free, o.Fits)
	}
	if o.Fits {
		return // a machine with room for it
	}
	if _, err := a.StartRun(ctx, j.ID); err == nil || !strings.Contains(err.Error(), "memory") {
		t.Errorf("got %v", err)
	}
}

func TestOutlookTellsClayAndChanges(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	until(t, a, start(t, a, j).ID, store.Done)
	clay := j.Ticket
	clay.Surface.Mode = "clay"
	clay.Surface.Clay.Rules = []job.KeepRule{{By: "finish", Match: "och*", Do: "keep"}}
	j, err := a.SaveTicket(ctx, j.ID, j.Version, clay)
	if err != nil {
		t.Fatal(err)
	}
	o, err := a.Outlook(ctx, j.ID)
	if err != nil || o.Kept != 1 || len(o.Clay) != 2 || o.RuleHits[0] != 1 {
		t.Errorf("%+v %v", o, err)
	}
	if got := strings.Join(o.Changed, "; "); !strings.Contains(got, "Surface clay, was own") {
		t.Errorf("changed: %s", got)
	}
}

func TestDeliveriesAreNeverOverwritten(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	r := until(t, a, start(t, a, j).ID, store.Done)
	p, err := a.OpenProof(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	m := &deliver.Manifest{Resolved: r.Resolved}
	if err := deliver.Write(a.DeliveryDir(r.ID), p.Film, p.Passes, job.Words{}, m); !errors.Is(err, deliver.ErrExists) {
		t.Errorf("got %v", err)
	}
}
