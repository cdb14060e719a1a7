package farm

import (
	"context"
	"errors"
	"image"
	"slices"
	"testing"
	"time"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
	"amberproof/core/parallel"
	"amberproof/core/render"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

type noKeep struct{}

func (noKeep) Save(int) error { return nil }

// fake is a pool that answers at once, fails, or says nothing at all.
type fake struct {
	film    *film.Film
	answer  func(t Task, try int) string // "", "fail", "silence", "late"
	tries   int
	lease   time.Duration
	results chan Result
	held    []Result
}

func (f *fake) Picture() Picture       { return Picture{Film: "film", Revision: 3} }
func (f *fake) Room() int              { return 4 }
func (f *fake) Lease() time.Duration   { return f.lease }
func (f *fake) Results() <-chan Result { return f.results }
func (f *fake) Close()                 {}

func (f *fake) Give(t Task) {
	f.tries++
	r := Result{Task: t}
	how := f.answer(t, f.tries)
	if how == "fail" {
		r.Err = errors.New("a worker was lost")
	} else {
		r.Patch = &film.Patch{Tile: t.Unit.Tile, From: t.Unit.From, To: t.Unit.To, Sums: film.NewSums(f.film.Rect(t.Unit.Tile), f.film.Layout)}
		for i := 0; i < r.Patch.Rect.Dx()*r.Patch.Rect.Dy(); i++ {
			r.Patch.Pixel(i)[film.Weight] = float32(t.Unit.To - t.Unit.From)
		}
	}
	switch how {
	case "silence":
		return
	case "late": // answered only after the next that is given
		f.held = append(f.held, r)
		return
	}
	f.results <- r
	for _, h := range f.held {
		f.results <- h
	}
	f.held = nil
}

func setUp(t *testing.T, answer func(Task, int) string) (*render.Plan, *fake) {
	t.Helper()
	f := film.New(image.Rect(0, 0, 200, 100), film.Layout{})
	p, err := render.NewPlan(t.Context(), f, render.Order{Stop: noise.Stop{Least: 4, Most: 20}, View: noise.View{Transform: colour.Plain}, Keep: noKeep{}})
	if err != nil {
		t.Fatal(err)
	}
	return p, &fake{film: f, answer: answer, results: make(chan Result, 1000)}
}

func nothing() error { return nil }

// finished asserts that every sample was merged once.
func finished(t *testing.T, p *render.Plan, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
	if !p.Done() || p.Film.Samples() != 200*100*20 {
		t.Errorf("done %v, %d samples", p.Done(), p.Film.Samples())
	}
	for i := range p.Film.Tiles {
		if w := p.Film.Tiles[i].Pixel(0)[film.Weight]; w != 20 {
			t.Errorf("tile %d has the weight of %v samples", i, w)
		}
	}
}

func TestALostUnitIsDoneAgain(t *testing.T) {
	p, pool := setUp(t, func(_ Task, try int) string {
		if try%3 == 0 && try < 60 {
			return "fail"
		}
		return ""
	})
	merges := 0
	err := Gather(t.Context(), p, pool, func() error { merges++; return nil })
	finished(t, p, err)
	if merges == 0 {
		t.Error("nobody was told")
	}
}

// Units that are never answered are given out again when their lease ends, and
// answers that come after it are not counted twice.
func TestAUnitThatIsNotAnsweredIsGivenOutAgain(t *testing.T) {
	p, pool := setUp(t, func(_ Task, try int) string {
		switch {
		case try%7 == 0 && try < 100:
			return "silence"
		case try%5 == 0 && try < 100:
			return "late"
		}
		return ""
	})
	pool.lease = 5 * time.Millisecond
	finished(t, p, Gather(t.Context(), p, pool, nothing))
}

func TestTasksNameTheirPicture(t *testing.T) {
	leases := map[int64]bool{}
	p, pool := setUp(t, func(k Task, _ int) string {
		if k.Picture.Film != "film" || k.Picture.Revision != 3 || leases[k.Lease] {
			t.Errorf("task %+v", k)
		}
		leases[k.Lease] = true
		return ""
	})
	finished(t, p, Gather(t.Context(), p, pool, nothing))
}

func TestAUnitThatAlwaysFailsEndsThePicture(t *testing.T) {
	p, pool := setUp(t, func(k Task, _ int) string {
		if k.Unit.Tile == 3 {
			return "fail"
		}
		return ""
	})
	if err := Gather(t.Context(), p, pool, nothing); err == nil || err.Error() != "a worker was lost" {
		t.Fatalf("got %v", err)
	}
}

func TestCancelKeepsWhatWasMerged(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	p, pool := setUp(t, func(Task, int) string { return "" })
	n := 0
	err := Gather(ctx, p, pool, func() error {
		if n++; n == 10 {
			cancel()
		}
		return nil
	})
	if !errors.Is(err, context.Canceled) || p.Done() {
		t.Fatalf("got %v, done %v", err, p.Done())
	}
	if s := p.Film.Samples(); s == 0 {
		t.Error("nothing was kept")
	}
	finished(t, p, Gather(t.Context(), p, &fake{film: pool.film, answer: pool.answer, results: make(chan Result, 1000)}, nothing))
}

// triangle is a world of one triangle, and a film over it.
func triangle(t *testing.T) (*trace.World, *film.Film) {
	t.Helper()
	s := &scene.Scene{Finishes: []scene.Finish{scene.NewFinish("plain")}, Objects: []scene.Object{{Parent: -1, World: geom.Identity()}}}
	s.Meshes = []scene.Mesh{{Positions: []geom.Vec3{{X: -1, Y: -1}, {X: 1, Y: -1}, {Y: 1}}, Indices: []uint32{0, 1, 2}}}
	s.Parts = []scene.Part{{}}
	o := trace.Options{
		Width: 100, Height: 60, Window: image.Rect(0, 0, 100, 60), Finishes: s.Finishes, Wears: []int{0}, Filter: "box", FilterWidth: 1,
		Camera: trace.Camera{World: geom.Translate(geom.V(0, 0, 3)), YFov: 0.7}, Layout: film.NewLayout(true), DiffuseBounces: 1,
		Surround: trace.Surround{On: true, Strength: 1, Tone: geom.Splat(0.5)},
	}
	w, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	return w, film.New(o.Window, w.Options().Layout)
}

// The sketch is the first sample of the pixels it stands for, whoever made it.
func TestTheSketchIsTheSameOnAnyNumberOfWorkers(t *testing.T) {
	w, f := triangle(t)
	sketch := func(n int) *film.Sketch {
		pool := Local(n, nil)(t.Context(), w, f, Picture{})
		defer pool.Close()
		s, err := Sketch(t.Context(), f, pool)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	one, three := sketch(1), sketch(3)
	if !slices.Equal(one.Data, three.Data) || len(one.Entries) == 0 || len(one.Entries) != len(three.Entries) {
		t.Errorf("one worker and three differ; %d and %d covered", len(one.Entries), len(three.Entries))
	}
	patch, err := w.NewTracer().Render(t.Context(), f, trace.Unit{Tile: 0, From: 0, To: 1})
	if err != nil {
		t.Fatal(err)
	}
	if got, want := one.Pixel(0)[film.Beauty], patch.Pixel(4*film.TileSize + 4)[film.Beauty]; got != want {
		t.Errorf("the first pixel is %v, its sample %v", got, want)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	pool := Local(2, nil)(ctx, w, f, Picture{})
	defer pool.Close()
	if _, err := Sketch(ctx, f, pool); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}

// A programming error in the tracer fails the picture; the program lives on.
func TestAPanicFailsThePicture(t *testing.T) {
	w, f := triangle(t)
	pool := Local(2, &Watch{})(t.Context(), w, f, Picture{})
	defer pool.Close()
	p, err := render.NewPlan(t.Context(), f, render.Order{Stop: noise.Stop{Least: 4, Most: 20}, View: noise.View{Transform: colour.Plain}, Keep: noKeep{}})
	if err != nil {
		t.Fatal(err)
	}
	r := pool.(*local).do(t.Context(), nil, Task{Unit: trace.Unit{Tile: 0, From: 0, To: 1}}) // no tracer at all
	var want *parallel.Panic
	if !errors.As(r.Err, &want) || want.Stack == "" {
		t.Fatalf("got %v", r.Err)
	}
	g := newGatherer(pool)
	if err := g.take(t.Context(), p, r); !errors.As(err, &want) {
		t.Errorf("it is tried again: %v", err)
	}
}

func TestTheWatchSeesEachWorker(t *testing.T) {
	w, f := triangle(t)
	watch := &Watch{}
	pool := Local(2, watch)(t.Context(), w, f, Picture{})
	p, err := render.NewPlan(t.Context(), f, render.Order{Stop: noise.Stop{Least: 4, Most: 20}, View: noise.View{Transform: colour.Plain}, Keep: noKeep{}})
	if err != nil {
		t.Fatal(err)
	}
	if err := Gather(t.Context(), p, pool, nothing); err != nil {
		t.Fatal(err)
	}
	units := 0
	for _, k := range watch.Workers() {
		units += k.Units
	}
	if len(watch.Workers()) != 2 || units == 0 {
		t.Errorf("%+v", watch.Workers())
	}
	pool.Close()
	if n := len(watch.Workers()); n != 0 {
		t.Errorf("%d work after the end", n)
	}
}
