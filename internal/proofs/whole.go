package proofs

import (
	"context"

	"amberproof/core/finish"
	"amberproof/core/surface"
	"amberproof/core/trace"
)

// Whole is a pass in full size, as it is before its display transform, with its title and the
// standard errors of its pixels, nil where they are not known; its noise is taken out as the
// ticket says. Open asked whether p may be seen.
func (s *Service) Whole(ctx context.Context, p *Proof, key string) (title string, v *finish.Picture, errs []float32, err error) {
	pass, err := p.pass(key)
	if err != nil {
		return "", nil, nil, err
	}
	films, err := s.filmsOf(ctx, p, pass)
	if err != nil {
		return "", nil, nil, err
	}
	if v, err = pass.Seen(ctx, films, 1); err != nil {
		return "", nil, nil, err
	}
	errs, err = pass.Errors(ctx, films)
	return pass.Title, v, errs, err
}

// Places are where the surfaces of a proof are. Open asked whether p may be seen.
func (s *Service) Places(ctx context.Context, p *Proof) (*surface.Map, error) {
	return s.scenes.Places(ctx, p.Resolved, p.Scene)
}

// State tells two states of one picture apart: a checksum of what samples it has.
func (p *Proof) State() string { return p.Film.State() }

// Lights are the names of the scene's lights.
func (p *Proof) Lights() (out []string) {
	for _, l := range trace.LampsOf(p.Scene) {
		out = append(out, l.Name)
	}
	return out
}
