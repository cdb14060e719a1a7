package forecast_test

import (
	"context"
	"errors"
	"image"
	"math"
	"testing"
	"time"

	"amberproof/core/colour"
	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/forecast"
	"amberproof/core/geom"
	"amberproof/core/noise"
	"amberproof/core/render"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// floor is a white floor under a small panel: noisy in the half shadow, quiet elsewhere.
func floor(t testing.TB, w, h int) *trace.World {
	t.Helper()
	f, lamp := scene.NewFinish("floor"), scene.NewFinish("panel")
	f.Metallic, lamp.Metallic = 0, 0
	lamp.Emission = geom.Splat(9)
	square := func(o, a, b geom.Vec3, finish int) scene.Mesh {
		return scene.Mesh{Positions: []geom.Vec3{o, o.Add(a), o.Add(a).Add(b), o.Add(b)}, Indices: []uint32{0, 1, 2, 0, 2, 3}, Finish: finish}
	}
	s := &scene.Scene{
		Finishes: []scene.Finish{f, lamp},
		Meshes: []scene.Mesh{square(geom.V(-3, 0, 3), geom.V(6, 0, 0), geom.V(0, 0, -6), 0), square(geom.V(-1, 2, -1), geom.V(1, 0, 0), geom.V(0, 0, 1), 1),
			square(geom.V(-1, 0, 0), geom.V(1, 0, 0), geom.V(0, 0.8, 0), 0)},
		Objects: []scene.Object{{Name: "floor", Parent: -1, World: geom.Identity()}, {Name: "panel", Parent: -1, World: geom.Identity()},
			{Name: "board", Parent: -1, World: geom.Identity()}},
		Parts: []scene.Part{{Name: "floor", Object: 0, Mesh: 0, Finish: 0}, {Name: "panel", Object: 1, Mesh: 1, Finish: 1},
			{Name: "board", Object: 2, Mesh: 2, Finish: 0}},
	}
	o := trace.Options{
		Width: w, Height: h, Window: image.Rect(0, 0, w, h), Filter: sampling.Box, FilterWidth: 1, DiffuseBounces: 2, Seed: 3,
		Camera: trace.Camera{World: geom.LookAt(geom.V(0, 1, 4), geom.V(0, 0.4, 0), geom.V(0, 1, 0)), YFov: 0.8}, Wears: []int{0, 1, 0}, Finishes: s.Finishes,
		Layout: film.NewLayout(false, film.GuidePlane),
	}
	v, err := trace.Prepare(t.Context(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

var view = noise.View{Transform: colour.Plain}

func clean(f *film.Film) *denoise.Order { return &denoise.Order{Film: f, Behind: -1} }

// endless is a budget that no probe of a small picture uses up: what it measures does not depend
// on how fast the machine is.
const endless = time.Hour

type none struct{}

func (none) Save(int) error { return nil }

// rendered renders a picture as a run does and returns how it ended.
func rendered(t *testing.T, w *trace.World, stop noise.Stop, denoised bool) render.Progress {
	t.Helper()
	f := film.New(w.Options().Window, w.Options().Layout)
	o := render.Order{Stop: stop, View: view, Keep: none{}}
	if denoised {
		o.Judge = func(ctx context.Context, asked []bool, quick bool) ([]float64, error) {
			c := clean(f)
			c.Workers, c.Quick = 2, quick
			made, err := c.Run(ctx, nil)
			if err != nil {
				return nil, err
			}
			return view.OfDenoised(f, made, noise.Taken{Amount: 1}), nil
		}
	}
	p, err := render.NewPlan(t.Context(), f, o)
	if err != nil {
		t.Fatal(err)
	}
	tracer := w.NewTracer()
	for !p.Done() {
		u, ok := p.Next()
		if !ok {
			t.Fatal("nothing to do, and not done")
		}
		patch, err := tracer.Render(t.Context(), f, u)
		if err != nil {
			t.Fatal(err)
		}
		if err := p.Take(t.Context(), patch); err != nil {
			t.Fatal(err)
		}
	}
	return p.Progress()
}

// What is told of samples and noise is what a run comes to, plain and denoised, for targets that
// lie far beyond the samples of the probe.
func TestAForecastIsMet(t *testing.T) {
	w := floor(t, 128, 96)
	for _, denoised := range []bool{false, true} {
		o := forecast.Order{World: w, Stop: noise.Stop{Least: 16, Most: 512, Target: 2}, View: view, Workers: 2, Budget: endless}
		if denoised {
			o.Clean = clean
		}
		p, err := forecast.Take(t.Context(), o)
		if err != nil {
			t.Fatal(err)
		}
		if !p.Whole {
			t.Fatal("with an endless budget not all of the picture was measured")
		}
		for _, stop := range []noise.Stop{{Least: 16, Most: 512, Target: 1}, {Least: 8, Most: 256, Target: 2}, {Least: 4, Most: 16, Target: 0}} {
			told, came := p.Outcome(stop, 2), rendered(t, w, stop, denoised)
			if r := told.Samples / came.Mean; r < 1/1.25 || r > 1.25 {
				t.Errorf("denoised %v, %+v: %.1f samples told, %.1f came", denoised, stop, told.Samples, came.Mean)
			}
			if r := told.Noise.Mid / came.Noise; r < 1/1.2 || r > 1.2 {
				t.Errorf("denoised %v, %+v: noise %.2f %% told, %.2f came", denoised, stop, told.Noise.Mid, came.Noise)
			}
			t.Logf("denoised %v, %+v: %.1f samples told, %.1f came; noise %.2f, %.2f", denoised, stop, told.Samples, came.Mean, told.Noise.Mid, came.Noise)
			if s := told.Seconds; !(s.Low > 0 && s.Low <= s.Mid && s.Mid <= s.High) {
				t.Errorf("a bar of %+v", s)
			}
		}
	}
}

// A stricter target, more samples and fewer workers never take less time, and twice the workers
// at best half.
func TestTimeRisesWithWhatIsAsked(t *testing.T) {
	p, err := forecast.Take(t.Context(), forecast.Order{World: floor(t, 96, 64), Stop: noise.Stop{Least: 16, Most: 512, Target: 2}, View: view, Clean: clean,
		Workers: 2, Budget: endless})
	if err != nil {
		t.Fatal(err)
	}
	at := func(target float64, most, workers int) float64 {
		return p.Outcome(noise.Stop{Least: 4, Most: most, Target: target}, workers).Seconds.Mid
	}
	for _, c := range []struct {
		what       string
		less, more float64
	}{
		{"a stricter target", at(3, 1024, 2), at(1, 1024, 2)},
		{"more samples", at(0, 16, 2), at(0, 64, 2)},
		{"one worker for two", at(2, 256, 2), at(2, 256, 1)},
	} {
		if c.less >= c.more {
			t.Errorf("%s takes %.3f s, without %.3f s", c.what, c.more, c.less)
		}
	}
	if one, two := at(0, 64, 1), at(0, 64, 2); two < one/2.001 {
		t.Errorf("two workers take %.3f s where one takes %.3f s", two, one)
	}
}

// One pixel, a row of them, one sample, and a picture that is all black: figures, or
// the word that there are none, and never what is no number.
func TestOddPictures(t *testing.T) {
	for _, c := range []struct {
		name  string
		world *trace.World
	}{{"one pixel", floor(t, 1, 1)}, {"a row", floor(t, 200, 1)}} {
		for _, cleaned := range []bool{false, true} {
			o := forecast.Order{World: c.world, Stop: noise.Stop{Least: 1, Most: 1}, View: view, Workers: 3, Budget: endless}
			if cleaned {
				o.Clean = clean
			}
			p, err := forecast.Take(t.Context(), o)
			if err != nil {
				t.Fatalf("%s: %v", c.name, err)
			}
			for _, stop := range []noise.Stop{{Least: 1, Most: 1}, {Least: 1, Most: 2, Target: 100}, {Least: 65536, Most: 65536},
				{Least: 1, Most: 65536, Target: 0.001}} {
				got := p.Outcome(stop, 1)
				for _, x := range []float64{got.Seconds.Low, got.Seconds.Mid, got.Seconds.High, got.Samples} {
					if math.IsNaN(x) || math.IsInf(x, 0) || x <= 0 {
						t.Errorf("%s, %+v: %+v", c.name, stop, got)
					}
				}
				if math.IsNaN(got.Noise.Mid) || stop.Most == 1 != math.IsInf(got.Noise.Mid, 1) {
					t.Errorf("%s, %+v: noise %+v", c.name, stop, got.Noise)
				}
			}
		}
	}
	dark := floor(t, 64, 64)
	o := forecast.Order{World: dark, Stop: noise.Stop{Least: 4, Most: 64, Target: 1}, View: noise.View{Exposure: -60, Transform: colour.Plain}, Clean: clean,
		Workers: 2, Budget: endless}
	p, err := forecast.Take(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	if got := p.Outcome(o.Stop, 2); got.Samples != 4 || got.Noise.Mid > 0.01 || math.IsNaN(got.Noise.Mid) {
		t.Errorf("all black: %+v", got)
	}
}

func TestAProbeCanBeCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := forecast.Take(ctx, forecast.Order{World: floor(t, 64, 64), Stop: noise.Stop{Least: 4, Most: 64}, View: view, Workers: 2, Budget: endless})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("a cancelled probe says %v", err)
	}
}

// A budget that is gone at once still gives an answer, from part of the picture.
func TestASmallBudget(t *testing.T) {
	o := forecast.Order{World: floor(t, 640, 480), Stop: noise.Stop{Least: 16, Most: 256, Target: 2}, View: view, Clean: clean, Workers: 2, Budget: 1}
	p, err := forecast.Take(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	if got := p.Outcome(o.Stop, 2); p.Whole || got.Samples < 8 || got.Samples > 256 || !(got.Seconds.High > got.Seconds.Low) {
		t.Errorf("whole %v, %+v", p.Whole, got)
	}
}

func BenchmarkProbe(b *testing.B) {
	w := floor(b, 640, 480)
	for b.Loop() {
		p, err := forecast.Take(b.Context(), forecast.Order{World: w, Stop: noise.Stop{Least: 16, Most: 256, Target: 2}, View: view, Clean: clean, Workers: 1,
			Budget: time.Second})
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(p.Spent.Seconds(), "cpu-s/op")
	}
}

func BenchmarkOutcome(b *testing.B) {
	p, err := forecast.Take(b.Context(), forecast.Order{World: floor(b, 192, 192), Stop: noise.Stop{Least: 16, Most: 256, Target: 2}, View: view, Clean: clean,
		Workers: 2, Budget: endless})
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		p.Outcome(noise.Stop{Least: 32, Most: 512, Target: 0.5}, 2)
	}
}
