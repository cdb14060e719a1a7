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

// A picture that is kept is the one that was shown, with the set-up it was made of; what
// is changed afterwards changes nothing of it.
func TestKeeping(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	l := look(t, a, j)
	var in *fault.Input
	if _, err := l.x.Keep(ctx); !errors.As(err, &in) {
		t.Errorf("before there is one: %v", err)
	}
	l.want(nil)
	l.next(func(f *live.Frame) bool { return f.Scale == 1 && f.Clean })
	k, err := l.x.Keep(ctx)
	if err != nil || k.Width < 64 || k.Samples < 2 {
		t.Fatalf("%+v: %v", k, err)
	}
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 2}}}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	l.want(nil)
	l.next(func(f *live.Frame) bool { return f.Number == l.number && f.Scale == 1 })
	if _, err := l.x.Keep(ctx); err != nil {
		t.Fatal(err)
	}
	list, err := a.Scenes.ListKept(ctx, me, j.Scene)
	if err != nil || len(list) != 2 || list[0] != k {
		t.Fatalf("%+v: %v", list, err)
	}
	for i, want := range []int{0, 1} {
		whole, err := a.Scenes.Kept(ctx, me, list[i].ID)
		if err != nil || len(whole.Setup.Parts) != want {
			t.Errorf("picture %d was made of %+v: %v", i, whole.Setup, err)
		}
		b, err := a.Scenes.KeptPicture(ctx, me, list[i].ID)
		if err != nil {
			t.Fatal(err)
		}
		if img, err := png.Decode(bytes.NewReader(b)); err != nil || img.Bounds().Dx() != k.Width {
			t.Errorf("picture %d: %v", i, err)
		}
	}
	if err := a.Scenes.RemoveKept(ctx, me, k.ID); err != nil {
		t.Fatal(err)
	}
	if err := a.Scenes.RemoveKept(ctx, me, k.ID); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("removed twice: %v", err)
	}
}

// Balls show what their finish is like: chrome mirrors, and black rubber is black.
func TestBalls(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	middle := func(b []byte, err error) float64 {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(b))
		if err != nil {
			t.Fatal(err)
		}
		m := img.Bounds().Dx() / 2
		r, g, bl, _ := img.At(m-8, m+4).RGBA()
		return float64(r+g+bl) / 3 / 65535
	}
	tone := func(v float64) setup.Finish {
		zero, one := 0.0, 1.0
		return setup.Finish{Name: "x", Made: true, Base: &setup.Colour{R: v, G: v, B: v}, Metal: &zero, Roughness: &one}
	}
	black, white := middle(a.Live.ShelfBall(ctx, me, tone(0.02))), middle(a.Live.ShelfBall(ctx, me, tone(0.8)))
	if black > 0.4*white || white < 0.4 {
		t.Errorf("black rubber is %.3f, white plastic %.3f", black, white)
	}
	b, err := a.Scenes.Bench(ctx, me, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	if v := middle(a.Live.Ball(ctx, me, j.Scene, b.Subject.Scene.Finishes[0].Name)); v <= 0 {
		t.Errorf("the scene's finish is %g", v)
	}
	var in *fault.Input
	if _, err := a.Live.Ball(ctx, me, j.Scene, "nothing"); !errors.As(err, &in) {
		t.Errorf("of a finish that is not there: %v", err)
	}
}

// The mean of all of a picture is that of its halves, an area of nothing is one pixel, and
// a light on one side that is warm is found there.
func TestReadOuts(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	w, err := a.Scenes.Stage(ctx, me, j.Scene, scenes.StageNew, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	g := &w.Stage
	front := g.Backdrop.Turn
	for i, side := range []float64{-70, 70} {
		g.Lights[i].Direction, g.Lights[i].Height, g.Lights[i].Strength, g.Lights[i].Kelvin = front+side, 10, 2, []float64{2800, 9000}[i]
	}
	g.Lights = g.Lights[:2]
	g.Begins.Surround.On = false
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, setup.Setup{Parts: w.Changes, Stage: g}); err != nil {
		t.Fatal(err)
	}
	l := look(t, a, j)
	if _, ok := l.x.Measure(0, 0, 1, 1); ok {
		t.Error("something was measured before there was a picture")
	}
	l.want(func(w *live.Wish) { w.Width, w.Height = 56, 42 }) // it has to be done, with the race detector, too
	f := l.next(func(f *live.Frame) bool { return f.Done })
	if f.Warmth == nil || f.Warmth.Left < f.Warmth.Right+0.5 {
		t.Errorf("tungsten on the left, daylight on the right: %+v", f.Warmth)
	}
	whole, ok := l.x.Measure(0, 0, 1, 1)
	left, _ := l.x.Measure(0, 0, 0.5, 1)
	right, _ := l.x.Measure(0.5, 0, 1, 1)
	for k := range 3 {
		if mid := (left.Values[k] + right.Values[k]) / 2; !ok || mid < 0.999*whole.Values[k] || mid > 1.001*whole.Values[k] {
			t.Errorf("the halves are %v and %v, the whole %v", left.Values, right.Values, whole.Values)
		}
	}
	if p, ok := l.x.Measure(0.4, 0.4, 0.4001, 0.4001); !ok || p.Pixels != 1 {
		t.Errorf("a point has %d pixels", p.Pixels)
	}
	for _, bad := range [][4]float64{{0.5, 0, 0.4, 1}, {-1, 0, 1, 1}, {0, 0, 1, 2}} {
		if _, ok := l.x.Measure(bad[0], bad[1], bad[2], bad[3]); ok {
			t.Errorf("%v was measured", bad)
		}
	}
}
