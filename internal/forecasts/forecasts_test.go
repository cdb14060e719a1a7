package forecasts_test

import (
	"context"
	"errors"
	"testing"

	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var (
	ctx = context.Background()
	me  = identity.Local
)

func change(t *testing.T, a *app.App, j jobs.Job, f func(*ticket.Ticket)) jobs.Job {
	t.Helper()
	f(&j.Ticket)
	j, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, j.Ticket)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// known tells whether a job's picture is measured already.
func known(t *testing.T, a *app.App, j jobs.Job) bool {
	t.Helper()
	p, err := a.Jobs.Resolve(ctx, me, j.ID)
	if err != nil {
		t.Fatal(err)
	}
	_, ok := a.Forecasts.Known(ctx, j.ID, &p.Resolved)
	return ok
}

// A picture is measured once for all targets; what changes its samples is another picture.
func TestOneProbeForAllTargets(t *testing.T) {
	a, j := testkit.App(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Least, k.Quality.Most, k.Quality.Noise = 4, 256, 2 })
	if known(t, a, j) {
		t.Fatal("a picture is known before it was measured")
	}
	f, err := a.Forecasts.Of(ctx, me, j.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	if !f.Whole || f.Version != j.Version || f.Noise == nil || f.Samples < 4 || f.Samples > 256 || !f.Reaches || f.Seconds.Low <= 0 || f.Past != 0 {
		t.Errorf("%+v", f)
	}
	for i, p := range f.Curve[1:] {
		if b := f.Curve[i]; p.Target <= b.Target || p.Samples > b.Samples*1.05 || p.Noise == nil {
			t.Errorf("the curve goes from %+v to %+v", b, p)
		}
	}
	for what, same := range map[string]func(k *ticket.Ticket){
		"target":           func(k *ticket.Ticket) { k.Quality.Noise = 0.7 },
		"samples":          func(k *ticket.Ticket) { k.Quality.Least, k.Quality.Most = 8, 64 },
		"amount":           func(k *ticket.Ticket) { k.Quality.Denoise.Amount = 60 },
		"file names":       func(k *ticket.Ticket) { k.Output.Name = "{view}_{pass}_{run}" },
		"nothing to reach": func(k *ticket.Ticket) { k.Quality.Noise = 0 },
	} {
		if j = change(t, a, j, same); !known(t, a, j) {
			t.Errorf("another %s has the picture measured anew", what)
		}
	}
	for what, other := range map[string]func(k *ticket.Ticket){
		"exposure": func(k *ticket.Ticket) { k.View.Exposure = 1 },
		"size":     func(k *ticket.Ticket) { k.View.Width = 80 },
		"surface":  func(k *ticket.Ticket) { k.Surface.Mode = "clay" },
	} {
		if j = change(t, a, j, other); known(t, a, j) {
			t.Errorf("with another %s the picture counts as measured", what)
		}
	}
}

// One sample has no noise that could be told, and the most samples may come before the target.
func TestWhatCannotBeReached(t *testing.T) {
	a, j := testkit.App(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Least, k.Quality.Most, k.Quality.Noise = 1, 1, 2 })
	if f, err := a.Forecasts.Of(ctx, me, j.ID, 0); err != nil || f.Noise != nil || f.Reaches || f.Samples != 1 {
		t.Errorf("of one sample: %+v, %v", f, err)
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Least, k.Quality.Most, k.Quality.Noise = 4, 8, 0.01 })
	if f, err := a.Forecasts.Of(ctx, me, j.ID, 0); err != nil || f.Noise == nil || f.Reaches || f.Noise.Mid < 0.01 {
		t.Errorf("of eight samples: %+v, %v", f, err)
	}
}

// What keeps a ticket from being run is told as when it is run; who does not wait gets nothing, and
// leaves nothing behind.
func TestForecastsThatCannotBe(t *testing.T) {
	a, j := testkit.App(t)
	gone, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := a.Forecasts.Of(gone, me, j.ID, 0); !errors.Is(err, context.Canceled) {
		t.Errorf("a forecast that nobody waits for says %v", err)
	}
	if known(t, a, j) {
		t.Error("it was made all the same")
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.View.Name = "Nowhere" })
	var bad *fault.Input
	if _, err := a.Forecasts.Of(ctx, me, j.ID, 0); !errors.As(err, &bad) {
		t.Errorf("of a view that is not there: %v", err)
	}
}
