package forecast

import (
	"math"
	"math/rand/v2"
	"time"
)

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
func (o *Order) work(c *candidate) float64 {
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
	chosen []candidate
	depth  int
	whole  bool // the one square is all of the picture
	// expected is the work of all squares, by the glance.
	expected float64
}

// layOut draws the squares that are measured.
func (o *Order) layOut(candidates []candidate, budget time.Duration) laid {
	var nanos, count, all float64
	for i := range candidates {
		nanos += candidates[i].nanos * candidates[i].weight
		count += candidates[i].weight
		all += o.work(&candidates[i])
	}
	nanos /= count // of a sample
	win := o.World.Options().Window
	l := laid{depth: leastDepth, expected: all}
	if k := float64(budget) / (nanos * float64(win.Dx()*win.Dy())); k >= leastDepth {
		for 2*l.depth <= min(int(k), mostDepth) {
			l.depth *= 2
		}
		l.chosen, l.whole = []candidate{{area: win, weight: 1}}, true
		return l
	}
	// Squares where there is more to do take longer than others: of those drawn, more than
	// come to be measured make sure that the budget is spent.
	r := o.around(candidates[0].area)
	k := max(fewest, 1.5*float64(budget)/(nanos*float64(l.depth*r.Dx()*r.Dy())))
	// Systematic sampling with unequal probabilities (Madow 1949): the squares stand in the
	// picture's order, so those drawn lie all over it.
	at := rand.New(rand.NewPCG(o.Seed, uint64(len(candidates)))).Float64()
	for _, c := range candidates {
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

// shuffle puts squares into an order of chance.
func (o *Order) shuffle(candidates []candidate) {
	r := rand.New(rand.NewPCG(o.Seed+1, uint64(len(candidates))))
	r.Shuffle(len(candidates), func(a, b int) { candidates[a], candidates[b] = candidates[b], candidates[a] })
}
