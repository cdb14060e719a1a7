package scenes

import (
	"context"

	"amberproof/core/parallel"
	"amberproof/core/preflight"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Blocked is how much light the clay of a ticket would take from what is seen.
type Blocked struct {
	All   Estimated  `json:"all" doc:"What all parts in clay take together, of the light on all that the picture shows"`
	Parts []Blocking `json:"parts" nullable:"false" doc:"Those that take more than two percent, of all light or of one light, worst first"`
}

// Estimated is a share with its error.
type Estimated struct {
	Percent float64 `json:"percent"`
	Error   float64 `json:"error" doc:"One standard deviation, percent"`
}

// Blocking is a part that would take light that its own finish lets through, or gives.
type Blocking struct {
	Part    string    `json:"part" doc:"Key of the part"`
	All     Estimated `json:"all" doc:"Of the light on all that the picture shows"`
	Light   string    `json:"light" doc:"Of which it takes the most"`
	On      string    `json:"on" doc:"The finish on which that falls"`
	Worst   Estimated `json:"worst" doc:"Of that light on that finish"`
	ByLight []Dimmed  `json:"byLight" nullable:"false"`
	Says    string    `json:"says"`
}

// Dimmed is how much of a light is taken.
type Dimmed struct {
	Light string    `json:"light"`
	Of    Estimated `json:"of"`
}

// blocked is what a cache keeps of it.
type blocked struct {
	parts []preflight.Blocked
	all   preflight.Share
}

// BlockedOf estimates what light the clay of a ticket would take. A ticket without clay
// takes none.
func (s *Service) BlockedOf(ctx context.Context, who identity.Actor, id int64, t *ticket.Ticket) (Blocked, error) {
	out := Blocked{Parts: []Blocking{}}
	b, _, k, err := s.toCheck(ctx, who, id, t)
	if err != nil || !t.InClay() {
		return out, err
	}
	found, err := s.blocks.Get(ctx, k)
	if err != nil {
		return out, err
	}
	keys := b.Subject.Scene.Keys()
	out.All = Estimated(found.all)
	for i := range found.parts {
		f := &found.parts[i]
		p := Blocking{Part: keys[f.Part], All: Estimated(f.All), Light: f.Light, On: f.On, Worst: Estimated(f.Worst),
			Says: f.Says(b.Subject.Scene.Parts[f.Part].Name)}
		for _, d := range f.ByLight {
			p.ByLight = append(p.ByLight, Dimmed{d.Light, Estimated(d.Of)})
		}
		out.Parts = append(out.Parts, p)
	}
	return out, nil
}

// findBlocked estimates it.
func (s *Service) findBlocked(ctx context.Context, k checked) (out blocked, err error) {
	ctx = parallel.Beside(ctx, s.busy)
	of, err := s.opened(ctx, k)
	if err != nil {
		return out, err
	}
	c := s.checkOf(ctx, of)
	out.parts, out.all, err = c.Blocked(ctx)
	return out, err
}
