package trace

import (
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// A gradient goes evenly over the frame from its top to its foot, for every kind of camera
// and turn, lights nothing, and is opaque.
func TestGradient(t *testing.T) {
	for _, c := range []struct {
		name  string
		turn  float32
		share func(x, y float64) float64 // of the foot, at a point of the frame from 0 to 1
	}{
		{"down", 0, func(_, y float64) float64 { return y }},
		{"from the left", math.Pi / 2, func(x, _ float64) float64 { return x }},
		{"up", math.Pi, func(_, y float64) float64 { return 1 - y }},
		{"from corner to corner", math.Pi / 4, func(x, y float64) float64 { return (x*40 + y*20) / 60 }},
	} {
		for _, flat := range []bool{false, true} {
			b := newBench(40, 20)
			b.part("floor", quad(geom.V(-1, -50, 1), geom.V(2, 0, 0), geom.V(0, 0, -2)), b.finish(matte(0.5)))
			b.camera(geom.V(0.3, 0.2, 4), geom.V(0.1, 0, 0), 0.4)
			if flat {
				b.opt.Camera.YFov, b.opt.Camera.YMag = 0, 0.5
			}
			b.opt.Backing = BackGradient
			b.opt.Gradient = Gradient{Top: geom.V(0.8, 0.4, 0), Foot: geom.V(0, 0.1, 2), Turn: c.turn}
			f := b.render(t, 16)
			for y := range 20 {
				for x := range 40 {
					s, i := f.At(x, y)
					px := s.Pixel(i)
					want := b.opt.Gradient.Top.Lerp(b.opt.Gradient.Foot, float32(c.share((float64(x)+0.5)/40, (float64(y)+0.5)/20)))
					got := geom.V(px[film.Beauty], px[film.Beauty+1], px[film.Beauty+2]).Scale(1 / px[film.Weight])
					// Samples are spread over the pixel: a fortieth of the way at most.
					if got.Sub(want).Len() > 0.02 || math.Abs(float64(px[film.Alpha]/px[film.Weight])-1) > 1e-5 {
						t.Fatalf("%s, flat %v: pixel %d, %d is %v, want %v", c.name, flat, x, y, got, want)
					}
				}
			}
		}
	}
}

// Light on the product does not know of it.
func TestAGradientLightsNothing(t *testing.T) {
	b := newBench(4, 4)
	b.part("wall", quad(geom.V(-9, -9, 0), geom.V(18, 0, 0), geom.V(0, 18, 0)), b.finish(matte(0.5)))
	b.camera(geom.V(0, 0, 3), geom.Vec3{}, 0.4)
	b.opt.Backing, b.opt.Gradient = BackGradient, Gradient{Top: geom.Splat(5), Foot: geom.Splat(5)}
	f := b.render(t, 16)
	if got, _ := meanOf(f, film.Beauty); got != 0 {
		t.Errorf("in the dark the wall is %g", got)
	}
}

// A picture covers the frame, its middle in the middle of that, and what is too much at two
// sides is cut; it is as bright as it says, and lies over no pixel twice.
func TestAPictureBehind(t *testing.T) {
	img := scene.Image{W: 80, H: 80, Pix: make([]byte, 4*80*80)}
	for y := range 80 {
		for x := range 80 {
			copy(img.Pix[4*(y*80+x):], []byte{byte(3 * x), byte(3 * y), 0, 255})
		}
	}
	b := newBench(40, 20)
	b.part("floor", quad(geom.V(-1, -50, 1), geom.V(2, 0, 0), geom.V(0, 0, -2)), b.finish(matte(0.5)))
	b.camera(geom.V(0.3, 0.2, 4), geom.V(0.1, 0, 0), 0.4)
	b.opt.Backing, b.opt.Plate, b.opt.PlateStrength = BackPicture, &img, 2
	f := b.render(t, 64)
	for _, p := range [][2]int{{0, 0}, {39, 0}, {20, 10}, {0, 19}, {13, 7}} {
		s, i := f.At(p[0], p[1])
		px := s.Pixel(i)
		// Two pixels of the picture to one of the frame; twenty rows are cut off at either side.
		red, green := 3*(2*float64(p[0])+0.5), 3*(2*float64(p[1])+20.5)
		for c, v := range []float64{red, green} {
			want := 2 * float64(colour.DecodeSRGB(float32(v/255)))
			if got := float64(px[film.Beauty+c] / px[film.Weight]); math.Abs(got-want) > 0.02*want+0.01 {
				t.Errorf("pixel %v, channel %d is %g, want %g", p, c, got, want)
			}
		}
	}
	b.opt.Plate = nil
	if got, _ := meanOf(b.render(t, 1), film.Beauty); got != 0 {
		t.Errorf("without a picture it is %g", got)
	}
}
