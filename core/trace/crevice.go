package trace

import "amberproof/core/optics"

// How many rays tell how open a point is that the camera sees; others have one.
const creviceRays = 4

// close darkens a surface by how closed in the point is. The share is estimated by
// chance: what a surface scatters is linear in its colour, so that the mean is right.
func (t *Tracer) close(k *walk, c *optics.Crevice, s *optics.Surface) {
	n := 1
	if k.seen {
		n = creviceRays
	}
	open := t.openness(&t.pt, dimCrevice+k.vertex*creviceRays+k.stream, n, c.Reach, true)
	s.Base = c.Tone.Lerp(s.Base, open)
}
