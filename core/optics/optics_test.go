package optics

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

func dir(cos, turn float32) geom.Vec3 {
	s, c := geom.SinCosTurn(turn)
	r := geom.Sqrt(1 - cos*cos)
	return geom.V(r*c, r*s, cos)
}

// surfaces of every kind, white: in an even white surround each must return
// exactly what arrives, whatever its roughness and the angle.
func whites() map[string]Surface {
	m := map[string]Surface{}
	for name, r := range map[string]float32{"polished": 0, "satin": 0.3, "brushed": 0.6, "rough": 1} {
		m["metal "+name] = Surface{Base: geom.Splat(1), Metallic: 1, Roughness: r, IOR: 1.5}
		m["plastic "+name] = Surface{Base: geom.Splat(1), Roughness: r, IOR: 1.5}
		m["half metal "+name] = Surface{Base: geom.Splat(1), Metallic: 0.5, Roughness: r, IOR: 1.5}
		m["glass "+name] = Surface{Base: geom.Splat(1), Roughness: r, IOR: 1.5, Transmission: 1}
		m["thin glass "+name] = Surface{Base: geom.Splat(1), Roughness: r, IOR: 1.5, Transmission: 1, Thin: true}
		m["coated "+name] = Surface{Base: geom.Splat(1), Roughness: r, IOR: 1.5, Coat: 1, CoatRoughness: 0.2}
	}
	m["matte"] = Surface{Base: geom.Splat(1), Roughness: 1, IOR: 1}
	return m
}

// The albedo of white surfaces is one. Expected 1, error bar four standard
// errors of the estimate plus 1.5 percent for the tables' interpolation.
func TestFurnaceOfEverySurfaceAtEveryRoughness(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 9))
	for name, s := range whites() {
		for _, mu := range []float32{1, 0.7, 0.3, 0.1} {
			for _, inside := range []bool{false, true} {
				if inside && (s.Transmission == 0 || s.Thin) {
					continue
				}
				b := New(&s, dir(mu, 0.2), inside)
				const n = 20000
				var sum, sq float64
				for i := 0; i < n; i++ {
					smp, ok := b.Sample(rng.Float32(), rng.Float32(), rng.Float32())
					if !ok {
						continue
					}
					w := float64(smp.Weight.Y)
					sum += w
					sq += w * w
				}
				mean := sum / n
				bar := 4*math.Sqrt(max(0, sq/n-mean*mean)/n) + 0.015
				if math.Abs(mean-1) > bar {
					t.Errorf("%s, cos %.1f, inside %v: expected 1, got %.4f, bar %.4f", name, mu, inside, mean, bar)
				}
			}
		}
	}
}

// Sampling and evaluation must describe the same function: the integral of
// Eval over the sphere equals the mean of the sampled weights, and the density
// integrates to the share of samples that are not perfect mirrors or windows.
func TestEvalAgreesWithSample(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	for name, s := range whites() {
		s.Base = geom.V(0.9, 0.5, 0.2)
		b := New(&s, dir(0.6, 0.4), false)
		const n = 400000
		var fromEval, fromSample, density, hit, squareF, squareD float64
		for i := 0; i < n; i++ {
			z := 2*rng.Float32() - 1
			f, pdf := b.Eval(dir(z, rng.Float32()))
			fromEval += float64(f.X) * 4 * math.Pi / n
			density += float64(pdf) * 4 * math.Pi / n
			squareF += math.Pow(float64(f.X)*4*math.Pi, 2) / n
			squareD += math.Pow(float64(pdf)*4*math.Pi, 2) / n
		}
		// Four standard errors of the even sampling, the larger by far of the two.
		barF := 4*math.Sqrt((squareF-fromEval*fromEval)/n) + 0.005
		barD := 4*math.Sqrt((squareD-density*density)/n) + 0.005
		for i := 0; i < n/4; i++ {
			smp, ok := b.Sample(rng.Float32(), rng.Float32(), rng.Float32())
			if ok && !smp.Delta {
				fromSample += float64(smp.Weight.X) / (n / 4)
				hit += 1.0 / (n / 4)
			}
		}
		if math.Abs(fromEval-fromSample) > barF {
			t.Errorf("%s: integral %.4f, sampled %.4f, bar %.4f", name, fromEval, fromSample, barF)
		}
		if density > 1+barD || density < hit-barD {
			t.Errorf("%s: density integrates to %.4f, but %.4f of the samples were kept", name, density, hit)
		}
	}
}

func TestFresnelAgainstPublishedAnswers(t *testing.T) {
	near := func(what string, got, want, tol float32) {
		if geom.Abs(got-want) > tol {
			t.Errorf("%s: expected %v, got %v", what, want, got)
		}
	}
	near("normal incidence, 1.5", FresnelDielectric(1, 1.5), 0.04, 1e-6)
	near("normal incidence from inside", FresnelDielectric(1, 1/1.5), 0.04, 1e-6)
	near("grazing", FresnelDielectric(1e-6, 1.5), 1, 1e-4)
	// At Brewster's angle, tan = n, parallel light is not reflected: half of the perpendicular.
	cb := float32(math.Cos(math.Atan(1.5)))
	perp := float32(math.Pow((1.5*1.5-1)/(1.5*1.5+1), 2))
	near("Brewster's angle", FresnelDielectric(cb, 1.5), perp/2, 1e-5)
	// Total reflection begins at sin = 1/1.5.
	sin := float32(1 / 1.5)
	near("just beyond the critical angle", FresnelDielectric(geom.Sqrt(1-sin*sin)-1e-3, 1/1.5), 1, 1e-6)
	if f := FresnelDielectric(geom.Sqrt(1-sin*sin)+1e-2, 1/1.5); f > 0.9 {
		t.Errorf("just before the critical angle: %v", f)
	}
}

func TestSnell(t *testing.T) {
	for _, deg := range []float64{0, 20, 45, 70, 89} {
		wo := dir(float32(math.Cos(deg*math.Pi/180)), 0)
		wi, ok := Refract(wo, geom.V(0, 0, 1), 1.5)
		if !ok {
			t.Fatal("no refraction into glass")
		}
		want := math.Sin(deg*math.Pi/180) / 1.5
		got := math.Hypot(float64(wi.X), float64(wi.Y))
		if math.Abs(got-want) > 1e-6 || math.Abs(float64(wi.Len())-1) > 1e-5 || wi.Dot(wo) >= 0 {
			t.Errorf("%v degrees: sine expected %v, got %v", deg, want, got)
		}
	}
	if _, ok := Refract(dir(0.5, 0), geom.V(0, 0, 1), 1/1.5); ok {
		t.Error("light left the glass beyond the critical angle")
	}
}

func TestBeerLambert(t *testing.T) {
	sigma := Absorption(geom.V(0.5, 0.25, 1), 0.01)
	got := Transmitted(sigma, 0.02)
	for i, want := range []float32{0.25, 0.0625, 1} {
		if geom.Abs(got.At(i)-want) > 1e-5 {
			t.Errorf("channel %d: expected %v, got %v", i, want, got.At(i))
		}
	}
	if !Absorption(geom.V(0.1, 0.1, 0.1), 0).IsZero() {
		t.Error("no distance must mean no absorption")
	}
}

func BenchmarkSampleAndEval(b *testing.B) {
	s := Surface{Base: geom.V(0.8, 0.6, 0.3), Metallic: 0.2, Roughness: 0.35, IOR: 1.5}
	rng := rand.New(rand.NewPCG(1, 1))
	u := make([]float32, 3072)
	for i := range u {
		u[i] = rng.Float32()
	}
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		k := i % 1024 * 3
		bs := New(&s, dir(0.6, u[k]), false)
		smp, _ := bs.Sample(u[k], u[k+1], u[k+2])
		bs.Eval(smp.Wi)
	}
}
