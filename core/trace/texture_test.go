package trace

import (
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

func TestSmallerSizesAreMeansOfLight(t *testing.T) {
	img := &scene.Image{W: 3, H: 2, Pix: []byte{
		0, 0, 0, 0, 255, 255, 0, 255, 10, 10, 10, 255,
		0, 0, 0, 255, 255, 255, 0, 255, 10, 10, 10, 255,
	}}
	c, _ := newChain(t.Context(), img, true)
	if len(c) != 2 || c[1].w != 1 || c[1].h != 1 {
		t.Fatalf("%d sizes", len(c))
	}
	lin := (0 + 1 + float64(10)/255/12.92) / 3
	want := byte((1.055*math.Pow(lin, 1/2.4)-0.055)*255 + 0.5)
	if got := c[1].pix; got[0] != want || got[3] != 213 {
		t.Errorf("colour: %v, want red %d", got, want)
	}
	if flat, _ := newChain(t.Context(), img, false); flat[1].pix[0] != 88 {
		t.Errorf("numbers: %d", flat[1].pix[0])
	}
}

func TestLog2(t *testing.T) {
	for x := 1e-3; x < 1e9; x *= 1.1 {
		if d := math.Abs(float64(log2(float32(x))) - math.Log2(x)); d > 0.01 {
			t.Fatalf("log2 of %g is off by %g", x, d)
		}
	}
}

// checkered is a wall with a pattern of black and white squares, n of them along a side.
func checkered(b *bench, n float32, distance float32) {
	f := matte(0)
	f.Emission = geom.Splat(1)
	pix := make([]byte, 64*64*4)
	for i := range 64 * 64 {
		v := byte(255 * ((i>>5 ^ i>>11) & 1))
		copy(pix[i*4:], []byte{v, v, v, 255})
	}
	b.s.Images = append(b.s.Images, scene.Image{Name: "squares", W: 64, H: 64, Pix: pix})
	f.EmissionTexture = scene.Texture{Image: len(b.s.Images) - 1, Transform: [6]float32{n / 2, 0, 0, 0, n / 2, 0}}
	m := quad(geom.V(-1, -1, -distance), geom.V(2, 0, 0), geom.V(0, 2, 0))
	m.UV[0] = [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}}
	b.part("wall", m, b.finish(f))
}

// Squares far smaller than a pixel are grey in every pixel at a single sample,
// of half the light; squares of many pixels stay black and white.
func TestSmallPatternsNeitherAliasNorBlur(t *testing.T) {
	for _, c := range []struct {
		squares, far, least float64
	}{{4000, 0.02, 0}, {8, 0, 0.8}} {
		b := newBench(64, 64)
		b.opt.Camera = Camera{World: geom.Identity(), YFov: float32(2 * math.Atan(1.0/3))}
		checkered(b, float32(c.squares), 3)
		f := b.render(t, 1)
		extreme, n := 0.0, 0.0
		for i := range f.Tiles {
			tile := &f.Tiles[i]
			for k := range tile.Rect.Dx() * tile.Rect.Dy() {
				v := float64(tile.Pixel(k)[film.Beauty])
				if math.Abs(v-0.5) > 0.49 {
					extreme++
				}
				if c.least == 0 && math.Abs(v-0.5) > c.far {
					t.Fatalf("%v squares: a pixel of %v", c.squares, v)
				}
				n++
			}
		}
		if share := extreme / n; share < c.least {
			t.Errorf("%v squares: only %.2f of the pixels are black or white", c.squares, share)
		}
	}
}

// A mirror shows a pattern as blurred as its image is far, not as the mirror is.
func TestConesGoOnAfterAMirror(t *testing.T) {
	c := cone{0, 0.01}
	if got := c.bounced(2, 0).at(3); math.Abs(float64(got)-0.05) > 1e-6 {
		t.Errorf("width %v after 5 units, want 0.05", got)
	}
	if rough := c.bounced(2, 0.5).at(3); rough < 0.5 {
		t.Errorf("width %v after a rough bounce", rough)
	}
}
