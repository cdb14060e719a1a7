package runs

import (
	"context"
	"fmt"
	"image"

	"amberproof/core/forecast"
	"amberproof/core/noise"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Further is what it takes to go on from where a run's picture stands.
type Further struct {
	Seconds forecast.Range  `json:"seconds" doc:"Of rendering, with an 80 % bar; 0 where nothing is left to do"`
	Samples float64         `json:"samples" doc:"That are added, mean over all pixels of the picture"`
	Wait    *forecast.Range `json:"wait" doc:"Seconds until runs that are queued before are done; null where one of them was not forecast"`
	Noise   *float64        `json:"noise" doc:"Of the picture or of the area as it is, percent of display white; null where it cannot be told"`
}

// What going on takes against what a run has taken so far; docs/rendering.md says how it was measured.
const (
	// cleanedFall is the power of the samples by which noise falls that is left once it is taken out,
	// in tiles that have had the least samples long ago.
	cleanedFall = 0.27
	// slower is by how much it takes longer than that lets expect: tiles that go on are those of
	// which rays take most, noise is taken out of few of them at a time, and where light is seldom
	// met it falls slower still.
	slower = 1.9
	// unsureFurther is by how much the time is off, as a factor, one time in ten each way.
	unsureFurther = 1.8
)

// from opens a run that a picture may go on from, for somebody who may do something with it: one
// whose picture has come to an end.
func (s *Service) from(ctx context.Context, who identity.Actor, id int64, to identity.Act, want ticket.Further) (
	run store.Run, p *proofs.Proof, next ticket.Resolved, err error) {
	if err = s.guard.May(ctx, who, to, identity.RunKind, id); err != nil {
		return run, nil, next, err
	}
	if run, err = s.store.Run(ctx, id); err != nil {
		return run, nil, next, err
	}
	if run.State != ticket.Done && run.State != ticket.Kept {
		return run, nil, next, fmt.Errorf("the run is %s; a picture goes on from one that is done or kept: %w", run.State, fault.ErrState)
	}
	if run.Frames != 1 {
		return run, nil, next, fault.Bad("The run has %d frames; only a still can be gone on from", run.Frames)
	}
	if p, err = s.proofs.Film(ctx, id, 0); err != nil {
		return run, nil, next, err
	}
	if p.Renderer != trace.Revision {
		return run, nil, next, fault.Bad("The picture was made by another version of the renderer, which would go on otherwise; run its ticket from the start")
	}
	next, faults := run.Resolved.GoOn(want, run.Film, p.Film.State())
	if len(faults) > 0 {
		return run, nil, next, fault.Ticket(faults)
	}
	return run, p, next, nil
}

// Foretell tells what it would take to go on from a run's picture, by the noise of its tiles and
// the time that its samples have taken.
func (s *Service) Foretell(ctx context.Context, who identity.Actor, id int64, want ticket.Further) (Further, error) {
	run, p, next, err := s.from(ctx, who, id, identity.See, want)
	if err != nil {
		return Further{}, err
	}
	f, err := s.foretell(ctx, &run, p, &next)
	if err == nil {
		f.Wait, err = s.Wait(ctx, who)
	}
	return f, err
}

func (s *Service) foretell(ctx context.Context, run *store.Run, p *proofs.Proof, next *ticket.Resolved) (Further, error) {
	left, err := s.proofs.Left(ctx, p)
	if err != nil {
		return Further{}, err
	}
	fall := noise.RootFall
	if next.Ticket.Quality.Denoise.On {
		fall = cleanedFall
	}
	pixels := float64(p.Film.Window.Dx()) * float64(p.Film.Window.Dy())
	more := float64(next.Ticket.Stop().Further(p.Film, left, next.From.Rect(), fall))
	all, err := s.spent(ctx, run)
	if err != nil {
		return Further{}, err
	}
	at := slower * all * more / max(1, float64(p.Film.Samples()))
	return Further{
		Seconds: forecast.Range{Mid: at, Low: at / unsureFurther, High: at * unsureFurther},
		Samples: more / pixels, Noise: finite(inArea(p, left, next.From.Rect())),
	}, nil
}

// inArea is the noise of the tiles that meet an area, or of all.
func inArea(p *proofs.Proof, left []float64, area image.Rectangle) float64 {
	var of []float64
	for i, n := range left {
		if area.Empty() || p.Film.Rect(i).Overlaps(area) {
			of = append(of, n)
		}
	}
	return noise.OfFrame(of)
}

// spent are the seconds of all runs that have gone into a picture.
func (s *Service) spent(ctx context.Context, run *store.Run) (seconds float64, err error) {
	const mostBefore = 100
	line := run.RunLine
	seconds = line.Seconds
	for n := 0; line.GoesOn != 0 && n < mostBefore; n++ {
		if line, err = s.store.RunLine(ctx, line.GoesOn); err != nil {
			return seconds, err
		}
		seconds += line.Seconds
	}
	return seconds, nil
}

// GoOn queues a run that goes on from the picture of another, to a stricter target or to more
// samples, in all of it or in an area. Every sample is kept; the other run stays as it is.
func (s *Service) GoOn(ctx context.Context, who identity.Actor, id int64, want ticket.Further) (Run, error) {
	run, p, next, err := s.from(ctx, who, id, identity.RunJobs, want)
	if err != nil {
		return Run{}, err
	}
	v, err := s.scenes.SubjectOf(ctx, &next)
	if err != nil {
		return Run{}, err
	}
	t := next.Ticket
	surround, err := s.scenes.Picture(ctx, &t)
	if err != nil {
		return Run{}, err
	}
	if err := pipeline.Fits(pipeline.Memory(&next, v, surround)); err != nil {
		return Run{}, fault.Bad("%s", err.Error())
	}
	told, err := s.foretell(ctx, &run, p, &next)
	if err != nil {
		return Run{}, err
	}
	made, err := s.store.AddRun(ctx, store.NewRun{Job: run.Job, Maker: who.ID, Resolved: next, Frames: 1, GoesOn: id})
	if err != nil {
		return Run{}, err
	}
	if err := s.store.SetForecast(ctx, made, told.Seconds, nil); err != nil {
		s.log.Warn("the forecast of a run cannot be noted", "run", made, "error", err)
	}
	s.runner.makeWay()
	s.runner.nudge()
	return s.tell(ctx, made)
}
