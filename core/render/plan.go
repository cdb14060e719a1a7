// Package render plans a picture: which units of work come next, when tiles
// are clean enough, and how far along the whole is.
//
// Work goes in rounds. In a round every tile that is still going gets the same
// further range of samples, cut into units; when all of them are in, the noise
// of all tiles decides which stop. The decision depends on nothing but the
// sums, so a picture is the same on any number of workers, and after any cut.
package render

import (
	"context"
	"image"
	"math"
	"sort"

	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/trace"
)

const (
	// MostSamples of a pixel are in one unit: as many as keep merging cheap, fewer where a round
	// has fewer units than would keep some tens of workers busy to its end.
	MostSamples  = 16
	leastSamples = 2
	enoughUnits  = 64
)

// Keeper keeps a tile's state; film.Keeper is the real one.
type Keeper interface{ Save(tile int) error }

// Judge measures the noise that is left of a film's tiles where it is taken out, in
// percent: for a first idea if quick, or else for the decision which of them stop. Tiles
// that are not asked for, since neither they nor those around them still go, need not be
// measured, and are NaN.
type Judge func(ctx context.Context, asked []bool, quick bool) ([]float64, error)

// Order is what to plan for.
type Order struct {
	Stop  noise.Stop
	View  noise.View
	Keep  Keeper
	Judge Judge // or nil: it is the noise of the film itself that counts
	// Area is what gets more samples, of a film that was taken over from another picture and
	// reopened there (film.Reopen); empty: all of it. Tiles that it does not meet keep none going
	// beside them, and the noise that is told is not theirs.
	Area image.Rectangle
	// Settle decides which tiles stop before any gets a sample: of a film that was just taken over.
	Settle bool
}

// Plan is a picture in progress. It is not safe for concurrent use.
type Plan struct {
	Film *film.Film
	Order

	round int
	queue []trace.Unit
	out   int
	order []int     // tiles from the middle of the picture outwards
	noise []float64 // of the film itself
	left  []float64 // of it, what the last judgement left: a factor; infinite before the first
	// What was left of each tile's noise, and after how many samples, when it was first judged for
	// the decision: 0 before.
	first   []float64
	firstAt []int
	outside []bool // the area
	done    bool
	pixels  int64
	samples int64 // of all pixels, done
}

// NewPlan continues the film as it is: empty, or as kept. It may have to judge it.
func NewPlan(ctx context.Context, f *film.Film, o Order) (*Plan, error) {
	p := &Plan{Film: f, Order: o, noise: make([]float64, len(f.Tiles)), left: make([]float64, len(f.Tiles)),
		first: make([]float64, len(f.Tiles)), firstAt: make([]int, len(f.Tiles)), outside: make([]bool, len(f.Tiles))}
	c := f.Window.Min.Add(f.Window.Max).Div(2)
	p.order = make([]int, len(f.Tiles))
	for i := range p.order {
		p.order[i] = i
		p.noise[i] = o.View.OfTile(&f.Tiles[i])
		p.left[i] = 1
		if o.Judge != nil {
			p.left[i] = math.Inf(1)
		}
		p.outside[i] = !o.Area.Empty() && f.Tiles[i].Stopped && !f.Rect(i).Overlaps(o.Area)
	}
	dist := func(i int) int {
		r := f.Rect(i)
		d := r.Min.Add(r.Max).Div(2).Sub(c)
		return d.X*d.X + d.Y*d.Y
	}
	sort.SliceStable(p.order, func(a, b int) bool { return dist(p.order[a]) < dist(p.order[b]) })
	p.pixels = int64(f.Window.Dx()) * int64(f.Window.Dy())
	p.samples = f.Samples()
	least, going := p.behind()
	most := 0
	for i := range f.Tiles {
		if t := &f.Tiles[i]; !t.Stopped {
			most = max(most, t.Samples)
		}
	}
	if !going {
		p.done = true
		return p, p.judge(ctx, false) // for what is told of it
	}
	// The round in which the tile that is furthest back stands. One at whose very
	// end all tiles stand is settled once more, since a crash may have cut that off;
	// once a tile has gone further, it was settled, by the noise of that moment.
	past := func(at int) bool { return at < least || at == least && most > least }
	for p.round = 0; past(o.Stop.Boundary(p.round)) && o.Stop.Boundary(p.round) < o.Stop.Most; p.round++ {
	}
	if o.Settle && least >= o.Stop.Boundary(0) {
		for p.round > 0 && o.Stop.Boundary(p.round) > least {
			p.round--
		}
		return p, p.settle(ctx)
	}
	p.fill()
	if len(p.queue) == 0 {
		return p, p.settle(ctx)
	}
	return p, nil
}

// fill queues the round's units: all tiles get their first samples before any
// gets more. Few tiles get small units, so that no worker waits long for the
// last; the sizes must not depend on the workers, since sums are rounded unit
// by unit.
func (p *Plan) fill() {
	from, to := 0, p.Stop.Boundary(p.round)
	if p.round > 0 {
		from = p.Stop.Boundary(p.round - 1)
	}
	going := 0
	for i := range p.Film.Tiles {
		if !p.Film.Tiles[i].Stopped {
			going++
		}
	}
	size := MostSamples
	for size > leastSamples && going*((to-from+size-1)/size) < enoughUnits {
		size /= 2
	}
	for s := from; s < to; s += size {
		for _, i := range p.order {
			// A tile that was taken over from another picture may stand within a unit.
			if t, end := &p.Film.Tiles[i], min(s+size, to); !t.Stopped && t.Samples < end {
				p.queue = append(p.queue, trace.Unit{Tile: i, From: max(s, t.Samples), To: end})
			}
		}
	}
}

// Next gives a unit to work on. ok is false when there is none at the moment
// (units are out) or none any more (Done).
func (p *Plan) Next() (u trace.Unit, ok bool) {
	if len(p.queue) == 0 {
		return u, false
	}
	u = p.queue[0]
	p.queue = p.queue[1:]
	p.out++
	return u, true
}

// Done reports whether the picture is finished.
func (p *Plan) Done() bool { return p.done }

// GiveBack puts a unit that was not done back to the front.
func (p *Plan) GiveBack(u trace.Unit) {
	p.out--
	p.queue = append([]trace.Unit{u}, p.queue...)
}

// Take merges the result of a unit given by Next; the last of a round ends it, which
// may take time where that is judged. Its error then is the context's, or the judge's,
// and the plan is of no use any more.
func (p *Plan) Take(ctx context.Context, patch *film.Patch) error {
	p.out--
	n, err := p.Film.Take(patch)
	if err != nil {
		return err
	}
	if n > 0 {
		t := &p.Film.Tiles[patch.Tile]
		p.samples += int64(n) * int64(t.Rect.Dx()*t.Rect.Dy())
		p.noise[patch.Tile] = p.View.OfTile(t)
		if err := p.Keep.Save(patch.Tile); err != nil {
			return err
		}
	}
	if len(p.queue) == 0 && p.out == 0 {
		return p.settle(ctx)
	}
	return nil
}

// settle ends a round: it decides which tiles stop and begins the next.
func (p *Plan) settle(ctx context.Context) error {
	at := p.Stop.Boundary(p.round)
	if err := p.judge(ctx, at < p.Stop.Least); err != nil {
		return err
	}
	for i, stop := range p.Stop.Settled(p.Film, at, p.Left()) {
		if t := &p.Film.Tiles[i]; stop && !t.Stopped {
			p.Film.Settle(i)
			if err := p.Keep.Save(i); err != nil {
				return err
			}
		}
	}
	least, going := p.behind()
	if !going {
		p.done = true
		return nil
	}
	// The next round, or where the picture was taken over from another, that in which the tile
	// stands that is furthest back now.
	for p.round++; p.Stop.Boundary(p.round) <= least && p.Stop.Boundary(p.round) < p.Stop.Most; p.round++ {
	}
	if p.fill(); len(p.queue) == 0 {
		return p.settle(ctx) // all that go have the most samples
	}
	return nil
}

// behind is how many samples the tile has that goes and has fewest, and whether any goes.
func (p *Plan) behind() (least int, going bool) {
	for i := range p.Film.Tiles {
		if t := &p.Film.Tiles[i]; !t.Stopped && (!going || t.Samples < least) {
			least, going = t.Samples, true
		}
	}
	return least, going
}

// judge finds how much of the noise of tiles that still go, and of those around them, is
// left where it is taken out.
func (p *Plan) judge(ctx context.Context, quick bool) error {
	if p.Judge == nil || p.Film.Tiles[0].Samples < 2 || quick && p.Stop.Target <= 0 {
		return nil // or nothing is decided by a first idea
	}
	asked := make([]bool, len(p.Film.Tiles))
	for i := range p.Film.Tiles {
		if p.Film.Tiles[i].Stopped && !math.IsInf(p.left[i], 0) {
			continue
		}
		for k := range p.Film.Near(i, 1) {
			asked[k] = true
		}
	}
	found, err := p.Judge(ctx, asked, quick)
	if err != nil {
		return err
	}
	for i, n := range found {
		switch {
		case math.IsNaN(n):
		case p.noise[i] > 0:
			p.left[i] = n / p.noise[i]
			if !quick && p.firstAt[i] == 0 {
				p.first[i], p.firstAt[i] = n, p.Film.Tiles[i].Samples
			}
		default:
			p.left[i] = 1
		}
	}
	return nil
}

// Left is the noise of all tiles that the target is about, in percent: since the last judgement it
// has fallen as that of the film itself. Infinite of tiles of which it is not known yet; 0 outside
// the area, for which nobody waits.
func (p *Plan) Left() []float64 {
	out := make([]float64, len(p.noise))
	for i, n := range p.noise {
		if p.outside[i] {
			continue
		}
		if out[i] = n * p.left[i]; math.IsNaN(out[i]) { // none of what is not yet known
			out[i] = math.Inf(1)
		}
	}
	return out
}

// ofArea is the noise of the area, from that of all tiles.
func (p *Plan) ofArea(left []float64) float64 {
	var inside []float64
	for i, n := range left {
		if !p.outside[i] {
			inside = append(inside, n)
		}
	}
	return noise.OfFrame(inside)
}

const (
	// judgedFall is the power by which noise falls that is left where it is taken out, before that
	// is known; leastFall is the least that is believed.
	judgedFall, leastFall = 0.35, 0.15
	// fallFrom is how many tiles must have gone on for it to be known of them.
	fallFrom = 6
)

// fall is the power of the samples by which the noise falls that the target is about, of the tiles
// that still go.
func (p *Plan) fall(left []float64) float64 {
	if p.Judge == nil {
		return noise.RootFall
	}
	var sum, n float64
	for i := range p.Film.Tiles {
		t := &p.Film.Tiles[i]
		if t.Stopped || p.firstAt[i] == 0 || float64(t.Samples) < 1.5*float64(p.firstAt[i]) || !(left[i] > 0) || !(p.first[i] > 0) {
			continue
		}
		sum, n = sum+math.Log(p.first[i]/left[i])/math.Log(float64(t.Samples)/float64(p.firstAt[i])), n+1
	}
	if n < fallFrom {
		return judgedFall
	}
	return min(max(sum/n, leastFall), noise.RootFall)
}

// Progress is how far a picture is.
type Progress struct {
	Samples  int64   // done, of all pixels together
	Forecast int64   // expected in all, from the noise so far
	Least    int     // samples of the pixel that has fewest
	Mean     float64 // samples per pixel, mean
	Noise    float64 // of the frame, or the area, that the target is about, percent; infinite at first
	Settled  int     // tiles that have stopped
	Tiles    int
	Done     bool
	// Ending is the noise that the frame is expected to end at, where that is above its target
	// since the most samples are too few, and Needs how many would do: both 0 where it is not, and
	// before the least samples are in.
	Ending float64
	Needs  int
}

// missed is by how much noise must be expected above its target for that to be said.
const missed = 1.05

// ending tells what the frame ends at if that is above its target.
func (p *Plan) ending(left []float64, fall float64) (ending float64, needs int) {
	var at, need []float64
	for i := range p.Film.Tiles {
		t := &p.Film.Tiles[i]
		if p.outside[i] {
			continue
		}
		if t.Samples < p.Stop.Least || math.IsInf(left[i], 0) {
			return 0, 0
		}
		n := float64(t.Samples) * math.Pow(left[i]/p.Stop.Target, 1/fall)
		switch {
		case t.Stopped:
			at = append(at, left[i])
		case n <= float64(p.Stop.Most):
			at = append(at, min(left[i], p.Stop.Target))
		default:
			at = append(at, left[i]*math.Pow(float64(t.Samples)/float64(p.Stop.Most), fall))
		}
		need = append(need, n)
	}
	if ending = noise.OfFrame(at); ending <= p.Stop.Target*missed {
		return 0, 0
	}
	return ending, int(min(noise.OfFrame(need), math.MaxInt32))
}

// Progress measures the picture as it stands.
func (p *Plan) Progress() Progress {
	left := p.Left()
	g := Progress{Samples: p.samples, Tiles: len(p.Film.Tiles), Done: p.done, Least: p.Stop.Most, Noise: p.ofArea(left)}
	fall := p.fall(left)
	for i := range p.Film.Tiles {
		t := &p.Film.Tiles[i]
		g.Least = min(g.Least, t.Samples)
		n := t.Samples
		if t.Stopped {
			g.Settled++
		} else {
			n = max(n, p.Stop.Needed(t.Samples, left[i], fall))
		}
		g.Forecast += int64(n) * int64(t.Rect.Dx()*t.Rect.Dy())
	}
	g.Mean = float64(p.samples) / float64(p.pixels)
	if p.Stop.Target > 0 && len(left) > 0 {
		g.Ending, g.Needs = p.ending(left, fall)
	}
	return g
}
