package live

import (
	"encoding/json"
	"fmt"

	"amberproof/internal/ticket"
)

// key names all that a world is made of but its camera and size: the whole wish and the
// whole ticket, less what is left out here on purpose. A new field of either counts until
// it is left out.
func (a *answerable) key() (string, error) {
	r := *a.resolved
	r.Camera = ticket.Camera{Follows: r.Camera.Follows} // another one sees the same world
	t := &r.Ticket
	v := &t.View
	v.Name, v.Width, v.Height, v.Scale, v.Region, v.Lens = "", 0, 0, 0, ticket.Region{}, ticket.Lens{} // of the camera
	if !t.ByLook() {
		v.Exposure, v.Display = 0, ""
	}
	q := &t.Quality
	q.Preset, q.Least, q.Most, q.Noise, q.Seed = "", 0, 0, 0, 0 // when runs stop; live pictures have their own
	t.Output = ticket.OutputSection{}
	b, err := json.Marshal(struct {
		Resolved *ticket.Resolved
		Rest     Wish
	}{&r, a.wish.rest()})
	// A grey card, which is no part of a run, is the last part.
	n := len(a.subject.Parts)
	return fmt.Sprintf("%d %v %s", n, a.subject.World(n-1), b), err
}

// rest is what a wish says of the world that its resolved ticket does not.
func (w *Wish) rest() Wish {
	r := *w
	r.Number = 0
	r.Width, r.Height, r.View, r.Camera = 0, 0, "", nil                        // of the camera
	r.Ticket, r.Surround, r.Variant, r.Surface, r.Dark = nil, nil, "", "", nil // in the resolved ticket
	return r
}
