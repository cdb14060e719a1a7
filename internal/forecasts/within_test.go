package forecasts

import (
	"math"
	"testing"

	"amberproof/core/forecast"
	"amberproof/internal/ticket"
)

// by is what a target takes whose time goes by the inverse square of it: 100 s at 1 %, to 150 s nine
// times in ten.
func by(target float64) AtTarget {
	s := 100 / target / target
	return AtTarget{Target: target, Seconds: forecast.Range{Mid: s, Low: s / 1.5, High: s * 1.5}}
}

func TestWhatCanBeHadInATime(t *testing.T) {
	k := ticket.New()
	k.View.Width, k.View.Height, k.View.Scale = 1600, 1200, 100
	k.Quality.Noise = 1
	var curve []AtTarget
	for _, n := range targets(1) {
		curve = append(curve, by(n))
	}
	asked := 0
	at := func(n float64) AtTarget { asked++; return by(n) }
	for _, seconds := range []float64{20, 37.5, 150, 600, 1000} {
		w := within(seconds, &k, by(1), curve, at)
		want := math.Sqrt(150 / seconds)
		if w.Target == nil || w.Target.Seconds.High > seconds || w.Target.Target < want || w.Target.Target > want*1.03+0.01 {
			t.Errorf("in %g s: %+v, wanted a target of %.3f", seconds, w.Target, want)
		}
		scale := math.Floor(100 * math.Sqrt(seconds/150))
		if w.Size == nil || float64(w.Size.Scale) != scale || w.Size.Seconds.High > seconds || w.Size.Width != int(math.Round(16*scale)) || w.Most != 0 {
			t.Errorf("in %g s: %+v, wanted %g %%", seconds, w.Size, scale)
		}
	}
	if asked == 0 {
		t.Error("no target between those of the curve was looked at")
	}
	// So little that nothing does it, and so much that all does.
	if w := within(1e-4, &k, by(1), curve, at); w.Target != nil || w.Size != nil {
		t.Errorf("in no time: %+v, %+v", w.Target, w.Size)
	}
	if w := within(1e9, &k, by(1), curve, at); w.Target.Target != curve[0].Target || w.Size.Scale != mostScale {
		t.Errorf("in years: %+v, %+v", w.Target, w.Size)
	}
	// Frames are bounded, and without a target it is samples that fit.
	k.View.Width, k.Quality.Noise, k.Quality.Most = 16000, 0, 300
	w := within(1e9, &k, by(1), nil, at)
	if w.Size.Width > ticket.MostSide || w.Size.Width < ticket.MostSide-200 || w.Most != ticket.MostSamples || w.Target != nil {
		t.Errorf("%+v, %d samples", w.Size, w.Most)
	}
	if w := within(75, &k, by(1), nil, at); w.Most != 150 {
		t.Errorf("%d samples in half the time of 300", w.Most)
	}
}
