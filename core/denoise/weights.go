package denoise

import (
	"context"
	"image"
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
	ok := t.offsets(ctx, t.area, func(r image.Rectangle, v int) {
		for k := range t.tries {
			y := &t.tries[k]
			t.gather(y.sumA, nil, k, 1, r, v)
			t.gather(y.sumB, nil, k, 0, r, v)
			for c := range 3 {
				t.gather(y.a[c], t.a[c], k, 1, r, v)
				t.gather(y.b[c], t.b[c], k, 0, r, v)
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

// reach is how far the window goes.
func (t *tile) reach() int {
	if t.o.Quick {
		return near
	}
	return window
}

// offsets goes through all pairs of pixels of r and others around them, a band of rows
// and then a row of offsets after the other, and computes their weights into t.weights.
// use is handed the pixels of the band whose others lie in rows of the picture, and how
// many rows further down these are. What lies beside the picture has no weight.
func (t *tile) offsets(ctx context.Context, r image.Rectangle, use func(r image.Rectangle, v int)) bool {
	reach := t.reach()
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
				t.distances(in, image.Pt(u, v))
				t.weigh(in, u)
			}
			use(in, v)
		}
	}
	return true
}

// distances computes how unlike the pixels of r and those at offset q from them are: by
// the colours of either half, over a patch around each, and by guides.
func (t *tile) distances(r image.Rectangle, q image.Point) {
	n := r.Dx() + 2*patch
	var c colours
	for y := r.Min.Y - patch; y < r.Max.Y+patch; y++ {
		i, j := t.at(r.Min.X-patch, y), t.at(r.Min.X-patch+q.X, y+q.Y)
		for k := range 3 {
			c.ap[k], c.bp[k], c.vp[k] = t.a[k][i:i+n], t.b[k][i:i+n], t.variance[k][i:i+n]
			c.aq[k], c.bq[k], c.vq[k] = t.a[k][j:j+n], t.b[k][j:j+n], t.variance[k][j:j+n]
		}
		unlikeRow(t.row[0][:n], t.row[1][:n], &c)
		at := (y - r.Min.Y + patch) * t.stride
		for k := range 2 {
			threeRow(t.across[k][at:at+n-2], t.row[k][:n-2], t.row[k][1:n-1], t.row[k][2:n])
		}
	}
	n = r.Dx()
	var g guides
	for y := r.Min.Y; y < r.Max.Y; y++ {
		i, j := t.at(r.Min.X, y), t.at(r.Min.X+q.X, y+q.Y)
		for k := range g.p {
			g.p[k], g.q[k], g.tight[k] = t.guide[k][i:i+n], t.guide[k][j:j+n], t.tight[k][i:i+n]
		}
		at := (y - r.Min.Y) * t.stride
		apartRow(t.far[at:at+n], &g)
		for k := range 2 {
			x := t.across[k][at:]
			threeRow(t.unlike[k][at:at+n], x[:n], x[t.stride:t.stride+n], x[2*t.stride:2*t.stride+n])
		}
	}
}

// weigh turns distances into the weights of all ways, for offsets of u columns.
func (t *tile) weigh(r image.Rectangle, u int) {
	const values = 3 * (2*patch + 1) * (2*patch + 1)
	n := r.Dx()
	// Columns whose others lie in the picture.
	from := min(max(0, t.picture.Min.X-u-r.Min.X), n)
	to := max(min(n, t.picture.Max.X-u-r.Min.X), from)
	for k, w := range ways {
		colour, guide := 1/(w.colour*w.colour*values), 1/(w.guide*w.guide)
		for half := range 2 {
			for y := range r.Dy() {
				row := t.weights[k][half][t.place(u, y):][:n]
				at := y * t.stride
				weighRow(row[from:to], t.unlike[half][at+from:at+to], t.far[at+from:at+to], colour, guide)
				clear(row[:from])
				clear(row[to:])
			}
		}
	}
}

// place is where the weights begin of offsets of u columns, in row y of a band: those of
// one row of pixels lie together.
func (t *tile) place(u, y int) int { return (y*(2*window+1) + u + t.reach()) * t.stride }

// gather adds x, or one, of the pixels v rows down of r and all columns around, to sum by
// the weights of a way that a half gave.
func (t *tile) gather(sum, x plane, k, half int, r image.Rectangle, v int) {
	n, reach := r.Dx(), t.reach()
	count := 2*reach + 1
	for y := r.Min.Y; y < r.Max.Y; y++ {
		i := t.at(r.Min.X, y)
		w := t.weights[k][half][t.place(-reach, y-r.Min.Y):]
		if x == nil {
			addRow(sum[i:i+n], w, t.stride, count)
			continue
		}
		j := t.at(r.Min.X-reach, y+v)
		gatherRow(sum[i:i+n], w, x[j:j+n+count-1], t.stride, count)
	}
}
