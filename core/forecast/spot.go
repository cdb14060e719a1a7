package forecast

import (
	"context"
	"image"
	"math"
	"time"

	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/trace"
)

// spot is a square of the picture as it was measured, with what was rendered around it.
type spot struct {
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

// measure renders a square with so many samples a pixel, and measures it on the way.
func (o *Order) measure(ctx context.Context, t *trace.Tracer, g *gauge, area image.Rectangle, depth int) (s spot, spent time.Duration, err error) {
	clock, done := working()
	defer done()
	f := film.New(o.around(area), o.World.Options().Layout)
	s = spot{pixels: area.Dx() * area.Dy(), cols: f.Cols, rows: f.Rows, tiles: make([]tile, len(f.Tiles))}
	took := make([]time.Duration, len(f.Tiles))
	var wiped, merged time.Duration
	merges := 0
	for from, to := 0, 0; from < depth; from = to {
		to = min(max(2, 2*from), depth)
		for i := range f.Tiles {
			before := clock()
			p, err := t.Render(ctx, f, trace.Unit{Tile: i, From: from, To: to})
			if err != nil {
				return s, clock(), err
			}
			rendered := clock()
			if _, err := f.Take(p); err != nil {
				return s, clock(), err
			}
			o.View.OfTile(&f.Tiles[i])
			took[i] += rendered - before
			merged += clock() - rendered
			merges++
		}
		if to < leastMeasured && to < depth {
			continue
		}
		w, err := o.judge(ctx, f, &s, to)
		if err != nil {
			return s, clock(), err
		}
		wiped += w
		s.wipe = float64(w) / float64(f.Window.Dx()*f.Window.Dy())
	}
	s.merge = float64(merged) * float64(len(f.Tiles)) / float64(merges*f.Window.Dx()*f.Window.Dy())
	for i := range s.tiles {
		r := f.Rect(i)
		s.tiles[i].core, s.tiles[i].pixels = r.In(area), r.Dx()*r.Dy()
		s.tiles[i].nanos = float64(took[i]) / float64(depth*s.tiles[i].pixels)
	}
	s.pace = g.run(clock)
	return s, clock() + wiped, nil
}

// judge measures the noise of a film as a run would, and how long that took beside this
// goroutine.
func (o *Order) judge(ctx context.Context, f *film.Film, s *spot, samples int) (took time.Duration, err error) {
	left := make([]float64, len(f.Tiles))
	for i := range f.Tiles {
		left[i] = o.View.OfTile(&f.Tiles[i])
		s.tiles[i].plain = append(s.tiles[i].plain, left[i])
	}
	if o.Clean != nil && samples >= 2 {
		began := time.Now()
		c := o.Clean(f)
		c.Workers = 1
		made, err := c.Run(ctx, nil)
		if err != nil {
			return 0, err
		}
		took = time.Since(began)
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
