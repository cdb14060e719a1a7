package lights

import (
	"context"
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// irradiance at p on a surface facing n, by sampling light 0 of the set.
func irradiance(s *Set, p, n geom.Vec3, samples int) (mean, bar float64) {
	var sum, sq float64
	for i := 0; i < samples; i++ {
		u, v := sampling.NewStream(1, 1, i*2, 3).Two(0)
		k, ok := s.Sample(0, p, u, v)
		if !ok {
			continue
		}
		e := float64(k.Radiance.X) * math.Max(0, float64(k.Wi.Dot(n)))
		if !math.IsInf(float64(k.PDF), 1) {
			e /= float64(k.PDF)
		}
		sum += e
		sq += e * e
	}
	mean = sum / float64(samples)
	return mean, 4 * math.Sqrt(math.Max(0, sq/float64(samples)-mean*mean)/float64(samples))
}

func expect(t *testing.T, what string, got, want, bar float64) {
	t.Helper()
	if math.Abs(got-want) > bar {
		t.Errorf("%s: expected %.6f, got %.6f, bar %.6f", what, want, got, bar)
	}
}

// lambert is the closed form for irradiance from a polygon of radiance one
// (Lambert 1760): half the sum over edges of angle times normal cosine.
func lambert(p, n geom.Vec3, corners []geom.Vec3) float64 {
	var e float64
	for i := range corners {
		a := corners[i].Sub(p).Unit()
		b := corners[(i+1)%len(corners)].Sub(p).Unit()
		angle := math.Acos(float64(a.Dot(b)))
		e += angle * float64(a.Cross(b).Unit().Dot(n))
	}
	return math.Abs(e) / 2
}

func rect() Light {
	return Light{Kind: Rect, Colour: geom.Splat(1), P: geom.V(0.3, 2, 0.1), N: geom.V(0, -1, 0), S: geom.V(1, 0, 0), T: geom.V(0, 0, 1), W: 1.5, H: 0.8}
}

func corners(l Light) []geom.Vec3 {
	s, t := l.S.Scale(l.W/2), l.T.Scale(l.H/2)
	return []geom.Vec3{l.P.Sub(s).Sub(t), l.P.Add(s).Sub(t), l.P.Add(s).Add(t), l.P.Sub(s).Add(t)}
}

func TestRectangleAgainstLambertsFormula(t *testing.T) {
	l := rect()
	s := &Set{Lights: []Light{l}}
	for _, c := range []struct{ p, n geom.Vec3 }{
		{geom.V(0, 0, 0), geom.V(0, 1, 0)},
		{geom.V(0.3, 1.9, 0.1), geom.V(0, 1, 0)},
		{geom.V(3, 0.5, -2), geom.V(-0.6, 0.8, 0)},
		{geom.V(40, -40, 0), geom.V(0, 1, 0)}, // by area: seen under a tiny angle
	} {
		got, bar := irradiance(s, c.p, c.n, 1<<14)
		expect(t, "irradiance under the rectangle", got, lambert(c.p, c.n, corners(l)), bar+1e-6)
	}
}

// The same rectangle as a mesh of two triangles gives the same light.
func TestMeshAgainstLambertsFormula(t *testing.T) {
	l := rect()
	q := corners(l)
	s := &Set{}
	s.AddMesh(Light{}, []Triangle{{A: q[0], B: q[1], C: q[2]}, {A: q[0], B: q[2], C: q[3]}}, geom.Splat(1))
	p, n := geom.V(0.2, 0.4, 0.3), geom.V(0, 1, 0)
	var sum, sq float64
	const N = 1 << 14
	for i := 0; i < N; i++ {
		u, v := sampling.NewStream(2, 1, i*2, 3).Two(0)
		k, ok := s.Sample(0, p, u, v)
		if !ok {
			continue
		}
		e := float64(k.Wi.Dot(n)) / float64(k.PDF)
		sum += e / N
		sq += e * e / N
	}
	expect(t, "irradiance under the mesh", sum, lambert(p, n, q), 4*math.Sqrt((sq-sum*sum)/N))
}

func TestSphereAndInverseSquare(t *testing.T) {
	const r = 0.2
	for _, d := range []float64{0.25, 1, 50, 2000} {
		s := &Set{Lights: []Light{{Kind: Sphere, Colour: geom.Splat(1), P: geom.V(0, float32(d), 0), Radius: r, CosOuter: -1, CosInner: -1}}}
		got, bar := irradiance(s, geom.Vec3{}, geom.V(0, 1, 0), 1<<12)
		want := math.Pi * r * r / (d * d) // closed form for a sphere over a facing plane
		expect(t, "irradiance under the sphere", got, want, bar+want*1e-4)
	}
	s := &Set{Lights: []Light{{Kind: Point, Colour: geom.Splat(8), P: geom.V(0, 2, 0), CosOuter: -1}}}
	got, _ := irradiance(s, geom.Vec3{}, geom.V(0, 1, 0), 1)
	expect(t, "irradiance under the point", got, 2, 1e-6)
}

func TestSunGivesItsIrradianceWhateverItsDisc(t *testing.T) {
	for _, half := range []float64{0, 0.00465, 0.1} {
		l := Light{Kind: Sun, Colour: geom.Splat(3), N: geom.V(0, -0.8, 0.6), OneMinusCos: float32(1 - math.Cos(half))}
		s := &Set{Lights: []Light{l}}
		got, bar := irradiance(s, geom.Vec3{}, geom.V(0, 0.8, -0.6), 1<<10)
		// The mean cosine over the disc is (1+cos)/2 of its edge, radiance is over pi sin^2: exactly the irradiance.
		expect(t, "irradiance square on to the sun", got, 3, bar+3e-3)
	}
}

func TestSpotIsDarkOutsideItsCone(t *testing.T) {
	l := Light{Kind: Spot, Colour: geom.Splat(1), P: geom.V(0, 1, 0), N: geom.V(0, -1, 0), CosInner: 0.95, CosOuter: 0.9}
	s := &Set{Lights: []Light{l}}
	if e, _ := irradiance(s, geom.V(0, 0, 0), geom.V(0, 1, 0), 1); e != 1 {
		t.Errorf("on axis: %v", e)
	}
	if e, _ := irradiance(s, geom.V(1, 0, 0), geom.V(0, 1, 0), 1); e != 0 {
		t.Errorf("outside: %v", e)
	}
}

func studio() *Env {
	const w, h = 64, 32
	pix := make([]float32, w*h*3)
	for i := range pix {
		pix[i] = 0.2
	}
	for x := 10; x < 14; x++ {
		for y := 6; y < 9; y++ {
			pix[(y*w+x)*3], pix[(y*w+x)*3+1], pix[(y*w+x)*3+2] = 40, 40, 40
		}
	}
	return Picture(context.Background(), w, h, pix, 0.7, 2)
}

func TestEnvironmentSamplingIsUnbiasedAndItsDensityAgrees(t *testing.T) {
	e := studio()
	s := &Set{}
	s.AddEnv(Light{}, e)
	n := geom.V(0.36, 0.8, -0.48)
	got, bar := irradiance(s, geom.Vec3{}, n, 1<<15)
	var want float64
	const g = 1000
	for i := 0; i < g; i++ {
		for j := 0; j < g; j++ {
			d := sampling.Sphere((float32(i)+0.5)/g, (float32(j)+0.5)/g)
			want += float64(seen(e, d)) * math.Max(0, float64(d.Dot(n))) * 4 * math.Pi / (g * g)
		}
	}
	expect(t, "irradiance under the picture", got, want, bar+0.002*want)
	for i := 0; i < 200; i++ {
		u, v := sampling.NewStream(4, 4, i, 1).Two(1)
		d, rad, p := e.sample(u, v)
		met, q := e.eval(d)
		if rad.Sub(met).Len() > 0.01*met.Len() {
			t.Fatalf("%v comes from %v, and %v is met there", rad, d, met)
		}
		if math.Abs(float64(p-q)) > 1e-3*float64(p) && i%16 != 0 {
			// A sample on a cell's border may be read back in the next cell.
			x, y := e.toUV(d)
			if fx := x * float32(e.bw); fx-float32(int(fx)) > 1e-3 && fx-float32(int(fx)) < 0.999 {
				t.Fatalf("density %v at sampling, %v at look-up (%v %v)", p, q, x, y)
			}
		}
	}
}

// The density of each sampler agrees with its look-up.
func TestLightDensitiesAgree(t *testing.T) {
	l := rect()
	sph := Light{Kind: Sphere, Colour: geom.Splat(1), P: geom.V(1, 2, 0), Radius: 0.5, CosOuter: -1}
	s := &Set{Lights: []Light{l, sph}}
	p := geom.V(0.1, 0.2, 0.3)
	for i := range s.Lights {
		k, _ := s.Sample(i, p, 0.3, 0.6)
		q := p.MulAdd(k.Wi, k.Dist)
		if g := s.PDF(i, p, q, 1, 0); geom.Abs(g-k.PDF) > 1e-4*g {
			t.Errorf("light %d: %v against %v", i, k.PDF, g)
		}
	}
}

func TestFaintLightsAreDrawnByChance(t *testing.T) {
	once, often := Light{}, Light{Samples: 4}
	for _, c := range []struct {
		l           *Light
		gives, much float32
		want        float32
	}{{&once, 3, 2, 1}, {&once, 2, 2, 1}, {&once, 0.5, 2, 0.25}, {&once, 0, 2, 0}, {&often, 0.5, 2, 4}, {&often, 0, 2, 0}} {
		if got := c.l.Drawn(c.gives, c.much); got != c.want {
			t.Errorf("%v of %v: drawn %v times, want %v", c.gives, c.much, got, c.want)
		}
	}
}
