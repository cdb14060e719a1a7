package proofs

import (
	"bytes"
	"context"
	"time"

	"amberproof/core/finish"
	"amberproof/core/imageio"
	"amberproof/core/passes"
)

// wanted is a picture that somebody asks for. Who asks for the same while it is
// being made gets the same bytes.
type wanted struct {
	run, version int64
	frame        int
	pass         string
	look         finish.Finish
	side         int
	amount       float32 // of denoised passes
}

// Share is the most that making pictures takes of one core while a run goes on:
// after a picture, as long is rested as keeps to it.
const Share = 0.25

// PNG is a pass of a run for looking at. side limits the longer side in pixels; 0
// is full size. Of a denoised pass, amount is how much of its noise is taken out, 0 to
// 1; less than 0 is as the ticket says. It gives up with the context's error.
func (s *Service) PNG(ctx context.Context, p *Proof, key string, look finish.Finish, side int, amount float32) ([]byte, error) {
	pass, err := p.pass(key)
	if err != nil {
		return nil, err
	}
	if amount = p.amount(amount); !pass.Denoised {
		amount = 0 // it makes no difference
	}
	if side >= max(p.Film.Window.Dx(), p.Film.Window.Dy()) {
		side = 0
	}
	return s.pictures.Get(ctx, wanted{p.Run, p.Version(), p.Frame, key, look, side, amount})
}

// restAfter is how long is rested after a picture that took so long.
func restAfter(took time.Duration, busy bool) time.Duration {
	if !busy {
		return 0
	}
	return time.Duration(float64(took) * (1/Share - 1))
}

// make makes a picture.
func (s *Service) make(ctx context.Context, w wanted) ([]byte, error) {
	var png []byte
	err := s.inTurn(ctx, w.side > 0 && w.side <= thumbnail, func() (err error) { png, err = s.draw(ctx, w); return err })
	return png, err
}

// inTurn does work on pictures: one at a time, and while a run goes on with rests, so that no more
// than Share of a core is given to it all.
func (s *Service) inTurn(ctx context.Context, small bool, work func() error) error {
	if err := s.turn.take(ctx, small); err != nil {
		return err
	}
	began := time.Now()
	defer func() { time.AfterFunc(restAfter(time.Since(began), s.Busy()), s.turn.leave) }()
	return work()
}

// draw makes a picture by one goroutine's work.
func (s *Service) draw(ctx context.Context, w wanted) ([]byte, error) {
	p, err := s.Film(ctx, w.run, w.frame)
	if err != nil {
		return nil, err
	}
	pass, err := p.pass(w.pass)
	if err != nil {
		return nil, err
	}
	films, stride, err := s.seen(ctx, p, pass, passes.Stride(p.Film, w.side))
	if err != nil {
		return nil, err
	}
	films.Amount = w.amount
	pic, err := pass.Seen(ctx, films, stride)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = imageio.WritePNG(&out, w.look.Shown(pic))
	return out.Bytes(), err
}
