package live

import (
	"context"

	"amberproof/core/finish"
	"amberproof/internal/fault"
	"amberproof/internal/scenes"
)

// Keep keeps the picture as it is shown now, with the set-up, the ticket and the camera
// that it was made of.
func (x *Session) Keep(ctx context.Context) (scenes.Kept, error) {
	x.mu.Lock()
	s := x.seen
	x.mu.Unlock()
	if s == nil || s.step.Scale != 1 {
		return scenes.Kept{}, fault.Bad("There is no whole picture to keep yet; wait a moment")
	}
	p, films := beauty(&s.step, s.list)
	w := s.step.Film.Window
	var pic *finish.Picture
	s.step.Film.Locked(func() { pic = p.Picture(films, w) }) // it gains samples meanwhile
	png, err := encoded(pic, s.look)
	if err != nil {
		return scenes.Kept{}, err
	}
	return x.s.scenes.Keep(ctx, x.who, scenes.KeptWhole{
		Kept:  scenes.Kept{Scene: x.scene, Width: w.Dx(), Height: w.Dy(), Samples: s.step.Samples, Camera: s.of.Camera},
		Setup: s.setup, Ticket: s.of.Ticket,
	}, png)
}
