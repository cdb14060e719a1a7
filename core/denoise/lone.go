package denoise

import (
	"image"
	"math"

	"amberproof/core/film"
)

const (
	// fewSamples is up to how many samples the halves of a pixel may agree by chance: one in
	// which all of them missed the light seems to have no noise. (What is far brighter than
	// all around is a glint or a spark, which is told otherwise.)
	fewSamples = 16
	// mostAlone is by how much of the light around it a pixel is darker than all its
	// neighbours to be held for chance, and leastAlike what share of them must be alike by
	// guides.
	mostAlone  = 0.2
	leastAlike = 0.6
)

// alone tells whether a pixel is far darker than all but one of those next to it that guides
// say are alike, since two may have missed the light side by side, and lists these others.
// What is real has more of itself beside it: a line has two such neighbours.
func (t *tile) alone(x, y int) (alike [8]int, n int, lone bool) {
	j := t.at(x, y)
	light := func(j int) (sum float32) {
		for c := range 3 {
			sum += t.made[c][j]
		}
		return sum
	}
	least, second, mean := float32(math.MaxFloat32), float32(math.MaxFloat32), float32(0)
	there, darkest := 0, 0
	around := image.Rect(x-1, y-1, x+2, y+2).Intersect(t.picture)
	for v := around.Min.Y; v < around.Max.Y; v++ {
		for u := around.Min.X; u < around.Max.X; u++ {
			k := t.at(u, v)
			if k == j {
				continue
			}
			there++
			if t.alpha[k] < 0 || !t.alikeByGuides(j, k) {
				continue
			}
			l := light(k)
			if mean += l; l < least {
				least, second, darkest = l, least, n
			} else {
				second = min(second, l)
			}
			alike[n] = k
			n++
		}
	}
	if n < 3 || float32(n) < leastAlike*float32(there) {
		return alike, n, false
	}
	n--
	alike[darkest] = alike[n]
	mean = (mean - least) / float32(n)
	return alike, n, light(j) < second-mostAlone*mean
}

func (t *tile) alikeByGuides(j, k int) bool {
	for g := range film.GuideValues {
		d := t.guide[g][j] - t.guide[g][k]
		if d*d*t.tight[g][j] > 4 {
			return false
		}
	}
	return true
}
