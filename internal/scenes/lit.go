package scenes

import (
	"context"
	"image"
	"math"

	"amberproof/core/colour"
	"amberproof/core/preflight"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/job"
)

// mostLit is how many views of a scene are looked at as they are lit.
const mostLit = 4

// checkLit checks how a scene is lit by a ticket. An environment picture
// that is not here is told when somebody looks or runs, and is no reason to find nothing
// else.
func (s *Service) checkLit(ctx context.Context, of preflight.Subject, u *setup.Setup, t job.Ticket, views []View) ([]preflight.Finding, error) {
	surround, err := s.Picture(ctx, &t)
	if err != nil {
		t.Stage.Surround.Picture = setup.Picture{}
	}
	cameras := make([]job.View, len(views))
	for i, v := range views {
		cameras[i] = job.View{Name: v.Name, Camera: v.Camera}
	}
	lit := preflight.Lit{Subject: of, Exposure: t.View.Exposure, Display: colour.Transform(t.View.Display)}
	for i := range min(len(views), mostLit) {
		t.View.Name = views[i].Name
		r, faults := job.Resolve(t, job.Subject{Setup: *u, Scene: of.Scene}, cameras)
		if len(faults) > 0 {
			return nil, fault.Ticket(faults)
		}
		staged := r.Staged(of.Scene)
		lit.Scene = staged
		o := r.Options(staged, surround)
		o.Width, o.Height = litSize(of.Views[i].Aspect)
		o.Window = image.Rect(0, 0, o.Width, o.Height)
		o.Layout = preflight.LitLayout(len(trace.ElementsOf(staged, &o)))
		if len(lit.Worlds) > 0 {
			lit.Worlds = append(lit.Worlds, lit.Worlds[0].Seen(o.Camera, o.Width, o.Height))
			continue
		}
		done, err := s.admitted(ctx, s.bench.Join(), trace.Forecast(staged, &o))
		if err != nil {
			return nil, err
		}
		defer done()
		w, err := trace.Prepare(ctx, staged, o)
		if err != nil {
			return nil, err
		}
		lit.Worlds = append(lit.Worlds, w)
	}
	return preflight.CheckLit(ctx, &lit)
}

// litSize is the size of a picture whose light is checked, pixels: as many as of a square
// one, in the shape of a frame.
func litSize(aspect float32) (w, h int) {
	side := math.Sqrt(float64(aspect))
	return max(1, int(preflight.LitSide*side+0.5)), max(1, int(preflight.LitSide/side+0.5))
}
