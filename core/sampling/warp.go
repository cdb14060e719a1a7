package sampling

import (
	"math"

	"amberproof/core/geom"
)

// Disk maps the unit square to the unit disk, keeping areas (Shirley & Chiu 1997).
func Disk(u, v float32) (x, y float32) {
	a, b := 2*u-1, 2*v-1
	if a == 0 && b == 0 {
		return 0, 0
	}
	var r, turn float32
	if geom.Abs(a) > geom.Abs(b) {
		r, turn = a, 0.125*(b/a)
	} else {
		r, turn = b, 0.25-0.125*(a/b)
	}
	if turn < 0 {
		turn++
	}
	s, c := geom.SinCosTurn(turn)
	return r * c, r * s
}

// CosineHemisphere maps the unit square to directions about +Z with density cos/pi.
func CosineHemisphere(u, v float32) geom.Vec3 {
	x, y := Disk(u, v)
	return geom.V(x, y, geom.Sqrt(max(0, 1-x*x-y*y)))
}

// Sphere maps the unit square evenly to the unit sphere.
func Sphere(u, v float32) geom.Vec3 {
	z := 1 - 2*u
	r := geom.Sqrt(max(0, 1-z*z))
	s, c := geom.SinCosTurn(v)
	return geom.V(r*c, r*s, z)
}

// Cone maps the unit square evenly to the directions within a cone about +Z
// of which oneMinusCos is 1 - cos(half angle); in that form small cones keep
// their precision.
func Cone(u, v, oneMinusCos float32) geom.Vec3 {
	d := u * oneMinusCos
	r := geom.Sqrt(max(0, d*(2-d)))
	s, c := geom.SinCosTurn(v)
	return geom.V(r*c, r*s, 1-d)
}

// Balance is the power heuristic with exponent two (Veach 1995) for a sample
// drawn with density a that could also have been drawn with density b.
func Balance(a, b float32) float32 {
	if math.IsInf(float64(a), 1) {
		return 1
	}
	if a <= 0 {
		return 0
	}
	r := b / a
	return 1 / (1 + r*r)
}

// Table draws an index with probability proportional to its weight.
type Table struct {
	cdf []float32
	// guide[k] is the index at which looking begins for u in the k-th of its
	// equal parts: a step or two instead of a search (Chen & Asau 1974).
	guide []int32
}

// NewTable takes non-negative weights; an all-zero table draws evenly.
func NewTable(w []float32) Table {
	t := Table{cdf: make([]float32, len(w))}
	var total float64
	for _, x := range w {
		total += float64(x)
	}
	var sum float64
	for i, x := range w {
		if total > 0 {
			sum += float64(x) / total
		} else {
			sum += 1 / float64(len(w))
		}
		t.cdf[i] = float32(sum)
	}
	if len(w) > 0 {
		t.cdf[len(w)-1] = 1
	}
	t.guide = make([]int32, len(w))
	i := 0
	for k := range t.guide {
		for t.cdf[i] <= float32(k)/float32(len(w)) {
			i++
		}
		t.guide[k] = int32(i)
	}
	return t
}

// Draw returns the index for u in [0,1), its probability, and u stretched back to [0,1).
func (t *Table) Draw(u float32) (i int, p, rest float32) {
	lo := int(t.guide[min(int(u*float32(len(t.cdf))), len(t.cdf)-1)])
	for lo > 0 && t.cdf[lo-1] > u { // the product above may have rounded up
		lo--
	}
	for t.cdf[lo] <= u && lo < len(t.cdf)-1 {
		lo++
	}
	p = t.P(lo)
	if p > 0 {
		var below float32
		if lo > 0 {
			below = t.cdf[lo-1]
		}
		rest = min((u-below)/p, 1-1.0/(1<<24))
	}
	return lo, p, max(rest, 0)
}

// P is the probability of index i.
func (t *Table) P(i int) float32 {
	if i == 0 {
		return t.cdf[0]
	}
	return t.cdf[i] - t.cdf[i-1]
}
