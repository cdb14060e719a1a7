package store

import (
	"context"
	"database/sql"

	"amberproof/core/forecast"
	"amberproof/internal/ticket"
)

// ranged is a forecast as a row has it: all of it, or none.
type ranged struct{ mid, low, high sql.NullFloat64 }

func (r *ranged) into() []any { return []any{&r.mid, &r.low, &r.high} }

func (r *ranged) forecast() *forecast.Range {
	if !r.mid.Valid || !r.low.Valid || !r.high.Valid {
		return nil
	}
	return &forecast.Range{Mid: r.mid.Float64, Low: r.low.Float64, High: r.high.Float64}
}

// SetForecast notes how many seconds a run is told to take, of one that still waits; later it
// would be no forecast. measured is the same before earlier runs corrected it; nil where later ones
// must not be corrected by it.
func (s *Store) SetForecast(ctx context.Context, run int64, f forecast.Range, measured *forecast.Range) error {
	var mid, low, high sql.NullFloat64
	if m := measured; m != nil {
		mid, low, high = sql.NullFloat64{Float64: m.Mid, Valid: true}, sql.NullFloat64{Float64: m.Low, Valid: true}, sql.NullFloat64{Float64: m.High, Valid: true}
	}
	_, err := s.db.ExecContext(ctx, `UPDATE runs SET forecast = ?, forecast_low = ?, forecast_high = ?, measured = ?, measured_low = ?, measured_high = ?
		WHERE id = ? AND state = ?`, f.Mid, f.Low, f.High, mid, low, high, run, ticket.Queued)
	return err
}

// Unforecast are runs that wait and were not forecast, but for those that go on from others, in the order of the queue, at most so many.
func (s *Store) Unforecast(ctx context.Context, most int) ([]int64, error) {
	return list(ctx, s.db, func(r rows) (id int64, err error) { return id, r.Scan(&id) },
		`SELECT id FROM runs WHERE state = ? AND NOT background AND goes_on IS NULL AND forecast IS NULL ORDER BY place, id LIMIT ?`, ticket.Queued, most)
}

// PastForecasts are the forecasts of the newest runs that are done, as they were measured, at most
// so many, and what came.
func (s *Store) PastForecasts(ctx context.Context, most int) ([]forecast.Past, error) {
	return list(ctx, s.db, func(r rows) (p forecast.Past, err error) {
		return p, r.Scan(&p.Told.Mid, &p.Told.Low, &p.Told.High, &p.Came)
	}, `SELECT measured, measured_low, measured_high, seconds FROM runs
		WHERE state = ? AND measured IS NOT NULL AND measured_low IS NOT NULL AND measured_high IS NOT NULL AND NOT background
		ORDER BY id DESC LIMIT ?`, ticket.Done, most)
}
