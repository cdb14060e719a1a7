package farm

import (
	"context"
	"errors"
	"image"
	"slices"
	"sync"
	"sync/atomic"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
	"amberproof/core/render"
	"amberproof/core/scene"
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

// The sketch is the first sample of the pixels it stands for, whoever made it.
func TestTheSketchIsTheSameOnAnyNumberOfWorkers(t *testing.T) {
	s := &scene.Scene{Finishes: []scene.Finish{scene.NewFinish("plain")}, Objects: []scene.Object{{Parent: -1, World: geom.Identity()}}}
	s.Meshes = []scene.Mesh{{Positions: []geom.Vec3{{X: -1, Y: -1}, {X: 1, Y: -1}, {Y: 1}}, Indices: []uint32{0, 1, 2}}}
	s.Parts = []scene.Part{{}}
	o := trace.Options{
		Width: 100, Height: 60, Window: image.Rect(0, 0, 100, 60), Finishes: s.Finishes, Wears: []int{0}, Filter: "box", FilterWidth: 1,
		Camera: trace.Camera{World: geom.Translate(geom.V(0, 0, 3)), YFov: 0.7}, Layout: film.Layout{Cover: true}, DiffuseBounces: 1,
		Surround: trace.Surround{On: true, Strength: 1, Tone: geom.Splat(0.5)},
	}
	w, err := trace.Prepare(context.Background(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	f := film.New(o.Window, w.Options().Layout)
	one, err := NewLocal(w, f, 1).Sketch(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	three, err := NewLocal(w, f, 3).Sketch(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(one.Data, three.Data) || len(one.Entries) == 0 || len(one.Entries) != len(three.Entries) {
		t.Errorf("one worker and three differ; %d and %d covered", len(one.Entries), len(three.Entries))
	}
	patch, err := w.NewTracer().Render(context.Background(), f, trace.Unit{Tile: 0, From: 0, To: 1})
	if err != nil {
		t.Fatal(err)
	}
	if got, want := one.Pixel(0)[film.Beauty], patch.Pixel(4*film.TileSize + 4)[film.Beauty]; got != want {
		t.Errorf("the first pixel is %v, its sample %v", got, want)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := NewLocal(w, f, 2).Sketch(ctx); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}
