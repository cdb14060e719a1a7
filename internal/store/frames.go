package store

import (
	"context"
	"database/sql"
)

// Frame is a frame of a run: a still has one, number 0.
type Frame struct {
	Number   int
	Complete bool // it is at its target
	Measure
}

// Frames lists the frames of a run in order.
func (s *Store) Frames(ctx context.Context, run int64) ([]Frame, error) {
	return list(ctx, s.db, func(r rows) (v Frame, err error) {
		return v, r.Scan(&v.Number, &v.Complete, &v.Seconds, &v.Samples, &v.Least, &v.Noise, &v.Share)
	}, `SELECT number, complete, seconds, samples, least, noise, share FROM frames WHERE run = ? ORDER BY number`, run)
}

// addFrames adds as many frames to a run that is being added.
func addFrames(ctx context.Context, t *sql.Tx, run int64, n int) error {
	for k := range n {
		if _, err := t.ExecContext(ctx, `INSERT INTO frames (run, number) VALUES (?, ?)`, run, k); err != nil {
			return err
		}
	}
	return nil
}

// Record saves a frame's measures, and with them its run's: times are added, samples and
// shares are means, and noise is that of the noisiest frame.
func (s *Store) Record(ctx context.Context, run int64, frame int, m Measure) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `UPDATE frames SET seconds = ?, samples = ?, least = ?, noise = ?, share = ? WHERE run = ? AND number = ?`,
			m.Seconds, m.Samples, m.Least, m.Noise, m.Share, run, frame); err != nil {
			return err
		}
		_, err := t.ExecContext(ctx, `UPDATE runs JOIN (SELECT run, SUM(seconds) seconds, AVG(samples) samples,
			MIN(least) least, MAX(noise) noise, AVG(share) share FROM frames WHERE run = ? GROUP BY run) f ON f.run = runs.id
			SET runs.seconds = f.seconds, runs.samples = f.samples, runs.least = f.least, runs.noise = f.noise, runs.share = f.share`, run)
		return err
	})
}

// Complete says whether a frame is at its target: one that is not is rendered when its run
// goes on.
func (s *Store) Complete(ctx context.Context, run int64, frame int, is bool) error {
	_, err := s.db.ExecContext(ctx, `UPDATE frames SET complete = ? WHERE run = ? AND number = ?`, is, run, frame)
	return err
}

// clearFrames forgets what the frames of a run have reached.
func clearFrames(ctx context.Context, t *sql.Tx, run int64) error {
	_, err := t.ExecContext(ctx, `UPDATE frames SET complete = FALSE, samples = 0, least = 0, noise = NULL, share = 0 WHERE run = ?`, run)
	if err == nil {
		_, err = t.ExecContext(ctx, `DELETE FROM noise_points WHERE run = ?`, run)
	}
	return err
}
