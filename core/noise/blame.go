package noise

import (
	"cmp"
	"image"
	"math"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
)

// Blame says what the noise of an area comes from.
type Blame struct {
	// Noise is the root mean square over the area of the standard error of what is shown, in
	// percent of display white, before noise is taken out.
	Noise float64
	// Lights are by element in their order: one of each, and Rest last, which no element
	// explains. Empty where the film does not keep lights apart by halves.
	Lights []Share
	// Sources are by film.Source in their order: of each, its share in those pixels that keep it,
	// so that all sum to one within their errors. Empty where the film keeps none.
	Sources []Share
	// Parts are by what is seen at a pixel, the largest share first; Rest is where no part is.
	Parts []Share
}

// Share is how much of the variance one source brings, 0 to 1, and its standard error. It can
// lie below 0 within that, and truly where a source takes away what another adds.
type Share struct {
	Of           int // element, film.Source or part; Rest for none
	Share, Error float64
}

// Rest is what is left when all else is named.
const Rest = -1

// mostLooked is how many pixels of an area are looked at: of a larger one, some that are spread
// over it, which tell shares as well.
const mostLooked = 1 << 19

// fewestSamples a tile has that is looked at: with fewer, halves tell nothing.
const fewestSamples = 2

// Blame splits the variance of what is shown in an area of the frame. With d the difference of
// the displayed luminances of two independent halves of the samples, linear in the light by the
// slope of the display transform at their mean, and d_e that of element e alone, the sum over
// pixels of d_e d over that of d^2 estimates (Var e + the covariances of e with the others) /
// Var: the shares of all elements sum to one. Errors are of a ratio of sums over pixels (Cochran
// 1977, 6.4), which are sampled independently.
func (v View) Blame(f *film.Film, area image.Rectangle) Blame {
	area = area.Intersect(f.Window)
	skip := 1 + (area.Dx()*area.Dy()-1)/mostLooked
	for f.Layout.Sources() > 0 && common(skip, f.Layout.Sources()) > 1 { // or some sources would never be looked at
		skip++
	}
	places := elementHalves(&f.Layout)
	var lights, parts split
	sources := make([]split, f.Layout.Sources())
	var all float64
	var pixels int
	for i := range f.Tiles {
		t := &f.Tiles[i]
		r := f.Rect(i).Intersect(area)
		if r.Empty() {
			continue
		}
		f.Locked(func() {
			if t.Samples < fewestSamples {
				return
			}
			n, sum := v.blameTile(t, r, skip, places, &lights, &parts, sources)
			pixels, all = pixels+n, all+sum
		})
	}
	b := Blame{}
	if pixels == 0 || !(all > 0) {
		return b
	}
	b.Noise = 100 * math.Sqrt(all/4/float64(pixels))
	if len(places) > 0 {
		b.Lights = lights.shares()
		b.Lights[len(places)].Of = Rest
	}
	for k := range sources {
		s := Share{Of: k}
		if of := &sources[k]; len(of.sources) > 0 {
			s.Share, s.Error = of.share(0)
		}
		b.Sources = append(b.Sources, s)
	}
	b.Parts = parts.shares()
	for i := range b.Parts {
		b.Parts[i].Of--
	}
	b.Parts = slices.DeleteFunc(b.Parts, func(p Share) bool { return p.Share == 0 })
	Largest(b.Parts)
	return b
}

// common is the greatest common divisor (Euclid).
func common(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// Largest puts the largest shares first.
func Largest(all []Share) {
	slices.SortStableFunc(all, func(x, y Share) int { return cmp.Compare(y.Share, x.Share) })
}

// elementHalves are the places of the elements' sums, each with its half A behind it.
func elementHalves(l *film.Layout) (out []int) {
	for _, p := range l.Planes() {
		if p.Of == film.ElementLight && p.Halves && !p.Twin {
			at, _ := l.Place(p.Name)
			out = append(out, at)
		}
	}
	return out
}

// Primes, so that those which are looked at of many pixels lie in no rows or columns.
const spreadX, spreadY = 7919, 104729

// blameTile adds one of so many pixels of a tile within r; of parts, 0 is where none is.
func (v View) blameTile(t *film.Tile, r image.Rectangle, skip int, places []int, lights, parts *split, sources []split) (pixels int, squares float64) {
	gain := v.gain()
	wide := t.Rect.Dx()
	source, _ := t.Layout.Place(film.SourceName)
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if (x*spreadX+y*spreadY)%skip != 0 {
				continue
			}
			i := (y-t.Rect.Min.Y)*wide + x - t.Rect.Min.X
			a, b, ok := t.Halves(i)
			if !ok {
				continue
			}
			pixels++
			la, lb := colour.Luminance(a), colour.Luminance(b)
			slope := v.slope((la+lb)/2, gain)
			d := float64(la-lb) * slope
			if d == 0 || math.IsNaN(d) || math.IsInf(d, 0) {
				continue
			}
			squares += d * d
			px := t.Pixel(i)
			rest := d
			for e, at := range places {
				de := halvesApart(px, at) * slope
				rest -= de
				lights.add(e, de*d, d*d)
			}
			lights.add(len(places), rest*d, d*d)
			lights.of(d * d)
			if len(sources) > 0 {
				s := &sources[film.SourceAt(x, y, len(sources))]
				s.add(0, apart(px, px[source], px[source+1])*slope*d, d*d)
				s.of(d * d)
			}
			seen := 1.0
			if whole := float64(t.Covered(i)); whole > 0 && t.Heads != nil {
				for e := t.Heads[i]; e >= 0; e = t.Entries[e].Next {
					share := max(0, float64(t.Entries[e].Weight)) / whole
					seen -= share
					parts.add(int(t.Entries[e].Part)+1, share*d*d, d*d)
				}
			}
			parts.add(0, max(0, seen)*d*d, d*d)
			parts.of(d * d)
		}
	}
	return pixels, squares
}

// halvesApart is the luminance of half A less that of half B of an element's sums at a place.
func halvesApart(px []float32, at int) float64 {
	of := func(at int) float32 { return colour.Luminance(geom.V(px[at], px[at+1], px[at+2])) }
	return apart(px, of(at), of(at+3))
}

// apart is the mean of half A less that of half B, of what a pixel sums to in both and in A.
func apart(px []float32, both, a float32) float64 {
	wa, wb := px[film.WeightA], px[film.Weight]-px[film.WeightA]
	return float64(a/wa - (both-a)/wb)
}

// split adds up what each of some sources brings of wholes, and how that spreads.
type split struct {
	sources       []spread
	total, square float64 // of the wholes
}

// spread are sums over a source's products: of them, of their squares, and of them times
// their wholes.
type spread struct{ sum, square, cross float64 }

// add says that a source brings so much of a whole: once at most of each.
func (s *split) add(source int, product, whole float64) {
	if n := source + 1 - len(s.sources); n > 0 {
		s.sources = append(s.sources, make([]spread, n)...)
	}
	v := &s.sources[source]
	v.sum, v.square, v.cross = v.sum+product, v.square+product*product, v.cross+product*whole
}

// of says that there is a whole.
func (s *split) of(whole float64) { s.total, s.square = s.total+whole, s.square+whole*whole }

// shares are those of the sources in their order.
func (s *split) shares() (out []Share) {
	for k := range s.sources {
		r, e := s.share(k)
		out = append(out, Share{Of: k, Share: r, Error: e})
	}
	return out
}

// share is that of one source, and its error.
func (s *split) share(source int) (share, off float64) {
	v := &s.sources[source]
	r := v.sum / s.total
	spread := v.square - 2*r*v.cross + r*r*s.square
	return r, math.Sqrt(max(0, spread)) / s.total
}
