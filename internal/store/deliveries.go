package store

import (
	"context"
	"database/sql"
	"time"

	"amberproof/internal/ticket"
)

// Delivery is a delivery's row; its files and its manifest lie in the run's folder.
type Delivery struct {
	Run      int64
	Number   int // from 1
	Complete bool
	Created  time.Time
}

// Deliveries lists those of a run, newest first.
func (s *Store) Deliveries(ctx context.Context, run int64) ([]Delivery, error) {
	read := func(r rows) (d Delivery, err error) {
		return d, r.Scan(&d.Run, &d.Number, &d.Complete, &d.Created)
	}
	return list(ctx, s.db, read, `SELECT run, number, complete, created FROM deliveries WHERE run = ? ORDER BY number DESC`, run)
}

// Delivered records a delivery that is in place. A run that was being delivered
// ends with it: done, or kept if it had not reached its target.
func (s *Store) Delivered(ctx context.Context, run int64, number int, complete bool) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		have, _, _, err := locked(ctx, t, run)
		if err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `INSERT IGNORE INTO deliveries (run, number, complete, created) VALUES (?,?,?,?)`, run, number, complete, now()); err != nil {
			return err
		}
		if have != ticket.Delivering {
			return nil
		}
		to := ticket.Done
		if !complete {
			to = ticket.Kept
		}
		return put(ctx, t, run, to, ticket.NoIntent, "")
	})
}
