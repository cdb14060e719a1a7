package imageio

import (
	"bytes"
	"errors"
	"math"
	"math/rand/v2"
	"testing"
)

func TestEveryHalfSurvivesTheRoundTrip(t *testing.T) {
	for i := 0; i < 1<<16; i++ {
		h := uint16(i)
		f := FromHalf(h)
		if math.IsNaN(float64(f)) {
			if g := ToHalf(f); g&0x7c00 != 0x7c00 || g&0x3ff == 0 {
				t.Fatalf("NaN %04x became %04x", h, g)
			}
			continue
		}
		if g := ToHalf(f); g != h {
			t.Fatalf("%04x = %v came back as %04x", h, f, g)
		}
	}
}

func TestToHalfRoundsToNearestEven(t *testing.T) {
	for _, c := range []struct {
		f float32
		h uint16
	}{
		{1 + 1.0/2048, 0x3c00},           // tie to even, down
		{1 + 3.0/2048, 0x3c02},           // tie to even, up
		{65519, 0x7bff}, {65520, 0x7c00}, // the last finite half
		{1.0 / (1 << 25), 0}, {1.5 / (1 << 25), 1}, // around the smallest half
		{float32(math.Inf(-1)), 0xfc00},
	} {
		if g := ToHalf(c.f); g != c.h {
			t.Errorf("%v: got %04x, want %04x", c.f, g, c.h)
		}
	}
}

func TestHDRRoundTripWithinItsPrecision(t *testing.T) {
	p := &HDR{W: 40, H: 9, Pix: make([]float32, 40*9*3)}
	r := rand.New(rand.NewPCG(1, 1))
	for i := range p.Pix {
		p.Pix[i] = float32(math.Exp(r.NormFloat64() * 3))
	}
	var b bytes.Buffer
	if err := WriteHDR(&b, p); err != nil {
		t.Fatal(err)
	}
	q, err := ReadHDR(b.Bytes(), DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i < len(p.Pix); i += 3 {
		m := max(p.Pix[i], p.Pix[i+1], p.Pix[i+2])
		for k := 0; k < 3; k++ {
			if d := p.Pix[i+k] - q.Pix[i+k]; math.Abs(float64(d)) > float64(m)/255 {
				t.Fatalf("value %d: %v became %v", i+k, p.Pix[i+k], q.Pix[i+k])
			}
		}
	}
}

func TestHDRReadsBothRunLengthCodes(t *testing.T) {
	head := "#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 8\n"
	modern := head + "\x02\x02\x00\x08" + "\x88\x80" + "\x88\x40" + "\x04\x01\x02\x03\x04\x84\x05" + "\x88\x81"
	p, err := ReadHDR([]byte(modern), DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if p.Pix[0] != 128.5/128 || p.Pix[1] != 64.5/128 || p.Pix[2] != 1.5/128 || p.Pix[7*3+2] != 5.5/128 {
		t.Fatalf("got %v", p.Pix)
	}
	old := head + "\x80\x40\x20\x81" + "\x01\x01\x01\x06" + "\x10\x10\x10\x81"
	p, err = ReadHDR([]byte(old), DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if p.Pix[6*3] != 128.5/128 || p.Pix[7*3] != 16.5/128 {
		t.Fatalf("got %v", p.Pix)
	}
}

func FuzzReadHDR(f *testing.F) {
	var b bytes.Buffer
	if err := WriteHDR(&b, &HDR{W: 9, H: 2, Pix: make([]float32, 54)}); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Add([]byte("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 8\n\x02\x02\x00\x08\x88\x80\x88\x40\x04\x01\x02\x03\x04\x84\x05\x88\x81"))
	f.Fuzz(func(t *testing.T, b []byte) {
		p, err := ReadHDR(b, Limits{Pixels: 1 << 16})
		if err != nil {
			if !errors.Is(err, ErrFormat) {
				t.Fatalf("an error of another kind: %v", err)
			}
			return
		}
		if len(p.Pix) != p.W*p.H*3 {
			t.Fatal("wrong size")
		}
	})
}
