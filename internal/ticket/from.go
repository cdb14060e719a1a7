package ticket

import (
	"fmt"
	"image"

	"amberproof/internal/fault"
)

// From is what a picture goes on from: the film of another, of which it keeps every sample.
type From struct {
	Film  string `json:"film" doc:"Identity of the film"`
	State string `json:"state" doc:"SHA-256 of the samples of every tile that it had"`
	Area  [4]int `json:"area" nullable:"false" doc:"That goes on: left, top, right, bottom in pixels of the frame; all 0: the whole picture"`
}

// Rect is the area; empty: the whole picture.
func (f *From) Rect() image.Rectangle { return image.Rect(f.Area[0], f.Area[1], f.Area[2], f.Area[3]) }

// Further is what a picture goes on to from where it stands.
type Further struct {
	Noise float64         // target, percent; 0: the most samples, wherever it goes on
	Most  int             // samples that no pixel goes beyond
	Area  image.Rectangle // that goes on, pixels of the frame; empty: the whole picture
}

// GoOn is the resolved ticket of a picture that goes on from a film of r, in a state of that, and
// what keeps it from that. The film has the identity that it was begun under, which a later version
// may not find for r any more.
func (r *Resolved) GoOn(to Further, film, state string) (Resolved, []fault.Fault) {
	out := *r
	q := &out.Ticket.Quality
	had := *q
	q.Noise, q.Most = to.Noise, to.Most
	q.Least = min(q.Least, q.Most)
	out.Ticket.Tidy()
	out.From = &From{Film: film, State: state}
	faults := Check(&out.Ticket)
	if to.Area != (image.Rectangle{}) {
		a := to.Area.Intersect(r.Ticket.Window())
		if a.Empty() {
			faults = append(faults, fault.At("area", "The area lies outside the picture; draw one within it"))
		}
		out.From.Area = [4]int{a.Min.X, a.Min.Y, a.Max.X, a.Max.Y}
	}
	stricter := to.Noise < had.Noise && to.Noise > 0 || to.Noise == 0 && had.Noise > 0
	ofPart := r.From != nil && r.From.Rect() != image.Rectangle{} // the rest is as it was
	if !stricter && to.Most <= had.Most && !ofPart {
		faults = append(faults, fault.At("quality.noise", fmt.Sprintf(
			"The picture was rendered to %s with at most %d samples; ask for less noise or more samples", saidTarget(had.Noise), had.Most)))
	}
	return out, faults
}

func saidTarget(noise float64) string {
	if noise == 0 {
		return "no noise target"
	}
	return fmt.Sprintf("a noise of %g %%", noise)
}
