package render

import (
	"context"
	"errors"
	"image"
	"math"
	"slices"
	"testing"

	"amberproof/core/film"
	"amberproof/core/noise"
)

// quarter is a judge who finds a quarter of the noise left, and keeps what it was asked.
type quarter struct {
	f     *film.Film
	asked [][]bool
	quick []bool
}

func (q *quarter) judge(_ context.Context, asked []bool, quick bool) ([]float64, error) {
	q.asked, q.quick = append(q.asked, slices.Clone(asked)), append(q.quick, quick)
	out := make([]float64, len(asked))
	for i := range out {
		out[i] = math.NaN()
		if asked[i] {
			out[i] = view.OfTile(&q.f.Tiles[i]) / 4
		}
	}
	return out, nil
}

// What is left of the noise decides when tiles stop: with a quarter left after about a
// sixteenth of the samples. Only tiles that still go, and those around them, are judged.
func TestWhatIsLeftDecides(t *testing.T) {
	loud := func(tile int) bool { return tile == 9 }
	samples := func(judged bool) (f *film.Film, q *quarter, p *Plan) {
		f = film.New(image.Rect(0, 0, film.TileSize*8, film.TileSize*4), film.Layout{})
		q = &quarter{f: f}
		o := Order{Stop: noise.Stop{Least: 4, Most: 1024, Target: 0.5}, View: view, Keep: saver{}}
		if judged {
			o.Judge = q.judge
		}
		p, err := NewPlan(t.Context(), f, o)
		if err != nil {
			t.Fatal(err)
		}
		if judged && !math.IsInf(p.Progress().Noise, 1) {
			t.Error("noise is told before it is known")
		}
		drive(t, p, loud, math.MaxInt)
		return f, q, p
	}
	plain, _, _ := samples(false)
	f, q, p := samples(true)
	if a, b := plain.Tiles[9].Samples, f.Tiles[9].Samples; b*8 > a || b*32 < a {
		t.Errorf("%d samples where a quarter is left, %d else", b, a)
	}
	if n := p.Progress().Noise; n > 0.5 {
		t.Errorf("done at %.2f %%", n)
	}
	last := q.asked[len(q.asked)-1]
	for i, a := range last {
		x, y := i%8, i/8
		if near := x <= 2 && y >= 0 && y <= 2; a != near {
			t.Errorf("tile %d is judged: %v", i, a)
		}
	}
	if q.quick[0] != true || q.quick[len(q.quick)-1] != false {
		t.Errorf("judged quickly: %v", q.quick)
	}
}

// A picture that is whole, taken up again, is judged for what is told of it.
func TestAWholePictureIsJudgedOnce(t *testing.T) {
	f := film.New(image.Rect(0, 0, 2*film.TileSize, 2*film.TileSize), film.Layout{})
	q := &quarter{f: f}
	o := Order{Stop: noise.Stop{Least: 4, Most: 8, Target: 1}, View: view, Keep: saver{}, Judge: q.judge}
	p, err := NewPlan(t.Context(), f, o)
	if err != nil {
		t.Fatal(err)
	}
	drive(t, p, func(int) bool { return true }, math.MaxInt)
	want, before := p.Progress(), len(q.asked)
	again, err := NewPlan(t.Context(), f, o)
	if err != nil || !again.Done() || again.Progress().Noise != want.Noise || len(q.asked) != before+1 {
		t.Errorf("%+v, was %+v; judged %d times more, %v", again.Progress(), want, len(q.asked)-before, err)
	}
}

func TestAJudgeThatGivesUpEndsThePlan(t *testing.T) {
	f := film.New(image.Rect(0, 0, 2*film.TileSize, film.TileSize), film.Layout{})
	o := Order{Stop: stop, View: view, Keep: saver{}, Judge: func(context.Context, []bool, bool) ([]float64, error) { return nil, context.Canceled }}
	p, err := NewPlan(t.Context(), f, o)
	if err != nil {
		t.Fatal(err)
	}
	for {
		u, ok := p.Next()
		if !ok {
			t.Fatal("never judged")
		}
		if err := p.Take(t.Context(), pretend(f, u, func(int) bool { return true })); errors.Is(err, context.Canceled) {
			return
		} else if err != nil {
			t.Fatal(err)
		}
	}
}

// Where what is left of the noise falls by another power than the root, the time that is told is by
// that: with the fourth root, a quarter of the noise takes 256 times the samples.
func TestTimeIsToldByHowNoiseFalls(t *testing.T) {
	f := film.New(image.Rect(0, 0, film.TileSize*8, film.TileSize*4), film.Layout{})
	o := Order{Stop: noise.Stop{Least: 4, Most: 4096, Target: 1}, View: view, Keep: saver{}}
	o.Judge = func(context.Context, []bool, bool) ([]float64, error) {
		out := make([]float64, len(f.Tiles))
		for i := range out {
			out[i] = 4 * math.Pow(4/float64(f.Tiles[i].Samples), 0.25)
		}
		return out, nil
	}
	p, err := NewPlan(t.Context(), f, o)
	if err != nil {
		t.Fatal(err)
	}
	every := func(int) bool { return true }
	for p.Progress().Least < 32 {
		drive(t, p, every, len(f.Tiles))
	}
	// 1024 each; between judgements the plain noise tells what is left, with an error.
	if n := p.Progress().Forecast / int64(f.Window.Dx()*f.Window.Dy()); n < 500 || n > 2000 {
		t.Errorf("%d samples are told, 1024 are needed", n)
	}
}
