package proofs

import (
	"context"
	"errors"
	"image"
	"math"
	"strings"
	"sync"
	"testing"
	"time"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/passes"
	"amberproof/internal/budget"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
	"amberproof/internal/wait"
)

var look = finish.Finish{Transform: colour.Plain}

// oneProject has all runs in one project.
type oneProject struct{}

func (oneProject) Owner(context.Context, string, int64) (project, maker int64, err error) {
	return 1, 1, nil
}

// beside is a service with the frame of run 1 being rendered: 64 x 48 pixels of
// which some have samples.
func beside(t *testing.T) (*Service, *Proof) {
	t.Helper()
	s := New(nil, nil, identity.Guard{Owners: oneProject{}}, nil, budget.Of(10<<20))
	f := film.New(image.Rect(0, 0, 64, 48), film.NewLayout(true))
	for i := range f.Tiles {
		for k := range f.Tiles[i].Heads {
			px := f.Tiles[i].Pixel(k)
			px[film.Weight], px[film.Beauty], px[film.Alpha] = 1, 0.5, 1
		}
	}
	p := &Proof{Run: 1, Resolved: &ticket.Resolved{Ticket: ticket.New()}, Film: f, Passes: passes.List(passes.Wanted{}, nil, nil, nil)}
	s.Live(p)
	return s, p
}

// hold takes the turn.
func (s *Service) hold(t *testing.T) {
	t.Helper()
	if err := s.turn.take(t.Context(), false); err != nil {
		t.Fatal(err)
	}
}

// queued counts those that wait for it.
func (t *turn) queued() int {
	t.mu.Lock()
	defer t.mu.Unlock()
	return len(t.waiting[0]) + len(t.waiting[1])
}

// What somebody looks at comes before thumbnails that came earlier; who gives up makes
// nobody wait.
func TestThumbnailsComeLast(t *testing.T) {
	var u turn
	if err := u.take(t.Context(), false); err != nil {
		t.Fatal(err)
	}
	var mu sync.Mutex
	var order []string
	var wg sync.WaitGroup
	gone, give := context.WithCancel(t.Context())
	for i, c := range []struct {
		name  string
		ctx   context.Context
		small bool
	}{{"thumbnail", t.Context(), true}, {"gone", gone, false}, {"second thumbnail", t.Context(), true},
		{"picture", t.Context(), false}, {"second picture", t.Context(), false}} {
		wg.Go(func() {
			if err := u.take(c.ctx, c.small); err != nil {
				return
			}
			mu.Lock()
			order = append(order, c.name)
			mu.Unlock()
			u.leave()
		})
		for u.queued() < i+1 {
			time.Sleep(time.Millisecond)
		}
	}
	give()
	for u.queued() > 4 {
		time.Sleep(time.Millisecond)
	}
	u.leave()
	wg.Wait()
	if got := strings.Join(order, ", "); got != "picture, second picture, thumbnail, second thumbnail" {
		t.Errorf("in order: %s", got)
	}
	if u.taken || u.queued() != 0 {
		t.Error("the turn is not given back")
	}
}

// Who asks for the same picture at the same time gets the same bytes, made once.
func TestOnePictureForAllWhoAsk(t *testing.T) {
	s, p := beside(t)
	s.hold(t) // nothing is made yet
	var wg sync.WaitGroup
	var mu sync.Mutex
	same := map[*byte]int{}
	for range 150 {
		wg.Go(func() {
			b, err := s.PNG(t.Context(), p, "beauty", look, 0, -1)
			if err != nil {
				t.Error(err)
				return
			}
			mu.Lock()
			same[&b[0]]++
			mu.Unlock()
		})
	}
	for s.turn.queued() == 0 {
		time.Sleep(time.Millisecond)
	}
	if n := s.turn.queued(); n != 1 {
		t.Errorf("%d pictures wait to be made", n)
	}
	s.turn.leave()
	wg.Wait()
	if len(same) != 1 {
		t.Errorf("it was made %d times", len(same))
	}
	p.Changed()
	b, err := s.PNG(t.Context(), p, "beauty", look, 0, -1)
	if err != nil || same[&b[0]] != 0 {
		t.Errorf("a newer picture is the old one; %v", err)
	}
}

// A picture that nobody waits for any more is not made, and too many different
// ones are refused rather than piled up.
func TestAbandonedPicturesAreDropped(t *testing.T) {
	s, p := beside(t)
	s.hold(t)
	ctx, cancel := context.WithCancel(t.Context())
	var wg sync.WaitGroup
	var mu sync.Mutex
	busy := 0
	for k := range mostWaiting + 20 {
		wg.Go(func() {
			other := look // pictures that differ
			other.Exposure = float64(k) / 100
			_, err := s.PNG(ctx, p, "beauty", other, 0, -1)
			if errors.Is(err, fault.ErrBusy) {
				mu.Lock()
				busy++
				mu.Unlock()
			} else if !errors.Is(err, context.Canceled) {
				t.Errorf("got %v", err)
			}
		})
	}
	refused := func() int {
		mu.Lock()
		defer mu.Unlock()
		return busy
	}
	wait.Until(t, "all to wait or be refused", func() bool { return s.turn.queued()+refused() == mostWaiting+20 }, nil)
	if n := refused(); n != 20 {
		t.Errorf("%d were refused, want 20", n)
	}
	cancel()
	wg.Wait()
	wait.Until(t, "nobody to wait", func() bool { return s.turn.queued() == 0 }, nil)
}

// While a run goes on, making pictures rests as long as keeps it to its share.
func TestPicturesRestWhileARunGoesOn(t *testing.T) {
	s, p := beside(t)
	if !s.Busy() {
		t.Fatal("no run goes on")
	}
	if _, err := s.PNG(t.Context(), p, "beauty", look, 0, -1); err != nil {
		t.Fatal(err)
	}
	for _, took := range []time.Duration{time.Millisecond, time.Second} {
		if share := float64(took) / float64(took+restAfter(took, true)); math.Abs(share-Share) > 1e-6 || restAfter(took, false) != 0 {
			t.Errorf("after %v a share of %v", took, share)
		}
	}
	s.hold(t) // the turn comes back by itself
	s.turn.leave()
	s.Ended(1)
	if s.Busy() {
		t.Error("the run has ended")
	}
}

// A small picture is the mean of a few pixels of each block; reading it does not
// hold the film for longer than a row of a tile takes.
func TestSmallPicturesAreMeansOfBlocks(t *testing.T) {
	_, p := beside(t)
	pass, err := p.pass("beauty")
	if err != nil {
		t.Fatal(err)
	}
	pic, err := pass.Seen(t.Context(), passes.Of(p.Film), passes.Stride(p.Film, 16))
	if err != nil || pic.W != 16 || pic.H != 12 {
		t.Fatalf("%v, %v", pic, err)
	}
	for i, v := range pic.R {
		if v != 0.5 || pic.A[i] != 1 {
			t.Fatalf("pixel %d: %v %v", i, v, pic.A[i])
		}
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := pass.Seen(ctx, passes.Of(p.Film), 1); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}
