package live_test

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"amberproof/core/setup"
	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/live"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

// looking is somebody who looks at the bench scene, and what they got.
type looking struct {
	t      *testing.T
	x      *live.Session
	frames chan *live.Frame
	wrongs chan error
	number int
}

func look(t *testing.T, a *app.App, j jobs.Job) *looking {
	t.Helper()
	x, err := a.Live.Open(context.Background(), identity.Local, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	l := &looking{t: t, x: x, frames: make(chan *live.Frame, 100), wrongs: make(chan error, 10)}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		_ = x.Run(ctx, func(f *live.Frame) error { l.frames <- f; return nil }, func(_ int, err error) error { l.wrongs <- err; return nil })
	}()
	t.Cleanup(func() { cancel(); <-ended })
	return l
}

// want makes a wish and returns the first frame that answers it.
func (l *looking) want(change func(*live.Wish)) *live.Frame {
	l.t.Helper()
	l.number++
	w := live.Wish{Number: l.number, Width: 160, Height: 120}
	if change != nil {
		change(&w)
	}
	l.x.Want(&w)
	return l.next(func(f *live.Frame) bool { return f.Number == l.number })
}

// stalled is for how long no frame may come: it is never waited for by a test that passes.
const stalled = 3 * time.Minute

// next is the next frame that is as said; others may come before, for as long as they come.
func (l *looking) next(is func(*live.Frame) bool) *live.Frame {
	l.t.Helper()
	for {
		select {
		case f := <-l.frames:
			if is(f) {
				return f
			}
		case err := <-l.wrongs:
			l.t.Fatal(err)
		case <-time.After(stalled):
			l.t.Fatal("no such frame came")
		}
	}
}

// Each wish is answered, and nothing is made for it that is there already.
func TestAnswers(t *testing.T) {
	a, j := testkit.App(t)
	l := look(t, a, j)
	ticket := func(change func(m map[string]any)) func(*live.Wish) {
		return func(w *live.Wish) {
			m := map[string]any{"view": map[string]any{"width": 400, "height": 300}, "stage": map[string]any{}}
			change(m)
			w.Ticket, _ = json.Marshal(m)
		}
	}
	first := l.want(ticket(func(map[string]any) {}))
	if first.Prepared != live.All || first.Width != 160 || first.Height != 120 || len(first.Shown) != first.Pixels*first.Rows*4 {
		t.Fatalf("the first frame: %+v", first)
	}
	whole := l.next(func(f *live.Frame) bool { return f.Scale == 1 && f.Clean })
	bright := ticket(func(m map[string]any) { m["view"].(map[string]any)["exposure"] = 2 })
	again := l.want(bright)
	if again.Clipped < whole.Clipped || whole.Crushed > 100 {
		t.Errorf("clipped %v, then %v %%", whole.Clipped, again.Clipped)
	}
	if again.Prepared != live.Nothing || again.Samples < whole.Samples || mean(again.Shown) < mean(whole.Shown)+5 {
		t.Errorf("another exposure: %+v, %v after %v", again, mean(again.Shown), mean(whole.Shown))
	}
	views, err := a.Scenes.Views(context.Background(), identity.Local, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	c := views[0].Camera
	c.Matrix[3] += 0.5
	if f := l.want(func(w *live.Wish) { bright(w); w.Camera = &c }); f.Prepared != live.View {
		t.Errorf("another camera: %+v", f)
	}
	if f := l.want(func(w *live.Wish) { bright(w); w.Camera = &c; w.Width = 80 }); f.Prepared != live.View || f.Width != 80 || f.Height != 60 {
		t.Errorf("another size: %+v", f)
	}
	lamp := ticket(func(m map[string]any) {
		m["stage"].(map[string]any)["lights"] = []any{map[string]any{"name": "Lamp", "strength": 3}}
	})
	if f := l.want(lamp); f.Prepared != live.Surfaces {
		t.Errorf("a lamp: %+v", f)
	}
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{X: 100}}}}
	if _, err := a.Scenes.SaveSetup(context.Background(), identity.Local, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	if f := l.want(lamp); f.Prepared != live.All {
		t.Errorf("a part moved: %+v", f)
	}
}

// A part that is hidden goes from the picture that is shown, and one that was hidden when
// the picture was opened comes back.
func TestHidingPartsOfALivePicture(t *testing.T) {
	a, j := testkit.App(t)
	b, err := a.Scenes.Bench(context.Background(), identity.Local, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	box := b.Subject.Scene.Keys()[1]
	l := look(t, a, j)
	seen := func() string {
		l.next(func(f *live.Frame) bool { return f.Number == l.number && f.Scale == 1 })
		r, _ := l.x.Read(0.5, 0.5)
		return r.Part
	}
	hide := func(w *live.Wish) { w.Hidden = []string{box} }
	if f := l.want(hide); f.Prepared != live.All || seen() == "Box" {
		t.Errorf("opened without it: %+v", f)
	}
	if f := l.want(nil); f.Prepared == live.Nothing || seen() != "Box" {
		t.Errorf("shown again: %+v", f)
	}
	if f := l.want(hide); f.Prepared == live.Nothing || seen() == "Box" {
		t.Errorf("hidden: %+v", f)
	}
}

func mean(pix []byte) float64 {
	sum := 0.0
	for i := 0; i < len(pix); i += 4 {
		sum += float64(pix[i]) + float64(pix[i+1]) + float64(pix[i+2])
	}
	return sum / float64(len(pix)) / 3 * 4
}

// Of many wishes at once the last is answered, and the rest not to their end.
func TestTheNewestWishCounts(t *testing.T) {
	a, j := testkit.App(t)
	l := look(t, a, j)
	l.want(nil)
	for range 50 {
		l.number++
		l.x.Want(&live.Wish{Number: l.number, Width: 200, Height: 200})
	}
	l.next(func(f *live.Frame) bool {
		if f.Done && f.Number != l.number {
			t.Errorf("wish %d was answered to its end", f.Number)
		}
		return f.Number == l.number && f.Scale == 1
	})
}

func TestWhatIsWrongWithAWish(t *testing.T) {
	a, j := testkit.App(t)
	l := look(t, a, j)
	for text, w := range map[string]live.Wish{
		"pixels wide":            {Width: 1 << 20, Height: 10},
		"not a proper one":       {Width: 100, Height: 100, Camera: &ticket.Camera{YFov: 0.5}},
		"There is no view":       {Width: 100, Height: 100, View: "Back"},
		"must be between":        {Width: 100, Height: 100, Ticket: []byte(`{"view":{"width":0}}`)},
		"no setting called":      {Width: 100, Height: 100, Ticket: []byte(`{"wiew":{}}`)},
		"no environment":         {Width: 100, Height: 100, Ticket: []byte(`{"stage":{"surround":{"picture":{"name":"lost.hdr"}}}}`)},
		"The scene has no light": {Width: 100, Height: 100, Ticket: []byte(`{"stage":{"lights":[{"name":"Moon","strength":2}]}}`)},
	} {
		l.x.Want(&w)
		select {
		case err := <-l.wrongs:
			said := err.Error()
			var in *fault.Input
			if errors.As(err, &in) {
				for _, f := range in.Faults {
					said += " " + f.Message
				}
			}
			if !strings.Contains(said, text) {
				t.Errorf("%q is not in %q", text, said)
			}
		case <-time.After(stalled):
			t.Fatalf("%s: nothing was told", text)
		}
	}
	if f := l.want(nil); f.Number != l.number { // it goes on
		t.Errorf("after all that: %+v", f)
	}
	if _, err := a.Live.Open(context.Background(), identity.Local, 99); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("a scene that is not there: %v", err)
	}
}

func TestReading(t *testing.T) {
	a, j := testkit.App(t)
	l := look(t, a, j)
	if _, ok := l.x.Read(0.5, 0.5); ok {
		t.Error("read before there is a picture")
	}
	l.want(nil)
	r, ok := l.x.Read(0.5, 0.5)
	if !ok || r.Part == "" || r.Finish == "" || r.Display[1] <= 0 || r.Values[1] <= 0 {
		t.Errorf("in the middle: %+v", r)
	}
	for _, p := range [][2]float64{{-0.1, 0}, {1, 0}, {0, 2}} {
		if _, ok := l.x.Read(p[0], p[1]); ok {
			t.Errorf("read at %v", p)
		}
	}
	l.x.Want(nil) // nobody looks
	for end := time.Now().Add(10 * time.Second); ok; _, ok = l.x.Read(0.5, 0.5) {
		if time.Now().After(end) {
			t.Fatal("what nobody looks at is kept")
		}
		time.Sleep(5 * time.Millisecond)
	}
}

// One who gets no memory is told, and those before keep theirs.
func TestMemoryIsShared(t *testing.T) {
	st := testkit.Store(t)
	a, j := testkit.AppAt(t, st, t.TempDir())
	small := live.New(a.Scenes, 8<<20, live.DefaultPixels, func() bool { return true })
	x, err := small.Open(context.Background(), identity.Local, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	told := make(chan error, 1)
	go func() {
		_ = x.Run(ctx, func(*live.Frame) error { return nil }, func(_ int, err error) error { told <- err; return nil })
	}()
	x.Want(&live.Wish{Number: 1, Width: 1200, Height: 1200})
	select {
	case err := <-told:
		if !errors.Is(err, fault.ErrBusy) {
			t.Error(err)
		}
	case <-time.After(stalled):
		t.Fatal("nothing was told")
	}
}
