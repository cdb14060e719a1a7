package clay

import (
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Bounds of a reach that is proposed, by the product's radius.
const (
	leastReach = 1.0 / 200
	mostReach  = 1.0 / 8
)

// mostGaps is how many parts are looked at for the gaps between them.
const mostGaps = 1500

// Proposal is how far crevices may be looked for in a scene, and by what.
type Proposal struct {
	Reach float64 // metres
	Thick float64 // how thick half of the parts are at least; 0: of nothing
	Gap   float64 // how wide half of the gaps between neighbours are at most; 0: there are none
}

// Reach proposes a reach: as far as half of the product's parts are half thick, which
// darkens joints and contacts and leaves faces open; and over the gaps between its parts,
// where these are narrower than parts are thick. Thickness is the shortest side of a
// part's box, a gap the way to the nearest box that does not touch it.
func Reach(s *scene.Scene, lamp func(part int) bool) Proposal {
	around := s.Around(lamp)
	var sides []float64
	var boxes []geom.Box
	for i := range s.Parts {
		if lamp(i) || around[i] || s.Parts[i].Out {
			continue
		}
		box := s.PartBounds(i)
		size := box.Size()
		if side := float64(min(size.X, size.Y, size.Z)); side > 0 {
			sides, boxes = append(sides, side), append(boxes, box)
		}
	}
	r := float64(s.Focus(lamp).Radius())
	if len(sides) == 0 { // nothing says more
		return Proposal{Reach: r * leastReach}
	}
	p := Proposal{Thick: middle(sides), Gap: middle(gaps(boxes))}
	p.Reach = p.Thick / 2
	if p.Gap <= p.Thick {
		p.Reach = max(p.Reach, p.Gap)
	}
	p.Reach = min(max(p.Reach, r*leastReach), r*mostReach)
	return p
}

// middle sorts values and returns the one in the middle; 0 of none.
func middle(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	slices.Sort(v)
	return v[len(v)/2]
}

// gaps are the ways from boxes to the nearest others that they do not touch.
func gaps(boxes []geom.Box) (out []float64) {
	step := (len(boxes) + mostGaps - 1) / mostGaps
	for i := 0; i < len(boxes); i += max(step, 1) {
		nearest := math.Inf(1)
		for j := range boxes {
			a, b := &boxes[i], &boxes[j]
			apart := geom.Max3(geom.Max3(a.Min.Sub(b.Max), b.Min.Sub(a.Max)), geom.Vec3{})
			if d := float64(apart.Len()); d > 0 {
				nearest = min(nearest, d)
			}
		}
		if !math.IsInf(nearest, 1) {
			out = append(out, nearest)
		}
	}
	return out
}
