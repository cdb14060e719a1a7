package scenes

import (
	"context"

	"amberproof/core/film"
	"amberproof/core/scene"
	"amberproof/core/surface"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// Places are where the surfaces are in the picture of a ticket: what covers clear parts in clay
// is looked at and not through, and of a picture that is finished and in clay, the finished one
// counts. v is its scene, as of SubjectOf.
func (s *Service) Places(ctx context.Context, r *ticket.Resolved, v *scene.Scene) (*surface.Map, error) {
	staged := r.Staged(v)
	o := r.Options(staged, nil)
	o.Twin, o.Layout, o.Lines = nil, film.Layout{}, nil
	o.Surround.Picture = nil
	w, h := surface.Grid(o.Window)
	done, err := s.admitted(ctx, s.bench.Join(), trace.Forecast(staged, &o)+surface.Bytes(w, h, len(staged.Parts)))
	if err != nil {
		return nil, err
	}
	defer done()
	world, err := trace.Prepare(ctx, staged, o)
	if err != nil {
		return nil, err
	}
	m, err := surface.Of(ctx, world)
	if err != nil {
		return nil, err
	}
	m.SetParts(surface.PartsOf(staged, func(part int) bool { return o.Wears[part] == trace.LeftOutOfPicture }, staged.Around(ticket.IsLamp(staged))))
	return m, nil
}
