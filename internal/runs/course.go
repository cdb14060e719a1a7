package runs

import (
	"context"

	"amberproof/core/forecast"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// Course is how the noise of a frame fell while it was rendered, and what was told of it.
type Course struct {
	Points   []store.NoisePoint `json:"points" nullable:"false" doc:"In their order"`
	Target   float64            `json:"target" doc:"Noise, percent of display white; 0: none"`
	Forecast *forecast.Range    `json:"forecast" doc:"Seconds the run was told to take when it was queued; null where none was told"`
}

// Course tells how the noise of a run's frame fell.
func (s *Service) Course(ctx context.Context, who identity.Actor, id int64, frame int) (Course, error) {
	c := Course{Points: []store.NoisePoint{}}
	if err := s.guard.May(ctx, who, identity.See, identity.RunKind, id); err != nil {
		return c, err
	}
	r, err := s.store.RunLine(ctx, id)
	if err != nil {
		return c, err
	}
	c.Target, c.Forecast = r.Target, r.Forecast
	points, err := s.store.Course(ctx, id, frame)
	c.Points = append(c.Points, points...)
	return c, err
}

// pointEvery is by how much the samples of a frame grow from one point of its course to the next.
const pointEvery = 1.08

// course notes how the noise of a frame falls: at ever more samples, so that a run of hours has no
// more than some tens of points.
type course struct {
	r     *runner
	run   int64
	frame int
	noted float64 // samples at the last
}

// note takes down where a frame stands, if that is news; last is at its end.
func (c *course) note(ctx context.Context, m *store.Measure, last bool) error {
	if m.Noise == nil || m.Samples <= c.noted || !last && m.Samples < c.noted*pointEvery {
		return nil
	}
	c.noted = m.Samples
	return c.r.s.store.AddNoisePoint(ctx, c.run, c.frame, store.NoisePoint{Seconds: m.Seconds, Samples: m.Samples, Noise: *m.Noise})
}
