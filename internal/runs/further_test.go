package runs_test

import (
	"bytes"
	"errors"
	"image"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"amberproof/core/film"
	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

// loose is a job whose tiles stop at a noise that some of them reach early.
func loose(t *testing.T, a *app.App, j jobs.Job) jobs.Job {
	t.Helper()
	return change(t, a, j, func(k *ticket.Ticket) {
		k.Quality.Least, k.Quality.Most, k.Quality.Noise, k.Quality.Denoise.On = 4, 256, 4, false
	})
}

func goOn(t *testing.T, a *app.App, id int64, to ticket.Further) runs.Run {
	t.Helper()
	r, err := a.Runs.GoOn(ctx, me, id, to)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func filmOf(t *testing.T, a *app.App, id int64) *film.Film {
	t.Helper()
	p, err := a.Proofs.Open(ctx, me, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	return p.Film
}

// sameTile tells whether a tile of two films has the same samples, to the rounding of their sums.
func sameTile(a, b *film.Film, i int) bool {
	return a.Tiles[i].Samples == b.Tiles[i].Samples && slices.EqualFunc(a.Tiles[i].Data, b.Tiles[i].Data, func(x, y float32) bool {
		return math.Abs(float64(x-y)) <= 1e-4*(1+math.Abs(float64(x)))
	})
}

// A picture that goes on to less noise is what it would have been at once, and the one it goes on
// from stays as it is.
func TestGoingOnToLessNoise(t *testing.T) {
	a, j := testkit.App(t)
	j = loose(t, a, j)
	work(t, a)
	first := until(t, a, start(t, a, j).ID, ticket.Done)
	was := delivered(t, a, first.ID)
	told, err := a.Runs.Foretell(ctx, me, first.ID, ticket.Further{Noise: 1.5, Most: 256})
	if err != nil || told.Seconds.Mid <= 0 || told.Samples <= 0 || told.Noise == nil || *told.Noise <= 1.5 {
		t.Fatalf("foretold %+v, %v", told, err)
	}
	next := goOn(t, a, first.ID, ticket.Further{Noise: 1.5, Most: 256})
	if next.GoesOn != first.ID || next.Target != 1.5 || next.Forecast == nil || next.Number != 2 {
		t.Errorf("%+v", next)
	}
	next = until(t, a, next.ID, ticket.Done)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Noise = 1.5 })
	whole := until(t, a, start(t, a, j).ID, ticket.Done)
	one, two, source := filmOf(t, a, next.ID), filmOf(t, a, whole.ID), filmOf(t, a, first.ID)
	for i := range one.Tiles {
		if !sameTile(one, two, i) {
			t.Errorf("tile %d has %d samples; at once it has %d", i, one.Tiles[i].Samples, two.Tiles[i].Samples)
		}
	}
	// The mean of what was foretold of all tiles; here it is many that stop at once or not at all.
	added := float64(one.Samples()-source.Samples()) / float64(one.Window.Dx()*one.Window.Dy())
	if added <= 0 || told.Samples < added/2 || told.Samples > added*2 {
		t.Errorf("%.1f samples were added, %.1f foretold", added, told.Samples)
	}
	if !bytes.Equal(was, delivered(t, a, first.ID)) || get(t, a, first.ID).Run.Samples != first.Samples {
		t.Error("the picture it goes on from has changed")
	}
	_, m := manifest(t, a, next.ID)
	from := get(t, a, first.ID).Resolved
	if m.Resolved.From == nil || m.Resolved.From.Film != from.FilmKey() || !m.Complete {
		t.Errorf("the manifest says %+v", m.Resolved.From)
	}
	c, err := a.Runs.Course(ctx, me, next.ID, 0)
	if n := len(c.Points); err != nil || n == 0 || c.Points[n-1].Noise != *next.Noise || c.Points[n-1].Samples != next.Samples || c.Target != 1.5 {
		t.Errorf("course %+v, %v; noise %v", c, err, *next.Noise)
	}
	// It can be gone on from again, and delivered by a ticket that is content with less.
	again := until(t, a, goOn(t, a, next.ID, ticket.Further{Noise: 1, Most: 256}).ID, ticket.Done)
	if again.Samples <= next.Samples {
		t.Errorf("%.1f samples after %.1f", again.Samples, next.Samples)
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.Output.Name = "other_{pass}" })
	if _, err := a.Runs.DeliverAgain(ctx, me, again.ID, j.Version); err != nil {
		t.Errorf("delivered again: %v", err)
	}
}

// An area that gets cleaner is what the whole would have been there, and all else stays to the bit.
func TestAnAreaGetsCleaner(t *testing.T) {
	a, j := testkit.App(t)
	j = loose(t, a, j)
	work(t, a)
	first := until(t, a, start(t, a, j).ID, ticket.Done)
	area := image.Rect(32, 16, 64, 48) // of two by two tiles
	next := until(t, a, goOn(t, a, first.ID, ticket.Further{Noise: 1.5, Most: 256, Area: area}).ID, ticket.Done)
	source, one := filmOf(t, a, first.ID), filmOf(t, a, next.ID)
	gained := 0
	for i := range one.Tiles {
		switch inside := one.Rect(i).Overlaps(area); {
		case inside && one.Tiles[i].Samples > source.Tiles[i].Samples:
			gained++
		case !inside && !slices.Equal(one.Tiles[i].Data, source.Tiles[i].Data):
			t.Errorf("tile %d outside the area has changed", i)
		}
	}
	if gained == 0 || next.Noise == nil || *next.Noise > 1.5 {
		t.Errorf("%d tiles got cleaner; noise %v", gained, next.Noise)
	}
	if bytes.Equal(delivered(t, a, next.ID), delivered(t, a, first.ID)) {
		t.Error("what is delivered has not changed")
	}
	m, err := a.Proofs.NoiseMap(ctx, must(a.Proofs.Open(ctx, me, next.ID, 0)))
	if err != nil || m.Area != [4]int{32, 16, 64, 48} || len(m.Left) != m.Columns*m.Rows || *m.Left[m.Columns+2] > 1.5 {
		t.Errorf("map %+v, %v", m, err)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// What cannot be gone on to is said, and nothing is queued.
func TestGoingOnThatIsRefused(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	j = loose(t, a, j)
	work(t, a)
	first := until(t, a, start(t, a, j).ID, ticket.Done)
	before, err := a.Runs.List(ctx, me, runs.Wanted{Job: j.ID})
	if err != nil {
		t.Fatal(err)
	}
	for what, to := range map[string]ticket.Further{
		"as noisy":       {Noise: 4, Most: 256},
		"noisier":        {Noise: 5, Most: 200},
		"no samples":     {Noise: 1, Most: 0},
		"too many":       {Noise: 1, Most: 1 << 20},
		"below nothing":  {Noise: -1, Most: 256},
		"not a number":   {Noise: math.NaN(), Most: 256},
		"outside":        {Noise: 1, Most: 256, Area: image.Rect(500, 500, 600, 600)},
		"of no width":    {Noise: 1, Most: 256, Area: image.Rect(5, 0, 5, 9)},
		"outside, above": {Noise: 1, Most: 256, Area: image.Rect(-20, -20, -10, -1)},
	} {
		var input *fault.Input
		if _, err := a.Runs.GoOn(ctx, me, first.ID, to); !errors.As(err, &input) || strings.Contains(err.Error(), "NaN") {
			t.Errorf("%s: %v", what, err)
		}
	}
	after, err := a.Runs.List(ctx, me, runs.Wanted{Job: j.ID})
	if err != nil || len(after.Runs) != len(before.Runs) {
		t.Errorf("%d runs, were %d, %v", len(after.Runs), len(before.Runs), err)
	}
	hold.From(middle)
	second := start(t, a, j)
	hold.Reached(t)
	if _, err := a.Runs.GoOn(ctx, me, second.ID, ticket.Further{Noise: 1, Most: 256}); !errors.Is(err, fault.ErrState) {
		t.Errorf("of a run that goes: %v", err)
	}
	hold.Go()
	until(t, a, second.ID, ticket.Done)
}

// The picture that a run goes on from is removed before that begins: it fails and says why. Removed
// afterwards, it is not missed.
func TestThePictureToGoOnFromIsRemoved(t *testing.T) {
	dir := t.TempDir()
	a, j := testkit.AppAt(t, testkit.Store(t), dir)
	j = loose(t, a, j)
	stop := work(t, a)
	first := until(t, a, start(t, a, j).ID, ticket.Done)
	stop()
	queued := goOn(t, a, first.ID, ticket.Further{Noise: 2, Most: 256})
	// A process that died while it took the film over has left a part of it.
	part := filepath.Join(dir, "runs", itoa(queued.ID), "frames", "0000", "film.part")
	if err := errors.Join(os.MkdirAll(filepath.Dir(part), 0o755), os.WriteFile(part, []byte("half"), 0o600)); err != nil {
		t.Fatal(err)
	}
	stop = work(t, a)
	next := until(t, a, queued.ID, ticket.Done)
	if _, err := os.Stat(part); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("the part is still there: %v", err)
	}
	stop()
	late := goOn(t, a, first.ID, ticket.Further{Noise: 1, Most: 256})
	if err := a.Runs.Remove(ctx, me, first.ID, true); err != nil {
		t.Fatal(err)
	}
	work(t, a)
	var r runs.Run
	wait.Until(t, "the run to fail", func() bool { r = get(t, a, late.ID).Run; return r.State == ticket.Failed }, func() any { return r.State })
	if !strings.Contains(r.Fault, "not there any more") || r.GoesOn != 0 {
		t.Errorf("it says %q and goes on from %d", r.Fault, r.GoesOn)
	}
	// The other has all it needs.
	if got := until(t, a, goOn(t, a, next.ID, ticket.Further{Noise: 1, Most: 256}).ID, ticket.Done); got.Samples <= next.Samples {
		t.Errorf("%.1f samples after %.1f", got.Samples, next.Samples)
	}
}
