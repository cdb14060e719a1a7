package render

import (
	"image"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/noise"
)

// That the most samples will not do is told as soon as the least are in: with a tenth of noise in a
// sample, 64 leave more than 1 %, about 150 would do. Where they do, nothing is told.
func TestAMissedTargetIsToldBeforeTheEnd(t *testing.T) {
	every := func(int) bool { return true }
	for _, most := range []int{64, 4096} {
		f := film.New(image.Rect(0, 0, film.TileSize*8, film.TileSize*4), film.Layout{})
		p, err := NewPlan(t.Context(), f, Order{Stop: noise.Stop{Least: 16, Most: most, Target: 1}, View: view, Keep: saver{}})
		if err != nil {
			t.Fatal(err)
		}
		if g := p.Progress(); g.Ending != 0 || g.Needs != 0 {
			t.Errorf("told before there is a sample: %+v", g)
		}
		for !p.Done() && p.Progress().Least < 16 {
			drive(t, p, every, 1)
		}
		early := p.Progress()
		drive(t, p, every, math.MaxInt)
		end := p.Progress()
		if most == 4096 {
			if early.Ending != 0 || end.Ending != 0 || end.Noise > 1 {
				t.Errorf("%g %% of 1 %% is told at first, %g %% at the end", early.Ending, end.Ending)
			}
			continue
		}
		if early.Done || early.Ending < 0.8*end.Noise || early.Ending > 1.25*end.Noise || end.Noise < 1.05 {
			t.Errorf("told to end at %g %%, ended at %g %%", early.Ending, end.Noise)
		}
		if want := 64 * end.Noise * end.Noise; float64(early.Needs) < 0.6*want || float64(early.Needs) > 1.6*want {
			t.Errorf("%d samples are told to do, %g would", early.Needs, want)
		}
		if math.Abs(end.Ending/end.Noise-1) > 1e-6 {
			t.Errorf("at the end it is told to end at %g %%, and has %g %%", end.Ending, end.Noise)
		}
	}
}
