// Package noise measures noise as people see it and decides when a tile is
// clean enough.
//
// The noise of a block of 8 x 8 pixels is the root mean square over its
// pixels of |A-B|/2, where A and B are the displayed luminances (at the
// ticket's exposure and display transform, 0..1) of the two independent
// halves of the samples: an estimate of the standard error of the mean of
// both (Dammertz et al. 2010), in percent of display white. The noise of a
// tile is the 95th percentile of its blocks, that of a frame the 95th
// percentile of its tiles.
package noise

import (
	"math"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
)

const (
	block      = 8
	percentile = 0.95 // of blocks
)

// OfFrameShare is the percentile over tiles that the noise of a frame is.
const OfFrameShare = 0.95

// View is how the picture is looked at when its noise is measured.
type View struct {
	Exposure  float64
	Transform colour.Transform
}

// OfTile measures a tile in percent; of a picture with a twin, the noisier of the two. It
// is infinite while a half has no sample.
func (v View) OfTile(t *film.Tile) float64 {
	if t.Samples < 2 {
		return math.Inf(1)
	}
	n := v.ofHalves(t, t.Halves)
	if t.Layout.HasTwin() {
		n = max(n, v.ofHalves(t, t.TwinHalves))
	}
	return n
}

func (v View) ofHalves(t *film.Tile, halves func(i int) (a, b geom.Vec3, ok bool)) float64 {
	gain := v.gain()
	w, h := t.Rect.Dx(), t.Rect.Dy()
	blocks := make([]float64, 0, 16)
	for by := 0; by < h; by += block {
		for bx := 0; bx < w; bx += block {
			var sum float64
			n := 0
			for y := by; y < min(by+block, h); y++ {
				for x := bx; x < min(bx+block, w); x++ {
					a, b, ok := halves(y*w + x)
					if !ok {
						continue
					}
					d := float64(v.shown(a, gain)-v.shown(b, gain)) / 2
					sum += d * d
					n++
				}
			}
			if n > 0 {
				blocks = append(blocks, 100*math.Sqrt(sum/float64(n)))
			}
		}
	}
	return Percentile(blocks, percentile)
}

func (v View) gain() float32 { return colour.Gain(v.Exposure) }

// Shown is how light a colour is displayed, 0 to 1.
func (v View) Shown(c geom.Vec3) float32 { return v.shown(c, v.gain()) }

func (v View) shown(c geom.Vec3, gain float32) float32 { return v.lit(colour.Luminance(c), gain) }

// lit is how light a luminance is shown.
func (v View) lit(lum, gain float32) float32 { return colour.EncodeSRGB(v.Transform.Tone(lum * gain)) }

// Percentile sorts x and returns its value at share p; 0 for none.
func Percentile(x []float64, p float64) float64 {
	if len(x) == 0 {
		return 0
	}
	slices.Sort(x)
	return x[min(int(math.Ceil(p*float64(len(x))))-1, len(x)-1)]
}

// OfFilm is the noise of a film: that of the frame of its tiles.
func (v View) OfFilm(f *film.Film) float64 {
	tiles := make([]float64, len(f.Tiles))
	for i := range tiles {
		f.Locked(func() { tiles[i] = v.OfTile(&f.Tiles[i]) })
	}
	return OfFrame(tiles)
}

// OfFrame is the 95th percentile over tiles.
func OfFrame(tiles []float64) float64 {
	return Percentile(slices.Clone(tiles), OfFrameShare)
}

// Stop is when to stop.
type Stop struct {
	Least, Most int     // samples per pixel
	Target      float64 // percent; 0 never stops early
}

// NeighbourSlack is how much noisier than the target a neighbour may be before
// it keeps a quiet tile going: a rarely hit highlight is seen next door first.
const NeighbourSlack = 2

// Settled reports for each tile of a grid whether it may stop, from the noise
// of all tiles at one moment. Every tile that is not Stopped has the given
// number of samples.
func (s Stop) Settled(f *film.Film, samples int, noise []float64) []bool {
	out := make([]bool, len(f.Tiles))
	for i := range f.Tiles {
		if f.Tiles[i].Stopped || samples >= s.Most {
			out[i] = true
			continue
		}
		if samples < s.Least || s.Target <= 0 || !(noise[i] <= s.Target) {
			continue
		}
		quiet := true
		for k := range f.Near(i, 1) {
			quiet = quiet && noise[k] <= s.Target*NeighbourSlack
		}
		out[i] = quiet
	}
	return out
}

// RootFall is the power of the number of samples by which noise falls that is left as it is; what
// is left where it is taken out falls by less.
const RootFall = 0.5

// Needed forecasts the samples a tile needs to reach the target, where noise falls by a power of
// their number.
func (s Stop) Needed(samples int, noise, fall float64) int {
	if s.Target <= 0 || math.IsInf(noise, 0) {
		return s.Most
	}
	n := float64(samples) * math.Pow(noise/s.Target, 1/fall)
	return min(max(int(math.Ceil(min(n, float64(s.Most)))), s.Least), s.Most)
}

// Boundary is the sample count at the end of round r: doubling to Least, then
// growing by about a third, so that few samples are spent past the target;
// always even, so that both halves are of one size, and never beyond Most.
func (s Stop) Boundary(r int) int {
	n := 1
	for ; r > 0 && n < s.Most; r-- {
		if n < s.Least {
			n = min(n*2, max(s.Least, 2))
		} else {
			n += max(2, n/3)
		}
		n += n & 1
	}
	return min(n, s.Most)
}
