package runs_test

import (
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
	if begins, err := a.Runs.Wait(ctx, me); err != nil || begins == nil || begins.High != 0 {
		t.Errorf("with nothing to be done, a run begins in %+v, %v", begins, err)
	}
}
