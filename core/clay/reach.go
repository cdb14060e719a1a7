package clay

import (
	"slices"

	"amberproof/core/scene"
)

// Bounds of a reach that is proposed, by the product's radius.
const (
	leastReach = 1.0 / 200
	mostReach  = 1.0 / 8
)

// Reach is how far crevices may be looked for in a scene, metres: as far as half of its
// parts are thick, which darkens joints and contacts and leaves faces open. thick is that
// thickness: the shortest sides of the boxes of the parts that stand on nothing but the
// product, the middle one of all.
func Reach(s *scene.Scene, lamp func(part int) bool) (reach, thick float64) {
	around := s.Around(lamp)
	var sides []float64
	for i := range s.Parts {
		if lamp(i) || around[i] || s.Parts[i].Out {
			continue
		}
		size := s.PartBounds(i).Size()
		if side := float64(min(size.X, size.Y, size.Z)); side > 0 {
			sides = append(sides, side)
		}
	}
	r := float64(s.Focus(lamp).Radius())
	if len(sides) == 0 { // nothing says more
		return r * leastReach, 0
	}
	slices.Sort(sides)
	thick = sides[len(sides)/2]
	return min(max(thick/2, r*leastReach), r*mostReach), thick
}
