package proofs

import (
	"context"

	"amberproof/core/finish"
	"amberproof/core/surface"
	"amberproof/internal/deliver"
)

// Whole is a pass in full size, as it is before its display transform, with its title; its
// noise is taken out as the ticket says. Open asked whether p may be seen.
func (s *Service) Whole(ctx context.Context, p *Proof, key string) (string, *finish.Picture, error) {
	pass, err := p.pass(key)
	if err != nil {
		return "", nil, err
	}
	films, err := s.filmsOf(ctx, p, pass)
	if err != nil {
		return "", nil, err
	}
	picture, err := pass.Seen(ctx, films, 1)
	return pass.Title, picture, err
}

// Places are where the surfaces of a proof are. Open asked whether p may be seen.
func (s *Service) Places(ctx context.Context, p *Proof) (*surface.Map, error) {
	return s.scenes.Places(ctx, p.Resolved, p.Scene)
}

// State tells two states of one picture apart: a checksum of what samples it has.
func (p *Proof) State() string { return deliver.SumsOf(p.Film) }
