package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// locked reads what decides about a run's next state, and locks its row.
func locked(ctx context.Context, t *sql.Tx, id int64) (have ticket.State, want ticket.Intent, least int, err error) {
	err = t.QueryRowContext(ctx, `SELECT state, intent, least FROM runs WHERE id = ? FOR UPDATE`, id).Scan(&have, &want, &least)
	return have, want, least, missing(err, "run", id)
}

// put writes a run's state, and what goes with it.
func put(ctx context.Context, t *sql.Tx, id int64, to ticket.State, intent ticket.Intent, why string) error {
	set := `state = ?, intent = ?, fault = ?`
	args := []any{to, intent, why}
	switch to {
	case ticket.Queued:
		// Its place is behind all others.
		set += `, finished = NULL, queued = ?, place = (SELECT p FROM (SELECT MAX(place) + 1 p FROM runs) x)`
		args = append(args, now())
	case ticket.Done, ticket.Kept, ticket.Failed, ticket.Cancelled:
		set += `, finished = ?`
		args = append(args, now())
	}
	if to != ticket.Running && to != ticket.Stopping {
		set += `, attempts = 0` // what it was begun for has come to an orderly end
	}
	if to == ticket.Cancelled {
		set += `, samples = 0, least = 0, noise = NULL, share = 0`
	}
	if _, err := t.ExecContext(ctx, `UPDATE runs SET `+set+` WHERE id = ?`, append(args, id)...); err != nil {
		return err
	}
	if to == ticket.Cancelled {
		if err := clearFrames(ctx, t, id); err != nil {
			return err
		}
	}
	switch {
	case to == ticket.Queued:
		return ran(ctx, t, id, RunQueued, string(to))
	case to.Going():
		return nil
	}
	return ran(ctx, t, id, RunEnded, string(to))
}

// Ask moves a run to where an intent takes it at once, and remembers the intent
// where that takes time. What it was and what it is are returned; fault.ErrState
// when its state does not allow it.
func (s *Store) Ask(ctx context.Context, id int64, want ticket.Intent) (was, is ticket.State, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		have, _, least, err := locked(ctx, t, id)
		if err != nil {
			return err
		}
		to, err := have.Ask(want, least > 0)
		if err != nil {
			return fmt.Errorf("%w: %w", err, fault.ErrState)
		}
		was, is = have, to
		intent := ticket.NoIntent
		if to.Going() {
			intent = want
		}
		return put(ctx, t, id, to, intent, "")
	})
	return was, is, err
}

// Move changes a run's state if it is in one of the states from; fault.ErrState
// otherwise. why says what went wrong, for a failed run.
func (s *Store) Move(ctx context.Context, id int64, to ticket.State, why string, from ...ticket.State) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		have, intent, _, err := locked(ctx, t, id)
		if err != nil {
			return err
		}
		for _, f := range from {
			if f == have {
				if !to.Going() {
					intent = ticket.NoIntent
				}
				return put(ctx, t, id, to, intent, why)
			}
		}
		return fmt.Errorf("the run is %s: %w", have, fault.ErrState)
	})
}

// End moves a run that has ended to where its intent takes it, and returns that;
// complete says that it is at its target.
func (s *Store) End(ctx context.Context, id int64, complete bool) (to ticket.State, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		have, intent, least, err := locked(ctx, t, id)
		if err != nil {
			return err
		}
		if have != ticket.Running && have != ticket.Stopping {
			return fmt.Errorf("the run is %s: %w", have, fault.ErrState)
		}
		if to = intent.Ended(least > 0, complete); !to.Going() {
			intent = ticket.NoIntent
		}
		return put(ctx, t, id, to, intent, "")
	})
	return to, err
}

// NextRun takes the first queued run and marks it running; ok is false when
// none waits.
func (s *Store) NextRun(ctx context.Context) (v Run, ok bool, err error) {
	var id int64
	err = s.tx(ctx, func(t *sql.Tx) error {
		id = 0
		err := t.QueryRowContext(ctx, `SELECT id FROM runs WHERE state = ? ORDER BY background, place, id LIMIT 1 FOR UPDATE SKIP LOCKED`, ticket.Queued).Scan(&id)
		if err == sql.ErrNoRows {
			return nil
		}
		if err != nil {
			return err
		}
		_, err = t.ExecContext(ctx, `UPDATE runs SET state = ?, intent = '', attempts = attempts + 1, started = COALESCE(started, ?) WHERE id = ?`,
			ticket.Running, now(), id)
		if err != nil {
			return err
		}
		return ran(ctx, t, id, RunStarted, string(ticket.Running))
	})
	if err != nil || id == 0 {
		return v, false, err
	}
	if v, err = s.Run(ctx, id); err != nil && !Gone(err) {
		// A row that cannot be read must not stop the queue for all others.
		err = fmt.Errorf("run %d: %w", id, err)
		return v, false, errors.Join(err, s.Move(ctx, id, ticket.Failed, err.Error(), ticket.Running))
	}
	return v, err == nil, err
}

// Release puts a run that is going back where it was in the queue, as one that
// came to an orderly end: the server stops, or somebody else goes first.
func (s *Store) Release(ctx context.Context, id int64) error {
	_, err := s.db.ExecContext(ctx, `UPDATE runs SET state = ?, attempts = 0 WHERE id = ? AND state = ?`, ticket.Queued, id, ticket.Running)
	return err
}

// Recover puts runs that a dead process left in the middle of something to
// where they can go on: what they had is kept in their films. Those that were
// begun too often without coming to an end are given up. It returns how many go on.
func (s *Store) Recover(ctx context.Context) (int64, error) {
	const why = `The program ended each time this run was going, several times in a row; it is not tried again by itself. Resume it to try once more.`
	over, err := list(ctx, s.db, func(r rows) (id int64, err error) { return id, r.Scan(&id) },
		`SELECT id FROM runs WHERE state IN (?,?) AND attempts >= ? ORDER BY id`, ticket.Running, ticket.Delivering, ticket.MostAttempts)
	if err != nil {
		return 0, err
	}
	for _, id := range over {
		if err := s.Move(ctx, id, ticket.Failed, why, ticket.Running, ticket.Delivering); err != nil {
			return 0, err
		}
	}
	stopping, err := s.In(ctx, ticket.Stopping)
	if err != nil {
		return 0, err
	}
	for _, id := range stopping {
		if _, err := s.End(ctx, id, false); err != nil {
			return 0, err
		}
	}
	r, err := s.db.ExecContext(ctx, `UPDATE runs SET state = ? WHERE state = ?`, ticket.Queued, ticket.Running)
	if err != nil {
		return 0, err
	}
	return r.RowsAffected()
}

// In lists the runs in a state.
func (s *Store) In(ctx context.Context, state ticket.State) ([]int64, error) {
	return list(ctx, s.db, func(r rows) (id int64, err error) { return id, r.Scan(&id) }, `SELECT id FROM runs WHERE state = ? ORDER BY id`, state)
}

// Reached says how far a run is that is begun: at which frame, and how many samples the film
// of that holds. If that is more than when it was begun before, the attempts until now were
// not in vain.
func (s *Store) Reached(ctx context.Context, id int64, frame int, samples int64) error {
	samples += int64(frame) << 40 // a film has fewer
	_, err := s.db.ExecContext(ctx, `UPDATE runs SET attempts = IF(? > reached, 1, attempts), reached = ? WHERE id = ?`, samples, samples, id)
	return err
}

// Begun counts an attempt at a run that is being delivered.
func (s *Store) Begun(ctx context.Context, id int64) error {
	_, err := s.db.ExecContext(ctx, `UPDATE runs SET attempts = attempts + 1 WHERE id = ?`, id)
	return err
}

// Place moves a waiting run in the queue: behind another, or to its head with
// after 0.
func (s *Store) Place(ctx context.Context, id, after int64) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		q, err := t.QueryContext(ctx, `SELECT id FROM runs WHERE state = ? ORDER BY background, place, id FOR UPDATE`, ticket.Queued)
		if err != nil {
			return err
		}
		var order []int64
		for q.Next() {
			var k int64
			if err := q.Scan(&k); err != nil {
				return err
			}
			order = append(order, k)
		}
		if err := q.Err(); err != nil {
			return err
		}
		next, err := reordered(order, id, after)
		if err != nil {
			return err
		}
		// Waiting runs are few: all get their places anew. One that is ordered by
		// hand is no longer something for when there is nothing else to do.
		for i, k := range next {
			if _, err := t.ExecContext(ctx, `UPDATE runs SET place = ?, background = background AND id <> ? WHERE id = ?`, i+1, id, k); err != nil {
				return err
			}
		}
		return nil
	})
}

// reordered moves an entry behind another, or to the front.
func reordered(order []int64, id, after int64) ([]int64, error) {
	found := after == 0
	out := make([]int64, 0, len(order))
	if after == 0 {
		out = append(out, id)
	}
	has := false
	for _, k := range order {
		if k == id {
			has = true
			continue
		}
		out = append(out, k)
		if k == after {
			out, found = append(out, id), true
		}
	}
	if !has || !found || id == after {
		return nil, fmt.Errorf("only runs that wait can be ordered: %w", fault.ErrState)
	}
	return out, nil
}

// RemoveRun removes a run that nobody works on. One that has delivered is kept
// unless delivered is set: fault.ErrState.
func (s *Store) RemoveRun(ctx context.Context, id int64, delivered bool) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		have, _, _, err := locked(ctx, t, id)
		if err != nil {
			return err
		}
		if have.Going() {
			return fmt.Errorf("the run is %s; stop it first: %w", have, fault.ErrState)
		}
		var n int
		var background bool
		if err := t.QueryRowContext(ctx, `SELECT (SELECT COUNT(*) FROM deliveries WHERE run = ?), background FROM runs WHERE id = ?`,
			id, id).Scan(&n, &background); err != nil {
			return err
		}
		if n > 0 && !background && !delivered {
			return fmt.Errorf("the run has delivered files; say that they are to be removed too: %w", fault.ErrState)
		}
		if _, err := t.ExecContext(ctx, `UPDATE jobs SET last_run = (SELECT MAX(id) FROM runs WHERE job = jobs.id AND id <> ?) WHERE last_run = ?`,
			id, id); err != nil {
			return err
		}
		_, err = t.ExecContext(ctx, `DELETE FROM runs WHERE id = ?`, id)
		return err
	})
}
