package render

import (
	"image"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/noise"
)

// reopened is a film that was rendered to one target, to go on from there in an area.
func reopened(t *testing.T, window image.Rectangle, stop noise.Stop, loud func(int) bool, area image.Rectangle) *film.Film {
	t.Helper()
	f := film.New(window, film.Layout{})
	p, err := NewPlan(t.Context(), f, Order{Stop: stop, View: view, Keep: saver{}})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, loud, math.MaxInt)
	f.Reopen(area)
	return f
}

// alike tells whether a pixel of two films is the same but for the order in which its samples were
// added up.
func alike(a, b *film.Film, tile int) bool {
	x, y := a.Tiles[tile].Data, b.Tiles[tile].Data
	for i := range x {
		if math.Abs(float64(x[i]-y[i])) > 1e-4*(1+math.Abs(float64(x[i]))) {
			return false
		}
	}
	return a.Tiles[tile].Samples == b.Tiles[tile].Samples
}

// A film that goes on from a loose target to a strict one has the same samples as one that was
// rendered to the strict one at once, and those it had are not made again.
func TestGoingOnGivesWhatTheWholeWouldHaveBeen(t *testing.T) {
	window := image.Rect(0, 0, film.TileSize*6, film.TileSize*4)
	loud := func(tile int) bool { return tile%4 == 1 }
	strict := noise.Stop{Least: 8, Most: 512, Target: 1}
	whole := film.New(window, film.Layout{})
	p, err := NewPlan(t.Context(), whole, Order{Stop: strict, View: view, Keep: saver{}})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, loud, math.MaxInt)

	loose := strict
	loose.Target = 4
	f := reopened(t, window, loose, loud, image.Rectangle{})
	had := f.Samples()
	p, err = NewPlan(t.Context(), f, Order{Stop: strict, View: view, Keep: saver{}, Settle: true})
	if err != nil {
		t.Fatal(err)
	}
	var given int64
	for !p.Done() {
		u, ok := p.Next()
		if !ok {
			t.Fatal("nothing to do, and not done")
		}
		given += int64(u.To-u.From) * film.TileSize * film.TileSize
		if err := p.Take(t.Context(), pretend(f, u, loud)); err != nil {
			t.Fatal(err)
		}
	}
	if f.Samples() != had+given || had == 0 || given == 0 {
		t.Errorf("it had %d samples, was given %d and has %d", had, given, f.Samples())
	}
	for i := range f.Tiles {
		if !alike(f, whole, i) {
			t.Errorf("tile %d has %d samples; at once it has %d", i, f.Tiles[i].Samples, whole.Tiles[i].Samples)
		}
	}
	if n := p.Progress().Noise; n > strict.Target {
		t.Errorf("done at %.2f %%", n)
	}
}

// Only an area gets cleaner: the rest stays to the bit, and noisy tiles there neither keep those in
// the area going nor count for what is told.
func TestAnAreaGoesOnByItself(t *testing.T) {
	window := image.Rect(10, 20, 10+film.TileSize*6, 20+film.TileSize*4)
	every := func(int) bool { return true }
	loose, strict := noise.Stop{Least: 8, Most: 4096, Target: 3}, noise.Stop{Least: 8, Most: 4096, Target: 1}
	area := image.Rect(0, 0, film.TileSize, film.TileSize).Add(window.Min) // of exactly one tile
	f, before := reopened(t, window, loose, every, area), reopened(t, window, loose, every, area)
	p, err := NewPlan(t.Context(), f, Order{Stop: strict, View: view, Keep: saver{}, Area: area, Settle: true})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, every, math.MaxInt)
	for i := range f.Tiles {
		if i > 0 && (!alike(f, before, i) || f.Tiles[i].Samples > 200) {
			t.Errorf("tile %d outside the area has %d samples, had %d", i, f.Tiles[i].Samples, before.Tiles[i].Samples)
		}
	}
	if n := f.Tiles[0].Samples; n > 1000 || n <= before.Tiles[0].Samples {
		t.Errorf("the area's tile has %d samples, had %d: its neighbours keep it going, or nothing does", n, before.Tiles[0].Samples)
	}
	if g := p.Progress(); g.Noise > strict.Target || !g.Done {
		t.Errorf("%+v", g)
	}
}

// A target with other bounds: tiles stand where no unit of it begins.
func TestGoingOnFromWithinAUnit(t *testing.T) {
	window := image.Rect(0, 0, film.TileSize*2, film.TileSize)
	every := func(int) bool { return true }
	f := reopened(t, window, noise.Stop{Least: 5, Most: 27}, every, image.Rectangle{})
	if f.Tiles[0].Samples != 27 {
		t.Fatalf("%d samples", f.Tiles[0].Samples)
	}
	p, err := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 16, Most: 100}, View: view, Keep: saver{}, Settle: true})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, every, math.MaxInt)
	for i := range f.Tiles {
		if n, w := f.Tiles[i].Samples, f.Tiles[i].Pixel(3)[film.Weight]; n != 100 || w != 100 {
			t.Errorf("tile %d has %d samples with the weight of %g", i, n, w)
		}
	}
}

// A tile that could not be kept is begun anew, wherever it is.
func TestALostTileIsBegunAnew(t *testing.T) {
	window := image.Rect(0, 0, film.TileSize*3, film.TileSize)
	every := func(int) bool { return true }
	f := reopened(t, window, noise.Stop{Least: 8, Most: 8}, every, image.Rectangle{})
	lost := film.New(window, film.Layout{})
	lost.Tiles[0], lost.Tiles[1] = f.Tiles[0], f.Tiles[1]
	area := f.Rect(0)
	lost.Reopen(area)
	p, err := NewPlan(t.Context(), lost, Order{Stop: noise.Stop{Least: 8, Most: 20}, View: view, Keep: saver{}, Area: area, Settle: true})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, every, math.MaxInt)
	for i, want := range []int{20, 8, 20} {
		if n := lost.Tiles[i].Samples; n != want {
			t.Errorf("tile %d has %d samples, wanted %d", i, n, want)
		}
	}
}

// Tiles that are ahead go on, and stop at the most samples, where those behind them are clean.
func TestTilesAheadAreNotLeftBehind(t *testing.T) {
	window := image.Rect(0, 0, film.TileSize*8, film.TileSize*2)
	loud := func(tile int) bool { return tile == 0 }
	f := reopened(t, window, noise.Stop{Least: 8, Most: 64, Target: 3}, loud, image.Rectangle{})
	for _, most := range []int{64, 100} {
		p, err := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 8, Most: most, Target: 0.2}, View: view, Keep: saver{}, Settle: true})
		if err != nil {
			t.Fatal(err)
		}
		drive(t, p, loud, math.MaxInt)
		for i := range f.Tiles {
			if !f.Tiles[i].Stopped {
				t.Errorf("with %d at most, tile %d still goes at %d samples", most, i, f.Tiles[i].Samples)
			}
		}
		if n := f.Tiles[0].Samples; !p.Done() || n != most {
			t.Errorf("done %v; the loud tile has %d samples of %d", p.Done(), n, most)
		}
		f.Reopen(image.Rectangle{})
	}
}
