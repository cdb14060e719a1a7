package forecast

import (
	"context"
	"image"
	"math/rand/v2"
	"time"

	"amberproof/core/film"
	"amberproof/core/parallel"
)

const (
	// side is that of a square, in pixels, where not all of the picture can be measured: small,
	// since one place tells little of others.
	side = 2 * film.TileSize
	// Points of a square that the glance looks at, across and down, and samples of each: two
	// for each half.
	points, glances = 3, 4
	// mostGlanced is how many squares it looks at; of larger pictures it leaves some out.
	mostGlanced = 2000
)

// candidate is a square of the picture as the glance saw it.
type candidate struct {
	area   image.Rectangle
	nanos  float64 // of a sample
	spread float64 // variance of a sample, as displayed
	weight float64 // how many squares it stands for
}

// cut cuts the picture into squares.
func (o *Order) cut(side int) (candidates []candidate) {
	win := o.World.Options().Window
	for y := win.Min.Y; y < win.Max.Y; y += side {
		for x := win.Min.X; x < win.Max.X; x += side {
			candidates = append(candidates, candidate{area: image.Rect(x, y, x+side, y+side).Intersect(win), weight: 1})
		}
	}
	return candidates
}

// glance looks at a few pixels of every square of the picture.
func (o *Order) glance(ctx context.Context) (candidates []candidate, spent time.Duration, err error) {
	candidates = o.cut(side)
	if n := len(candidates); n > mostGlanced { // some of all over the picture, in its order
		for i := range mostGlanced {
			candidates[i] = candidates[i*n/mostGlanced]
			candidates[i].weight = float64(n) / mostGlanced
		}
		candidates = candidates[:mostGlanced]
	}
	n := max(1, min(o.Workers, len(candidates)))
	took := make([]time.Duration, n)
	err = parallel.Workers(n, func(k int) {
		t := o.World.NewTracer()
		sums := film.NewSums(image.Rect(0, 0, 1, 1), o.World.Options().Layout)
		clock, done := working()
		defer done()
		for i := k; i < len(candidates) && ctx.Err() == nil; i += n {
			c := &candidates[i]
			before := clock()
			r := rand.New(rand.NewPCG(uint64(c.area.Min.X), uint64(c.area.Min.Y)))
			for y := range points {
				for x := range points {
					sums.Reset()
					at := c.area.Min.Add(image.Pt((x*c.area.Dx()+r.IntN(c.area.Dx()))/points, (y*c.area.Dy()+r.IntN(c.area.Dy()))/points))
					t.Pixel(sums, 0, at.X, at.Y, 0, glances)
					if a, b, ok := sums.Halves(0); ok {
						d := float64(o.View.Shown(a) - o.View.Shown(b))
						c.spread += d * d / 4 * glances / (points * points)
					}
				}
			}
			c.nanos = float64(clock()-before) / (points * points * glances)
		}
		took[k] = clock()
	})
	for _, d := range took {
		spent += d
	}
	if ctx.Err() != nil {
		err = ctx.Err()
	}
	return candidates, spent, err
}
