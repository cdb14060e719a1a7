package denoise

import (
	"context"
	"image"

	"amberproof/core/geom"
)

// judge decides at every pixel how much to take of each try, and of the picture as it
// is: most of what is nearest to the truth by the halves. Half A of a try owes nothing to
// the noise of half B, which is so an unbiased judge of it: the mean of (Fa-B)² is the
// squared error of Fa and the variance of B, and that of (A-B)² is twice that variance
// (as Rousselle et al. 2013 use them).
func (t *tile) judge() {
	inner := t.r.Inset(-blended - doubted - balanced).Intersect(t.picture)
	chosen := t.r.Inset(-doubted - balanced).Intersect(t.picture)
	keep := t.choose[len(ways)]
	t.look()
	for k := range len(t.tries) + 1 {
		t.rows(t.area, func(from, to int) {
			for i := from; i < to; i++ {
				var e float32
				for c := range 3 {
					a, b := t.a[c][i], t.b[c][i]
					if k == len(t.tries) {
						e += (a - b) * (a - b) / 4
						continue
					}
					fa, fb := t.tries[k].a[c][i], t.tries[k].b[c][i]
					e += ((fa-b)*(fa-b)+(fb-a)*(fb-a)-(a-b)*(a-b))/2 - (fa-fb)*(fa-fb)/4
				}
				t.tmp[1][i] = e * t.seen[i]
			}
		})
		to := keep
		if k < len(t.tries) {
			to = t.tries[k].err
		}
		t.box(to, t.tmp[1], inner, t.area, judged)
	}
	t.rows(inner, func(from, to int) {
		for i := from; i < to; i++ {
			t.share(i)
		}
	})
	for k := range t.choose {
		copy(t.tmp[1], t.choose[k])
		t.box(t.choose[k], t.tmp[1], chosen, inner, blended)
	}
	t.leaveQuiet(chosen)
}

// quiet is by how much the halves of a pixel without noise may differ, as a share of its
// light: by rounding.
const quiet = 4e-6

// leaveQuiet leaves pixels as they are that have light and no noise at all, as a backing of
// one tone: there is nothing to take out, and what is beside them has no part in them.
func (t *tile) leaveQuiet(in image.Rectangle) {
	t.rows(in, func(from, to int) {
		for j := from; j < to; j++ {
			still := true
			for c := range 3 {
				a, b := t.a[c][j], t.b[c][j]
				still = still && a > 0 && geom.Abs(a-b) <= quiet*a
			}
			if still {
				for k := range t.choose {
					t.choose[k][j] = 0
				}
				t.choose[len(ways)][j] = 1
			}
		}
	})
}

// leave chooses the picture as it is, everywhere: sparks are out of it by then.
func (t *tile) leave() {
	t.rows(t.r, func(from, to int) {
		for i := from; i < to; i++ {
			t.choose[len(ways)][i] = 1
		}
	})
}

// look finds how much a squared error counts at each place: errors are seen as shares of
// the light there, but not where it is dark. The light is that of a try, since a bright
// speck would make little of its own error.
func (t *tile) look() {
	y := &t.tries[len(ways)/2]
	t.rows(t.area, func(from, to int) {
		for i := from; i < to; i++ {
			l := max(0, (y.a[0][i]+y.b[0][i]+y.a[1][i]+y.b[1][i]+y.a[2][i]+y.b[2][i])/6)
			t.seen[i] = 1 / (l*l + 0.01)
		}
	})
}

// share divides a pixel among the tries, by the fourth power of how near each seems to
// be: errors are themselves only known with noise, and what is a little worse by it is
// hardly worse.
func (t *tile) share(i int) {
	plain := max(0, t.choose[len(ways)][i])
	floor, least := plain*0.02+1e-12, plain
	for k := range t.tries {
		t.choose[k][i] = max(0, t.tries[k].err[i])
		least = min(least, t.choose[k][i])
	}
	var sum float32
	for k := range t.choose {
		m := (least + floor) / (max(0, t.choose[k][i]) + floor)
		m *= m
		t.choose[k][i] = m * m
		sum += m * m
	}
	for k := range t.choose {
		t.choose[k][i] /= sum
	}
}

// doubts finds where more was changed than noise explains, of pixels that are settled.
func (t *tile) doubts(settled image.Rectangle) {
	change, noise := t.tries[0].err, t.tries[1].err // done with
	t.rows(settled, func(from, to int) {
		for i := from; i < to; i++ {
			change[i], noise[i] = 0, 0
			for c := range 3 {
				d, v := t.made[c][i]-t.all[c][i], t.a[c][i]-t.b[c][i]
				change[i] += d * d * t.seen[i]
				noise[i] += v * v / 4 * t.seen[i]
			}
		}
	})
	t.box(t.tmp[1], noise, t.r, settled, doubted)
	t.box(t.doubt, change, t.r, settled, doubted)
	t.rows(t.r, func(from, to int) {
		for i := from; i < to; i++ {
			t.doubt[i] = geom.Sqrt(max(0, t.doubt[i]-noiseVariances*t.tmp[1][i]) / 3)
		}
	})
}

// spend averages the elements of the pixels of r by the weights that the beauty was averaged
// by; false if that was cancelled.
func (t *tile) spend(ctx context.Context, r image.Rectangle) bool {
	if len(t.elements) == 0 {
		return true
	}
	for i := range t.elements {
		e := &t.elements[i]
		for c := range 3 {
			clear(e.outA[c])
			clear(e.outB[c])
		}
	}
	for k := range t.tries {
		y := &t.tries[k]
		t.rows(r, func(from, to int) {
			for i := from; i < to; i++ {
				y.sumA[i], y.sumB[i] = t.choose[k][i]/y.sumA[i], t.choose[k][i]/y.sumB[i]
			}
		})
	}
	return t.offsets(ctx, r, func(r image.Rectangle, v int) {
		t.blend(r)
		for m := range t.elements {
			e := &t.elements[m]
			t.gather(&e.outA, &e.a, 0, 1, r, v)
			t.gather(&e.outB, &e.b, 0, 0, r, v)
		}
	})
}

// blend makes one of the weights of all ways, each by its share of their sum as far as it
// was chosen.
func (t *tile) blend(r image.Rectangle) {
	n, reach := r.Dx(), t.reach
	for half := range 2 {
		var by [len(ways)]plane
		for k := range by {
			by[k] = t.tries[k].sumB
			if half == 1 {
				by[k] = t.tries[k].sumA
			}
		}
		for y := r.Min.Y; y < r.Max.Y; y++ {
			i := t.at(r.Min.X, y)
			for u := -reach; u <= reach; u++ {
				at := t.place(u, y-r.Min.Y)
				blendRow(n, t.weights[0][half][at:], t.weights[1][half][at:], t.weights[2][half][at:], by[0][i:], by[1][i:], by[2][i:])
			}
		}
	}
}
