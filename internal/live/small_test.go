package live_test

import (
	"bytes"
	"context"
	"errors"
	"image/png"
	"testing"

	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/live"
	"amberproof/internal/scenes"
	"amberproof/internal/testkit"
)

// A small picture has the size that was asked for, and shows the surround that is tried.
func TestSmallPictures(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	mean := func(w *live.Wish) (sum float64) {
		t.Helper()
		b, err := a.Live.Small(ctx, me, j.Scene, w)
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(b))
		if err != nil {
			t.Fatal(err)
		}
		if img.Bounds().Dx() > w.Width || img.Bounds().Dy() > w.Height || img.Bounds().Dx() < w.Width && img.Bounds().Dy() < w.Height {
			t.Errorf("asked for %d x %d, it is %v", w.Width, w.Height, img.Bounds())
		}
		for y := range img.Bounds().Dy() {
			for x := range img.Bounds().Dx() {
				r, g, b, _ := img.At(x, y).RGBA()
				sum += float64(r+g+b) / 3 / 65535
			}
		}
		return sum / float64(img.Bounds().Dx()*img.Bounds().Dy())
	}
	dim, bright := setup.NewBegins().Surround, setup.NewBegins().Surround
	dim.Tone, bright.Tone = 0.02, 2
	if d, b := mean(&live.Wish{Width: 80, Height: 60, Surround: &dim}), mean(&live.Wish{Width: 80, Height: 60, Surround: &bright}); d >= 0.6*b {
		t.Errorf("under a surround a hundred times as bright it is %.3f, was %.3f", b, d)
	}
	var in *fault.Input
	if _, err := a.Live.Small(ctx, me, j.Scene, &live.Wish{Width: 513, Height: 10}); !errors.As(err, &in) {
		t.Errorf("a large one: %v", err)
	}
	gone, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := a.Live.Small(gone, me, j.Scene, &live.Wish{Width: 80, Height: 60}); !errors.Is(err, context.Canceled) {
		t.Errorf("for nobody: %v", err)
	}
}

// Lights that are kept dark do not shine, and a grey card is in the picture at once.
func TestDarkLightsAndTheCard(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	w, err := a.Scenes.Stage(ctx, me, j.Scene, scenes.StageNew, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	u := setup.Setup{Parts: w.Changes, Stage: &w.Stage}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	l := look(t, a, j)
	whole := func(f *live.Frame) bool { return f.Number == l.number && f.Scale == 1 }
	l.want(nil)
	if f := l.next(whole); f.Crushed > 50 {
		t.Fatalf("%.0f %% of the picture is black", f.Crushed)
	}
	l.want(func(w *live.Wish) { w.Dark = []string{"Key", "Fill", "Rim", "surround", "nobody"} })
	if f := l.next(whole); f.Crushed < 99 {
		t.Errorf("without a light %.0f %% of the picture is black", f.Crushed)
	}
	l.want(func(w *live.Wish) { w.Dark = []string{"Fill", "Rim", "surround"} })
	if f := l.next(whole); f.Crushed > 90 {
		t.Errorf("with the key alone %.0f %% of the picture is black", f.Crushed)
	}
	l.want(nil)
	l.next(whole)
	u.Stage.Card = true
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 1, u); err != nil {
		t.Fatal(err)
	}
	if f := l.want(nil); f.Prepared != live.All {
		t.Errorf("for a card there was made: %s", f.Prepared)
	}
	// An exposure is a look at what is there.
	u.Stage.Begins.Exposure = 3
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 2, u); err != nil {
		t.Fatal(err)
	}
	if f := l.want(nil); f.Prepared != live.Nothing && f.Prepared != live.View {
		t.Errorf("for an exposure there was made: %s", f.Prepared)
	}
}
