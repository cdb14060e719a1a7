package film

import "image"

// tilesAtOnce is how many tiles are read in one look: whoever adds samples waits for ten to
// twenty milliseconds, and whoever reads waits a few times for its turn, which takes as long
// where all cores are busy.
const tilesAtOnce = 256

// Reduced is the film at one pixel in each block of stride x stride, the sums of all its
// pixels: their mean, by halves too. Of the planes it has those that are kept. It is a film
// of its own, for looking, from (0, 0) on and without coverage.
func (f *Film) Reduced(stride int, kept func(plane string) bool) *Film {
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
	for from := 0; from < len(f.Tiles); from += tilesAtOnce {
		f.Look(func() {
			for i := from; i < min(from+tilesAtOnce, len(f.Tiles)); i++ {
				f.reduce(out, i, stride, runs)
			}
		})
	}
	for i := range out.Tiles {
		out.Tiles[i].Samples = 1
	}
	return out
}

// reduce adds tile i to a reduced film, of which its sums in runs are kept.
func (f *Film) reduce(out *Film, i, stride int, runs [][2]int) {
	t := f.Tiles[i].Sums
	n, px := f.Layout.Channels(), t.Data
	at := t.Rect.Min.Sub(f.Window.Min)
	for y := range t.Rect.Dy() {
		for x := 0; x < t.Rect.Dx(); {
			to, j := out.At((at.X+x)/stride, (at.Y+y)/stride)
			whole := to.Pixel(j)
			for end := min(t.Rect.Dx(), x+stride-(at.X+x)%stride); x < end; x++ {
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
