package trace

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/lights"
	"amberproof/core/passes"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// warm is a picture of light from all round, of many colours, warm in the mean.
func warm() *imageio.HDR {
	p := &imageio.HDR{W: 32, H: 16, Pix: make([]float32, 32*16*3)}
	for i := range 32 * 16 {
		p.Pix[3*i], p.Pix[3*i+1], p.Pix[3*i+2] = 2+float32(i%7), 1.1+float32(i%3)/2, 0.2+float32(i%5)/10
	}
	return p
}

// Without the colour of its light, neutral clay is neutral to rounding under any light:
// a warm surround, a sky, lamps and glow of a colour.
func TestLightWithoutColour(t *testing.T) {
	for _, c := range []struct {
		name string
		put  func(b *bench)
	}{
		{"surround", func(b *bench) { b.opt.Surround = Surround{On: true, Picture: warm(), Strength: 1, Turn: 1} }},
		{"sky", func(b *bench) {
			b.opt.Surround = Surround{On: true, Strength: 1, Sky: &lights.Sky{Height: 0.3, Turbidity: 4}}
		}},
		{"even tone", func(b *bench) { b.opt.Surround = Surround{On: true, Tone: geom.V(1, 0.5, 0.2), Strength: 1} }},
		{"point", func(b *bench) {
			b.light(scene.Light{Name: "l", Kind: scene.PointLight, Colour: geom.V(1, 0.4, 0.1), Intensity: 9}, geom.Translate(geom.V(1, 2, 2)))
		}},
		{"lamp and glow", func(b *bench) {
			f := glow(1)
			f.Emission = geom.V(9, 4, 1)
			b.part("lamp", quad(geom.V(-1, 2, 1), geom.V(2, 0, 0), geom.V(0, 0, -2)), b.finish(f))
			f.Emission = geom.V(1, 4, 9)
			b.part("flame", ball(geom.V(0.8, 0.3, 0.5), 0.1, 8), b.finish(f))
		}},
		{"gradient behind", func(b *bench) {
			b.opt.Backing, b.opt.Gradient = BackGradient, Gradient{Top: geom.V(1, 0.5, 0), Foot: geom.V(0, 0.5, 1)}
		}},
	} {
		b := newBench(16, 16)
		b.part("ball", ball(geom.Vec3{}, 0.5, 24), b.finish(matte(0.6)))
		b.part("floor", floor(3), 0)
		for i := range b.s.Meshes[1].Positions {
			b.s.Meshes[1].Positions[i].Y = -0.5
		}
		c.put(b)
		b.camera(geom.V(0, 0.5, 4), geom.Vec3{}, 0.5)
		look := func(colourless bool) (light, worst float32) {
			b.opt.Colourless = colourless
			f := b.render(t, 8)
			for y := range 16 {
				for x := range 16 {
					s, i := f.At(x, y)
					v, _ := s.Light(i)
					light += colour.Luminance(v)
					if m := v.Max(); m > 0 {
						worst = max(worst, (m-min(v.X, v.Y, v.Z))/m)
					}
				}
			}
			return light, worst
		}
		own, coloured := look(false)
		grey, cast := look(true)
		if cast > 2e-6 || coloured < 0.1 {
			t.Errorf("%s: with its colour the worst cast is %g, without it %g", c.name, coloured, cast)
		}
		// Clay is neutral, so that it is as light as before.
		if d := grey/own - 1; geom.Abs(d) > 1e-4 {
			t.Errorf("%s: without its colour there is %g of the light", c.name, grey/own)
		}
	}
}

// A backing that is to be shown as a value is that value in PNGs of eight and sixteen
// bits, whatever the exposure, the display transform and the filter, and so it is where it
// is seen through a clean hole of the picture beside the product.
func TestPinnedBacking(t *testing.T) {
	for _, filter := range []sampling.FilterKind{sampling.Box, sampling.BlackmanHarris, sampling.Mitchell} {
		for _, tr := range []colour.Transform{colour.Plain, colour.Filmic} {
			for _, ev := range []float64{-7.3, 0, 4.1} {
				for _, v := range []int{0, 1, 37, 128, 200, 254, 255} {
					t.Run(fmt.Sprint(filter, tr, ev, v), func(t *testing.T) {
						b := newBench(24, 24)
						b.want = []passes.Kind{passes.Light}
						b.part("ball", ball(geom.Vec3{}, 0.3, 12), b.finish(matte(0.6)))
						b.camera(geom.V(0, 0, 4), geom.Vec3{}, 0.5)
						b.opt.Filter, b.opt.FilterWidth = filter, 3
						b.opt.Surround = Surround{On: true, Tone: geom.V(3, 1, 0.5), Strength: 1}
						b.opt.Backing, b.opt.BackingTone = BackTone, geom.Splat(tr.Scene(float32(v)/255)/colour.Gain(ev))
						f := b.render(t, 37)
						p := &finish.Picture{W: 24, H: 24, R: make([]float32, 576), G: make([]float32, 576), B: make([]float32, 576), A: make([]float32, 576)}
						for y := range 24 {
							for x := range 24 {
								s, i := f.At(x, y)
								c, _ := s.Light(i)
								px := s.Pixel(i)
								k := y*24 + x
								p.R[k], p.G[k], p.B[k], p.A[k] = c.X, c.Y, c.Z, px[film.Alpha]/px[film.Weight]
							}
						}
						for _, bits := range []int{8, 16} {
							var out bytes.Buffer
							fin := finish.Finish{Exposure: ev, Transform: tr}
							var shown image.Image = fin.Shown(p)
							if bits == 16 {
								shown = fin.Shown16(p)
							}
							if err := imageio.WritePNG(&out, shown); err != nil {
								t.Fatal(err)
							}
							img, err := png.Decode(&out)
							if err != nil {
								t.Fatal(err)
							}
							for _, at := range [][2]int{{0, 0}, {23, 0}, {2, 12}, {12, 1}, {23, 23}} {
								if r, g, bl, a := img.At(at[0], at[1]).RGBA(); int(r) != v*257 || g != r || bl != r || a != 0xffff {
									t.Errorf("%d bits at %v: %d, %d, %d of alpha %d, want %d", bits, at, r, g, bl, a, v*257)
								}
							}
						}
					})
				}
			}
		}
	}
}
