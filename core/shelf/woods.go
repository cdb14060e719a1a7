package shelf

import (
	"fmt"
	"math"
	"sync"

	"amberproof/core/scene"
)

// Size of the pictures of the shelf, pixels; they go on where they end.
const (
	PictureWidth  = 1024
	PictureHeight = 1024
)

// wood is how a wood looks that was sawn along its trunk: colours of its early and its late
// growth, sRGB, how many rings it has over the height of the picture, how wavy they are,
// and how dark its pores.
type wood struct {
	early, late [3]float64
	rings       float64
	wave, pores float64
	seed        uint32
}

var woods = map[string]wood{
	"Oak, boards":    {[3]float64{196, 158, 112}, [3]float64{150, 108, 68}, 52, 0.9, 0.35, 11},
	"Walnut, boards": {[3]float64{116, 82, 58}, [3]float64{66, 44, 31}, 36, 1.5, 0.22, 23},
	"Maple, boards":  {[3]float64{226, 198, 160}, [3]float64{200, 166, 124}, 28, 0.7, 0.06, 37},
	"Pine, boards":   {[3]float64{228, 192, 138}, [3]float64{184, 124, 70}, 24, 1.2, 0.04, 53},
}

// Pictures are the names of the pictures of the shelf.
var Pictures = []string{"Oak, boards", "Walnut, boards", "Maple, boards", "Pine, boards"}

var painted sync.Map // by name: func() *scene.Image, which paints it once

// Picture is a picture of the shelf, which must not be changed.
func Picture(name string) (*scene.Image, error) {
	w, ok := woods[name]
	if !ok {
		return nil, fmt.Errorf("the shelf has no picture %q", name)
	}
	paint, _ := painted.LoadOrStore(name, sync.OnceValue(func() *scene.Image { return w.paint(name) }))
	return paint.(func() *scene.Image)(), nil
}

func (w *wood) paint(name string) *scene.Image {
	img := &scene.Image{Name: name, W: PictureWidth, H: PictureHeight, Pix: make([]byte, 4*PictureWidth*PictureHeight)}
	for y := range img.H {
		for x := range img.W {
			u, v := float64(x)/float64(img.W), float64(y)/float64(img.H)
			// Rings run along the board and are bent by slow waves; the number over the height
			// is whole, so that the picture goes on.
			bend := w.wave * (noise(u*3, v*8, 3, 8, w.seed) + 0.4*noise(u*6, v*22, 6, 22, w.seed+1) - 0.7)
			ring := v*w.rings + bend
			ring -= math.Floor(ring)
			// Late growth darkens slowly and ends at once.
			late := math.Pow(ring, 2.2) * (1 - math.Pow(ring, 24))
			tone := 0.75*noise(u*2, v*10, 2, 10, w.seed+2) + 0.25*noise(u*9, v*180, 9, 180, w.seed+3)
			fibre := noise(u*24, v*512, 24, 512, w.seed+4)
			pore := 0.0
			if p := noise(u*48, v*440, 48, 440, w.seed+5); p > 0.72 {
				pore = (p - 0.72) / 0.28 * w.pores * (0.4 + 0.6*late)
			}
			k := 0.65*late + 0.35*tone
			px := img.Pix[4*(y*img.W+x):]
			for c := range 3 {
				value := w.early[c] + k*(w.late[c]-w.early[c])
				value *= (0.93 + 0.1*fibre) * (1 - pore)
				px[c] = byte(min(255, max(0, value)))
			}
			px[3] = 255
		}
	}
	return img
}

// noise is a smooth value noise from 0 to 1 that goes on after nx and ny cells.
func noise(x, y float64, nx, ny int, seed uint32) float64 {
	at := func(i, k int) float64 {
		i, k = (i%nx+nx)%nx, (k%ny+ny)%ny
		h := uint32(i)*374761393 + uint32(k)*668265263 + seed*2246822519
		h = (h ^ h>>13) * 1274126177
		h ^= h >> 16
		return float64(h&0xffff) / 0xffff
	}
	fx, fy := math.Floor(x), math.Floor(y)
	ease := func(t float64) float64 { return t * t * (3 - 2*t) }
	tx, ty, i, k := ease(x-fx), ease(y-fy), int(fx), int(fy)
	return (at(i, k)*(1-tx)+at(i+1, k)*tx)*(1-ty) + (at(i, k+1)*(1-tx)+at(i+1, k+1)*tx)*ty
}
