// Package live renders pictures that answer at once and then get better: first one
// pixel for many, then all of them, then more samples of each, with the noise taken
// out on the way.
package live

import (
	"context"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/trace"
)

// Order is a picture to be refined.
type Order struct {
	World *trace.World // prepared for the frame at its whole size, with film.GuidePlane in its layout
	// Workers is asked before each step how many cores to use.
	Workers func() int
	Most    int   // samples of a pixel at which the picture is done
	From    *Step // of the same world at its whole size, to go on from
}

// Step is a state of a picture. Its films do not change any more before the next.
type Step struct {
	World   *trace.World // of this size
	Film    *film.Film
	Clean   *film.Film // with the noise taken out; nil at the first step
	Scale   int        // pixels of the frame to one of the film's, in each direction
	Samples int        // of each pixel of the film
	Done    bool       // it gets no better than this
}

// coarse are the scales of the first steps, and the samples of each: two, so that none is
// shown with its noise.
var coarse = []struct{ scale, samples int }{{8, 2}, {4, 2}, {2, 2}}

// leastSide is the least side of a film: smaller ones show nothing.
const leastSide = 24

// Refine renders a picture step by step until it is done or the context ends, whose
// error it returns then, within a pixel's work of every core. show gets each step in
// turn; its error ends the picture.
func Refine(ctx context.Context, o Order, show func(Step) error) error {
	opt := o.World.Options()
	s := Step{World: o.World, Scale: 1}
	if o.From != nil {
		if s = *o.From; s.Done {
			return nil
		}
	} else if err := o.coarse(ctx, show); err != nil {
		return err
	} else {
		s.Film = film.New(opt.Window, opt.Layout)
	}
	for s.Samples < o.Most {
		n := min(max(2, 2*s.Samples), o.Most)
		if err := o.step(ctx, s, n, show); err != nil {
			return err
		}
		s.Samples = n
	}
	return nil
}

// Once renders a picture with all its samples and takes the noise out, showing nothing
// on the way.
func Once(ctx context.Context, o Order) (s Step, err error) {
	opt := o.World.Options()
	s = Step{World: o.World, Film: film.New(opt.Window, opt.Layout), Scale: 1}
	err = o.step(ctx, s, o.Most, func(done Step) error { s = done; return nil })
	return s, err
}

// coarse shows the picture with one pixel for many.
func (o *Order) coarse(ctx context.Context, show func(Step) error) error {
	opt := o.World.Options()
	for _, c := range coarse {
		w, h := opt.Width/c.scale, opt.Height/c.scale
		if min(w, h) < leastSide {
			continue
		}
		small := o.World.Seen(opt.Camera, w, h).Unlined()
		f := film.New(small.Options().Window, opt.Layout)
		if err := o.step(ctx, Step{World: small, Film: f, Scale: c.scale}, c.samples, show); err != nil {
			return err
		}
	}
	return nil
}

// step brings a picture to a number of samples and shows it.
func (o *Order) step(ctx context.Context, s Step, to int, show func(Step) error) error {
	workers := max(1, o.Workers())
	if err := trace.Expose(ctx, s.World, s.Film, s.Samples, to, workers); err != nil {
		return err
	}
	s.Samples, s.Done = to, s.Scale == 1 && to == o.Most
	if to > 1 { // halves of samples tell noise from detail
		d := denoise.Order{Film: s.Film, Behind: -1, Workers: workers, Quick: !s.Done}
		var err error
		if s.Clean, err = d.Run(ctx, nil); err != nil {
			return err
		}
	}
	return show(s)
}
