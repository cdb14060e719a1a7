package film

import (
	"image"
	"sync/atomic"

	"amberproof/core/parallel"
)

// pixelsAtOnce is how many pixels are read in one look, or one row of the reduced film:
// whoever adds samples waits for some milliseconds, and whoever reads waits a few times for
// its turn, which takes as long where all cores are busy.
const pixelsAtOnce = 1 << 18

// Reduced is the film at one pixel in each block of stride x stride, the sums of all its
// pixels: their mean, by halves too. Of the planes it has those that are kept. It is a film
// of its own, for looking, from (0, 0) on and without coverage, made by so many workers.
func (f *Film) Reduced(stride, workers int, kept func(plane string) bool) *Film {
	down := func(n int) int { return (n + stride - 1) / stride }
	var planes []Plane
	runs := [][2]int{{0, basic}} // of sums that are taken over, in order
	for i := range f.Layout.planes {
		p := &f.Layout.planes[i]
		if !kept(p.Name) {
			continue
		}
		planes = append(planes, *p)
		from, last := f.Layout.at[i], &runs[len(runs)-1]
		if last[1] == from {
			last[1] += p.size()
		} else {
			runs = append(runs, [2]int{from, from + p.size()})
		}
	}
	l := NewLayout(false, planes...)
	out := New(image.Rect(0, 0, down(f.Window.Dx()), down(f.Window.Dy())), l)
	rows := max(1, pixelsAtOnce/(stride*f.Window.Dx()))
	var next atomic.Int64
	parallel.MustScope(func(g *parallel.Group) {
		for range max(1, workers) {
			g.Go(func() {
				for {
					to := int(next.Add(int64(rows)))
					if to-rows >= out.Window.Dy() {
						return
					}
					f.Locked(func() {
						for y := to - rows; y < min(to, out.Window.Dy()); y++ {
							f.reduce(out, y, stride, runs)
						}
					})
				}
			})
		}
	})
	for i := range out.Tiles {
		out.Tiles[i].Samples = 1
	}
	return out
}

// reduce fills row v of a reduced film, of which the film's sums in runs are kept.
func (f *Film) reduce(out *Film, v, stride int, runs [][2]int) {
	n := f.Layout.Channels()
	for y := v * stride; y < min((v+1)*stride, f.Window.Dy()); y++ {
		for i := y / f.side * f.Cols; i < (y/f.side+1)*f.Cols; i++ {
			t := f.Tiles[i].Sums
			left, wide := t.Rect.Min.X-f.Window.Min.X, t.Rect.Dx()
			px := t.Data[(y+f.Window.Min.Y-t.Rect.Min.Y)*wide*n:]
			for x := 0; x < wide; {
				to, j := out.At((left+x)/stride, v)
				whole := to.Pixel(j)
				for end := min(wide, x+stride-(left+x)%stride); x < end; x++ {
					sum := whole
					for _, r := range runs {
						for k, v := range px[r[0]:r[1]] {
							sum[k] += v
						}
						sum = sum[r[1]-r[0]:]
					}
					px = px[n:]
				}
			}
		}
	}
}
