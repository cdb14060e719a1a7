package noise

import (
	"image"
	"math"

	"amberproof/core/colour"
	"amberproof/core/film"
)

// Untold is what halves do not tell of the error of a denoised picture, as a share of what
// they do: the weights of one half favour what noise has made alike in it. Measured as
// docs/rendering.md says.
const Untold = 0.6

// Taken is what was taken out of a picture: an amount of its noise, 0 to 1, or of its sparks
// alone.
type Taken struct {
	Amount float64
	Sparks bool
}

// untold is what halves do not tell: nothing where light of neither is spread.
func (t Taken) untold() float64 {
	if t.Sparks {
		return 0
	}
	return Untold * t.Amount
}

// leftBlocks is how many blocks across, around a tile, count for what is left in it: with
// fewer pixels than four times its own the plain noise would drown it.
const leftBlocks = 2 * film.TileSize / block

// OfDenoised measures the error that is left in every tile of a film of which noise was
// taken out, in percent as OfTile does: clean is the film that
// denoise.Order.Run made. Noise that was not taken out counts, and so does light that was
// wrongly spread, as far as the halves tell it: half A of the clean picture is
// independent of the noise of half B of the plain one, so the mean of (Fa-B)² is the
// squared error of Fa and the variance of B, and that of (A-B)² twice that variance
// (Rousselle et al. 2013). Over the tile and half a tile around it that is known to about a
// tenth of the plain noise.
// Luminances are compared, and brought to what is displayed by its slope at the denoised
// one: the curve itself would make a bias of strong noise. Where light of one half was
// spread by what the other has of it, the two agree by more than they should: for that
// untold is added, by the amount. The light that was taken out with sparks is missing: what
// it is in the mean over a block counts as an error of each of its pixels.
// It is infinite while a half has no sample, and NaN of a tile that was not denoised.
// Of a picture with a twin, it is that of the one in which more is left.
func (v View) OfDenoised(plain, clean *film.Film, taken Taken) []float64 {
	out := v.ofDenoised(plain, clean, taken)
	if twin := plain.Twin(); twin != nil {
		for i, n := range v.ofDenoised(twin, clean.Twin(), taken) {
			out[i] = max(out[i], n)
		}
	}
	return out
}

func (v View) ofDenoised(plain, clean *film.Film, taken Taken) []float64 {
	w := plain.Window
	across, down := (w.Dx()+block-1)/block, (w.Dy()+block-1)/block
	blocks := make([]remains, across*down)
	samples := make([]int, len(plain.Tiles)) // read once: the film may gain some meanwhile
	for i := range plain.Tiles {
		plain.Locked(func() {
			p, c := &plain.Tiles[i], &clean.Tiles[i]
			if samples[i] = p.Samples; samples[i] >= 2 && c.Samples > 0 {
				v.addRemains(blocks, across, w.Min, p, c, float32(taken.Amount))
			}
		})
	}
	for i := range blocks {
		v.miss(&blocks[i])
	}
	out := make([]float64, len(plain.Tiles))
	for i := range out {
		switch {
		case samples[i] < 2:
			out[i] = math.Inf(1)
		case clean.Tiles[i].Samples == 0:
			out[i] = math.NaN()
		default:
			at := plain.Rect(i).Min.Sub(w.Min).Div(block).Sub(image.Pt(leftBlocks/4, leftBlocks/4))
			left, top := max(0, min(at.X, across-leftBlocks)), max(0, min(at.Y, down-leftBlocks))
			var all remains
			for y := top; y < min(down, top+leftBlocks); y++ {
				for x := left; x < min(across, left+leftBlocks); x++ {
					all.add(&blocks[y*across+x])
				}
			}
			out[i] = all.noise(taken.untold())
		}
	}
	return out
}

// remains are sums over the pixels of a block, or of several, that tell what is left of
// their noise.
type remains struct {
	left, spread float64 // squares: of what both are off by, and of what they are known to differ by
	missing      float64 // squares, of light that was taken out
	n            float64
	// Of the pixels of one block: their light, that which was taken out, and its squares.
	light, out, outSquares float64
}

func (r *remains) add(o *remains) {
	r.left, r.spread, r.missing, r.n = r.left+o.left, r.spread+o.spread, r.missing+o.missing, r.n+o.n
}

// miss tells how much of what a block shows is missing.
func (v View) miss(r *remains) {
	// The square of the mean light that is missing, without bias: of the products of all
	// pixels with each other, those of one with itself tell of chance alone.
	if square := r.out*r.out - r.outSquares; square > 0 {
		gain, light := v.gain(), float32(r.light/r.n)
		d := float64(v.lit(light+float32(math.Sqrt(square)/r.n), gain) - v.lit(light, gain))
		r.missing = d * d * r.n
	}
}

// noise is in percent; infinite of no pixels.
func (r *remains) noise(untold float64) float64 {
	if r.n == 0 {
		return math.Inf(1)
	}
	return 100 * (1 + untold) * math.Sqrt((max(r.left, r.spread)+r.missing)/r.n)
}

// addRemains adds the pixels of a tile to their blocks.
func (v View) addRemains(blocks []remains, across int, origin image.Point, plain, clean *film.Tile, amount float32) {
	gain := v.gain()
	kept, sparks := clean.Layout.Place(film.KeptPlane)
	wide := plain.Rect.Dx()
	for i := range wide * plain.Rect.Dy() {
		pa, pb, ok := plain.Halves(i)
		ca, cb, ok2 := clean.Halves(i)
		if !ok || !ok2 {
			continue
		}
		// Sparks that are not in the picture are not in what it is held against either.
		a, b := colour.Luminance(pa), colour.Luminance(pb)
		wholeA, wholeB := a, b
		if sparks {
			px := clean.Pixel(i)
			a, b = a*px[kept], b*px[kept+1]
		}
		fa, fb := colour.Luminance(pa.Lerp(ca, amount)), colour.Luminance(pb.Lerp(cb, amount))
		slope := v.slope((fa+fb)/2, gain)
		square := func(x float32) float64 { return float64(x) * float64(x) * slope * slope }
		at := plain.Rect.Min.Add(image.Pt(i%wide, i/wide)).Sub(origin)
		r := &blocks[at.Y/block*across+at.X/block]
		r.left += (square(fa-b)+square(fb-a)-square(a-b))/2 - square(fa-fb)/4
		r.spread += square(fa-fb) / 4
		missing := float64(amount * (wholeA - a + wholeB - b) / 2)
		r.light, r.out, r.outSquares = r.light+float64((fa+fb)/2), r.out+missing, r.outSquares+missing*missing
		r.n++
	}
}

// slope is how much what is displayed changes with luminance.
func (v View) slope(lum, gain float32) float64 {
	h := max(lum*0.02, 1e-4)
	return float64(v.lit(max(0, lum+h), gain)-v.lit(max(0, lum-h), gain)) / float64(2*h)
}

// OfDenoisedFrame is the 95th percentile over the tiles of a film and of the one that
// denoise.Order.Run made of it.
func (v View) OfDenoisedFrame(plain, clean *film.Film, taken Taken) float64 {
	return OfFrame(v.OfDenoised(plain, clean, taken))
}
