package proofs

import (
	"context"
	"image"
	"runtime"
	"sync"
	"time"

	"amberproof/core/film"
	"amberproof/core/passes"
	"amberproof/internal/pipeline"
)

// A denoised picture of a run that goes on is to be there at once, beside the run, on
// whatever machine this is: it has as many pixels as the last ones' pace allows.
const (
	quickTime   = 250 * time.Millisecond // of the 300 that a look may take; the rest packs it
	mostPixels  = 450 * 450              // or 600 x 337: as large as it is shown
	leastPixels = 160 * 160              // fewer show nothing
	firstPace   = 1500 * time.Nanosecond
)

// pace is how long looks took of late: to read the film, whatever the size of the look, and
// for each pixel of it, beauty alone or lights too. Its zero value has seen none. It is safe
// for concurrent use.
type pace struct {
	mu   sync.Mutex
	last [2]struct{ read, pixel time.Duration }
}

func kind(lights bool) int {
	if lights {
		return 1
	}
	return 0
}

// stride is the least step between pixels of a window that keeps to quickTime.
func (p *pace) stride(window image.Rectangle, lights bool) int {
	p.mu.Lock()
	at := p.last[kind(lights)]
	p.mu.Unlock()
	if at.pixel == 0 {
		at.pixel = firstPace
	}
	pixels := min(max(int((quickTime-at.read)/at.pixel), leastPixels), mostPixels)
	n := 1
	for size := window.Size(); ((size.X+n-1)/n)*((size.Y+n-1)/n) > pixels; n++ {
	}
	return n
}

// took tells how long it took to read the film and to take the noise out of so many pixels.
// The mean with what was known is kept, as any one may have waited for others.
func (p *pace) took(read time.Duration, pixels int, lights bool, d time.Duration) {
	p.mu.Lock()
	defer p.mu.Unlock()
	at := &p.last[kind(lights)]
	now := max(1, d/time.Duration(max(1, pixels)))
	if at.pixel == 0 {
		at.read, at.pixel = read, now
	}
	at.read, at.pixel = (at.read+read)/2, (at.pixel+now)/2
}

// seen are the films that a pass is looked at by, and the step between the pixels that
// are looked at. While a run goes on, its noise is taken out of a small picture.
func (s *Service) seen(ctx context.Context, p *Proof, pass *passes.Pass, stride int) (passes.Films, int, error) {
	if !pass.Denoised || !s.going(frame{p.Run, p.Frame}) {
		f, err := s.filmsOf(ctx, p, pass)
		return f, stride, err
	}
	t := p.Resolved.Ticket
	lights := pass.Kind == passes.Light
	t.Passes.Lights = lights
	began := time.Now()
	workers := runtime.GOMAXPROCS(0)
	small := p.Film.Reduced(max(stride, s.pace.stride(p.Film.Window, lights)), workers, func(plane string) bool {
		return lights || plane == film.GuidePlane.Name || plane == film.CaughtPlane.Name || pass.Kind == passes.Clay && film.OfTwin(plane)
	})
	read := time.Since(began)
	o := pipeline.CleanOrder(small, &t, p.Elements)
	o.Workers, o.Quick = workers, true
	clean, err := o.Run(ctx, nil)
	if err == nil {
		s.pace.took(read, small.Window.Dx()*small.Window.Dy(), lights, time.Since(began)-read)
	}
	return passes.Films{Film: small, Clean: clean}, 1, err
}
