package farm

import (
	"context"
	"errors"
	"image"
	"sync"
	"sync/atomic"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/noise"
	"amberproof/core/render"
	"amberproof/core/trace"
)

type noKeep struct{}

func (noKeep) Save(int) error { return nil }

// fake is a pool whose units can fail.
type fake struct {
	film  *film.Film
	fails func(u trace.Unit, try int64) bool
	tries atomic.Int64
}

func (f *fake) Workers() int { return 4 }

func (f *fake) Do(ctx context.Context, _ int, u trace.Unit) (*film.Patch, error) {
	if f.fails(u, f.tries.Add(1)) {
		return nil, errors.New("a worker was lost")
	}
	p := &film.Patch{Tile: u.Tile, From: u.From, To: u.To, Sums: film.NewSums(f.film.Rect(u.Tile), f.film.Layout)}
	for i := 0; i < p.Rect.Dx()*p.Rect.Dy(); i++ {
		p.Pixel(i)[film.Weight] = float32(u.To - u.From)
	}
	return p, ctx.Err()
}

func setUp(t *testing.T, fails func(trace.Unit, int64) bool) (*render.Plan, *fake) {
	t.Helper()
	f := film.New(image.Rect(0, 0, 200, 100), film.Layout{})
	p, err := render.NewPlan(f, noise.Stop{Least: 4, Most: 20}, noise.View{Transform: colour.Plain}, noKeep{})
	if err != nil {
		t.Fatal(err)
	}
	return p, &fake{film: f, fails: fails}
}

func TestALostUnitIsDoneAgain(t *testing.T) {
	p, pool := setUp(t, func(_ trace.Unit, try int64) bool { return try%3 == 0 && try < 60 })
	var mu sync.Mutex
	merges := 0
	if err := Gather(context.Background(), p, pool, &mu, func() { merges++ }); err != nil {
		t.Fatal(err)
	}
	if !p.Done() || merges == 0 || p.Film.Samples() != 200*100*20 {
		t.Errorf("done %v, %d merges, %d samples", p.Done(), merges, p.Film.Samples())
	}
}

func TestAUnitThatAlwaysFailsEndsThePicture(t *testing.T) {
	p, pool := setUp(t, func(u trace.Unit, _ int64) bool { return u.Tile == 3 })
	var mu sync.Mutex
	if err := Gather(context.Background(), p, pool, &mu, func() {}); err == nil || err.Error() != "a worker was lost" {
		t.Fatalf("got %v", err)
	}
}

func TestCancelKeepsWhatWasMerged(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	p, pool := setUp(t, func(trace.Unit, int64) bool { return false })
	var mu sync.Mutex
	n := 0
	err := Gather(ctx, p, pool, &mu, func() {
		if n++; n == 10 {
			cancel()
		}
	})
	if !errors.Is(err, context.Canceled) || p.Done() {
		t.Fatalf("got %v, done %v", err, p.Done())
	}
	if s := p.Film.Samples(); s == 0 {
		t.Error("nothing was kept")
	}
	if err := Gather(context.Background(), p, pool, &mu, func() {}); err != nil || !p.Done() {
		t.Fatalf("going on: %v, done %v", err, p.Done())
	}
}
