package forecast

import (
	"context"
	"image"
	"math"
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

// cell is a square of the picture as the glance saw it.
type cell struct {
	area   image.Rectangle
	nanos  float64 // of a sample
	spread float64 // variance of a sample, as displayed
	weight float64 // how many squares it stands for
}

// cut cuts the picture into squares.
func (o *Order) cut(side int) (cells []cell) {
	win := o.World.Options().Window
	for y := win.Min.Y; y < win.Max.Y; y += side {
		for x := win.Min.X; x < win.Max.X; x += side {
			cells = append(cells, cell{area: image.Rect(x, y, x+side, y+side).Intersect(win), weight: 1})
		}
	}
	return cells
}

// glance looks at a few pixels of every square of the picture.
func (o *Order) glance(ctx context.Context) (cells []cell, spent time.Duration, err error) {
	cells = o.cut(side)
	if n := len(cells); n > mostGlanced { // some of all over the picture, in its order
		for i := range mostGlanced {
			cells[i] = cells[i*n/mostGlanced]
			cells[i].weight = float64(n) / mostGlanced
		}
		cells = cells[:mostGlanced]
	}
	n := max(1, min(o.Workers, len(cells)))
	took := make([]time.Duration, n)
	err = parallel.Workers(n, func(k int) {
		t := o.World.NewTracer()
		sums := film.NewSums(image.Rect(0, 0, 1, 1), o.World.Options().Layout)
		clock, done := working()
		defer done()
		for i := k; i < len(cells) && ctx.Err() == nil; i += n {
			c := &cells[i]
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
	return cells, spent, err
}

const (
	// guessLeft is the share of noise that is left where it is taken out, before that is known.
	guessLeft = 0.4
	// harder is the power by which the samples that a square needs rise with the variance of one:
	// more than in proportion, since what is noisiest has its noise taken out worst.
	harder = 1.4
	// evenShare is the share of squares drawn without regard to the work that they are
	// expected to be: of those whose work was told too small, some are met too.
	evenShare = 0.5
	// Samples a pixel of a square: few where squares stand for others, since more squares tell
	// more than more samples, and as many as there is time for where all of the picture is measured.
	leastDepth, mostDepth = 8, 64
	// fewest squares are measured, however slow they are.
	fewest = 6
)

// work is what is expected of a square: its time until it is clean enough.
func (o *Order) work(c *cell) float64 {
	n := float64(o.Stop.Most)
	if t := o.Stop.Target; t > 0 {
		q := 100 / t
		if o.Clean != nil {
			q *= guessLeft
		}
		least := float64(o.Stop.Least)
		n = min(max(least*math.Pow(c.spread*q*q/least, harder), least), n)
	}
	return c.nanos * n * float64(c.area.Dx()*c.area.Dy()) * c.weight
}

// laid is what is to be measured: all of the picture, or squares in an order of chance, of which
// any first part stands for all, and how many samples of a pixel.
type laid struct {
	chosen []cell
	depth  int
	whole  bool // the one square is all of the picture
	// expected is the work of all squares, by the glance.
	expected float64
}

// layOut draws the squares that are measured.
func (o *Order) layOut(cells []cell, budget time.Duration) laid {
	var nanos, count, all float64
	for i := range cells {
		nanos += cells[i].nanos * cells[i].weight
		count += cells[i].weight
		all += o.work(&cells[i])
	}
	nanos /= count // of a sample
	win := o.World.Options().Window
	l := laid{depth: leastDepth, expected: all}
	if k := float64(budget) / (nanos * float64(win.Dx()*win.Dy())); k >= leastDepth {
		for 2*l.depth <= min(int(k), mostDepth) {
			l.depth *= 2
		}
		l.chosen, l.whole = []cell{{area: win, weight: 1}}, true
		return l
	}
	// Squares where there is more to do take longer than others: of those drawn, more than
	// come to be measured make sure that the budget is spent.
	r := o.around(cells[0].area)
	k := max(fewest, 1.5*float64(budget)/(nanos*float64(l.depth*r.Dx()*r.Dy())))
	// Systematic sampling with unequal probabilities (Madow 1949): the squares stand in the
	// picture's order, so those drawn lie all over it.
	at := rand.New(rand.NewPCG(o.Seed, uint64(len(cells)))).Float64()
	for _, c := range cells {
		p := k * (evenShare*c.weight/count + (1-evenShare)*o.work(&c)/max(all, math.SmallestNonzeroFloat64))
		if at -= p; at < 0 {
			c.weight *= max(1, 1/p)
			l.chosen = append(l.chosen, c)
			at += math.Ceil(-at)
		}
	}
	o.shuffle(l.chosen)
	return l
}
