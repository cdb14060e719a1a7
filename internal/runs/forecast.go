package runs

import (
	"context"
	"time"
)

// forecastAll forecasts runs that wait in the queue and were not forecast when they came, one
// after the other, until ctx ends. One that cannot be forecast is left as it is.
func (r *runner) forecastAll(ctx context.Context) {
	if r.s.forecasts == nil {
		return
	}
	tried := map[int64]bool{}
	for ctx.Err() == nil {
		id, ok := r.unforecast(ctx, tried)
		if !ok {
			select {
			case <-ctx.Done():
			case <-r.wakeForecast:
			case <-time.After(recheck):
			}
			continue
		}
		tried[id] = true
		if err := caught(func() error { return r.forecast(ctx, id) }); err != nil && ctx.Err() == nil {
			r.s.log.Warn("a run cannot be forecast", "run", id, "error", err)
		}
	}
}

// mostTried bounds how many runs that could not be forecast are looked past.
const mostTried = 200

// unforecast is the next run to forecast.
func (r *runner) unforecast(ctx context.Context, tried map[int64]bool) (id int64, ok bool) {
	all, err := r.s.store.Unforecast(ctx, mostTried)
	if err != nil && ctx.Err() == nil {
		r.s.log.Warn("runs to forecast cannot be listed", "error", err)
	}
	for _, id := range all {
		if !tried[id] {
			return id, true
		}
	}
	return 0, false
}

// forecast forecasts one run and tells of it.
func (r *runner) forecast(ctx context.Context, id int64) error {
	run, err := r.s.store.Run(ctx, id)
	if err != nil {
		return err
	}
	f, err := r.s.forecasts.Forecast(ctx, run.Job, &run.Resolved)
	if err != nil {
		return err
	}
	if err := r.s.store.SetForecast(ctx, id, f.Told, &f.Measured); err != nil {
		return err
	}
	_, err = r.s.tell(ctx, id)
	return err
}
