package runs_test

import (
	"math"
	"testing"

	"amberproof/internal/runs"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

// What the button told is kept with the run that it starts; a run whose picture nobody has looked
// at is forecast while it waits. The queue says of each when it ends, one after the other, and when
// a further one would begin; what came of them corrects the forecasts that follow.
func TestTheQueueTellsWhenRunsEnd(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	work(t, a)
	hold.From(middle)
	defer hold.Go()
	told, err := a.Forecasts.Of(ctx, me, j.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	first := start(t, a, j)
	if f := first.Forecast; f == nil || *f != told.Seconds {
		t.Errorf("the run was told to take %+v, and keeps %+v", told.Seconds, f)
	}
	hold.Reached(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.View.Exposure = 1 }) // another picture
	second := start(t, a, j)
	wait.Until(t, "the second run to be forecast", func() bool { return get(t, a, second.ID).Run.Forecast != nil }, nil)
	queue, err := a.Runs.Queue(ctx, me)
	if err != nil || len(queue) != 2 {
		t.Fatalf("%d runs in the queue, %v", len(queue), err)
	}
	one, two := queue[0].Ends, queue[1].Ends
	if one == nil || two == nil || two.Mid <= one.Mid || two.Low > two.Mid || two.Mid > two.High {
		t.Fatalf("the runs end in %+v and %+v s", one, two)
	}
	if left := two.Mid - one.Mid; left < 0.999*queue[1].Forecast.Mid || left > 1.001*queue[1].Forecast.Mid {
		t.Errorf("the second is told to take %.3f s, and ends %.3f s after the first", queue[1].Forecast.Mid, left)
	}
	if begins, err := a.Runs.Wait(ctx, me); err != nil || begins == nil || begins.Mid <= 0 {
		t.Errorf("a third would begin in %+v, %v", begins, err)
	}
	hold.Go()
	for _, r := range []runs.Run{first, second} {
		until(t, a, r.ID, ticket.Done)
	}
	if after, err := a.Forecasts.Of(ctx, me, j.ID, 0); err != nil || after.Past != 2 || after.Wait != nil {
		t.Errorf("corrected by %d earlier runs, %v", after.Past, err)
	}
	// The same again takes what it took; another target is told from there, less surely.
	same, err := a.Forecasts.Of(ctx, me, j.ID, 0)
	came := get(t, a, second.ID).Run
	if f := same.Seconds; err != nil || !same.Again || math.Abs(f.Mid/came.Seconds-1) > 1e-6 || f.High/f.Mid > 1.2 ||
		math.Abs(same.Noise.Mid / *came.Noise - 1) > 1e-6 {
		t.Errorf("told %+v and %+v, came %.3f s and %v %%, %v", f, same.Noise, came.Seconds, *came.Noise, err)
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Most *= 4 })
	more, err := a.Forecasts.Of(ctx, me, j.ID, 0)
	if f := more.Seconds; err != nil || !more.Again || f.Mid < 1.3*came.Seconds || f.Mid > 5*came.Seconds || f.High/f.Mid <= same.Seconds.High/same.Seconds.Mid {
		t.Errorf("four times the samples: told %+v after %.3f s, %v", f, came.Seconds, err)
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.View.Exposure = -1 }) // a picture that no run has made
	if f, err := a.Forecasts.Of(ctx, me, j.ID, 0); err != nil || f.Again {
		t.Errorf("another picture is told by the runs of this one: %v", err)
	}
	if begins, err := a.Runs.Wait(ctx, me); err != nil || begins == nil || begins.High != 0 {
		t.Errorf("with nothing to be done, a run begins in %+v, %v", begins, err)
	}
}
