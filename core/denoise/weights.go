package denoise

import (
	"context"
	"image"

	"amberproof/core/film"
)

// way is how strictly two pixels are held against each other: they count as alike while
// they differ by so many standard deviations of colour, and by so many times what their
// guides change next door.
type way struct{ colour, guide float32 }

// ways are the strictnesses tried, from the strictest on.
var ways = [...]way{{0.45, 0.7}, {0.7, 1.5}, {1, 2}}

// What distances are multiplied by, each way.
var perColour, perGuide = func() (c, g [len(ways)]float32) {
	const values = 3 * (2*patch + 1) * (2*patch + 1)
	for k, w := range ways {
		c[k], g[k] = 1/(w.colour*w.colour*values), 1/(w.guide*w.guide)
	}
	return c, g
}()

const (
	leastVariance = 1e-6 // of a colour, over its square: pixels without noise are alike only if equal
	leastGuide    = 1e-3 // square of what guides may differ by anywhere
	smallLight    = 1e-4
)

// work computes the tile; false if that was cancelled.
func (t *tile) work(ctx context.Context) bool {
	if t.o.Sparks {
		t.leave()
		t.settle(t.r)
		return ctx.Err() == nil
	}
	t.spread()
	t.tolerate()
	for k := range t.tries {
		y := &t.tries[k]
		for _, p := range []plane{y.sumA, y.sumB, y.a[0], y.a[1], y.a[2], y.b[0], y.b[1], y.b[2]} {
			clear(p)
		}
	}
	ok := t.offsets(ctx, t.area, func(r image.Rectangle, v int) {
		for k := range t.tries {
			y := &t.tries[k]
			t.count(y.sumA, k, 1, r)
			t.count(y.sumB, k, 0, r)
			t.gather(&y.a, &t.a, k, 1, r, v)
			t.gather(&y.b, &t.b, k, 0, r, v)
		}
	})
	if !ok {
		return false
	}
	for k := range t.tries {
		t.tries[k].divide(t)
	}
	t.judge()
	chosen, settled := t.r.Inset(-doubted-balanced).Intersect(t.picture), t.r.Inset(-doubted).Intersect(t.picture)
	if !t.spend(ctx, chosen) {
		return false
	}
	t.settle(chosen)
	t.keepLight(settled, chosen)
	t.doubts(settled)
	return true
}

// divide makes means of sums.
func (y *try) divide(t *tile) {
	t.rows(t.area, func(from, to int) {
		for i := from; i < to; i++ {
			for c := range 3 {
				y.a[c][i] /= y.sumA[i]
				y.b[c][i] /= y.sumB[i]
			}
		}
	})
}

// spread estimates the variance of a half from how the halves differ around a pixel.
func (t *tile) spread() {
	within := t.ext
	for c := range 3 {
		for i, a := range t.a[c] {
			d := a - t.b[c][i]
			t.tmp[1][i] = d * d / 2
		}
		t.box(t.variance[c], t.tmp[1], t.ext.Inset(steady), within, steady)
	}
}

// tolerate finds which pixels see different things, and what guides may differ by: their own
// noise where they have some, as on edges and out of focus, and on slopes their step to the
// next pixel.
func (t *tile) tolerate() {
	inner := t.ext.Inset(steady)
	clear(t.mixed)
	for k := range t.guide {
		g, half := t.guide[k], t.tight[k]
		for i := range g {
			d := half[i] - g[i] // half of what the halves differ by
			t.change[k][i], t.tmp[1][i] = d, d*d
		}
		t.box(half, t.tmp[1], inner, t.ext, 1)
		t.rows(inner, func(from, to int) {
			for i := from; i < to; i++ {
				t.mixed[i] = max(t.mixed[i], min(1, half[i]/mixedAt))
			}
		})
		for y := inner.Min.Y; y < inner.Max.Y; y++ {
			i := t.at(inner.Min.X, y)
			tightRow(inner.Dx(), half[i:], g[i-t.stride:], t.stride)
		}
	}
}

func abs(x float32) float32 { return max(x, -x) }

// offsets goes through all pairs of pixels of r and others around them, a band of rows
// and then a row of offsets after the other, and computes their weights into t.weights.
// use is handed the pixels of the band whose others lie in rows of the picture, and how
// many rows further down these are. What lies beside the picture has no weight.
func (t *tile) offsets(ctx context.Context, r image.Rectangle, use func(r image.Rectangle, v int)) bool {
	reach := t.reach
	for y := r.Min.Y; y < r.Max.Y; y += band {
		if ctx.Err() != nil {
			return false
		}
		rows := image.Rect(r.Min.X, y, r.Max.X, min(y+band, r.Max.Y))
		for v := -reach; v <= reach; v++ {
			in := rows.Intersect(t.picture.Sub(image.Pt(0, v)))
			if in.Empty() {
				continue
			}
			for u := -reach; u <= reach; u++ {
				t.weigh(in, image.Pt(u, v))
			}
			use(in, v)
		}
	}
	return true
}

// weigh computes the weights of the pixels at offset q from those of r, by all ways: from
// how unlike the colours of either half are, over a patch around each, and the guides.
func (t *tile) weigh(r image.Rectangle, q image.Point) {
	n := r.Dx() + 2*patch
	lit, led := t.a[0][:colours*t.plane], t.guide[0][:film.GuideValues*t.plane]
	tight := t.tight[0][:film.GuideValues*t.plane]
	for y := r.Min.Y - patch; y < r.Max.Y+patch; y++ {
		i, j := t.at(r.Min.X-patch, y), t.at(r.Min.X-patch+q.X, y+q.Y)
		unlikeRow(n, t.row[0], t.row[1], lit[i:], lit[j:], t.plane)
		at := (y - r.Min.Y + patch) * t.stride
		for k := range 2 {
			threeRow(r.Dx(), t.across[k][at:], t.row[k])
		}
	}
	n = r.Dx()
	// Columns whose others lie in the picture.
	from := min(max(0, t.picture.Min.X-q.X-r.Min.X), n)
	to := max(min(n, t.picture.Max.X-q.X-r.Min.X), from)
	for y := range r.Dy() {
		i, j := t.at(r.Min.X, r.Min.Y+y), t.at(r.Min.X+q.X, r.Min.Y+y+q.Y)
		var w [len(ways)][2][]float32
		at := t.place(q.X, y)
		for k := range w {
			for half := range w[k] {
				w[k][half] = t.weights[k][half][at : at+n]
			}
		}
		across := [2][]float32{t.across[0][y*t.stride:], t.across[1][y*t.stride:]}
		weighRow(n, &w, &across, t.stride, led[i:], led[j:], tight[i:], tight[j:], t.plane)
		for k := range w {
			for half := range w[k] {
				clear(w[k][half][:from])
				clear(w[k][half][to:])
			}
		}
	}
}

// place is where the weights begin of offsets of u columns, in row y of a band: those of
// one row of pixels lie together.
func (t *tile) place(u, y int) int { return (y*(2*t.reach+1) + u + t.reach) * t.stride }

// gather adds light x of the pixels v rows down of r and all columns around, to sum by the
// weights of a way that a half gave.
func (t *tile) gather(sum, x *rgb, k, half int, r image.Rectangle, v int) {
	reach := t.reach
	for y := r.Min.Y; y < r.Max.Y; y++ {
		w := t.weights[k][half][t.place(-reach, y-r.Min.Y):]
		gatherRow(r.Dx(), sum.run()[t.at(r.Min.X, y):], x.run()[t.at(r.Min.X-reach, y+v):], t.plane, w, t.stride, 2*reach+1)
	}
}

// count adds those weights to sum.
func (t *tile) count(sum plane, k, half int, r image.Rectangle) {
	reach := t.reach
	for y := r.Min.Y; y < r.Max.Y; y++ {
		addRow(r.Dx(), sum[t.at(r.Min.X, y):], t.weights[k][half][t.place(-reach, y-r.Min.Y):], t.stride, 2*reach+1)
	}
}
