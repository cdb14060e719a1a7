package noise

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/film"
)

// untold is what halves do not tell of the error of a denoised picture, as a share of
// what they do: measured over the set-ups of docs/rendering.md.
const untold = 1. / 2

// OfDenoised measures the error that is left in a tile of which an amount of the noise
// was taken out, 0 to 1, in percent as OfTile does: clean are the sums of the tile that
// denoise.Order.Run made. Noise that was not taken out counts, and so does light that was
// wrongly spread, as far as the halves tell it: half A of the clean picture is
// independent of the noise of half B of the plain one, so the mean of (Fa-B)² is the
// squared error of Fa and the variance of B, and that of (A-B)² twice that variance
// (Rousselle et al. 2013). Over a tile that is known to about a tenth of the plain noise.
// Luminances are compared, and brought to what is displayed by its slope at the denoised
// one: the curve itself would make a bias of strong noise. Where light of one half was
// spread by what the other has of it, the two agree by more than they should: for that
// half of it is added, by the amount, as was measured.
// It is infinite while a half has no sample, and NaN of a tile that was not denoised.
func (v View) OfDenoised(plain, clean *film.Tile, amount float64) float64 {
	switch {
	case plain.Samples < 2:
		return math.Inf(1)
	case clean.Samples == 0:
		return math.NaN()
	}
	gain := v.gain()
	kept, sparks := clean.Layout.Place(film.KeptPlane)
	t := float32(amount)
	var left, spread float64
	n := 0
	for i := range plain.Rect.Dx() * plain.Rect.Dy() {
		pa, pb, ok := plain.Halves(i)
		ca, cb, ok2 := clean.Halves(i)
		if !ok || !ok2 {
			continue
		}
		// Sparks that are not in the picture are not in what it is held against either.
		a, b := colour.Luminance(pa), colour.Luminance(pb)
		if sparks {
			px := clean.Pixel(i)
			a, b = a*px[kept], b*px[kept+1]
		}
		fa, fb := colour.Luminance(pa.Lerp(ca, t)), colour.Luminance(pb.Lerp(cb, t))
		slope := v.slope((fa+fb)/2, gain)
		square := func(x float32) float64 { return float64(x) * float64(x) * slope * slope }
		left += (square(fa-b)+square(fb-a)-square(a-b))/2 - square(fa-fb)/4
		spread += square(fa-fb) / 4
		n++
	}
	if n == 0 {
		return math.Inf(1)
	}
	return (1 + untold*amount) * 100 * math.Sqrt(max(left, spread)/float64(n))
}

// slope is how much what is displayed changes with luminance.
func (v View) slope(lum, gain float32) float64 {
	h := max(lum*0.02, 1e-4)
	show := func(l float32) float64 { return float64(colour.EncodeSRGB(v.Transform.Tone(max(0, l) * gain))) }
	return (show(lum+h) - show(lum-h)) / float64(2*h)
}

// OfDenoisedFrame is the 95th percentile over the tiles of a film and of the one that
// denoise.Order.Run made of it.
func (v View) OfDenoisedFrame(plain, clean *film.Film, amount float64) float64 {
	tiles := make([]float64, len(plain.Tiles))
	for i := range tiles {
		plain.Look(func() { tiles[i] = v.OfDenoised(&plain.Tiles[i], &clean.Tiles[i], amount) })
	}
	return OfFrame(tiles)
}
