package finish

import (
	"image"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Apart is how far two pictures of one size are apart as they are displayed, channel by channel
// and times gain: black where they are the same. Colours count by their alpha.
func (f Finish) Apart(a, b *Picture, gain float32) *image.NRGBA {
	first := make([]geom.Vec3, a.W*a.H)
	f.each(a, func(t *tile) {
		t.pixels(func(x, y int, c [4]float32) { first[y*a.W+x] = geom.V(c[0], c[1], c[2]).Scale(c[3]) })
	})
	img := image.NewNRGBA(image.Rect(0, 0, a.W, a.H))
	f.each(b, func(t *tile) {
		t.pixels(func(x, y int, c [4]float32) {
			d := first[y*a.W+x].Sub(geom.V(c[0], c[1], c[2]).Scale(c[3]))
			to := img.Pix[img.PixOffset(x, y):]
			for k, v := range [3]float32{d.X, d.Y, d.Z} {
				to[k] = byte(unit(geom.Abs(v)*gain)*255 + 0.5)
			}
			to[3] = 255
		})
	})
	return img
}

// Laid is p laid under w x h pixels: the corner of the first of them is at x, y in pixels of p,
// and each is wide pixels of p wide and high of them high. What lies between pixels of p is a blend of the
// four around it; beyond its edges p is clear.
func (p *Picture) Laid(x, y, wide, high float64, w, h int) *Picture {
	out := &Picture{W: w, H: h, Data: p.Data, R: make([]float32, w*h), A: make([]float32, w*h)}
	if p.G != nil {
		out.G, out.B = make([]float32, w*h), make([]float32, w*h)
	}
	parallel.MustRanges(h, 32, func(from, to int) {
		for j := from; j < to; j++ {
			for i := range w {
				p.blend(x+(float64(i)+0.5)*wide-0.5, y+(float64(j)+0.5)*high-0.5, out, j*w+i)
			}
		}
	})
	return out
}

// blend sets a pixel of out to p at a place between its pixels' middles.
func (p *Picture) blend(x, y float64, out *Picture, at int) {
	x0, y0 := int(math.Floor(x)), int(math.Floor(y))
	fx, fy := float32(x-float64(x0)), float32(y-float64(y0))
	for k, share := range [4]float32{(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy} {
		px, py := x0+k%2, y0+k/2
		if share == 0 || px < 0 || py < 0 || px >= p.W || py >= p.H {
			continue
		}
		i := py*p.W + px
		out.R[at] += share * p.R[i]
		if p.G != nil {
			out.G[at] += share * p.G[i]
			out.B[at] += share * p.B[i]
		}
		if p.A != nil {
			out.A[at] += share * p.A[i]
		} else {
			out.A[at] += share
		}
	}
}
