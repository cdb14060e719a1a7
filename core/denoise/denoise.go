// Package denoise takes noise out of the light of a film.
//
// Every pixel becomes a mean of pixels around it that look alike (non-local means,
// Buades et al. 2005), by weights that do not see the noise they are to take out: each
// half of the samples is averaged by the weights that the other half gives (Rousselle
// et al. 2012). Colours are held against their variance, and what no light makes noisy
// (albedo, normal, length of the way: film.Guide) against how much of it changes next
// door (Rousselle et al. 2013). This is done with weights of several strictnesses; which
// of them is nearest to the truth, or whether the picture is best left as it is, is
// estimated from the halves too, pixel by pixel. Sparks that one half alone has seen are
// brought down before (spark.go), and what averaging takes from wires and edges is given back
// after (keep.go).
//
// The weights come from the beauty and are the same for every element, so elements add
// up to the beauty after as they did before, to float rounding. All is computed tile by
// tile, each pixel in one fixed order: the result is the same to the bit with tiles of
// any size, on any number of workers.
package denoise

import (
	"context"
	"image"
	"sync"
	"sync/atomic"

	"amberproof/core/film"
	"amberproof/core/parallel"
)

// Order is what to take noise out of.
type Order struct {
	Film     *film.Film
	Elements int // that the film keeps; their planes have halves
	Behind   int // element that is seen behind floors that catch shadows, or -1
	Workers  int
	Quick    bool // looks less far, for pictures that are soon replaced
	Sparks   bool // takes out nothing but sparks
	// Wanted, if not nil, tells of every tile of the film whether it is wanted; of what
	// is not, Run returns tiles without samples, or with them where that costs nothing.
	Wanted []bool
	side   int // of tiles, a multiple of film.TileSize; 0 is the usual
}

// UsualSide is the side of the pieces that a worker takes at a time, in pixels, at most: large,
// as their margins are computed twice. Where less than a third of the film is wanted, it is
// SmallSide.
const (
	UsualSide = 12 * film.TileSize
	SmallSide = 4 * film.TileSize
)

// DoubtPlane keeps by how much more a pixel was changed than its noise explains, as a
// share of its light: the root of what the mean square of the changes around it has over
// noiseVariances times their variance. What is not noise was changed there: an edge softened, a
// glint spread.
const DoubtPlane = "doubt"

// noiseVariances is how many times its variance a change may have to count as noise.
const noiseVariances = 2.5

// Layout is that of the film which Order.Run returns for a number of elements, and a twin
// if there is one.
func Layout(elements int, twin bool) film.Layout {
	planes := []film.Plane{{Name: DoubtPlane, Values: 1}, {Name: film.KeptPlane, Values: 2}}
	for i := range elements {
		planes = append(planes, film.ElementPlane(i, false))
	}
	if twin {
		planes = append(planes, film.TwinLight)
		own := Layout(0, false)
		for _, p := range own.Planes() {
			planes = append(planes, film.TwinPlane(p))
		}
	}
	return film.NewLayout(false, planes...)
}

// doubtful is the least doubt, as a share of the light, that anybody could see.
const doubtful = 0.02

// Doubt tells of a film that Order.Run returned which share of the picture was changed by
// more than noise explains.
func Doubt(clean *film.Film) (share float64) {
	at, _ := clean.Layout.Place(DoubtPlane)
	n := 0
	for i := range clean.Tiles {
		t := clean.Tiles[i].Sums
		for k := range t.Rect.Dx() * t.Rect.Dy() {
			if n++; t.Pixel(k)[at] > doubtful {
				share++
			}
		}
	}
	return share / float64(max(1, n))
}

// wants reports whether any of the film's tiles within r is wanted.
func (o *Order) wants(r image.Rectangle) bool {
	if o.Wanted == nil {
		return true
	}
	f := o.Film
	from, to := r.Min.Sub(f.Window.Min).Div(film.TileSize), r.Max.Sub(f.Window.Min).Add(image.Pt(film.TileSize-1, film.TileSize-1)).Div(film.TileSize)
	for y := from.Y; y < to.Y; y++ {
		for x := from.X; x < to.X; x++ {
			if o.Wanted[y*f.Cols+x] {
				return true
			}
		}
	}
	return false
}

// usual is the side of tiles: smaller where few of the film's are wanted, and so that the
// last are not much smaller than the others.
func (o *Order) usual() int {
	n := 0
	for _, w := range o.Wanted {
		if w {
			n++
		}
	}
	if o.Wanted != nil && n < len(o.Wanted)/3 {
		return SmallSide
	}
	long := max(o.Film.Window.Dx(), o.Film.Window.Dy())
	many := max(1, (long+UsualSide-1)/UsualSide)
	return ((long+many-1)/many + film.TileSize - 1) / film.TileSize * film.TileSize
}

// Empty is a film as Run returns it, without light.
func (o *Order) Empty() *film.Film {
	return film.New(o.Film.Window, Layout(o.Elements, o.Film.Layout.HasTwin()))
}

// Run returns a film of the same pixels with the noise taken out of its beauty, halves
// and elements, each pixel of weight one (two halves of a half). The film needs
// film.GuidePlane, and may gain samples meanwhile. progress, if not nil, is told the
// share that is done, rising, by any goroutine. Cancelled, Run returns the context's error.
// A twin has its noise taken out by itself, by what it looks like.
func (o *Order) Run(ctx context.Context, progress func(share float64)) (*film.Film, error) {
	twin := o.Film.Twin()
	if twin == nil {
		return o.run(ctx, progress)
	}
	half := func(from float64) func(float64) {
		if progress == nil {
			return nil
		}
		return func(share float64) { progress(from + share/2) }
	}
	out, err := o.run(ctx, half(0))
	if err != nil {
		return out, err
	}
	its := *o
	its.Film, its.Elements, its.Behind = twin, 0, -1
	clean, err := its.run(ctx, half(0.5))
	if err == nil {
		out.PutTwin(clean)
	}
	return out, err
}

func (o *Order) run(ctx context.Context, progress func(share float64)) (*film.Film, error) {
	out := o.Empty()
	side := o.side
	if side == 0 {
		side = o.usual()
	}
	var tiles []image.Rectangle
	made := map[image.Point]bool{} // by their upper left corners
	w := o.Film.Window
	for y := w.Min.Y; y < w.Max.Y; y += side {
		for x := w.Min.X; x < w.Max.X; x += side {
			if r := image.Rect(x, y, x+side, y+side).Intersect(w); o.wants(r) {
				tiles = append(tiles, r)
				made[r.Min] = true
			}
		}
	}
	var next atomic.Int64
	var telling sync.Mutex // so that shares are told in order
	done := 0
	tell := func() {
		telling.Lock()
		defer telling.Unlock()
		done++
		progress(float64(done) / float64(len(tiles)))
	}
	err := parallel.Workers(max(1, min(o.Workers, len(tiles))), func(int) {
		t := newTile(o, side)
		for i := next.Add(1) - 1; i < int64(len(tiles)) && ctx.Err() == nil; i = next.Add(1) - 1 {
			t.load(tiles[i])
			if !t.work(ctx) {
				return
			}
			if t.store(out); progress != nil {
				tell()
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for i := range out.Tiles {
		if at := out.Rect(i).Min.Sub(w.Min).Div(side).Mul(side).Add(w.Min); made[at] {
			out.Tiles[i].Samples = 1
		}
	}
	return out, ctx.Err()
}
