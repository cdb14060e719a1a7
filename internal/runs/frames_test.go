package runs_test

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

// framesOf reads the one EXR of each frame of a run's newest delivery.
func framesOf(t *testing.T, a *app.App, id int64) map[int][]byte {
	t.Helper()
	dir, m := manifest(t, a, id)
	out := map[int][]byte{}
	for _, f := range m.Files {
		if f.Format != "exr" {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(f.Path)))
		if err != nil {
			t.Fatal(err)
		}
		if out[f.Frame] != nil {
			t.Errorf("frame %d has more than one file", f.Frame)
		}
		out[f.Frame] = b
	}
	return out
}

// A run goes through its frames one after the other; stopped within the second and begun
// again by another process, it goes on there, and its files are what they would have been.
func TestARunGoesThroughItsFrames(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	a.Runs.SetFrames(3)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Output.Name = "{view}_{frame}_{pass}" })
	stop := work(t, a)
	r := start(t, a, j)
	if r.Frames != 3 {
		t.Fatalf("%d frames were queued", r.Frames)
	}
	wait.Until(t, "the second frame", func() bool { return newest(t, a, r.ID).Frame == 1 }, func() any { return newest(t, a, r.ID).Samples })
	hold.From(middle)
	hold.Reached(t)
	e := newest(t, a, r.ID)
	if e.Share < 1./3-1e-6 || e.Share >= 2./3 {
		t.Errorf("with one frame of three done and the next begun, %.3f are told", e.Share)
	}
	stop() // as the end of a process does: the run is queued again
	hold.Go()
	first, err := a.Proofs.Open(ctx, me, r.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	samples := first.Film.SamplesAt(10, 10)
	work(t, a)
	r = until(t, a, r.ID, ticket.Done)
	if r.Samples != most || r.Share != 1 || r.Seconds <= 0 || r.Least != most {
		t.Errorf("measures %+v", r)
	}
	if again, err := a.Proofs.Open(ctx, me, r.ID, 0); err != nil || again.Film.SamplesAt(10, 10) != samples {
		t.Errorf("the first frame was rendered again: %v", err)
	}
	got := framesOf(t, a, r.ID)
	if len(got) != 3 || !bytes.Equal(got[0], got[1]) || !bytes.Equal(got[0], got[2]) {
		t.Fatalf("%d frames were delivered, or frames of one view differ", len(got))
	}
	_, m := manifest(t, a, r.ID)
	if len(m.Frames) != 3 || !m.Complete || m.Frames[2].Number != 2 || m.Frames[2].Samples != most || m.Frames[1].Noise == nil {
		t.Errorf("the manifest says of its frames %+v", m.Frames)
	}
	for _, f := range m.Files {
		if !strings.Contains(f.Path, []string{"_0000_", "_0001_", "_0002_"}[f.Frame]) {
			t.Errorf("frame %d is called %s", f.Frame, f.Path)
		}
	}
	if d := get(t, a, r.ID); len(d.Deliveries) != 1 || d.Deliveries[0].Noise == nil {
		t.Errorf("deliveries %+v", d.Deliveries)
	}
}

// A cancelled run has lost all its frames, and begins with the first when it goes on.
func TestACancelledRunLosesAllFrames(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	a.Runs.SetFrames(2)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Output.Name = "{view}_{frame}_{pass}" })
	work(t, a)
	r := start(t, a, j)
	wait.Until(t, "the second frame", func() bool { return newest(t, a, r.ID).Frame == 1 }, func() any { return newest(t, a, r.ID).Samples })
	hold.From(middle)
	hold.Reached(t)
	ask(t, a, r.ID, ticket.Cancel)
	until(t, a, r.ID, ticket.Cancelled)
	hold.Go()
	for k := range 2 {
		wait.Until(t, "a frame to be gone", func() bool {
			_, err := a.Proofs.Open(ctx, me, r.ID, k)
			return errors.Is(err, fault.ErrNotFound)
		}, nil)
	}
	ask(t, a, r.ID, ticket.Resume)
	until(t, a, r.ID, ticket.Done)
	if got := framesOf(t, a, r.ID); len(got) != 2 || !bytes.Equal(got[0], got[1]) {
		t.Errorf("%d frames were delivered, or they differ", len(got))
	}
}
