// Package finish is what is done to a picture after it was rendered and before it is
// written or looked at: steps, one after the other, each applied tile by tile. Files of
// scene-linear values pass it by. The last step always brings light to display values.
package finish

import (
	"encoding/binary"
	"image"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Picture is planes of W*H values, row by row, as passes make them. G and B nil means
// grey; A nil means opaque. Colour is associated with (premultiplied by) alpha.
type Picture struct {
	W, H       int
	R, G, B, A []float32
	// Data is set for planes that are not light (masks, occlusion, normals): no step is
	// applied to them, they are only limited to 0..1.
	Data bool
}

// Finish says what is done to a picture. It is a value: pictures of the same passes and
// the same finish are the same, so that it can be part of a key.
type Finish struct {
	Exposure  float64          // stops
	Transform colour.Transform // from scene-linear light to a display
}

// step does one thing to the pixels of a tile.
type step func(t *tile)

// steps are what is done, in order.
func (f Finish) steps() []step {
	return []step{displayed(f.Exposure, f.Transform)}
}

// displayed is the display transform: light of a stop of exposure, tone-mapped and
// encoded, 0 to 1.
func displayed(exposure float64, to colour.Transform) step {
	gain := colour.Gain(exposure)
	return func(t *tile) {
		for i, c := range t.colour {
			t.colour[i] = to.Display(c, gain)
		}
	}
}

// tileSide is the side of a tile, pixels.
const tileSide = 64

// tile is a part of a picture while steps are applied to it: colours not associated with
// alpha, row by row.
type tile struct {
	image.Rectangle
	colour []geom.Vec3
	alpha  []float32
}

// read fills the tile from a picture.
func (t *tile) read(p *Picture) {
	i := 0
	for y := t.Min.Y; y < t.Max.Y; y++ {
		for x := t.Min.X; x < t.Max.X; x++ {
			t.colour[i], t.alpha[i] = p.at(y*p.W + x)
			i++
		}
	}
}

// at is a pixel's colour, divided by its alpha if it is light, and its alpha.
func (p *Picture) at(i int) (c geom.Vec3, a float32) {
	c, a = geom.Splat(p.R[i]), 1
	if p.G != nil {
		c = geom.V(p.R[i], p.G[i], p.B[i])
	}
	if p.A != nil {
		a = geom.Clamp01(p.A[i])
		if a > 0 && !p.Data {
			c = c.Scale(1 / a)
		}
	}
	return c, a
}

// each applies the finish to a picture on all cores and hands every tile over.
func (f Finish) each(p *Picture, done func(t *tile)) {
	steps := f.steps()
	if p.Data {
		steps = []step{limited}
	}
	across, down := (p.W+tileSide-1)/tileSide, (p.H+tileSide-1)/tileSide
	parallel.MustRanges(across*down, 1, func(from, to int) {
		room := tile{colour: make([]geom.Vec3, tileSide*tileSide), alpha: make([]float32, tileSide*tileSide)}
		for k := from; k < to; k++ {
			at := image.Pt(k%across*tileSide, k/across*tileSide)
			t := tile{Rectangle: image.Rectangle{Min: at, Max: at.Add(image.Pt(tileSide, tileSide))}.Intersect(image.Rect(0, 0, p.W, p.H))}
			n := t.Dx() * t.Dy()
			t.colour, t.alpha = room.colour[:n], room.alpha[:n]
			t.read(p)
			for _, s := range steps {
				s(&t)
			}
			done(&t)
		}
	})
}

// limited brings numbers to 0..1, and shows not-a-number as 0.
func limited(t *tile) {
	for i, c := range t.colour {
		t.colour[i] = geom.V(unit(c.X), unit(c.Y), unit(c.Z))
	}
}

func unit(x float32) float32 {
	if !(x > 0) {
		return 0
	}
	return min(x, 1)
}

// Of is one colour of scene-linear light as it is displayed, 0 to 1.
func (f Finish) Of(c geom.Vec3) geom.Vec3 {
	t := tile{colour: []geom.Vec3{c}, alpha: []float32{1}}
	for _, s := range f.steps() {
		s(&t)
	}
	return t.colour[0]
}

// Shown is a picture as it is displayed, eight bits a channel.
func (f Finish) Shown(p *Picture) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, p.W, p.H))
	f.each(p, func(t *tile) {
		t.pixels(func(x, y int, channels [4]float32) {
			to := img.Pix[img.PixOffset(x, y):]
			for k, v := range channels {
				to[k] = byte(v*255 + 0.5)
			}
		})
	})
	return img
}

// Shown16 is Shown with sixteen bits a channel.
func (f Finish) Shown16(p *Picture) *image.NRGBA64 {
	img := image.NewNRGBA64(image.Rect(0, 0, p.W, p.H))
	f.each(p, func(t *tile) {
		t.pixels(func(x, y int, channels [4]float32) {
			to := img.Pix[img.PixOffset(x, y):]
			for k, v := range channels {
				binary.BigEndian.PutUint16(to[2*k:], uint16(v*65535+0.5))
			}
		})
	})
	return img
}

// pixels hands over every pixel of the tile: red, green, blue and alpha.
func (t *tile) pixels(each func(x, y int, channels [4]float32)) {
	i := 0
	for y := t.Min.Y; y < t.Max.Y; y++ {
		for x := t.Min.X; x < t.Max.X; x++ {
			c := t.colour[i]
			each(x, y, [4]float32{c.X, c.Y, c.Z, t.alpha[i]})
			i++
		}
	}
}
