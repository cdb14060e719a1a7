package noise

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
)

// even is a film of one tone without noise but for sparks: light of which half A of a pixel has
// seen so much more than half B, where spark says so; and the film of which they were taken
// out.
func even(side int, tone, more float32, spark func(x, y int) bool) (plain, clean *film.Film) {
	window := image.Rect(0, 0, side, side)
	plain, clean = film.New(window, film.Layout{}), film.New(window, film.NewLayout(false, film.Plane{Name: film.KeptPlane, Values: 2}))
	kept, _ := clean.Layout.Place(film.KeptPlane)
	for k := range plain.Tiles {
		p, c := &plain.Tiles[k], &clean.Tiles[k]
		p.Samples, c.Samples = 4, 4
		for i := range p.Rect.Dx() * p.Rect.Dy() {
			is := spark(p.Rect.Min.X+i%p.Rect.Dx(), p.Rect.Min.Y+i/p.Rect.Dx())
			for _, t := range []*film.Tile{p, c} {
				px := t.Pixel(i)
				px[film.Weight], px[film.WeightA] = 4, 2
				for n := range 3 {
					px[film.Beauty+n], px[film.BeautyA+n] = 4*tone, 2*tone
					if is && t == p {
						px[film.Beauty+n] += 2 * more
						px[film.BeautyA+n] += 2 * more
					}
				}
			}
			px := c.Pixel(i)
			px[kept], px[kept+1] = 1, 1
			if is {
				px[kept] = tone / (tone + more)
			}
		}
	}
	return plain, clean
}

// Light that was taken out with sparks is missing: its mean counts, as far as several sparks
// tell it; a single one in a block tells nothing but chance.
func TestWhatIsTakenOutWithSparksIsMissing(t *testing.T) {
	const tone, more, share = 0.2, 0.5, 1. / 16
	view := View{Transform: colour.Plain}
	// Half of the samples of one pixel in sixteen have seen it.
	want := 100 * float64(colour.EncodeSRGB(tone+share*more/2)-colour.EncodeSRGB(tone))

	r := rand.New(rand.NewPCG(3, 1))
	plain, clean := even(256, tone, more, func(int, int) bool { return r.Float64() < share })
	for taken, times := range map[Taken]float64{{Amount: 1, Sparks: true}: 1, {Amount: 1}: 1 + Untold} {
		var square float64
		left := view.OfDenoised(plain, clean, taken)
		for _, v := range left {
			square += v * v / float64(len(left))
		}
		if got := math.Sqrt(square); math.Abs(got/(times*want)-1) > 0.08 {
			t.Errorf("%+v: %.2f %% are told, %.2f are missing", taken, got, times*want)
		}
	}

	plain, clean = even(64, tone, more, func(x, y int) bool { return x%block == 3 && y%block == 5 })
	for i, v := range view.OfDenoised(plain, clean, Taken{Amount: 1}) {
		if v > 0.01 {
			t.Fatalf("tile %d: of one spark in each block %.2f %% are told", i, v)
		}
	}
}
