package noise

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
)

// sampled is a film of two elements, the left half of one part and the right of another, with
// noise of given deviations of the elements there.
func sampled(n int, halves bool, left, right [2]float64) *film.Film {
	return seeded(1, 64, n, halves, left, right)
}

func seeded(seed uint64, height, n int, halves bool, left, right [2]float64) *film.Film {
	f := film.New(image.Rect(0, 0, 64, height), film.NewLayout(true, film.ElementPlane(0, halves), film.ElementPlane(1, halves)))
	r := rand.New(rand.NewPCG(3, seed))
	for i := range f.Tiles {
		t := &f.Tiles[i]
		for k := range t.Rect.Dx() * t.Rect.Dy() {
			part, sd := int32(4), left
			if t.Rect.Min.X+k%t.Rect.Dx() >= 32 {
				part, sd = 7, right
			}
			for s := range n {
				a, b := 0.2+sd[0]*r.NormFloat64(), 0.1+sd[1]*r.NormFloat64()
				e := []geom.Vec3{geom.Splat(float32(a)), geom.Splat(float32(b))}
				t.Add(k, &film.Sample{Weight: 1, Even: s&1 == 0, Light: e[0].Add(e[1]), Alpha: 1, Elements: e, Part: part})
			}
		}
		t.Samples = n
	}
	return f
}

func shareOf(all []Share, of int) Share {
	for _, s := range all {
		if s.Of == of {
			return s
		}
	}
	return Share{Of: of}
}

// Elements and parts get what they were given: of variances, which add up.
func TestBlameOfKnownVariances(t *testing.T) {
	v := View{Transform: colour.Plain}
	f := sampled(16, true, [2]float64{0.06, 0.02}, [2]float64{0.01, 0.02})
	b := v.Blame(f, image.Rect(0, 0, 64, 64))
	one, two := 0.06*0.06+0.01*0.01, 2*0.02*0.02
	for _, c := range []struct {
		what string
		got  Share
		want float64
	}{
		{"element 0", shareOf(b.Lights, 0), one / (one + two)}, {"element 1", shareOf(b.Lights, 1), two / (one + two)},
		{"part 4", shareOf(b.Parts, 4), (0.06*0.06 + 0.02*0.02) / (one + two)}, {"part 7", shareOf(b.Parts, 7), (0.01*0.01 + 0.02*0.02) / (one + two)},
	} {
		if math.Abs(c.got.Share-c.want) > 0.03 || c.got.Error > 0.03 {
			t.Errorf("%s: %.3f ± %.3f, want %.3f", c.what, c.got.Share, c.got.Error, c.want)
		}
	}
	if b.Parts[0].Of != 4 || len(b.Parts) != 2 {
		t.Errorf("parts %+v", b.Parts)
	}
	// The noise is that of both halves' mean, through the slope of the display.
	right := v.Blame(f, image.Rect(32, 0, 64, 64))
	h := 1e-3
	slope := float64(colour.EncodeSRGB(float32(0.3+h))-colour.EncodeSRGB(float32(0.3-h))) / (2 * h)
	want := 100 * slope * math.Sqrt((0.01*0.01+0.02*0.02)/16)
	if math.Abs(right.Noise/want-1) > 0.05 {
		t.Errorf("noise %.3f, want %.3f", right.Noise, want)
	}
	if len(right.Parts) != 1 || right.Parts[0].Of != 7 || math.Abs(right.Parts[0].Share-1) > 1e-9 {
		t.Errorf("parts of the right half: %+v", right.Parts)
	}
}

// The bars are true: over films of many seeds, shares lie as far from the truth as they say.
func TestBarsOfBlame(t *testing.T) {
	var light, part float64
	const n = 200
	for seed := range uint64(n) {
		b := View{Transform: colour.Plain}.Blame(seeded(seed, 16, 8, true, [2]float64{0.02, 0.01}, [2]float64{0.01, 0.01}), image.Rect(0, 0, 64, 16))
		l, p := shareOf(b.Lights, 0), shareOf(b.Parts, 7)
		zl, zp := (l.Share-5.0/7)/l.Error, (p.Share-2.0/7)/p.Error
		light, part = light+zl*zl/n, part+zp*zp/n
	}
	// Each is known to 1/sqrt(2 n) = 5 %. The bar of a part also holds that parts differ.
	if r := math.Sqrt(light); r < 0.8 || r > 1.25 {
		t.Errorf("shares of lights lie %.2f bars from the truth", r)
	}
	if r := math.Sqrt(part); r < 0.5 || r > 1.25 {
		t.Errorf("shares of parts lie %.2f bars from the truth", r)
	}
}

// Of an area with many pixels some are looked at, and tell the same.
func TestBlameOfALargeArea(t *testing.T) {
	v := View{Transform: colour.Plain}
	f := seeded(1, 3*mostLooked/64, 2, true, [2]float64{0.02, 0.01}, [2]float64{0.01, 0.01})
	b := v.Blame(f, f.Window)
	if l := shareOf(b.Lights, 0); math.Abs(l.Share-5.0/7) > 0.01 || l.Error > 0.003 {
		t.Errorf("%+v", l)
	}
	if p := shareOf(b.Parts, 7); math.Abs(p.Share-2.0/7) > 0.01 {
		t.Errorf("%+v", p)
	}
}

// Where nothing can be told, nothing is said.
func TestBlameOfNothing(t *testing.T) {
	v := View{Transform: colour.Plain}
	all := image.Rect(0, 0, 64, 64)
	for what, b := range map[string]Blame{
		"no noise":   v.Blame(sampled(4, true, [2]float64{}, [2]float64{}), all),
		"one sample": v.Blame(sampled(1, true, [2]float64{1, 1}, [2]float64{1, 1}), all),
		"outside":    v.Blame(sampled(4, true, [2]float64{1, 1}, [2]float64{1, 1}), image.Rect(100, 100, 200, 200)),
	} {
		if b.Noise != 0 || len(b.Lights) != 0 || len(b.Parts) != 0 {
			t.Errorf("%s: %+v", what, b)
		}
	}
	if b := v.Blame(sampled(4, false, [2]float64{0.1, 0.1}, [2]float64{0.1, 0.1}), all); len(b.Lights) != 0 || len(b.Parts) != 2 || b.Noise == 0 {
		t.Errorf("without halves of elements: %+v", b)
	}
}

func BenchmarkBlame(b *testing.B) {
	f := sampled(4, true, [2]float64{0.1, 0.1}, [2]float64{0.1, 0.1})
	for b.Loop() {
		View{Transform: colour.Filmic}.Blame(f, image.Rect(0, 0, 64, 64))
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/(64*64), "ns/pixel")
}
