package denoise

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
)

// wired makes a film of a ground with a thin wire of some light across it, width pixels wide:
// every sample falls on the one or the other, by chance, and guides are as noisy as that.
func wired(w, h, samples int, width, slope, bright float64, seed uint64) *film.Film {
	l := film.NewLayout(true, film.ElementPlane(0, true), film.ElementPlane(1, true), film.GuidePlane)
	f := film.New(image.Rect(0, 0, w, h), l)
	r := rand.New(rand.NewPCG(seed, 2))
	on := func(x, y float64) bool {
		return math.Abs(y-float64(h)/2-slope*(x-float64(w)/2)) < width/2*math.Hypot(1, slope)
	}
	ground, wire := film.Guide{Albedo: geom.Splat(0.4), Normal: geom.V(0, 1, 0), Far: 2}, film.Guide{Albedo: geom.Splat(0.8), Normal: geom.V(0, 0, 1), Far: 1}
	for k := range f.Tiles {
		p := &film.Patch{Tile: k, To: samples, Sums: film.NewSums(f.Rect(k), f.Layout)}
		for i := range p.Rect.Dx() * p.Rect.Dy() {
			x, y := p.Rect.Min.X+i%p.Rect.Dx(), p.Rect.Min.Y+i/p.Rect.Dx()
			for s := range samples {
				m := film.Sample{Weight: 1, Even: s&1 == 0, Alpha: 1, Part: film.NoPart, Guide: ground}
				light := 0.2
				if on(float64(x)+r.Float64(), float64(y)+r.Float64()) {
					light, m.Guide = bright, wire
				}
				m.Light = geom.Splat(float32(light * (1 + 0.3*(r.ExpFloat64()-1))))
				m.Elements = append(m.Elements, m.Light, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{})
				p.Add(i, &m)
			}
		}
		if _, err := f.Take(p); err != nil {
			panic(err)
		}
	}
	return f
}

// A wire thinner than a pixel keeps its light, and so does an element that has all of it. Of
// one that is darker than what is behind it, the noise of that hides more at few samples.
func TestWiresKeepTheirLight(t *testing.T) {
	const w, h, ground, wide = 160, 96, 0.2, 9 // pixels around the wire that its light may be spread over
	for _, c := range []struct {
		samples        int
		width, slope   float64
		bright, within float64 // light of the wire, and how near its share must come to one
	}{
		{4, 0.3, 0.03, 2, 0.03}, {4, 0.3, 0.37, 2, 0.03}, {16, 0.3, 0.03, 2, 0.03}, {16, 0.3, 0.37, 2, 0.03},
		{4, 0.15, 0.2, 4, 0.03}, {4, 1, 0.2, 2, 0.03},
		{4, 0.3, 0.11, 0.02, 0.4}, {16, 0.3, 0.11, 0.02, 0.06},
	} {
		var plain, kept, element float64
		for seed := range uint64(2) {
			f := wired(w, h, c.samples, c.width, c.slope, c.bright, seed)
			out := clean(t, f, 0, 2)
			at, _ := out.Layout.Place(film.ElementName(0))
			for y := range h {
				for x := 12; x < w-12; x++ {
					if math.Abs(float64(y)-h/2-c.slope*(float64(x)-w/2)) > wide {
						continue
					}
					s, i := out.At(x, y)
					made, _ := s.Light(i)
					kept, element = kept+float64(made.Y)-ground, element+float64(s.Pixel(i)[at+1])-ground
					s, i = f.At(x, y)
					was, _ := s.Light(i)
					plain += float64(was.Y) - ground
				}
			}
		}
		if share := kept / plain; math.Abs(share-1) > c.within {
			t.Errorf("%+v: %.3f of the light of the wire is left", c, share)
		}
		if math.Abs(element/kept-1) > 1e-3 {
			t.Errorf("%+v: its element has %.3f of that", c, element/kept)
		}
	}
}
