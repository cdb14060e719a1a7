package store

import "context"

// NoisePoint is the noise of a frame at a moment of its rendering.
type NoisePoint struct {
	Seconds float64 `json:"seconds" doc:"Of rendering, since the run was begun"`
	Samples float64 `json:"samples" doc:"Mean samples per pixel"`
	Noise   float64 `json:"noise" doc:"Percent of display white, that the target is about"`
}

// AddNoisePoint notes how noisy a frame is. Noted twice at the same samples, the later counts.
func (s *Store) AddNoisePoint(ctx context.Context, run int64, frame int, p NoisePoint) error {
	_, err := s.db.ExecContext(ctx, `REPLACE INTO noise_points (run, frame, seconds, samples, noise) VALUES (?, ?, ?, ?, ?)`,
		run, frame, p.Seconds, p.Samples, p.Noise)
	return err
}

// Course is how the noise of a frame fell, in the order of its samples.
func (s *Store) Course(ctx context.Context, run int64, frame int) ([]NoisePoint, error) {
	return list(ctx, s.db, func(r rows) (p NoisePoint, err error) { return p, r.Scan(&p.Seconds, &p.Samples, &p.Noise) },
		`SELECT seconds, samples, noise FROM noise_points WHERE run = ? AND frame = ? ORDER BY samples`, run, frame)
}
