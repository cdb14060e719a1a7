package imageio

import (
	"image"
	"image/png"
	"io"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Look is how scene-linear values become display values in a PNG.
type Look struct {
	Exposure  float64 // stops
	Transform colour.Transform
}

// Picture is what a display picture is made of: planes of W*H values, row by
// row. G and B nil means grey; A nil means opaque. Colour is associated with
// (premultiplied by) alpha.
type Picture struct {
	W, H       int
	R, G, B, A []float32
	// Data is set for planes that are not light (masks, occlusion, normals):
	// they are written as they are, clipped to 0..1, without look or encoding.
	Data bool
}

// shown is pixel i as it is displayed, each channel from 0 to 1, and its alpha. Colour
// is divided by alpha, as pictures for looking at want it.
func (p *Picture) shown(i int, look *Look, gain float32) (c geom.Vec3, a float32) {
	c = geom.Splat(p.R[i])
	if p.G != nil {
		c = geom.V(p.R[i], p.G[i], p.B[i])
	}
	a = 1
	if p.A != nil {
		a = geom.Clamp01(p.A[i])
		if a > 0 && !p.Data {
			c = c.Scale(1 / a)
		}
	}
	if p.Data {
		return geom.V(unit(c.X), unit(c.Y), unit(c.Z)), a
	}
	return look.Transform.Display(c, gain), a
}

// Shown is p as it is displayed, eight bits a channel.
func (p *Picture) Shown(look Look) *image.NRGBA {
	img, gain := image.NewNRGBA(image.Rect(0, 0, p.W, p.H)), colour.Gain(look.Exposure)
	eachRow(p.H, func(y int) {
		for x := 0; x < p.W; x++ {
			c, a := p.shown(y*p.W+x, &look, gain)
			o := img.Pix[y*img.Stride+x*4:]
			for k, v := range [4]float32{c.X, c.Y, c.Z, a} {
				o[k] = byte(v*255 + 0.5)
			}
		}
	})
	return img
}

// EncodePNG writes p with 8 or 16 bits a channel.
func EncodePNG(w io.Writer, p *Picture, bits int, look Look) error {
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	if bits != 16 {
		return enc.Encode(w, p.Shown(look))
	}
	img, gain := image.NewNRGBA64(image.Rect(0, 0, p.W, p.H)), colour.Gain(look.Exposure)
	eachRow(p.H, func(y int) {
		for x := 0; x < p.W; x++ {
			c, a := p.shown(y*p.W+x, &look, gain)
			o := img.Pix[y*img.Stride+x*8:]
			for k, v := range [4]float32{c.X, c.Y, c.Z, a} {
				q := uint16(v*65535 + 0.5)
				o[k*2], o[k*2+1] = byte(q>>8), byte(q)
			}
		}
	})
	return enc.Encode(w, img)
}

// unit limits to 0..1 and shows not-a-number as 0.
func unit(x float32) float32 {
	if !(x > 0) {
		return 0
	}
	return min(x, 1)
}

// eachRow runs f for each row, on all cores, and waits.
func eachRow(h int, f func(y int)) {
	parallel.MustRanges(h, 8, func(from, to int) {
		for y := from; y < to; y++ {
			f(y)
		}
	})
}
