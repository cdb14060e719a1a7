package render

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/trace"
)

// saver remembers which tiles were kept.
type saver map[int]int

func (s saver) Save(tile int) error { s[tile]++; return nil }

// pretend makes the patch of a unit: pixels of mean 0.2 with noise that is
// loud in the tiles for which loud is true.
func pretend(f *film.Film, u trace.Unit, loud func(tile int) bool) *film.Patch {
	p := &film.Patch{Tile: u.Tile, From: u.From, To: u.To, Sums: film.NewSums(f.Rect(u.Tile), f.Layout)}
	sd := 0.001
	if loud(u.Tile) {
		sd = 0.1
	}
	for i := 0; i < p.Rect.Dx()*p.Rect.Dy(); i++ {
		px := p.Pixel(i)
		for s := u.From; s < u.To; s++ {
			r := rand.New(rand.NewPCG(uint64(u.Tile*5000+i), uint64(s)))
			v := float32(0.2 + sd*r.NormFloat64())
			px[film.Weight]++
			if s&1 == 0 {
				px[film.WeightA]++
			}
			for c := 0; c < 3; c++ {
				px[film.Beauty+c] += v
				if s&1 == 0 {
					px[film.BeautyA+c] += v
				}
			}
		}
	}
	return p
}

var stop = noise.Stop{Least: 8, Most: 128, Target: 1}
var view = noise.View{Transform: colour.Plain}

// drive works a plan off, out of order, and gives up after a number of units.
func drive(t *testing.T, p *Plan, loud func(int) bool, limit int) {
	t.Helper()
	for !p.Done() && limit > 0 {
		var out []trace.Unit
		for len(out) < 7 {
			u, ok := p.Next()
			if !ok {
				break
			}
			out = append(out, u)
		}
		rand.Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
		for k, u := range out {
			if k%5 == 4 && limit%2 == 0 {
				p.GiveBack(u)
				continue
			}
			if err := p.Take(t.Context(), pretend(p.Film, u, loud)); err != nil {
				t.Fatal(err)
			}
			limit--
		}
	}
}

func TestQuietTilesStopEarlyAndLoudOnesGetTheWork(t *testing.T) {
	f := film.New(image.Rect(0, 0, film.TileSize*8, film.TileSize*4), film.Layout{})
	loud := func(tile int) bool { return tile == 9 }
	s := saver{}
	p, err := NewPlan(t.Context(), f, Order{Stop: stop, View: view, Keep: s})
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, loud, math.MaxInt)
	if !p.Done() {
		t.Fatal("not done")
	}
	if f.Tiles[9].Samples != 128 {
		t.Errorf("the loud tile has %d samples", f.Tiles[9].Samples)
	}
	// Its neighbours were kept going until it came near the target; the rest
	// stopped at the least.
	if f.Tiles[10].Samples <= 8 || f.Tiles[0].Samples <= 8 {
		t.Errorf("neighbours stopped at %d and %d", f.Tiles[10].Samples, f.Tiles[0].Samples)
	}
	if n := f.Tiles[31].Samples; n != 8 {
		t.Errorf("a quiet tile far off has %d samples", n)
	}
	g := p.Progress()
	if !g.Done || g.Settled != 32 || g.Samples != g.Forecast || g.Least != 8 {
		t.Errorf("progress %+v", g)
	}
}

func TestACutPlanGoesOnToTheSameSums(t *testing.T) {
	loud := func(tile int) bool { return tile%5 == 2 }
	window := image.Rect(3, 5, 3+32*5, 5+70)
	whole := film.New(window, film.Layout{})
	p, _ := NewPlan(t.Context(), whole, Order{Stop: stop, View: view, Keep: saver{}})
	drive(t, p, loud, math.MaxInt)

	cut := film.New(window, film.Layout{})
	for n := 0; ; n++ {
		p, err := NewPlan(t.Context(), cut, Order{Stop: stop, View: view, Keep: saver{}}) // as after a restart: units out are lost
		if err != nil {
			t.Fatal(err)
		}
		if p.Done() {
			if n < 3 {
				t.Fatalf("only %d cuts", n)
			}
			break
		}
		drive(t, p, loud, 17)
		for i := range cut.Tiles { // patches waiting for their turn are lost too
			kept := cut.Tiles[i]
			cut.Tiles[i] = film.Tile{Sums: kept.Sums, Samples: kept.Samples, Stopped: kept.Stopped}
		}
	}
	for i := range whole.Tiles {
		a, b := &whole.Tiles[i], &cut.Tiles[i]
		if a.Samples != b.Samples {
			t.Fatalf("tile %d: %d samples, cut %d", i, a.Samples, b.Samples)
		}
		for k := range a.Data {
			if a.Data[k] != b.Data[k] {
				t.Fatalf("tile %d sum %d: %v, cut %v", i, k, a.Data[k], b.Data[k])
			}
		}
	}
}

func TestUnitsAreSmallAndStartInTheMiddle(t *testing.T) {
	f := film.New(image.Rect(0, 0, film.TileSize*5, film.TileSize*5), film.Layout{})
	p, _ := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 64, Most: 64}, View: view, Keep: saver{}})
	u, ok := p.Next()
	if !ok || u.Tile != 12 || u.From != 0 || u.To != 1 {
		t.Errorf("first unit %+v", u)
	}
	p.GiveBack(u)
	for !p.Done() {
		u, _ := p.Next()
		if u.To-u.From > MostSamples {
			t.Fatalf("unit %+v", u)
		}
		if err := p.Take(t.Context(), pretend(f, u, func(int) bool { return false })); err != nil {
			t.Fatal(err)
		}
	}
}

func TestForecastFallsAsNoiseShowsItself(t *testing.T) {
	f := film.New(image.Rect(0, 0, 2*film.TileSize, 2*film.TileSize), film.Layout{})
	p, _ := NewPlan(t.Context(), f, Order{Stop: stop, View: view, Keep: saver{}})
	if g := p.Progress(); g.Forecast != 4*film.TileSize*film.TileSize*128 {
		t.Errorf("before anything is known the most is forecast, not %d", g.Forecast)
	}
	drive(t, p, func(int) bool { return false }, 8)
	if g := p.Progress(); g.Forecast != 4*film.TileSize*film.TileSize*8 {
		t.Errorf("a quiet picture is forecast at %d", g.Forecast)
	}
}

// When a single tile still goes, its round is in many units, so that no worker
// waits for another's long one; and they are the same however the run got there.
func TestTheLastTileIsSharedOut(t *testing.T) {
	f := film.New(image.Rect(0, 0, film.TileSize*8, film.TileSize*4), film.Layout{})
	loud := func(tile int) bool { return tile == 9 }
	p, err := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 8, Most: 256, Target: 1}, View: view, Keep: saver{}})
	if err != nil {
		t.Fatal(err)
	}
	most, alone := 0, 0
	for !p.Done() {
		u, ok := p.Next()
		if !ok {
			t.Fatal("nothing to do, but not done")
		}
		going := 0
		for i := range f.Tiles {
			if !f.Tiles[i].Stopped {
				going++
			}
		}
		if going == 1 {
			alone++
			most = max(most, u.To-u.From)
			again, err := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 8, Most: 256, Target: 1}, View: view, Keep: saver{}})
			if err != nil {
				t.Fatal(err)
			}
			if v, _ := again.Next(); v != u {
				t.Fatalf("a plan made anew begins with %+v, not %+v", v, u)
			}
		}
		if err := p.Take(t.Context(), pretend(f, u, loud)); err != nil {
			t.Fatal(err)
		}
	}
	if alone < 20 || most > leastSamples {
		t.Errorf("%d units of the last tile, of up to %d samples", alone, most)
	}
}
