package imageio

import (
	"bytes"
	"errors"
	"image"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"amberproof/core/colour"
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

func sample(comp Compression, typ PixelType) *EXR {
	r := rand.New(rand.NewPCG(3, uint64(comp)))
	e := &EXR{
		Display: image.Rect(0, 0, 64, 50), Window: image.Rect(5, 7, 42, 44),
		Compression: comp, Chromaticities: colour.Rec709,
		Text: map[string]string{"owner": "Pellwick", "ticket": `{"a":1}`},
	}
	for _, n := range []string{"R", "G", "B", "A", "light.key panel.R", "mask.a very long name of a part that exceeds thirty-one bytes.Y"} {
		d := make([]float32, 37*37)
		for i := range d {
			d[i] = float32(math.Exp(r.NormFloat64()*2)) * float32(i%7)
			if typ == Half {
				d[i] = FromHalf(ToHalf(d[i]))
			}
		}
		e.Channels = append(e.Channels, Channel{n, typ, d})
	}
	return e
}

func TestEXRRoundTrip(t *testing.T) {
	for _, comp := range []Compression{NoCompression, ZIPS, ZIP} {
		for _, typ := range []PixelType{Half, Float} {
			e := sample(comp, typ)
			var b bytes.Buffer
			if err := WriteEXR(&b, e); err != nil {
				t.Fatal(err)
			}
			g, err := ReadEXR(b.Bytes(), DefaultLimits)
			if err != nil {
				t.Fatal(err)
			}
			if g.Window != e.Window || g.Display != e.Display || g.Chromaticities != e.Chromaticities || g.Text["ticket"] != e.Text["ticket"] {
				t.Fatalf("header changed: %+v", g)
			}
			for _, c := range e.Channels {
				d := g.Channel(c.Name)
				if d == nil || d.Type != c.Type {
					t.Fatalf("channel %q lost or changed", c.Name)
				}
				for i := range c.Data {
					if c.Data[i] != d.Data[i] {
						t.Fatalf("%v %v %q[%d]: %v became %v", comp, typ, c.Name, i, c.Data[i], d.Data[i])
					}
				}
			}
		}
	}
}

// An independent reader must agree on the numbers and have no complaint.
func TestEXRByIndependentReader(t *testing.T) {
	header, err1 := exec.LookPath("exrheader")
	oiio, err2 := exec.LookPath("oiiotool")
	if err1 != nil || err2 != nil {
		t.Skip("exrheader and oiiotool are not installed: the independent reader is not asked")
	}
	dir := t.TempDir()
	for _, comp := range []Compression{NoCompression, ZIPS, ZIP} {
		for _, typ := range []PixelType{Half, Float} {
			e := sample(comp, typ)
			e.Channels[0].Data[0] = 0.25
			p := filepath.Join(dir, "p.exr")
			var b bytes.Buffer
			if err := WriteEXR(&b, e); err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(p, b.Bytes(), 0o600); err != nil {
				t.Fatal(err)
			}
			if out, err := exec.Command(header, p).CombinedOutput(); err != nil || !strings.Contains(string(out), "chromaticities") {
				t.Fatalf("exrheader: %v\n%s", err, out)
			}
			out, err := exec.Command(oiio, "--stats", p).CombinedOutput()
			if err != nil || strings.Contains(strings.ToLower(string(out)), "warn") {
				t.Fatalf("oiiotool: %v\n%s", err, out)
			}
			// Rewritten without compression by the other program, the numbers are the same.
			q := filepath.Join(dir, "q.exr")
			if out, err := exec.Command(oiio, p, "--compression", "none", "-o", q).CombinedOutput(); err != nil {
				t.Fatalf("oiiotool: %v\n%s", err, out)
			}
			raw, err := os.ReadFile(q)
			if err != nil {
				t.Fatal(err)
			}
			g, err := ReadEXR(raw, DefaultLimits)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range e.Channels {
				d := g.Channel(c.Name)
				if d == nil {
					t.Fatalf("the other program lost %q", c.Name)
				}
				for i := range c.Data {
					if c.Data[i] != d.Data[i] {
						t.Fatalf("%q[%d]: %v, the other program says %v", c.Name, i, c.Data[i], d.Data[i])
					}
				}
			}
		}
	}
}

func TestWriteEXRRefusesWhatNoReaderTakes(t *testing.T) {
	for name, spoil := range map[string]func(*EXR){
		"twice":       func(e *EXR) { e.Channels[1].Name = "R" },
		"values":      func(e *EXR) { e.Channels[1].Data = e.Channels[1].Data[1:] },
		"no channels": func(e *EXR) { e.Channels = nil },
		"no pixels":   func(e *EXR) { e.Window = image.Rectangle{} },
		"1 to 255":    func(e *EXR) { e.Channels[0].Name = strings.Repeat("n", 256) },
	} {
		e := sample(ZIP, Half)
		spoil(e)
		if err := WriteEXR(&bytes.Buffer{}, e); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("%s: got %v", name, err)
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

func TestPNGDividesByAlphaAndEncodes(t *testing.T) {
	p := &Picture{W: 2, H: 1, R: []float32{0.107, 4}, G: []float32{0.107, 4}, B: []float32{0.107, 4}, A: []float32{0.5, 1}}
	for _, bits := range []int{8, 16} {
		var b bytes.Buffer
		if err := EncodePNG(&b, p, bits, Look{Transform: colour.Plain}); err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(&b)
		if err != nil {
			t.Fatal(err)
		}
		// 0.107/0.5 = 0.214 is mid grey, encoded 0.5; associated again by RGBA(): 0.25.
		r, _, _, a := img.At(0, 0).RGBA()
		if math.Abs(float64(r)/65535-0.25) > 0.004 || math.Abs(float64(a)/65535-0.5) > 0.004 {
			t.Errorf("%d bit: %v %v", bits, r, a)
		}
		if r, _, _, _ := img.At(1, 0).RGBA(); r != 65535 {
			t.Errorf("%d bit: white is %v", bits, r)
		}
	}
}

func FuzzReadEXR(f *testing.F) {
	for _, c := range []Compression{NoCompression, ZIPS, ZIP} {
		var b bytes.Buffer
		if err := WriteEXR(&b, sample(c, Half)); err != nil {
			f.Fatal(err)
		}
		f.Add(b.Bytes())
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		e, err := ReadEXR(b, Limits{Pixels: 1 << 16})
		if err != nil {
			if !errors.Is(err, ErrFormat) {
				t.Fatalf("an error of another kind: %v", err)
			}
			return
		}
		if err := e.check(); err != nil {
			t.Fatalf("read something unwritable: %v", err)
		}
	})
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

// A 1080p picture of 24 half channels with ZIP, the usual delivery.
func BenchmarkWriteEXR1080p24(b *testing.B) {
	e := &EXR{Display: image.Rect(0, 0, 1920, 1080), Window: image.Rect(0, 0, 1920, 1080), Compression: ZIP}
	r := rand.New(rand.NewPCG(9, 9))
	d := make([]float32, 1920*1080)
	for i := range d {
		d[i] = float32(i%1920)/1920 + r.Float32()*0.01
	}
	for i := 0; i < 24; i++ {
		e.Channels = append(e.Channels, Channel{Name: string(rune('a' + i)), Type: Half, Data: d})
	}
	b.SetBytes(int64(len(d) * 2 * 24))
	for b.Loop() {
		if err := WriteEXR(discard{}, e); err != nil {
			b.Fatal(err)
		}
	}
}

type discard struct{}

func (discard) Write(p []byte) (int, error) { return len(p), nil }
