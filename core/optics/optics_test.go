package optics

import (
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"amberproof/core/geom"
)

func dir(cos, turn float32) geom.Vec3 {
	s, c := geom.SinCosTurn(turn)
	r := geom.Sqrt(1 - cos*cos)
	return geom.V(r*c, r*s, cos)
}

// Sampling and evaluation must describe the same function: the integral of
// Eval over the sphere equals the mean of the sampled weights, and the density
// integrates to the share of samples that are not perfect mirrors or windows.
func TestEvalAgreesWithSample(t *testing.T) {
	if testing.Short() {
		t.Skip("millions of samples of one goroutine: nothing for the race detector")
	}
	all := whites()
	for _, name := range slices.Sorted(maps.Keys(all)) {
		// Lobes so narrow are hardly hit by directions that are spread evenly.
		if strings.HasSuffix(name, " 0.05") || strings.HasSuffix(name, " 0.11") {
			continue
		}
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			evalAgrees(t, all[name])
		})
	}
}

func evalAgrees(t *testing.T, s Surface) {
	rng := rand.New(rand.NewPCG(4, 2))
	s.Base = geom.V(0.9, 0.5, 0.2)
	b := New(&s, dir(0.6, 0.4), false)
	const n = 200000
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
		t.Errorf("integral %.4f, sampled %.4f, bar %.4f", fromEval, fromSample, barF)
	}
	if density > 1+barD || density < hit-barD {
		t.Errorf("density integrates to %.4f, but %.4f of the samples were kept", density, hit)
	}
}

// Along the first tangent a drawn-out gloss is wider than across it: the variance
// of micro-slopes of GGX has no closed form, its median slope has: the width.
func TestAnisotropyDrawsGlossOutAlongTheFirstTangent(t *testing.T) {
	s := NewSurface()
	s.Metallic, s.Roughness, s.Anisotropy = 1, 0.3, 0.8
	b := New(&s, geom.V(0, 0, 1), false)
	rng := rand.New(rand.NewPCG(3, 3))
	const n = 200000
	along, across := 0, 0
	wantX, wantY := float32(0.09+0.91*0.64), float32(0.09)
	// Seen from above, normals are drawn by projected area; their slopes x/z have the
	// density (1+q^2)^-3/2/2 in units of the width, whose median is 1/sqrt(3).
	for range n {
		h := b.a.draw(b.wo, rng.Float32(), rng.Float32())
		if geom.Abs(h.X/h.Z) < wantX/geom.Sqrt(3) {
			along++
		}
		if geom.Abs(h.Y/h.Z) < wantY/geom.Sqrt(3) {
			across++
		}
	}
	bar := 4 * math.Sqrt(0.25/n)
	for what, got := range map[string]int{"along": along, "across": across} {
		if share := float64(got) / n; math.Abs(share-0.5) > bar {
			t.Errorf("%s: expected half of the slopes below the median, got %.4f, bar %.4f", what, share, bar)
		}
	}
}

// Light that goes many times through a thick film keeps no phase: what is left
// is the sum over both interfaces, as of a pane.
func TestThickFilmsLoseTheirColourAndThinOnesAreNotThere(t *testing.T) {
	base := geom.V(0.04, 0.3, 0.8)
	if got := filmF0(Film{1, 1.4, 0}, base, 0.9); got.Sub(base).Len() > 0.01 {
		t.Errorf("no thickness: expected %v, got %v", base, got)
	}
	if got := filmF0(Film{0, 1.4, 400}, base, 0.9); got != base {
		t.Errorf("no share: expected %v, got %v", base, got)
	}
	const ior = 1.4
	r1 := float64(F0OfIOR(ior))
	got := filmF0(Film{1, ior, 20000}, base, 1)
	for k := range 3 {
		root := math.Sqrt(float64(base.At(k)))
		n := (1 + root) / (1 - root)
		r2 := math.Pow((n-ior)/(n+ior), 2)
		want := r1 + (1-r1)*(1-r1)*r2/(1-r1*r2)
		if math.Abs(float64(got.At(k))-want) > 0.002 {
			t.Errorf("channel %d: expected %.4f, got %.4f", k, want, got.At(k))
		}
	}
	colours := 0
	for nm := float32(100); nm < 900; nm += 50 {
		c := filmF0(Film{1, 1.33, nm}, geom.Splat(0.04), 0.8)
		if c.Max()-min(c.X, c.Y, c.Z) > 0.02 {
			colours++
		}
		if c.Max() > 1 || min(c.X, c.Y, c.Z) < 0 {
			t.Errorf("%v nm: %v", nm, c)
		}
	}
	if colours < 5 {
		t.Errorf("only %d thicknesses show colour", colours)
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
	s := NewSurface()
	s.Base, s.Metallic, s.Roughness = geom.V(0.8, 0.6, 0.3), 0.2, 0.35
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

// The gloss of glass at normal incidence is its strength and colour times that of
// its index, and what goes through is what the strongest colour leaves; grazing
// light is returned by its strength alone, and total reflection stays total.
func TestGlassWithAGlossOfItsOwn(t *testing.T) {
	s := NewSurface()
	s.Transmission, s.Specular, s.SpecularColour = 1, 0.5, geom.V(1, 0.5, 0)
	b := New(&s, geom.V(0, 0, 1), false)
	mirror, through, r, ok := b.Split()
	if !ok {
		t.Fatal("it does not split")
	}
	near := func(what string, got, want float32) {
		if geom.Abs(got-want) > 1e-5 {
			t.Errorf("%s: expected %v, got %v", what, want, got)
		}
	}
	near("mirrored share", r, 0.5*0.04)
	near("mirrored red", mirror.Weight.X, 0.02)
	near("mirrored green", mirror.Weight.Y, 0.01)
	near("mirrored blue", mirror.Weight.Z, 0)
	near("through", through.Weight.Y, 0.98)
	near("straight through", b.Straight().Y, 0.98)
	s.Thin = true
	b = New(&s, geom.V(0, 0, 1), false)
	near("through both faces", b.Straight().X, (1-0.02)/(1+0.02))
	s.Thin = false
	graze := New(&s, dir(1e-3, 0), false)
	if r, _ := graze.glassR(graze.wo.Z); r < 0.49 || r > 0.5 {
		t.Errorf("grazing: %v", r)
	}
	inside := New(&s, dir(0.5, 0), true) // beyond the critical angle of 41.8 degrees
	if r, tone := inside.glassR(0.5); r != 1 || tone != geom.Splat(1) {
		t.Errorf("total reflection: %v %v", r, tone)
	}
}

// A coat with a normal of its own mirrors about that, over a base that does not.
func TestACoatMirrorsAboutItsOwnNormal(t *testing.T) {
	s := NewSurface()
	s.Roughness, s.Base, s.Coat, s.CoatRoughness = 1, geom.Vec3{}, 1, 0.1
	s.CoatNormal = dir(float32(math.Cos(0.2)), 0)
	wo := geom.V(0, 0, 1)
	b := New(&s, wo, false)
	best, at := float32(0), 0.0
	for a := -0.6; a < 0.6; a += 0.01 {
		wi := geom.V(float32(math.Sin(a)), 0, float32(math.Cos(a)))
		if f, _ := b.Eval(wi); f.X > best {
			best, at = f.X, a
		}
	}
	if math.Abs(at-0.4) > 0.02 {
		t.Errorf("the highlight is at %.2f rad, not at 0.4", at)
	}
	// Sample agrees with Eval: the mean weight is the albedo by even sampling.
	s.CoatRoughness = 0.5
	b = New(&s, wo, false)
	rng := rand.New(rand.NewPCG(3, 3))
	const n = 200000
	var drawn, even float64
	for range n {
		if smp, ok := b.Sample(rng.Float32(), rng.Float32(), rng.Float32()); ok {
			drawn += float64(smp.Weight.X) / n
		}
		z := rng.Float32()
		f, _ := b.Eval(dir(z, rng.Float32()))
		even += float64(f.X) * 2 * math.Pi / n
	}
	if math.Abs(drawn-even) > 0.02*even+0.002 {
		t.Errorf("drawn %v, summed up evenly %v", drawn, even)
	}
}

// A table's rows are made when they are first asked for, each once for all.
func TestRowsAreMadeOnDemand(t *testing.T) {
	var asked [5]atomic.Int32
	r := newRows(5, func(i int) *int { asked[i].Add(1); v := 10 * i; return &v })
	var all sync.WaitGroup
	got := make([]*int, 8)
	for k := range got {
		all.Go(func() { got[k] = r.row(3) })
	}
	all.Wait()
	for _, v := range got {
		if v != got[0] || *v != 30 {
			t.Errorf("row 3 is %v at %p, and at %p", *v, v, got[0])
		}
	}
	if n := asked[3].Load(); n < 1 || asked[2].Load() != 0 {
		t.Errorf("row 3 was made %d times, row 2 %d", n, asked[2].Load())
	}
	if r.row(3); asked[3].Load() > 8 {
		t.Error("a row that is there was made again")
	}
}
