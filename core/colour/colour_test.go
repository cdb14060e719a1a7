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
