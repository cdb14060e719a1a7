package geom

import (
	"math"
	"math/rand/v2"
	"testing"
)

func TestSinCosTurnAgainstFloat64(t *testing.T) {
	for i := 0; i <= 4096; i++ {
		x := float32(i) / 4096
		s, c := SinCosTurn(x)
		ws, wc := math.Sincos(2 * math.Pi * float64(x))
		if math.Abs(float64(s)-ws) > 1e-6 || math.Abs(float64(c)-wc) > 1e-6 {
			t.Fatalf("turn %v: got %v %v, want %v %v", x, s, c, ws, wc)
		}
	}
}

func TestFrameIsOrthonormalAndRightHanded(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for i := 0; i < 1000; i++ {
		n := V(r.Float32()-0.5, r.Float32()-0.5, r.Float32()-0.5).Unit()
		if i == 0 {
			n = V(0, 0, -1)
		}
		f := NewFrame(n)
		for _, d := range []float32{f.S.Dot(f.T), f.S.Dot(f.N), f.T.Dot(f.N), f.S.Len() - 1, f.T.Len() - 1} {
			if Abs(d) > 1e-5 {
				t.Fatalf("frame of %v is off by %v", n, d)
			}
		}
		if f.S.Cross(f.T).Sub(f.N).Len() > 1e-5 {
			t.Fatalf("frame of %v is left-handed", n)
		}
	}
}

func TestNormalStaysPerpendicularUnderUnevenScaleAndMirror(t *testing.T) {
	a := Compose(V(3, 1, -2), [4]float32{0.5, 0.5, 0.5, 0.5}, V(-2, 0.25, 5))
	n := V(1, 2, 3).Unit()
	f := NewFrame(n)
	w := a.Normal(n).Unit()
	s, u := a.Vector(f.S), a.Vector(f.T)
	if Abs(w.Dot(s)) > 1e-5 || Abs(w.Dot(u)) > 1e-5 {
		t.Fatalf("not perpendicular: %v %v", w.Dot(s), w.Dot(u))
	}
	if a.Det() >= 0 {
		t.Fatal("a mirror must have a negative determinant")
	}
}

func TestMulAppliesRightFirst(t *testing.T) {
	a := Compose(V(1, 2, 3), [4]float32{0, 0, 0.70710678, 0.70710678}, V(1, 1, 1))
	b := Compose(V(5, 0, 0), [4]float32{0, 0, 0, 1}, V(2, 2, 2))
	p := V(0.5, -1, 4)
	c := a.Mul(b)
	q := b.Point(p)
	if d := c.Point(p).Sub(a.Point(q)).Len(); d > 1e-5 {
		t.Fatalf("off by %v", d)
	}
}

func TestOffsetOriginLeavesTheSurfaceAtEveryScale(t *testing.T) {
	for _, scale := range []float32{1e-4, 1e-2, 1, 100, 1e5} {
		p := V(scale, -scale*0.3, scale*0.7)
		n := V(0.6, -0.48, 0.64)
		d := OffsetOrigin(p, n).Sub(p)
		if !(d.Dot(n) > 0) {
			t.Errorf("scale %v: moved by %v, not outwards", scale, d)
		}
		if d.Len() > max(scale*1e-4, 1e-4) {
			t.Errorf("scale %v: moved too far, %v", scale, d.Len())
		}
	}
}

func TestLookAtFacesTheTarget(t *testing.T) {
	m := LookAt(V(1, 2, 3), V(-4, 0, 1), V(0, 1, 0))
	fwd := m.Axis(2).Neg()
	if d := fwd.Sub(V(-5, -2, -2).Unit()).Len(); d > 1e-6 {
		t.Fatalf("forward off by %v", d)
	}
	if m.Det() < 0.999 {
		t.Fatalf("not a rotation: determinant %v", m.Det())
	}
}

func TestTrigonometryAgainstDoublePrecision(t *testing.T) {
	worst := map[string]float64{}
	see := func(what string, got float32, want float64) {
		worst[what] = math.Max(worst[what], math.Abs(float64(got)-want))
	}
	for i := range 20001 {
		x := float32(i)/10000 - 1
		see("acos", Acos(x), math.Acos(float64(x)))
		a := float64(i) / 20000 * 2 * math.Pi
		y, x2 := float32(3*math.Sin(a)), float32(3*math.Cos(a))
		see("atan2", Atan2Turn(y, x2), math.Atan2(float64(y), float64(x2))/(2*math.Pi))
		s, c := SinCosTurn(float32(i) / 20000)
		see("sin", s, math.Sin(float64(float32(i)/20000)*2*math.Pi))
		see("cos", c, math.Cos(float64(float32(i)/20000)*2*math.Pi))
	}
	for what, most := range map[string]float64{"acos": 6e-7, "atan2": 1e-7, "sin": 5e-7, "cos": 5e-7} {
		if worst[what] > most {
			t.Errorf("%s is off by %g, more than %g", what, worst[what], most)
		}
	}
	if Acos(1.0001) != 0 || Atan2Turn(0, 0) != 0 {
		t.Error("beyond their range they must stay finite")
	}
}

func TestInverseOfATransform(t *testing.T) {
	a := Translate(V(100, -3, 7)).Mul(Compose(V(0.1, 0.2, 0.3), [4]float32{0.1, 0.7, -0.1, 0.7}, V(2, 0.5, -3)))
	inv, ok := a.Inverse()
	if !ok {
		t.Fatal("no inverse")
	}
	for _, p := range []Vec3{{}, {1, 0, 0}, {-2, 5, 0.5}} {
		q := a.Point(p)
		if d := inv.Point(q).Sub(p).Len(); d > 1e-4 {
			t.Errorf("%v came back %v away", p, d)
		}
	}
	flat := Compose(Vec3{}, [4]float32{0, 0, 0, 1}, V(1, 0, 1))
	if _, ok := flat.Inverse(); ok {
		t.Error("a flattening transform has no inverse")
	}
	b := Box{V(-1, -1, -1), V(1, 2, 3)}
	turned := Compose(V(5, 0, 0), [4]float32{0, 0.70710677, 0, 0.70710677}, V(1, 1, 1))
	if got := turned.Box(b); got.Min.Sub(V(4, -1, -1)).Len() > 1e-5 || got.Max.Sub(V(8, 2, 1)).Len() > 1e-5 {
		t.Errorf("box %v", got)
	}
}
