package proofs

import (
	"context"
	"errors"
	"fmt"
	"os"
	"runtime"

	"amberproof/core/film"
	"amberproof/core/passes"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/pipeline"
)

// cleaned names a film with its noise taken out: that of a state of a frame, with its
// elements if it keeps them, as it is delivered: one film for all that look at it.
type cleaned struct {
	frame
	version int64
}

// amount is how much noise to take out: as asked, or as the ticket says if that is less
// than 0.
func (p *Proof) amount(asked float32) float32 {
	if asked < 0 {
		return float32(p.Resolved.Ticket.Quality.Denoise.Amount / 100)
	}
	return asked
}

// filmsOf are the films that a pass is read off.
func (s *Service) filmsOf(ctx context.Context, p *Proof, pass *passes.Pass) (passes.Films, error) {
	if !pass.Denoised {
		return passes.Of(p.Film), nil
	}
	if s.going(frame{p.Run, p.Frame}) {
		return passes.Films{}, fmt.Errorf("what is denoised is read when the run has ended: %w", fault.ErrState)
	}
	return s.Films(ctx, p)
}

// Films are what the denoised passes of a proof are read off, beside the others. Taking
// noise out takes time the first time.
func (s *Service) Films(ctx context.Context, p *Proof) (passes.Films, error) {
	clean, err := s.cleans.Get(ctx, cleaned{frame{p.Run, p.Frame}, p.Version()})
	return passes.Films{Film: p.Film, Clean: clean, Amount: p.amount(-1)}, err
}

// clean takes the noise out of a frame as far as it is, and keeps what comes of it beside
// the film of a frame that is rendered. While a run goes on it keeps to one core.
func (s *Service) clean(ctx context.Context, k cleaned) (*film.Film, error) {
	p, err := s.Film(ctx, k.run, k.number)
	if err != nil {
		return nil, err
	}
	path := s.files.Clean(k.run, k.number)
	order := pipeline.CleanOrder(p.Film, &p.Resolved.Ticket, p.Elements)
	state := p.Film.State()
	rendered := !s.going(k.frame)
	if kept := order.Empty(); rendered && load(path, kept, state) {
		return kept, nil
	}
	order.Workers = runtime.GOMAXPROCS(0)
	if s.Busy() {
		order.Workers = 1
	}
	var progress func(float64)
	if rendered {
		progress = func(share float64) { s.cleaning(k.run, share) }
	}
	var clean *film.Film
	if p.ready != nil && rendered {
		films, err2 := p.ready(ctx, progress)
		clean, err = films.Clean, err2
	} else {
		clean, err = order.Run(ctx, progress)
	}
	if err == nil && rendered {
		err = keep(path, clean, state)
	}
	return clean, err
}

// load fills a film with the one kept at path, if that is whole and was made of sums in
// this state.
func load(path string, f *film.Film, state string) bool {
	if revision, err := film.Load(path, f, state); err != nil || revision != trace.Revision {
		return false
	}
	for i := range f.Tiles {
		if f.Tiles[i].Samples == 0 {
			return false
		}
	}
	return true
}

// keep writes a film whole or not at all.
func keep(path string, f *film.Film, state string) error {
	making := path + ".making"
	k, err := film.KeepAs(making, f, state, trace.Revision)
	if err == nil {
		err = k.Close()
	}
	if err != nil {
		return errors.Join(err, os.Remove(making))
	}
	return os.Rename(making, path)
}
