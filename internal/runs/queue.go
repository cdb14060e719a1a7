package runs

import (
	"context"
	"slices"

	"amberproof/core/forecast"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Queue lists the runs that are going, then those that wait in their order, with when each
// will be rendered as far as that can be told.
func (s *Service) Queue(ctx context.Context, who identity.Actor) ([]Run, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return nil, err
	}
	all, err := s.runsOf(s.store.Queue(ctx, store.Within{All: true}))
	if err != nil {
		return nil, err
	}
	ends(all)
	if of.All {
		return all, nil
	}
	return slices.DeleteFunc(all, func(r Run) bool { return !slices.Contains(of.Some, r.Project) }), nil
}

// Wait is in how many seconds a run that is queued now would begin; nil where a run that comes
// before it was not forecast.
func (s *Service) Wait(ctx context.Context, who identity.Actor) (*forecast.Range, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	all, err := s.runsOf(s.store.Queue(ctx, store.Within{All: true}))
	if err != nil {
		return nil, err
	}
	return ends(all), nil
}

// ends tells of the runs of a queue when each is rendered, and returns when one begins that is
// queued behind them; nil where that cannot be told. Runs for the lists make way for others, so
// nobody can tell when they end, nor waits for them; files are written beside the next run.
func ends(queue []Run) (begins *forecast.Range) {
	sum := forecast.Range{}
	for i := range queue {
		r := &queue[i]
		if r.Background || r.State == ticket.Delivering {
			continue
		}
		left := r.left()
		if left == nil {
			return nil
		}
		sum = forecast.Range{Mid: sum.Mid + left.Mid, Low: sum.Low + left.Low, High: sum.High + left.High}
		at := sum
		r.Ends = &at
	}
	return &sum
}

// left is how many seconds a run still takes: by how it goes, or else by what was told of it.
func (r *Run) left() *forecast.Range {
	if e := r.Live; e != nil && e.Left != nil {
		left := forecast.Range{Mid: *e.Left, Low: *e.Left, High: *e.Left}
		if f := r.Forecast; f != nil && f.Mid > 0 { // as unsure as it was told to be
			left.Low, left.High = left.Low*f.Low/f.Mid, left.High*f.High/f.Mid
		}
		return &left
	}
	if r.Forecast == nil {
		return nil
	}
	spent := r.Seconds
	if r.Live != nil {
		spent = r.Live.Seconds
	}
	return &forecast.Range{Mid: max(0, r.Forecast.Mid-spent), Low: max(0, r.Forecast.Low-spent), High: max(0, r.Forecast.High-spent)}
}
