package finish

import (
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

func TestShownDividesByAlphaAndEncodes(t *testing.T) {
	p := &Picture{W: 2, H: 1, R: []float32{0.107, 4}, G: []float32{0.107, 4}, B: []float32{0.107, 4}, A: []float32{0.5, 1}}
	f := Finish{Transform: colour.Plain}
	for bits, img := range map[int]image.Image{8: f.Shown(p), 16: f.Shown16(p)} {
		// 0.107/0.5 = 0.214 is mid grey, encoded 0.5; associated again by RGBA(): 0.25.
		r, _, _, a := img.At(0, 0).RGBA()
		if math.Abs(float64(r)/65535-0.25) > 0.004 || math.Abs(float64(a)/65535-0.5) > 0.004 {
			t.Errorf("%d bit: %v %v", bits, r, a)
		}
		if r, _, _, _ := img.At(1, 0).RGBA(); r != 65535 {
			t.Errorf("%d bit: white is %v", bits, r)
		}
	}
}

// Every pixel of a picture that is no whole number of tiles is what its colour alone is;
// numbers are only limited.
func TestTilesMakeOnePicture(t *testing.T) {
	const w, h = 2*tileSide + 7, tileSide + 3
	p := &Picture{W: w, H: h, R: make([]float32, w*h), G: make([]float32, w*h), B: make([]float32, w*h)}
	for i := range p.R {
		p.R[i], p.G[i], p.B[i] = float32(i%w)/w*1.4-0.1, float32(i/w)/h, float32(i%101)/101
	}
	p.R[3] = float32(math.NaN())
	f := Finish{Exposure: 0.7, Transform: colour.Filmic}
	img, fine := f.Shown(p), f.Shown16(p)
	for i := range p.R {
		if i == 3 {
			continue
		}
		c := f.Of(geom.V(p.R[i], p.G[i], p.B[i]))
		at, deep := img.NRGBAAt(i%w, i/w), fine.NRGBA64At(i%w, i/w)
		if at.R != byte(c.X*255+0.5) || at.G != byte(c.Y*255+0.5) || at.B != byte(c.Z*255+0.5) || at.A != 255 {
			t.Fatalf("pixel %d is %v, its colour is %v", i, at, c)
		}
		if deep.R != uint16(c.X*65535+0.5) || deep.B != uint16(c.Z*65535+0.5) || deep.A != 65535 {
			t.Fatalf("pixel %d is %v, its colour is %v", i, deep, c)
		}
	}
	p.Data = true
	img = f.Shown(p)
	for i, v := range p.R {
		if at := img.NRGBAAt(i%w, i/w); at.R != byte(unit(v)*255+0.5) {
			t.Fatalf("number %g is %v", v, at)
		}
	}
}

func TestClipping(t *testing.T) {
	p := &Picture{W: 5, H: 1, R: []float32{0, 0, 3, 0.2, 0}, G: []float32{0, 0.2, 0.1, 0.2, 0}, B: []float32{0, 0, 0, 0.2, 0}, A: []float32{1, 1, 1, 1, 0}}
	if c := ClippingOf(Finish{Transform: colour.Plain}.Shown(p)); c != (Clipping{0.25, 0.25}) {
		t.Errorf("of four pixels one is clipped and one crushed, not %+v", c)
	}
}
