// Package pipeline takes a resolved ticket through the core: scene in, film out,
// files delivered. The server's runs and the headless command both go this way,
// so that both make the same pixels; they differ in who watches, and in whether
// the film is kept.
package pipeline

import (
	"context"
	"errors"
	"os"
	"path/filepath"

	"amberproof/core/accel"
	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/render"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/farm"
	"amberproof/internal/ticket"
)

// Order is a frame to be made.
type Order struct {
	Resolved *ticket.Resolved
	Scene    *scene.Scene
	Surround *imageio.HDR // the environment picture that the ticket names, or nil
	Frame    int
	// FilmFile is where the film is kept while it grows, so that a frame that is
	// cut off goes on from there; empty keeps none. Key is the identity it is kept
	// under.
	FilmFile, Key string
	// FromFile is the film that the picture goes on from, where its ticket says that it does: it is
	// taken over when the frame is begun.
	FromFile string
	Workers  int // that take noise out between rounds; 0: as many as there are processors
}

// Shot is a frame made ready to be rendered.
type Shot struct {
	Order
	World  *trace.World
	Film   *film.Film
	Passes []passes.Pass
	// Anew is set when a kept film was thrown away, since another revision of the
	// renderer had begun it.
	Anew bool

	plan   *render.Plan
	keeper *film.Keeper
	clean  clean
}

// Prepare makes a frame ready, after checking that it fits into memory, and
// takes up the film that is kept of it. Close it when done.
func Prepare(ctx context.Context, o Order) (*Shot, error) {
	if err := Fits(Memory(o.Resolved, o.Scene, o.Surround)); err != nil {
		return nil, err
	}
	s := o.Resolved.Staged(o.Scene)
	w, err := trace.Prepare(ctx, s, o.Resolved.Options(s, o.Surround))
	if err != nil {
		return nil, err
	}
	sh := &Shot{
		Order: o, World: w, Film: film.New(w.Options().Window, w.Options().Layout),
		Passes: o.Resolved.Ticket.List(s, w.Elements()),
	}
	if err := sh.takeUp(ctx); err != nil {
		return nil, errors.Join(err, sh.Close())
	}
	return sh, nil
}

// takeUp opens the kept film, if there is one to be, and plans what is left.
func (sh *Shot) takeUp(ctx context.Context) (err error) {
	t := &sh.Resolved.Ticket
	order := render.Order{Stop: t.Stop(), View: t.NoiseView(), Keep: noKeeper{}}
	if t.Quality.Denoise.On {
		order.Judge = sh.judge
	}
	if sh.FilmFile != "" {
		if err := os.MkdirAll(filepath.Dir(sh.FilmFile), 0o755); err != nil {
			return err
		}
	}
	if from := sh.Resolved.From; from != nil {
		order.Area = from.Rect()
		if begun, err := sh.begun(); err != nil || !begun {
			return errors.Join(err, sh.takeOver(ctx, from, order))
		}
	}
	if sh.FilmFile != "" {
		sh.keeper, err = film.Keep(sh.FilmFile, sh.Film, sh.Key, trace.Revision)
		if errors.Is(err, film.ErrOtherRevision) && sh.Resolved.From == nil {
			sh.Anew = true
			if err := os.Remove(sh.FilmFile); err != nil {
				return err
			}
			sh.keeper, err = film.Keep(sh.FilmFile, sh.Film, sh.Key, trace.Revision)
		}
		if err != nil {
			return err
		}
		order.Keep = sh.keeper
	}
	sh.plan, err = render.NewPlan(ctx, sh.Film, order)
	return err
}

// noKeeper: a frame that is not kept starts over when it is cut off.
type noKeeper struct{}

func (noKeeper) Save(int) error { return nil }

// Close closes the film's file; what it holds stays.
func (sh *Shot) Close() error {
	if sh.keeper == nil {
		return nil
	}
	k := sh.keeper
	sh.keeper = nil
	return k.Close()
}

// Sync has what is kept of the frame outlast a crash of the machine.
func (sh *Shot) Sync() error {
	if sh.keeper == nil {
		return nil
	}
	return sh.keeper.Sync()
}

// Progress is how far the frame is.
func (sh *Shot) Progress() render.Progress { return sh.plan.Progress() }

// Left is the noise of the frame's tiles that its target is about, see render.Plan.Left.
func (sh *Shot) Left() []float64 { return sh.plan.Left() }

// Render works the frame off on a pool, from a sketch to its end. changed is
// called whenever the film has changed, with nothing locked, by the goroutine
// that called Render; its error ends the frame. Cancelled, Render returns the
// context's error and the film stands as it is.
func (sh *Shot) Render(ctx context.Context, open farm.Opener, changed func() error) error {
	pool := open(ctx, sh.World, sh.Film, farm.Picture{
		Film: sh.Key, Frame: sh.Frame, Revision: trace.Revision, Processor: accel.Kind(), Needs: sh.Resolved.Needs(), Layout: sh.Film.Layout,
	})
	defer pool.Close()
	if sh.plan.Progress().Samples == 0 {
		// Something of the whole picture is seen at once.
		sketch, err := farm.Sketch(ctx, sh.Film, pool)
		if err != nil {
			return err
		}
		sh.Film.Show(sketch)
		if err := changed(); err != nil {
			return err
		}
	}
	return farm.Gather(ctx, sh.plan, pool, changed)
}

// Complete tells whether a film has reached what its ticket asks for: a plan for
// it would have nothing left to do. The film must not be changed meanwhile.
func Complete(f *film.Film, r *ticket.Resolved) (bool, error) {
	t := &r.Ticket
	p, err := render.NewPlan(context.Background(), f, render.Order{Stop: t.Stop(), View: t.NoiseView(), Keep: noKeeper{}})
	return err == nil && p.Done(), err
}
