// Package forecast tells before a picture is rendered how long that will take and how much
// noise will be left.
//
// A probe glances at the whole picture, renders some squares of it at its true size with a few
// samples a pixel, and measures there what a run would: the time of a sample, the noise of every
// tile, and what is left of it where it is taken out. Squares are drawn with a probability
// proportional to the work that the glance lets expect of them, and count by its inverse (Hansen
// and Hurwitz 1943); of a small picture all are measured. From this the run's own rule of when
// tiles stop is played through for any target, the noise of each tile falling by a power of its
// samples that is estimated from all of them. How sure the answer is comes from how much the
// squares differ (bootstrap, Efron 1979), and from what few samples cannot tell of many.
package forecast

import (
	"context"
	"errors"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/parallel"
	"amberproof/core/trace"
)

// Order is what to make a probe of.
type Order struct {
	World *trace.World
	// Stop is what the picture will be rendered to, as far as that is known: squares are drawn
	// for it. The probe answers for others too.
	Stop noise.Stop
	View noise.View
	// Clean is how noise is taken out of a film of the picture; nil: it is not.
	Clean   func(f *film.Film) *denoise.Order
	Workers int           // that probe
	Budget  time.Duration // of processor time, of all of them together
	Seed    uint64        // of what is drawn
}

// Probe is what was measured of a picture. It does not change any more.
type Probe struct {
	Pixels int           // of the picture
	Spent  time.Duration // of processor time
	// Crowded is how long the probe took on the clock, in units of its processor time: 1 on a
	// machine that had nothing else to do.
	Crowded float64
	// Pace is how long a fixed piece of work took meanwhile, the mean: of two probes, the one with
	// the greater was made on a machine that was slower at the time.
	Pace time.Duration
	// Slowed is by how much the machine was slower than it will be: 1 until somebody knows.
	Slowed float64
	// Whole tells that all of the picture was measured.
	Whole  bool
	cleans bool
	// expected is the work that the glance let expect of all squares.
	expected float64
	squares  []square
	curve    curve
}

// Bytes is about how much memory a probe takes.
func (p *Probe) Bytes() int64 {
	n := 256
	for i := range p.squares {
		n += 128 + 256*len(p.squares[i].tiles)
	}
	return int64(n)
}

// ErrNothing is returned for pictures without pixels.
var ErrNothing = errors.New("the picture has no pixels")

// Take makes a probe. It takes its budget of processor time and at most what one square more
// takes; cancelled, it returns the context's error.
func Take(ctx context.Context, o Order) (*Probe, error) {
	win := o.World.Options().Window
	if win.Empty() {
		return nil, ErrNothing
	}
	p := &Probe{Pixels: win.Dx() * win.Dy(), cleans: o.Clean != nil, Slowed: 1}
	candidates, glanced, err := o.glance(ctx)
	if err != nil {
		return nil, err
	}
	l := o.layOut(candidates, o.Budget-glanced)
	var used, next atomic.Int64
	var mu sync.Mutex
	var wall time.Duration
	workers := make([]worker, max(1, o.Workers))
	for k := range workers {
		workers[k] = worker{o.World.NewTracer(), new(gauge)}
	}
	// The whole picture is measured by all of them together, squares by one each.
	teams := slices.Collect(slices.Chunk(workers, 1))
	if l.whole {
		teams = [][]worker{workers}
	}
	failed := make([]error, len(teams))
	err = parallel.Workers(len(teams), func(k int) {
		for i := int(next.Add(1)) - 1; i < len(l.chosen); i = int(next.Add(1)) - 1 {
			if i >= fewest && time.Duration(used.Load()) > o.Budget-glanced {
				return
			}
			from := time.Now()
			s, spent, err := o.measure(ctx, teams[k], l.chosen[i].area, l.depth)
			if err != nil {
				failed[k] = err
				return
			}
			s.weight, s.expected = l.chosen[i].weight, o.work(&l.chosen[i])/l.chosen[i].weight
			used.Add(int64(spent))
			mu.Lock()
			p.squares = append(p.squares, s)
			wall += time.Since(from) * time.Duration(len(teams[k]))
			mu.Unlock()
		}
	})
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err := errors.Join(append(failed, err)...); err != nil {
		return nil, err
	}
	p.expected = l.expected
	p.Whole = l.whole
	p.Spent = glanced + time.Duration(used.Load())
	for i := range p.squares {
		p.Pace += p.squares[i].pace / time.Duration(len(p.squares))
	}
	p.Crowded = max(1, float64(wall)/float64(max(1, used.Load())))
	for i := range p.squares { // for those that were not come to
		p.squares[i].weight *= float64(len(l.chosen)) / float64(len(p.squares))
	}
	p.curve = p.fit()
	return p, nil
}
