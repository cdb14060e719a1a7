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

const (
	leastVariance = 1e-6 // of a colour, over its square: pixels without noise are alike only if equal
	leastGuide    = 1e-3 // square of what guides may differ by anywhere
	smallLight    = 1e-4
)

// work computes the tile; false if that was cancelled.
func (t *tile) work(ctx context.Context) bool {
	t.spread()
	t.tolerate()
	for k := range t.tries {
		y := &t.tries[k]
		for _, p := range []plane{y.sumA, y.sumB, y.a[0], y.a[1], y.a[2], y.b[0], y.b[1], y.b[2]} {
			clear(p)
		}
	}
	ok := t.offsets(ctx, t.area, func(k int, y *try, q image.Point, r image.Rectangle) {
		for v := r.Min.Y; v < r.Max.Y; v++ {
			i, n := t.at(r.Min.X, v), r.Dx()
			j := t.at(r.Min.X+q.X, v+q.Y)
			wa, wb := t.weight[0][i:i+n], t.weight[1][i:i+n]
			addRow(y.sumA[i:i+n], wb)
			addRow(y.sumB[i:i+n], wa)
			for c := range 3 {
				gatherRow(y.a[c][i:i+n], wb, t.a[c][j:j+n])
				gatherRow(y.b[c][i:i+n], wa, t.b[c][j:j+n])
			}
		}
	})
	if !ok {
		return false
	}
	for k := range t.tries {
		t.tries[k].divide(t)
	}
	t.judge()
	return len(t.elements) == 0 || t.spend(ctx)
}

// divide makes means of sums.
func (y *try) divide(t *tile) {
	for v := t.area.Min.Y; v < t.area.Max.Y; v++ {
		for x := t.area.Min.X; x < t.area.Max.X; x++ {
			i := t.at(x, v)
			for c := range 3 {
				y.a[c][i] /= y.sumA[i]
				y.b[c][i] /= y.sumB[i]
			}
		}
	}
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

// tolerate finds what guides may differ by: their own noise where they have some, as on
// edges and out of focus, and on slopes their step to the next pixel.
func (t *tile) tolerate() {
	inner := t.ext.Inset(steady)
	for k := range t.guide {
		g, half := t.guide[k], t.tight[k]
		for i := range g {
			d := half[i] - g[i] // half of what the halves differ by
			t.tmp[1][i] = d * d
		}
		t.box(half, t.tmp[1], inner, t.ext, 1)
		for y := inner.Min.Y; y < inner.Max.Y; y++ {
			for x := inner.Min.X; x < inner.Max.X; x++ {
				i := t.at(x, y)
				dx := min(abs(g[i]-g[i-1]), abs(g[i+1]-g[i]))
				dy := min(abs(g[i]-g[i-t.stride]), abs(g[i+t.stride]-g[i]))
				half[i] = 1 / max(half[i], dx*dx+dy*dy, leastGuide)
			}
		}
	}
}

func abs(x float32) float32 { return max(x, -x) }

// offsets goes through all pairs of pixels of r and others at one offset after the
// other, computes the weights of each way and hands them on. The rectangle handed on is
// that of the pixels whose other one lies in the picture.
func (t *tile) offsets(ctx context.Context, r image.Rectangle, use func(k int, y *try, q image.Point, r image.Rectangle)) bool {
	window := window
	if t.o.Quick {
		window = near
	}
	for v := -window; v <= window; v++ {
		if ctx.Err() != nil {
			return false
		}
		for u := -window; u <= window; u++ {
			q := image.Pt(u, v)
			in := r.Intersect(t.picture.Sub(q))
			if in.Empty() {
				continue
			}
			t.distances(in, q)
			for k, w := range ways {
				t.weigh(in, w)
				use(k, &t.tries[k], q, in)
			}
		}
	}
	return true
}

// distances computes how unlike the pixels of r and those at offset q from them are: by
// the colours of either half, over a patch around each, and by guides.
func (t *tile) distances(r image.Rectangle, q image.Point) {
	wide := r.Inset(-patch)
	n := wide.Dx()
	for y := wide.Min.Y; y < wide.Max.Y; y++ {
		i, j := t.at(wide.Min.X, y), t.at(wide.Min.X+q.X, y+q.Y)
		da, db := t.rows[0][i:i+n], t.rows[1][i:i+n]
		clear(da)
		clear(db)
		for c := range 3 {
			unlikeRows(da, db, t.a[c][i:i+n], t.a[c][j:j+n], t.b[c][i:i+n], t.b[c][j:j+n], t.variance[c][i:i+n], t.variance[c][j:j+n])
		}
		m := n - 2*patch
		for k := range 2 {
			threeRow(t.sums[k][i+patch:i+patch+m], t.rows[k][i:i+m], t.rows[k][i+1:i+1+m], t.rows[k][i+2:i+2+m])
		}
	}
	n = r.Dx()
	for y := r.Min.Y; y < r.Max.Y; y++ {
		i, j := t.at(r.Min.X, y), t.at(r.Min.X+q.X, y+q.Y)
		far := t.far[i : i+n]
		clear(far)
		for k := range film.GuideValues {
			apartRow(far, t.guide[k][i:i+n], t.guide[k][j:j+n], t.tight[k][i:i+n])
		}
		for k := range 2 {
			threeRow(t.rows[k][i:i+n], t.sums[k][i-t.stride:i-t.stride+n], t.sums[k][i:i+n], t.sums[k][i+t.stride:i+t.stride+n])
		}
	}
}

// weigh turns distances into the weights of one way.
func (t *tile) weigh(r image.Rectangle, w way) {
	const values = 3 * (2*patch + 1) * (2*patch + 1)
	colour, guide := 1/(w.colour*w.colour*values), 1/(w.guide*w.guide)
	n := r.Dx()
	for y := r.Min.Y; y < r.Max.Y; y++ {
		i := t.at(r.Min.X, y)
		for k := range 2 {
			weighRow(t.weight[k][i:i+n], t.rows[k][i:i+n], t.far[i:i+n], colour, guide)
		}
	}
}
