package live_test

import (
	"context"
	"errors"
	"image"
	"slices"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/live"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// world is a white floor under a panel, in a frame of a size.
func world(t *testing.T, w, h int) *trace.World {
	t.Helper()
	f, lamp := scene.NewFinish("floor"), scene.NewFinish("panel")
	f.Metallic, lamp.Metallic = 0, 0
	lamp.Emission = geom.Splat(3)
	square := func(o, a, b geom.Vec3, finish int) scene.Mesh {
		return scene.Mesh{Positions: []geom.Vec3{o, o.Add(a), o.Add(a).Add(b), o.Add(b)}, Indices: []uint32{0, 1, 2, 0, 2, 3}, Finish: finish}
	}
	s := &scene.Scene{
		Finishes: []scene.Finish{f, lamp},
		Meshes:   []scene.Mesh{square(geom.V(-3, 0, 3), geom.V(6, 0, 0), geom.V(0, 0, -6), 0), square(geom.V(-1, 2, -1), geom.V(2, 0, 0), geom.V(0, 0, 2), 1)},
		Objects:  []scene.Object{{Name: "floor", Parent: -1, World: geom.Identity()}, {Name: "panel", Parent: -1, World: geom.Identity()}},
		Parts:    []scene.Part{{Name: "floor", Object: 0, Mesh: 0, Finish: 0}, {Name: "panel", Object: 1, Mesh: 1, Finish: 1}},
	}
	o := trace.Options{
		Width: w, Height: h, Window: image.Rect(0, 0, w, h), Filter: sampling.Box, FilterWidth: 1, DiffuseBounces: 2, Seed: 3,
		Camera: trace.Camera{World: geom.LookAt(geom.V(0, 1, 4), geom.V(0, 0.4, 0), geom.V(0, 1, 0)), YFov: 0.8}, Wears: []int{0, 1}, Finishes: s.Finishes,
		Layout: film.NewLayout(false, film.GuidePlane),
	}
	v, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func two() int { return 2 }

// A picture comes coarse first, each step finer or with more samples than the one
// before, the last one whole; and it holds the samples that a run would have.
func TestSteps(t *testing.T) {
	w := world(t, 200, 120)
	var steps []live.Step
	if err := live.Refine(t.Context(), live.Order{World: w, Workers: two, Most: 6}, func(s live.Step) error {
		steps = append(steps, s)
		if b := s.Film.Window; b.Dx() != 200/s.Scale || b.Dy() != 120/s.Scale {
			t.Errorf("at scale %d the film has %v", s.Scale, b)
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	var told [][2]int
	for i, s := range steps {
		told = append(told, [2]int{s.Scale, s.Samples})
		if s.Done != (i == len(steps)-1) || (s.Clean == nil) != (s.Samples < 2) {
			t.Errorf("step %d: %+v", i, s)
		}
	}
	// An eighth of 120 lines shows nothing.
	if want := [][2]int{{4, 2}, {2, 2}, {1, 2}, {1, 4}, {1, 6}}; !slices.Equal(told, want) {
		t.Errorf("steps %v, want %v", told, want)
	}
	f, tracer := film.New(w.Options().Window, w.Options().Layout), w.NewTracer()
	for i := range f.Tiles {
		for _, u := range [][2]int{{0, 2}, {2, 4}, {4, 6}} { // sums are added in the same order
			p, err := tracer.Render(t.Context(), f, trace.Unit{Tile: i, From: u[0], To: u[1]})
			if err != nil {
				t.Fatal(err)
			}
			if _, err := f.Take(p); err != nil {
				t.Fatal(err)
			}
		}
		if !slices.Equal(f.Tiles[i].Data, steps[len(steps)-1].Film.Tiles[i].Data) {
			t.Fatalf("tile %d has other sums than a run's", i)
		}
	}
}

// What was shown can be gone on from; what is done is done.
func TestGoingOn(t *testing.T) {
	w := world(t, 64, 48)
	var last live.Step
	stop := errors.New("enough")
	err := live.Refine(t.Context(), live.Order{World: w, Workers: two, Most: 64}, func(s live.Step) error {
		if last = s; s.Scale == 1 && s.Samples == 4 {
			return stop
		}
		return nil
	})
	if !errors.Is(err, stop) {
		t.Fatal(err)
	}
	var counts []int
	if err := live.Refine(t.Context(), live.Order{World: w, Workers: two, Most: 16, From: &last}, func(s live.Step) error {
		counts = append(counts, s.Samples)
		last = s
		return nil
	}); err != nil || !slices.Equal(counts, []int{8, 16}) || last.Film.SamplesAt(3, 3) != 16 {
		t.Errorf("went on with %v: %v", counts, err)
	}
	if err := live.Refine(t.Context(), live.Order{World: w, Workers: two, Most: 16, From: &last}, func(live.Step) error {
		t.Error("shown once more")
		return nil
	}); err != nil {
		t.Error(err)
	}
}

func TestDropped(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	shown := 0
	err := live.Refine(ctx, live.Order{World: world(t, 300, 300), Workers: two, Most: 1 << 20}, func(live.Step) error {
		if shown++; shown == 2 {
			cancel()
		}
		return nil
	})
	if !errors.Is(err, context.Canceled) || shown != 2 {
		t.Errorf("%d steps were shown: %v", shown, err)
	}
}

// A frame of a pixel, or a few, is shown as it is.
func TestTinyFrames(t *testing.T) {
	for _, size := range [][2]int{{1, 1}, {1, 30}, {25, 25}} {
		n := 0
		if err := live.Refine(t.Context(), live.Order{World: world(t, size[0], size[1]), Workers: two, Most: 2}, func(s live.Step) error {
			n++
			return nil
		}); err != nil || n != 1 {
			t.Errorf("%v: %d steps, %v", size, n, err)
		}
	}
}

// At once or step by step: the same samples, and the same picture.
func TestOnce(t *testing.T) {
	w := world(t, 60, 40)
	o := live.Order{World: w, Workers: two, Most: 6}
	var last live.Step
	if err := live.Refine(t.Context(), o, func(s live.Step) error { last = s; return nil }); err != nil {
		t.Fatal(err)
	}
	s, err := live.Once(t.Context(), o)
	if err != nil || !s.Done || s.Samples != 6 || s.Clean == nil {
		t.Fatalf("%+v: %v", s, err)
	}
	for _, p := range []image.Point{{X: 5, Y: 5}, {X: 30, Y: 20}, {X: 59, Y: 39}} {
		a, i := s.Clean.At(p.X, p.Y)
		b, k := last.Clean.At(p.X, p.Y)
		c, _ := a.Light(i)
		d, _ := b.Light(k)
		if c.Sub(d).Len() > 1e-4 {
			t.Errorf("at %v it is %v, step by step %v", p, c, d)
		}
	}
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := live.Once(ended, o); !errors.Is(err, context.Canceled) {
		t.Errorf("given up: %v", err)
	}
}
