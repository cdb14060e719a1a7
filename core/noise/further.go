package noise

import (
	"image"

	"amberproof/core/film"
)

// Further is how many samples of all pixels together a film is expected to get beyond those it has,
// when it goes on to a target from where it stands: left is the noise of its tiles, which falls by a
// power of their samples, and area what goes on, all of it if empty. It follows the rule of
// Settled, tile by tile.
func (s Stop) Further(f *film.Film, left []float64, area image.Rectangle, fall float64) (samples int64) {
	goes := func(i int) bool { return area.Empty() || f.Rect(i).Overlaps(area) }
	has := f.Counts()
	for i := range f.Tiles {
		if !goes(i) {
			continue
		}
		needs := s.Needed(has[i], left[i], fall)
		loose := s
		loose.Target *= NeighbourSlack
		if settled := left[i] <= s.Target && has[i] >= s.Least; settled {
			needs = has[i]
		}
		for k := range f.Near(i, 1) {
			if goes(k) && left[k] > loose.Target {
				needs = max(needs, loose.Needed(has[k], left[k], fall))
			}
		}
		if needs > has[i] {
			r := f.Rect(i)
			samples += int64(s.upTo(needs)-has[i]) * int64(r.Dx()*r.Dy())
		}
	}
	return samples
}

// upTo is the first boundary at or beyond so many samples.
func (s Stop) upTo(samples int) int {
	for r := 0; ; r++ {
		if b := s.Boundary(r); b >= samples || b >= s.Most {
			return b
		}
	}
}
