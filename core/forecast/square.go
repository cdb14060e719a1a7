package forecast

import (
	"context"
	"errors"
	"image"
	"math"
	"sync/atomic"
	"time"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/parallel"
	"amberproof/core/trace"
)

// square is a square of the picture as it was measured, with what was rendered around it.
type square struct {
	weight     float64 // how many squares it stands for
	expected   float64 // the work that the glance let expect of it
	pixels     int     // of the square alone
	wipe       float64 // nanoseconds that taking noise out of a pixel takes
	merge      float64 // and adding samples of a unit of work to it, and measuring it anew
	pace       time.Duration
	cols, rows int
	tiles      []tile // of all that was rendered
}

// tile is what was measured of a tile.
type tile struct {
	core   bool // it is of the square itself
	pixels int
	nanos  float64   // of a sample of a pixel
	at     []int     // samples of a pixel after which its noise was measured
	noise  []float64 // that the target is about, percent
	plain  []float64 // before any is taken out
}

// margin is how far around a square is rendered too where noise is taken out: most of what
// becomes of its pixels depends on these.
const margin = film.TileSize

// around is what is rendered to measure a square.
func (o *Order) around(area image.Rectangle) image.Rectangle {
	if o.Clean == nil {
		return area
	}
	return area.Inset(-margin).Intersect(o.World.Options().Window)
}

// leastMeasured is the number of samples from which on noise is measured: of fewer it tells
// little of that of many.
const leastMeasured = 4

// worker is what one of the goroutines that measure a square has for itself.
type worker struct {
	tracer *trace.Tracer
	gauge  *gauge
}

// measure renders a square with so many samples a pixel, and measures it on the way, with as many
// workers as there are.
func (o *Order) measure(ctx context.Context, workers []worker, area image.Rectangle, depth int) (s square, spent time.Duration, err error) {
	f := film.New(o.around(area), o.World.Options().Layout)
	s = square{pixels: area.Dx() * area.Dy(), cols: f.Cols, rows: f.Rows, tiles: make([]tile, len(f.Tiles))}
	took, merged := make([]time.Duration, len(f.Tiles)), make([]time.Duration, len(f.Tiles))
	pace := make([]time.Duration, len(workers))
	failed := make([]error, len(workers))
	rounds := 0
	var wiped time.Duration
	for from, to := 0, 0; from < depth; from = to {
		to = min(max(2, 2*from), depth)
		var next atomic.Int64
		err := parallel.Workers(len(workers), func(k int) {
			clock, done := working()
			defer done()
			for i := int(next.Add(1)) - 1; i < len(f.Tiles) && failed[k] == nil; i = int(next.Add(1)) - 1 {
				before := clock()
				var p *film.Patch
				if p, failed[k] = workers[k].tracer.Render(ctx, f, trace.Unit{Tile: i, From: from, To: to}); failed[k] != nil {
					return
				}
				rendered := clock()
				_, failed[k] = f.Take(p)
				o.View.OfTile(&f.Tiles[i])
				took[i] += rendered - before
				merged[i] += clock() - rendered
			}
			pace[k] = workers[k].gauge.run(clock)
		})
		if err := errors.Join(append(failed, err)...); err != nil {
			return s, 0, err
		}
		rounds++
		if to < leastMeasured && to < depth {
			continue
		}
		w, err := o.judge(ctx, f, &s, to, len(workers))
		if err != nil {
			return s, 0, err
		}
		wiped += w
		s.wipe = float64(w) / float64(f.Window.Dx()*f.Window.Dy())
	}
	for i := range s.tiles {
		r := f.Rect(i)
		s.tiles[i].core, s.tiles[i].pixels = r.In(area), r.Dx()*r.Dy()
		s.tiles[i].nanos = float64(took[i]) / float64(depth*s.tiles[i].pixels)
		spent += took[i] + merged[i]
		s.merge += float64(merged[i]) / float64(rounds*f.Window.Dx()*f.Window.Dy())
	}
	for _, d := range pace {
		s.pace += d / time.Duration(len(pace))
	}
	return s, spent + wiped, nil
}

// judge measures the noise of a film as a run would, with so many workers, and what time of all of
// them that took.
func (o *Order) judge(ctx context.Context, f *film.Film, s *square, samples, workers int) (took time.Duration, err error) {
	left := make([]float64, len(f.Tiles))
	for i := range f.Tiles {
		left[i] = o.View.OfTile(&f.Tiles[i])
		s.tiles[i].plain = append(s.tiles[i].plain, left[i])
	}
	if o.Clean != nil && samples >= 2 {
		began := time.Now()
		c := o.Clean(f)
		c.Workers = workers
		made, err := c.Run(ctx, nil)
		if err != nil {
			return 0, err
		}
		pieces := func(n int) int { return (n + denoise.UsualSide - 1) / denoise.UsualSide }
		took = time.Since(began) * time.Duration(min(workers, pieces(f.Window.Dx())*pieces(f.Window.Dy())))
		left = o.View.OfDenoised(f, made, noise.Taken{Amount: 1, Sparks: c.Sparks})
	}
	for i := range s.tiles {
		s.tiles[i].at, s.tiles[i].noise = append(s.tiles[i].at, samples), append(s.tiles[i].noise, left[i])
	}
	return took, nil
}

// told tells whether a tile has noise that can be told and is not none.
func (t *tile) told() bool {
	for _, n := range t.noise {
		if !(n > quiet) || math.IsInf(n, 0) {
			return false
		}
	}
	return len(t.noise) > 0
}

// quiet is noise that is none, percent.
const quiet = 1e-3
