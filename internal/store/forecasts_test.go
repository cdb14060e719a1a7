package store_test

import (
	"testing"

	"amberproof/core/forecast"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// A forecast is noted with a run that waits, and not with one that has begun; of runs that are
// done, what was measured stands beside what came, newest first.
func TestForecastsOfRuns(t *testing.T) {
	s, j := seed(t)
	ids := add(t, s, j, 3)
	if all, err := s.Unforecast(ctx, 10); err != nil || len(all) != 3 {
		t.Fatalf("%v are not forecast, %v", all, err)
	}
	told, measured := forecast.Range{Mid: 9, Low: 8, High: 12}, forecast.Range{Mid: 6, Low: 5, High: 7}
	for _, id := range ids[:2] {
		if err := s.SetForecast(ctx, id, told, &measured); err != nil {
			t.Fatal(err)
		}
	}
	if all, err := s.Unforecast(ctx, 10); err != nil || len(all) != 1 || all[0] != ids[2] {
		t.Errorf("%v are not forecast, %v", all, err)
	}
	for k, id := range ids {
		if r, _, err := s.NextRun(ctx); err != nil || r.ID != id {
			t.Fatalf("run %d is next, %v", r.ID, err)
		}
		if err := s.SetForecast(ctx, id, measured, &told); err != nil { // too late
			t.Fatal(err)
		}
		if err := s.Record(ctx, id, 0, store.Measure{Seconds: float64(10 + k), Samples: 8, Least: 8}); err != nil {
			t.Fatal(err)
		}
		if err := s.Move(ctx, id, ticket.Done, "", ticket.Running); err != nil {
			t.Fatal(err)
		}
	}
	if r, err := s.RunLine(ctx, ids[0]); err != nil || r.Forecast == nil || *r.Forecast != told {
		t.Errorf("the run keeps %+v, %v", r.Forecast, err)
	}
	if r, err := s.RunLine(ctx, ids[2]); err != nil || r.Forecast != nil {
		t.Errorf("a run that was not forecast keeps %+v, %v", r.Forecast, err)
	}
	past, err := s.PastForecasts(ctx, 10)
	if err != nil || len(past) != 2 || past[0] != (forecast.Past{Told: measured, Came: 11}) || past[1].Came != 10 {
		t.Errorf("%+v, %v", past, err)
	}
	if past, _ = s.PastForecasts(ctx, 1); len(past) != 1 {
		t.Errorf("%d of one", len(past))
	}
}
