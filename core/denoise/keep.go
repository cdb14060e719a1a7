package denoise

import (
	"image"

	"amberproof/core/film"
)

// mixedAt is the square of half of what a guide differs by between the halves, from which on
// the samples of a pixel certainly see different things.
const mixedAt = 4e-3

// ramp rises from nothing to one.
type ramp struct{ from, to float32 }

func (r ramp) at(x float32) float32 { return min(max(0, (x-r.from)/(r.to-r.from)), 1) }

// What is given back, by how much of what the halves differ by goes with their guides: of
// what averaging has taken, and of what was taken for sparks.
var (
	ofAveraged = ramp{0.1, 0.3}
	ofSparks   = ramp{0.4, 0.7}
)

// leastMixed is how mixed the pixels around must be in the mean, for anything to be given back.
const leastMixed = 0.01

// keepLight gives back the light that averaging has taken from pixels whose samples see
// different things. On a wire thinner than a pixel, or an edge, the samples of one half may
// all have missed what those of the other half have seen; that half's light is then averaged
// as if it were the ground's, and spread thin. What is lost so is the mean, over the mixed
// pixels around, of what they had less what was made of them, and all of these get it alike.
// Likewise with what was taken for sparks.
//
// That difference is also made of noise, which must not be given back. Told apart they are
// by what the halves differ by: where that goes with their guides, it is a matter of what
// the samples have seen, and where it does not, it is light that few of them have found.
// Light and guides are held against each other by the first component of partial least
// squares (Wold 1975): the mix of guides that goes with the light best.
func (t *tile) keepLight(r, chosen image.Rectangle) {
	k := t.keeper(r, chosen)
	k.mean(k.mixed, func(int) float32 { return 1 })
	k.explain()
	k.give(&t.made, &t.all, t.sparks(&t.a, &t.b))
	k.give(&t.halfA, &t.a, func(c, i int) float32 { return t.a[c][i] * (1/t.keptOf(0, i) - 1) })
	for n := range t.elements {
		e := &t.elements[n]
		k.give(&e.made, &e.all, t.sparks(&e.a, &e.b))
	}
}

// sparks is what was taken for sparks of the light of all samples, of what its halves are
// after that.
func (t *tile) sparks(a, b *rgb) func(c, i int) float32 {
	return func(c, i int) float32 {
		return a[c][i]*(1/t.keptOf(0, i)-1)*t.evens[i] + b[c][i]*(1/t.keptOf(1, i)-1)*(1-t.evens[i])
	}
}

// keptOf is the share that is kept of a half, or one if nothing is: what is gone is not known.
func (t *tile) keptOf(half, i int) float32 {
	if k := t.kept[half][i]; k > 0 {
		return k
	}
	return 1
}

// keeper has the means around pixels of r that keepLight needs, weighed by how mixed the
// pixels are, in the room of tries that are done with.
type keeper struct {
	t                *tile
	r, chosen        image.Rectangle
	mixed            plane // how mixed pixels are
	averaged, dimmed plane
	explained        plane                   // share of what the light differs by between the halves that goes with the guides
	with             [film.GuideValues]plane // guides with light, of what the halves differ by
}

func (t *tile) keeper(r, chosen image.Rectangle) *keeper {
	y, z := &t.tries[1], &t.tries[2]
	return &keeper{
		t: t, r: r, chosen: chosen, mixed: y.sumA, explained: y.sumB, averaged: y.err, dimmed: z.sumB,
		with: [film.GuideValues]plane{z.a[0], z.a[1], z.a[2], z.b[0], z.b[1], z.b[2], z.sumA},
	}
}

// mean writes to out the mean around each pixel of how mixed pixels are times of.
func (k *keeper) mean(out plane, of func(i int) float32) {
	t := k.t
	t.rows(k.chosen, func(from, to int) {
		for i := from; i < to; i++ {
			t.tmp[1][i] = 0
			if t.mixed[i] > 0 {
				t.tmp[1][i] = t.mixed[i] * of(i)
			}
		}
	})
	t.box(out, t.tmp[1], k.r, k.chosen, balanced)
}

// give gives back to what was made of light what it lost by averaging and of sparks.
func (k *keeper) give(made, before *rgb, sparks func(c, i int) float32) {
	t := k.t
	for c := range 3 {
		k.mean(k.averaged, func(i int) float32 { return before[c][i] - made[c][i] })
		k.mean(k.dimmed, func(i int) float32 { return sparks(c, i) })
		t.rows(k.r, func(from, to int) {
			for i := from; i < to; i++ {
				if x := k.explained[i]; x > 0 {
					made[c][i] += t.mixed[i] * (ofAveraged.at(x)*k.averaged[i] + ofSparks.at(x)*k.dimmed[i]) / k.mixed[i]
				}
			}
		})
	}
}

// explain finds how much of what the light differs by between the halves goes with the guides.
func (k *keeper) explain() {
	t := k.t
	light := func(i int) (d float32) { // half of what it differs by between the halves
		for c := range 3 {
			d += t.a[c][i]/t.keptOf(0, i) - t.b[c][i]/t.keptOf(1, i)
		}
		return d / 2
	}
	square := k.averaged // not needed yet
	k.mean(square, func(i int) float32 { d := light(i); return d * d })
	for g, with := range k.with {
		k.mean(with, func(i int) float32 { return t.change[g][i] * light(i) })
	}
	for y := k.r.Min.Y; y < k.r.Max.Y; y++ {
		for x := k.r.Min.X; x < k.r.Max.X; x++ {
			i := t.at(x, y)
			if k.explained[i] = 0; t.mixed[i] == 0 || k.mixed[i] < leastMixed || square[i] <= 0 {
				continue
			}
			var with [film.GuideValues]float32
			var along float32
			for g := range with {
				with[g] = k.with[g][i]
				along += with[g] * with[g]
			}
			around := image.Rect(x-balanced, y-balanced, x+balanced+1, y+balanced+1).Intersect(k.chosen)
			k.explained[i] = along * along / max(k.spread(&with, around)*square[i], 1e-30)
		}
	}
}

// spread is the mean over the pixels of r of the square of a mix of what guides differ by
// between the halves.
func (k *keeper) spread(mix *[film.GuideValues]float32, r image.Rectangle) float32 {
	t := k.t
	var sum float32
	t.rows(r, func(from, to int) {
		for i := from; i < to; i++ {
			if t.mixed[i] > 0 {
				var d float32
				for g, m := range mix {
					d += m * t.change[g][i]
				}
				sum += t.mixed[i] * d * d
			}
		}
	})
	return sum / float32(r.Dx()*r.Dy())
}
