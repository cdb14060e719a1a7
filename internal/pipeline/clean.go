package pipeline

import (
	"context"
	"math"
	"runtime"
	"slices"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/passes"
	"amberproof/internal/ticket"
)

// CleanOrder is how the noise is taken out of a ticket's film; elements are the names of
// the lights that it keeps apart.
func CleanOrder(f *film.Film, t *ticket.Ticket, elements []string) *denoise.Order {
	w := t.Wanted()
	o := &denoise.Order{Film: f, Behind: -1, Sparks: t.Quality.Denoise.SparksAlone()}
	if t.Passes.Lights {
		o.Elements = len(elements)
	}
	if w.Catches {
		o.Behind = slices.Index(elements, w.Behind)
	}
	return o
}

// clean is a film with its noise taken out that grows with the film it is of.
type clean struct {
	film *film.Film
	// of is how many samples a tile and those around it had together when it was made:
	// as long as that is so, it still holds.
	of []int
}

// around counts the samples of every tile and of those around it, as far as denoising
// looks.
func around(f *film.Film) []int {
	const rings = (denoise.Reach + film.TileSize - 1) / film.TileSize
	n := f.Counts()
	out := make([]int, len(n))
	for i := range out {
		for k := range f.Near(i, rings) {
			out[i] += n[k]
		}
	}
	return out
}

// take takes over the tiles that were made, of a film in a state.
func (c *clean) take(made *film.Film, of []int) {
	if c.film == nil {
		c.film, c.of = made, make([]int, len(of))
	}
	for i := range made.Tiles {
		if made.Tiles[i].Samples > 0 {
			c.film.Tiles[i], c.of[i] = made.Tiles[i], of[i]
		}
	}
}

// stale tells which tiles no longer hold, and whether any.
func (c *clean) stale(of []int) (tiles []bool, any bool) {
	tiles = make([]bool, len(of))
	for i := range of {
		tiles[i] = c.film == nil || c.of[i] != of[i]
		any = any || tiles[i]
	}
	return tiles, any
}

// Films are what the passes of the frame are read off: its film and, where its ticket
// asks for that, one with the noise taken out. That takes time, less where tiles were
// judged as they are now. progress, if not nil, is told the share that is done, by any
// goroutine. Cancelled, it returns the context's error.
func (sh *Shot) Films(ctx context.Context, progress func(float64)) (passes.Films, error) {
	t := &sh.Resolved.Ticket
	if !t.Quality.Denoise.On {
		return passes.Of(sh.Film), nil
	}
	out := passes.Films{Film: sh.Film, Amount: float32(t.Quality.Denoise.Amount / 100)}
	o := CleanOrder(sh.Film, t, sh.World.Elements())
	o.Workers = sh.workers()
	if o.Elements > 0 {
		var err error
		out.Clean, err = o.Run(ctx, progress)
		return out, err
	}
	of := around(sh.Film)
	var some bool
	if o.Wanted, some = sh.clean.stale(of); some {
		made, err := o.Run(ctx, progress)
		if err != nil {
			return out, err
		}
		sh.clean.take(made, of)
	}
	out.Clean = sh.clean.film
	return out, nil
}

func (sh *Shot) workers() int {
	if sh.Workers > 0 {
		return sh.Workers
	}
	return runtime.GOMAXPROCS(0)
}

// judge takes the noise out of the beauty between two rounds and measures what is left
// where all of it is taken out, whatever the amount that is delivered: so another amount
// needs no other film.
func (sh *Shot) judge(ctx context.Context, asked []bool, quick bool) ([]float64, error) {
	t := sh.Resolved.Ticket
	t.Passes.Lights = false
	o := CleanOrder(sh.Film, &t, sh.World.Elements())
	o.Workers, o.Quick, o.Wanted = sh.workers(), quick, make([]bool, len(asked))
	for i, is := range asked {
		if is {
			for k := range sh.Film.Near(i, 1) { // half a tile around tells what is left in one
				o.Wanted[k] = true
			}
		}
	}
	of := around(sh.Film)
	made, err := o.Run(ctx, nil)
	if err != nil {
		return nil, err
	}
	left := t.NoiseView().OfDenoised(sh.Film, made, noise.Taken{Amount: 1, Sparks: o.Sparks})
	for i := range left {
		if !asked[i] {
			left[i] = math.NaN()
		}
	}
	if !quick {
		sh.clean.take(made, of)
	}
	return left, nil
}
