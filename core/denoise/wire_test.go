package denoise

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
)

// wired makes a film of a ground with a thin wire across it, width pixels wide: every sample
// falls on the one or the other, by chance, and guides are as noisy as that.
func wired(w, h, samples int, width, slope float64, seed uint64) *film.Film {
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
					light, m.Guide = 2, wire
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

// A wire thinner than a pixel keeps most of its light: what is gone with it is what few
// samples make of it, and less of more.
func TestWiresKeepTheirLight(t *testing.T) {
	const w, h, ground, wide = 160, 96, 0.2, 9 // pixels around the wire that its light may be spread over
	for _, c := range []struct {
		samples int
		slope   float64
		least   float64 // share of the light of the plain picture
	}{{4, 0.03, 0.64}, {4, 0.37, 0.64}, {16, 0.03, 0.85}, {16, 0.37, 0.85}} {
		var kept, plain float64
		for seed := range uint64(4) {
			f := wired(w, h, c.samples, 0.3, c.slope, seed)
			out := clean(t, f, 0, 2)
			for y := range h {
				for x := 12; x < w-12; x++ {
					if math.Abs(float64(y)-h/2-c.slope*(float64(x)-w/2)) > wide {
						continue
					}
					s, i := out.At(x, y)
					made, _ := s.Light(i)
					s, i = f.At(x, y)
					was, _ := s.Light(i)
					kept, plain = kept+float64(made.Y)-ground, plain+float64(was.Y)-ground
				}
			}
		}
		if share := kept / plain; share < c.least || share > 1.1 {
			t.Errorf("%d samples, slope %.2f: %.3f of the light of a wire is left", c.samples, c.slope, share)
		}
	}
}
