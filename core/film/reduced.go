package film

import "image"

// Reduced is the film at one pixel in each block of stride x stride, the sums of all its
// pixels: their mean, by halves too. It is a film of its own, for looking, from (0, 0)
// on and without coverage.
func (f *Film) Reduced(stride int) *Film {
	down := func(n int) int { return (n + stride - 1) / stride }
	l := f.Layout
	l.cover = false
	out := New(image.Rect(0, 0, down(f.Window.Dx()), down(f.Window.Dy())), l)
	for y := f.Window.Min.Y; y < f.Window.Max.Y; y++ {
		f.Look(func() {
			for x := f.Window.Min.X; x < f.Window.Max.X; x++ {
				from, i := f.At(x, y)
				to, j := out.At((x-f.Window.Min.X)/stride, (y-f.Window.Min.Y)/stride)
				px := to.Pixel(j)
				for k, v := range from.Pixel(i) {
					px[k] += v
				}
			}
		})
	}
	for i := range out.Tiles {
		out.Tiles[i].Samples = 1
	}
	return out
}
