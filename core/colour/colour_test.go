package colour

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

func TestSRGBRoundTripAndPublishedPoints(t *testing.T) {
	for i := 0; i <= 1000; i++ {
		x := float32(i) / 1000
		if d := DecodeSRGB(EncodeSRGB(x)) - x; geom.Abs(d) > 1e-6 {
			t.Fatalf("%v comes back off by %v", x, d)
		}
	}
	// Mid grey 0.214041 is the linear value of encoded 0.5 (IEC 61966-2-1).
	if v := DecodeSRGB(0.5); math.Abs(float64(v)-0.2140411) > 1e-6 {
		t.Errorf("decode 0.5 = %v", v)
	}
}

func TestFilmicKeepsMidGreyIsMonotoneAndNeutral(t *testing.T) {
	if v := Filmic.Tone(0.18); v != 0.18 {
		t.Errorf("mid grey became %v", v)
	}
	var last float32 = -1
	for e := -10.0; e < 8; e += 0.01 {
		v := Filmic.Tone(float32(math.Exp2(e)))
		if v < last || v > 1 {
			t.Fatalf("not monotone in 0..1 at 2^%v: %v after %v", e, v, last)
		}
		last = v
	}
	// The joint at the knee has no kink: slope one on both sides.
	const h = 1e-3
	if s := (Filmic.Tone(0.18+h) - 0.18) / h; math.Abs(float64(s)-1) > 0.02 {
		t.Errorf("slope above the knee %v, want 1", s)
	}
	if c := Filmic.Display(geom.Splat(3), 1); c.X != c.Y || c.Y != c.Z {
		t.Errorf("a grey became %v", c)
	}
	if v := Plain.Tone(float32(math.NaN())); v != 0 {
		t.Errorf("not-a-number shown as %v", v)
	}
}

// Against the published matrix, and there and back.
func TestRec709ToACEScg(t *testing.T) {
	m, ok := Between(Rec709, AP1)
	want := Matrix{
		0.613097402401, 0.339523146184, 0.047379451415,
		0.070193722470, 0.916353879057, 0.013452398473,
		0.020615592882, 0.109569772938, 0.869814634180,
	}
	if !ok {
		t.Fatal("no matrix")
	}
	back, ok := Between(AP1, Rec709)
	if !ok {
		t.Fatal("no matrix back")
	}
	one := m.mul(back)
	for i := range want {
		if math.Abs(m[i]-want[i]) > 1e-6 { // chromaticities are kept in single precision, as files have them
			t.Errorf("entry %d: expected %.9f, got %.9f", i, want[i], m[i])
		}
		id := 0.0
		if i%4 == 0 {
			id = 1
		}
		if math.Abs(one[i]-id) > 1e-12 {
			t.Errorf("there and back, entry %d: %v", i, one[i])
		}
	}
	if w := m.Apply(geom.Splat(1)); w.Sub(geom.Splat(1)).Len() > 1e-6 {
		t.Errorf("white became %v", w)
	}
	if _, ok := Between(Primaries{}, Rec709); ok {
		t.Error("no primaries gave a matrix")
	}
	if _, ok := Between(Rec709, Primaries{0.3, 0.3, 0.3, 0.3, 0.3, 0.3, 0.3, 0.3}); ok {
		t.Error("primaries in one point gave a matrix")
	}
}

// Scene undoes Display: what a display value stands for is shown as that value, to the
// digit of eight and of sixteen bits, at every exposure.
func TestSceneUndoesDisplay(t *testing.T) {
	for _, tr := range []Transform{Plain, Filmic} {
		for _, ev := range []float64{-20, -3.3, 0, 0.1, 7, 20} {
			gain := Gain(ev)
			for v := range 256 {
				c := geom.Splat(tr.Scene(float32(v)/255) / gain)
				got := tr.Display(c, gain).X
				if int(got*255+0.5) != v || int(got*65535+0.5) != v*257 {
					t.Fatalf("%s at %g EV: %d is shown as %g", tr, ev, v, got*255)
				}
			}
		}
	}
}
