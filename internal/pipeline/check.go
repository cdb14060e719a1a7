package pipeline

import (
	"context"
	"image"
	"math"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/imageio"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// Check looks at a picture before time is spent on it: by shapes, by light, and for the
// light that clay would block.
type Check struct {
	Scene  *scene.Scene // with its set-up
	Setup  setup.Setup
	Ticket ticket.Ticket
	Views  []ticket.View // that are looked at
	// Surround is the environment picture that the ticket names, or nil. One that is not
	// here is told when somebody looks or runs, and is no reason to find nothing else.
	Surround *imageio.HDR
	// Lines is how many pixels high the pictures are to be, and Aspect their width over
	// that; 0 lines: as high as usual.
	Lines  int
	Aspect float32
	// Admit waits for memory, in bytes, and says how to give it back; nil: all there is may
	// be taken.
	Admit func(ctx context.Context, bytes int64) (done func(), err error)
}

func (c *Check) admit(ctx context.Context, bytes int64) (done func(), err error) {
	if c.Admit == nil {
		return func() {}, nil
	}
	return c.Admit(ctx, bytes)
}

// subject is what is looked at of a scene.
func (c *Check) subject(s *scene.Scene) preflight.Subject {
	of := preflight.Subject{Scene: s, Lamp: ticket.IsLamp(c.Scene), Lines: c.Lines}
	for _, v := range c.Views {
		of.Views = append(of.Views, v.Framed(c.Aspect))
	}
	return of
}

// Shapes checks geometry and finishes; progress, if there, is told the share that is done.
func (c *Check) Shapes(ctx context.Context, progress func(share float64)) ([]preflight.Finding, error) {
	s := c.Scene
	if c.Lines > 0 { // as the ticket renders it
		r := ticket.Resolved{Ticket: c.Ticket}
		s = r.Staged(s)
	}
	done, err := c.admit(ctx, preflight.Bytes(s))
	if err != nil {
		return nil, err
	}
	defer done()
	return preflight.Run(ctx, c.subject(s), progress)
}

// mostLit is how many views of a scene are looked at as they are lit.
const mostLit = 4

// Light checks how the views are lit.
func (c *Check) Light(ctx context.Context) ([]preflight.Finding, error) {
	t := c.ticket()
	lit := preflight.Lit{Subject: c.subject(c.Scene), Exposure: t.View.Exposure, Display: colour.Transform(t.View.Display)}
	for i := range min(len(c.Views), mostLit) {
		t.View.Name = c.Views[i].Name
		r, faults := ticket.Resolve(t, ticket.Subject{Setup: c.Setup, Scene: c.Scene}, c.Views)
		if len(faults) > 0 {
			return nil, fault.Ticket(faults)
		}
		staged := r.Staged(c.Scene)
		lit.Scene = staged
		o := r.Options(staged, c.Surround)
		o.Width, o.Height = litSize(c.Aspect)
		o.Window = image.Rect(0, 0, o.Width, o.Height)
		o.Layout = preflight.LitLayout(len(trace.ElementsOf(staged, &o)))
		if len(lit.Worlds) > 0 {
			lit.Worlds = append(lit.Worlds, lit.Worlds[0].Seen(o.Camera, o.Width, o.Height))
			continue
		}
		w, done, err := c.prepare(ctx, staged, o)
		if err != nil {
			return nil, err
		}
		defer done()
		lit.Worlds = append(lit.Worlds, w)
	}
	return preflight.CheckLit(ctx, &lit)
}

// Blocked estimates what light the clay of the ticket would take, in its view: what parts
// take, worst first, and all of them together.
func (c *Check) Blocked(ctx context.Context) ([]preflight.Blocked, preflight.Share, error) {
	t := c.ticket()
	r, faults := ticket.Resolve(t, ticket.Subject{Setup: c.Setup, Scene: c.Scene}, c.Views)
	if len(faults) > 0 {
		return nil, preflight.Share{}, fault.Ticket(faults)
	}
	staged := r.Staged(c.Scene)
	o, covered := r.Uncovered(staged, c.Surround)
	o.Window = image.Rectangle{Max: t.Size()}
	o.Layout = preflight.LitLayout(len(trace.ElementsOf(staged, &o)))
	w, done, err := c.prepare(ctx, staged, o)
	if err != nil {
		return nil, preflight.Share{}, err
	}
	defer done()
	return preflight.CheckBlocked(ctx, staged, ticket.IsLamp(staged), w, covered)
}

// ticket is that of the check, without an environment picture that is not here.
func (c *Check) ticket() ticket.Ticket {
	t := c.Ticket
	if c.Surround == nil {
		t.Stage.Surround.Picture = setup.Picture{}
	}
	return t
}

func (c *Check) prepare(ctx context.Context, s *scene.Scene, o trace.Options) (w *trace.World, done func(), err error) {
	if done, err = c.admit(ctx, trace.Forecast(s, &o)); err != nil {
		return nil, nil, err
	}
	if w, err = trace.Prepare(ctx, s, o); err != nil {
		done()
		return nil, nil, err
	}
	return w, done, nil
}

// ofFinishes are checks of what clay covers.
var ofFinishes = []preflight.Check{preflight.Bare, preflight.Coarse, preflight.Vast, preflight.Green, preflight.Encoded}

// Sorted puts findings of both kinds in order, without those of finishes that clay covers.
func (c *Check) Sorted(shapes, light []preflight.Finding) []preflight.Finding {
	found := slices.DeleteFunc(append(slices.Clone(shapes), light...), func(f preflight.Finding) bool {
		return c.Ticket.Surface.Mode == "clay" && slices.Contains(ofFinishes, f.Check)
	})
	preflight.Sort(found)
	return found
}

// litSize is the size of a picture whose light is checked, pixels: as many as of a square
// one, in the shape of a frame.
func litSize(aspect float32) (w, h int) {
	side := math.Sqrt(float64(aspect))
	return max(1, int(preflight.LitSide*side+0.5)), max(1, int(preflight.LitSide/side+0.5))
}
