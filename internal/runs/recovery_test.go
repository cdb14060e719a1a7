package runs_test

import (
	"bytes"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"testing"

	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
	"amberproof/internal/whole"
)

// The process dies at each step of a run in turn; a new one finishes it, with
// the same bytes.
func TestADeathBetweenAnyTwoStepsIsRecovered(t *testing.T) {
	st := testkit.Store(t)
	dir := t.TempDir()
	a, j := testkit.AppAt(t, st, dir)
	stop := work(t, a)
	first := until(t, a, start(t, a, j).ID, ticket.Done)
	want := delivered(t, a, first.ID)
	stop()
	id := start(t, a, j).ID
	set := func(s ticket.State) {
		if err := st.Move(ctx, id, s, "", ticket.Queued, ticket.Running, ticket.Delivering, ticket.Done, ticket.Stopped); err != nil {
			t.Fatal(err)
		}
	}
	recovered := func(step string, deliveries int) {
		t.Helper()
		b, _ := testkit.AppAt(t, st, dir)
		stop := work(t, b)
		until(t, b, id, ticket.Done)
		stop()
		if !bytes.Equal(delivered(t, b, id), want) {
			t.Errorf("%s: the file differs", step)
		}
		if n := len(get(t, b, id).Deliveries); n != deliveries {
			t.Errorf("%s: %d deliveries, want %d", step, n, deliveries)
		}
	}
	folder := filepath.Join(dir, "runs", itoa(id))
	film := filepath.Join(folder, "frames", "0000", "film")
	newest := func() string {
		return filepath.Join(folder, "deliveries", itoa(int64(get(t, a, id).Deliveries[0].Number)))
	}
	set(ticket.Running)
	recovered("taken from the queue, nothing rendered", 1)

	set(ticket.Running)
	recovered("delivered, not recorded", 1)

	set(ticket.Delivering)
	recovered("delivered and claimed, not recorded", 1)

	if err := os.Rename(newest(), filepath.Join(folder, "deliveries", whole.Making+"77")); err != nil {
		t.Fatal(err)
	}
	set(ticket.Delivering)
	recovered("in the middle of writing the files", 1)
	if left, _ := filepath.Glob(filepath.Join(folder, "deliveries", ".*")); len(left) != 0 {
		t.Errorf("left half written: %v", left)
	}

	if err := os.RemoveAll(newest()); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(film)
	if err != nil {
		t.Fatal(err)
	}
	unfinished := func() {
		if err := st.Complete(ctx, id, 0, false); err != nil {
			t.Fatal(err)
		}
		set(ticket.Running)
	}
	for i := len(b) / 3; i < len(b)/2; i++ { // a stretch of the film was never written
		b[i] = 0
	}
	if err := os.WriteFile(film, b, 0o600); err != nil {
		t.Fatal(err)
	}
	unfinished()
	recovered("in the middle of keeping the film", 1)

	if err := os.RemoveAll(newest()); err != nil {
		t.Fatal(err)
	}
	if err := os.Truncate(film, 100); err != nil {
		t.Fatal(err)
	}
	unfinished()
	recovered("in the middle of making the film", 1)

	// A film that was damaged after its frame was done: what is there is kept, and resumed
	// the frame is rendered again.
	if err := os.RemoveAll(newest()); err != nil {
		t.Fatal(err)
	}
	if err := os.Truncate(film, 2*int64(len(b))/3); err != nil {
		t.Fatal(err)
	}
	set(ticket.Running)
	e, _ := testkit.AppAt(t, st, dir)
	stop = work(t, e)
	until(t, e, id, ticket.Kept)
	ask(t, e, id, ticket.Resume)
	until(t, e, id, ticket.Done)
	stop()
	if !bytes.Equal(delivered(t, e, id), want) {
		t.Error("a damaged film shows in the file after it was rendered again")
	}

	// Cancelled, and the process dies before the film is thrown away.
	if err := st.Move(ctx, id, ticket.Stopped, "", ticket.Done); err != nil {
		t.Fatal(err)
	}
	if _, _, err := st.Ask(ctx, id, ticket.Cancel); err != nil {
		t.Fatal(err)
	}
	c, _ := testkit.AppAt(t, st, dir)
	stop = work(t, c)
	wait.Until(t, "the film of a cancelled run to be removed", func() bool {
		_, err := os.Stat(film)
		return errors.Is(err, fs.ErrNotExist)
	}, nil)
	stop()
}

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

// What is rendered for the lists makes way for what somebody waits for, and goes
// on afterwards.
func TestBackgroundRunsMakeWay(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	hold.From(middle)
	idle, err := a.Runs.StartBackground(ctx, me, j.ID, func(*ticket.Ticket) {})
	if err != nil {
		t.Fatal(err)
	}
	work(t, a)
	hold.Reached(t)
	mine := start(t, a, j)
	hold.Go()
	x := until(t, a, mine.ID, ticket.Done)
	y := until(t, a, idle.ID, ticket.Done)
	if y.Finished.Before(*x.Finished) || !y.Background || x.Background {
		t.Errorf("the one for the lists ended at %v, mine at %v", y.Finished, x.Finished)
	}
}

// The database goes away in the middle of a run: the run goes on, and is recorded
// when it is back.
func TestARunOutlastsItsDatabase(t *testing.T) {
	st, restart := testkit.PrivateStore(t)
	a, j, hold := testkit.HeldAppAt(t, st, t.TempDir())
	hold.From(middle)
	work(t, a)
	r := start(t, a, j)
	hold.Reached(t)
	restart()
	hold.Go()
	wait.Until(t, "the database to be back", func() bool {
		_, err := a.Runs.Get(ctx, me, r.ID)
		if err != nil && !store.Gone(err) {
			t.Fatal(err)
		}
		return err == nil
	}, nil)
	until(t, a, r.ID, ticket.Done)
	if _, m := manifest(t, a, r.ID); !m.Complete {
		t.Errorf("manifest %+v", m)
	}
}
