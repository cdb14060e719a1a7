package lights

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// oneOfEach is a light of each kind, each in a set of its own.
func oneOfEach() map[string]*Set {
	both := rect()
	both.TwoSided = true
	sets := map[string]*Set{
		"rectangle": {Lights: []Light{rect()}}, "two-sided rectangle": {Lights: []Light{both}},
		"point":  {Lights: []Light{{Kind: Point, Colour: geom.Splat(1), P: geom.V(0.5, 1, 0)}}},
		"spot":   {Lights: []Light{{Kind: Spot, Colour: geom.Splat(1), P: geom.V(0.5, 1, 0), N: geom.V(0, -1, 0), CosOuter: 0.5, CosInner: 0.8}}},
		"sphere": {Lights: []Light{{Kind: Sphere, Colour: geom.Splat(1), P: geom.V(0.5, 1, 0), Radius: 0.7, CosOuter: -1}}},
		"sun":    {Lights: []Light{{Kind: Sun, Colour: geom.Splat(1), N: geom.V(0.6, -0.8, 0), OneMinusCos: 0.05}}},
		"mesh":   {}, "surround": {},
	}
	l := rect()
	c := corners(l)
	sets["mesh"].AddMesh(Light{}, []Triangle{{c[0], c[1], c[2]}, {c[0], c[2], c[3]}}, geom.Splat(1))
	sets["surround"].AddEnv(Light{}, studio())
	return sets
}

// receivers are points all around the lights, on surfaces of any direction.
func receivers(n int) []Receiver {
	rng := rand.New(rand.NewPCG(5, 7))
	out := make([]Receiver, n)
	for i := range out {
		out[i].P = geom.V(4*rng.Float32()-2, 4*rng.Float32()-1, 4*rng.Float32()-2)
		out[i].N = sampling.Sphere(rng.Float32(), rng.Float32())
	}
	return out
}

// A light is expected to give nothing only where it gives none: else what it gives
// would be missing. Of one that is wholly below the surface nothing is expected.
func TestNothingIsExpectedOnlyWhereNothingComes(t *testing.T) {
	for name, s := range oneOfEach() {
		none := 0
		for j, r := range receivers(4000) {
			gives := s.Expect(0, &r)
			if gives == 0 {
				none++
			}
			if any := s.Expect(0, &Receiver{P: r.P}); gives > any*1.0001 && name != "surround" {
				t.Fatalf("%s at %v: %v is expected on one side, %v on both", name, r, gives, any)
			}
			for i := range 8 {
				u, v := sampling.NewStream(j, 0, i, 3).Two(0)
				k, ok := s.Sample(0, r.P, u, v)
				comes := ok && !(k.Radiance.IsZero() && !k.OnMesh) && k.Wi.Dot(r.N) > 1e-5
				if comes && !(gives > 0) {
					t.Fatalf("%s at %v: light comes from %v, none is expected", name, r, k.Wi)
				}
			}
		}
		if name != "surround" && none == 0 {
			t.Errorf("%s: some light is expected everywhere, below the surface too", name)
		}
	}
}

// What a surround is expected to give follows the way a surface faces: exactly where
// its light changes slowly.
func TestASurroundIsExpectedToGiveByDirection(t *testing.T) {
	const w, h = 128, 64
	shape := func(d geom.Vec3) float32 {
		a, b := d.Dot(geom.V(0.3, 0.5, -0.4)), d.Dot(geom.V(0.5, -0.1, 0.7))
		return 1 + a + b*b
	}
	pix := make([]float32, 0, 3*w*h)
	const turn = 0.9
	for y := range h {
		for x := range w {
			sin, cos := math.Sincos(math.Pi * (float64(y) + 0.5) / h)
			s, c := math.Sincos(2*math.Pi*((float64(x)+0.5)/w-0.5) - turn)
			l := shape(geom.V(float32(sin*s), float32(cos), float32(-sin*c)))
			pix = append(pix, l, l, l)
		}
	}
	s := &Set{}
	s.AddEnv(Light{}, Picture(t.Context(), w, h, pix, turn, 2))
	for _, n := range []geom.Vec3{geom.V(0, 1, 0), geom.V(1, 0, 0), geom.V(0, 0, -1), geom.V(0.6, -0.8, 0), geom.V(-0.48, 0.6, 0.64)} {
		f := geom.NewFrame(n)
		var want float64
		const g = 200
		for i := range g {
			for j := range g {
				d := f.ToWorld(sampling.CosineHemisphere((float32(i)+0.5)/g, (float32(j)+0.5)/g))
				want += 2 * math.Pi * float64(shape(d)) / (g * g)
			}
		}
		expect(t, "surround", float64(s.Expect(0, &Receiver{N: n})), want, 0.01*want)
	}
}

// What is drawn is drawn as often as Chance says, and the chances add up to one.
func TestLightsAreChosenByWhatIsExpected(t *testing.T) {
	few, many := &Set{}, &Set{}
	rng := rand.New(rand.NewPCG(2, 9))
	for i := range 40 {
		l := Light{Kind: Sphere, Colour: geom.Splat(rng.Float32()), P: geom.V(4*rng.Float32()-2, 3*rng.Float32(), 4*rng.Float32()-2), Radius: 0.1, CosOuter: -1}
		many.Lights = append(many.Lights, l)
		if i < 5 {
			few.Lights = append(few.Lights, l)
		}
	}
	for _, s := range []*Set{few, many} {
		s.AddEnv(Light{}, studio())
		s.Ready()
		for _, r := range append(receivers(20), Receiver{P: geom.V(0, 1, 0)}) {
			var total float64
			for i := range s.Lights {
				total += float64(s.Chance(i, &r))
			}
			expect(t, "sum of the chances", total, 1, 1e-4)
			for k := range 100 {
				i, chance, _, ok := s.Choose(&r, (float32(k)+0.5)/100)
				if !ok || geom.Abs(chance-s.Chance(i, &r)) > 1e-4*chance {
					t.Fatalf("light %d of %d: drawn with %v, told %v", i, len(s.Lights), chance, s.Chance(i, &r))
				}
			}
		}
	}
}
