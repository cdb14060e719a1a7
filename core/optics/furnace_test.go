package optics

import (
	"fmt"
	"hash/fnv"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"amberproof/core/geom"
)

// albedoOf is the mean weight of sampled directions and four standard errors of
// it, from independent shifts of one low-discrepancy set (R3, Roberts 2018).
func albedoOf(b *BSDF, seed uint64) (mean, bar float64) {
	for n := 2048; ; n *= 2 {
		if mean, bar = shifted(b, seed, n); bar <= 0.003 || n == mostPoints {
			return mean, bar
		}
	}
}

// mostPoints bounds the effort for a case.
const mostPoints = 1 << 18

func shifted(b *BSDF, seed uint64, n int) (mean, bar float64) {
	const shifts = 16
	rng := rand.New(rand.NewPCG(seed, 7))
	const g = 1.22074408460575947536 // root of x^4 = x + 1
	var sum, sq float64
	for range shifts {
		s1, s2, s3 := rng.Float64(), rng.Float64(), rng.Float64()
		var m float64
		for i := 1; i <= n; i++ {
			f := func(s, a float64) float32 { _, q := math.Modf(s + float64(i)*a); return min(float32(q), 0.99999994) }
			if smp, ok := b.Sample(f(s1, 1/g), f(s2, 1/(g*g)), f(s3, 1/(g*g*g))); ok {
				m += float64(smp.Weight.Y) / float64(n)
			}
		}
		sum += m / shifts
		sq += m * m / shifts
	}
	return sum, 4 * math.Sqrt(max(0, sq-sum*sum)/(shifts-1))
}

// The albedo of white surfaces is one, of every kind, at every roughness (those
// of the tables and between them) and every angle down to grazing: within half a
// percent and the error bar, which is under three tenths of one.
func TestFurnaceOfEverySurfaceAtEveryRoughness(t *testing.T) {
	if testing.Short() {
		t.Skip("millions of samples of one goroutine: nothing for the race detector")
	}
	all := whites()
	for _, name := range slices.Sorted(maps.Keys(all)) {
		s := all[name]
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			furnace(t, name, s)
		})
	}
}

func furnace(t *testing.T, name string, s Surface) {
	for _, mu := range []float32{1, 0.5, 0.1, 0.03} {
		for _, inside := range []bool{false, true} {
			if inside && (s.Transmission == 0 || s.Thin) {
				continue
			}
			what := fmt.Sprintf("%s, cos %.2f, inside %v", name, mu, inside)
			h := fnv.New64()
			_, _ = h.Write([]byte(what)) // a hash never fails
			b := New(&s, dir(mu, 0.2), inside)
			mean, bar := albedoOf(&b, h.Sum64())
			if bar > 0.003 {
				t.Errorf("%s: the bar is %.4f", what, bar)
			}
			if math.Abs(mean-1) > 0.005+bar {
				t.Errorf("%s: expected 1, got %.4f, bar %.4f", what, mean, bar)
			}
		}
	}
}

// whites are surfaces of every kind, white: in an even white surround each must
// return exactly what arrives.
func whites() map[string]Surface {
	m := map[string]Surface{}
	with := func(set func(*Surface)) Surface {
		s := NewSurface()
		set(&s)
		return s
	}
	for _, r := range []float32{0, 0.05, 0.11, 0.2, 0.3, 0.43, 0.7, 1} {
		name := fmt.Sprint(r)
		m["metal "+name] = with(func(s *Surface) { s.Metallic, s.Roughness = 1, r })
		m["plastic "+name] = with(func(s *Surface) { s.Roughness = r })
		m["glass "+name] = with(func(s *Surface) { s.Transmission, s.Roughness = 1, r })
		m["dense glass "+name] = with(func(s *Surface) { s.Transmission, s.Roughness, s.IOR = 1, r, 2.4 })
		m["thin glass "+name] = with(func(s *Surface) { s.Transmission, s.Roughness, s.Thin = 1, r, true })
		m["coated "+name] = with(func(s *Surface) { s.Roughness, s.Coat, s.CoatRoughness = r, 1, 0.2 })
		m["tilted coat "+name] = with(func(s *Surface) {
			s.Roughness, s.Coat, s.CoatRoughness, s.CoatNormal = r, 1, 0.2, dir(0.995, 0.4)
		})
		m["cloth "+name] = with(func(s *Surface) { s.Roughness, s.Sheen, s.SheenRoughness = 1, geom.Splat(1), r })
		m["drawn metal "+name] = with(func(s *Surface) { s.Metallic, s.Roughness, s.Anisotropy = 1, r, 0.6 })
		m["much drawn metal "+name] = with(func(s *Surface) { s.Metallic, s.Roughness, s.Anisotropy = 1, r, 0.95 })
	}
	for _, r := range []float32{0.05, 0.3, 1} {
		name := fmt.Sprint(r)
		m["half metal "+name] = with(func(s *Surface) { s.Metallic, s.Roughness = 0.5, r })
		m["rough coat "+name] = with(func(s *Surface) { s.Roughness, s.Coat, s.CoatRoughness = 0.5, 1, r })
		m["dull plastic "+name] = with(func(s *Surface) { s.Roughness, s.Specular = r, 0.4 })
		m["dull glass "+name] = with(func(s *Surface) { s.Transmission, s.Roughness, s.Specular = 1, r, 0.3 })
		m["dull thin glass "+name] = with(func(s *Surface) { s.Transmission, s.Roughness, s.Specular, s.Thin = 1, r, 0.3, true })
		m["coated cloth "+name] = with(func(s *Surface) {
			s.Roughness, s.Sheen, s.SheenRoughness, s.Coat, s.CoatRoughness = 1, geom.Splat(0.7), r, 0.5, 0.4
		})
	}
	m["matte"] = with(func(s *Surface) { s.Roughness, s.IOR = 1, 1 })
	return m
}
