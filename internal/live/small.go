package live

import (
	"bytes"
	"context"
	"runtime"

	"amberproof/core/finish"
	"amberproof/core/imageio"
	"amberproof/core/live"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

const (
	// smallSide is the most that a small picture is wide or high, pixels.
	smallSide = 512
	// smallSamples is how many samples each of its pixels gets before noise is taken out.
	smallSamples = 16
)

// Small renders what somebody wishes as a small picture, a PNG: to be told apart from
// others, not to be judged. They are made one at a time, and given up when the context
// ends.
func (s *Service) Small(ctx context.Context, who identity.Actor, sceneID int64, w *Wish) ([]byte, error) {
	if max(w.Width, w.Height) > smallSide {
		return nil, fault.Bad("A small picture is at most %d pixels wide and high", smallSide)
	}
	select {
	case s.smallTurn <- struct{}{}:
		defer func() { <-s.smallTurn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	x := &Session{s: s, who: who, scene: sceneID}
	defer x.letGo()
	a, err := s.resolve(ctx, who, sceneID, w)
	if err != nil {
		return nil, err
	}
	r := a.resolved
	size, err := fit(r.Ticket.Size(), w.Width, w.Height, smallSide*smallSide)
	if err != nil {
		return nil, err
	}
	world, _, err := x.prepare(ctx, a, size)
	if err != nil {
		return nil, err
	}
	last, err := live.Once(ctx, live.Order{World: world, Workers: beside, Most: smallSamples})
	if err != nil {
		return nil, err
	}
	p, films := beauty(&last, r.Ticket.List(x.prepared.staged, world.Elements()))
	return encoded(p.Picture(films, last.Film.Window), r.Ticket.Finish())
}

// beside is how many cores small pictures take: what somebody looks at large comes first.
func beside() int { return max(1, runtime.GOMAXPROCS(0)/2) }

// encoded is a picture as it is displayed, a PNG.
func encoded(p *finish.Picture, look finish.Finish) ([]byte, error) {
	var out bytes.Buffer
	err := imageio.WritePNG(&out, look.Shown(p))
	return out.Bytes(), err
}
