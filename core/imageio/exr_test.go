package imageio

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/klauspost/compress/zlib"

	"amberproof/core/colour"
)

func sample(comp Compression, typ PixelType) *EXR {
	r := rand.New(rand.NewPCG(3, uint64(comp)))
	e := &EXR{
		Display: image.Rect(0, 0, 64, 50), Window: image.Rect(5, 7, 42, 44),
		Compression: comp, Chromaticities: colour.Rec709,
		Text: map[string]string{"owner": "Pellwick", "ticket": `{"a":1}`},
	}
	for k, n := range []string{"R", "G", "B", "A", "light.key panel.R", "mask.a very long name of a part that exceeds thirty-one bytes.Y"} {
		d := make([]float32, 37*37)
		for i := range d {
			switch k {
			case 3: // flat, with runs
				d[i] = float32(i / 400)
			case 4: // smooth
				d[i] = float32(i%37)/37 + float32(i/37)/90
			default:
				d[i] = float32(math.Exp(r.NormFloat64()*2)) * float32(i%7)
			}
			if typ == Half {
				d[i] = FromHalf(ToHalf(d[i]))
			}
		}
		e.Channels = append(e.Channels, Channel{Name: n, Type: typ, Data: d})
	}
	return e
}

// withIDs adds a channel of whole numbers, which half and float could not hold.
func withIDs(e *EXR) *EXR {
	ids := make([]uint32, e.Window.Dx()*e.Window.Dy())
	for i := range ids {
		ids[i] = 0xfedcba98 ^ uint32(i/50)
	}
	e.Channels = append(e.Channels, Channel{Name: "id", Type: Uint, Ints: ids})
	return e
}

var lossless = []Compression{NoCompression, RLE, ZIPS, ZIP, PIZ}

func same(t *testing.T, what string, e, g *EXR) {
	t.Helper()
	for _, c := range e.Channels {
		d := g.Channel(c.Name)
		if d == nil || d.Type != c.Type {
			t.Fatalf("%s: channel %q lost or changed", what, c.Name)
		}
		if !slices.Equal(c.Ints, d.Ints) {
			t.Fatalf("%s: %q has other numbers", what, c.Name)
		}
		for i := range c.Data {
			if c.Data[i] != d.Data[i] {
				t.Fatalf("%s: %q[%d]: %v became %v", what, c.Name, i, c.Data[i], d.Data[i])
			}
		}
	}
}

func encode(t testing.TB, parts ...*EXR) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := WriteEXRParts(&b, parts); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestEXRRoundTrip(t *testing.T) {
	for _, comp := range lossless {
		for _, typ := range []PixelType{Half, Float} {
			e := withIDs(sample(comp, typ))
			g, err := ReadEXR(encode(t, e), DefaultLimits)
			if err != nil {
				t.Fatal(err)
			}
			if g.Window != e.Window || g.Display != e.Display || g.Chromaticities != e.Chromaticities || g.Text["ticket"] != e.Text["ticket"] {
				t.Fatalf("header changed: %+v", g)
			}
			same(t, fmt.Sprint(comp, typ), e, g)
		}
	}
}

// Sizes of every remainder, and flat, smooth and wild values, through the
// wavelet and the Huffman code.
func TestPIZAtAwkwardSizes(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	for _, size := range []image.Point{{1, 1}, {2, 1}, {1, 33}, {3, 5}, {17, 31}, {64, 65}, {33, 97}, {200, 7}} {
		for kind := range 3 {
			e := &EXR{Display: image.Rectangle{Max: size}, Window: image.Rectangle{Max: size}, Compression: PIZ}
			h, f := make([]float32, size.X*size.Y), make([]float32, size.X*size.Y)
			for i := range h {
				switch kind {
				case 1:
					h[i], f[i] = float32(i%size.X), float32(i)*0.1
				case 2:
					h[i], f[i] = FromHalf(uint16(r.IntN(0x7c00))), math.Float32frombits(r.Uint32()&0x7effffff)
				}
				h[i] = FromHalf(ToHalf(h[i]))
			}
			e.Channels = []Channel{{Name: "f", Type: Float, Data: f}, {Name: "h", Type: Half, Data: h}}
			g, err := ReadEXR(encode(t, e), DefaultLimits)
			if err != nil {
				t.Fatalf("%v, kind %d: %v", size, kind, err)
			}
			same(t, fmt.Sprint(size, kind), e, g)
		}
	}
}

func parts() []*EXR {
	a, b := withIDs(sample(ZIP, Half)), sample(PIZ, Float)
	a.Name, b.Name = "beauty", "data"
	b.Window = b.Window.Sub(image.Pt(3, 3))
	return []*EXR{a, b}
}

func TestEXRParts(t *testing.T) {
	want := parts()
	got, err := ReadEXRParts(encode(t, want...), DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if len(got) != 2 {
		t.Fatalf("%d parts", len(got))
	}
	for i := range want {
		if got[i].Name != want[i].Name || got[i].Window != want[i].Window || got[i].Compression != want[i].Compression {
			t.Errorf("part %d: %q %v", i, got[i].Name, got[i].Window)
		}
		same(t, want[i].Name, want[i], got[i])
	}
	bad := parts()
	bad[1].Name = bad[0].Name
	if err := WriteEXRParts(&bytes.Buffer{}, bad); err == nil {
		t.Error("two parts of one name were written")
	}
}

// tools are the independent reader and writer, where they are installed.
func tools(t *testing.T) (header, oiio string) {
	t.Helper()
	header, err1 := exec.LookPath("exrheader")
	oiio, err2 := exec.LookPath("oiiotool")
	if err1 != nil || err2 != nil {
		t.Skip("exrheader and oiiotool are not installed: the independent reader is not asked")
	}
	return header, oiio
}

func run(t *testing.T, prog string, args ...string) string {
	t.Helper()
	out, err := exec.Command(prog, args...).CombinedOutput()
	if err != nil || strings.Contains(strings.ToLower(string(out)), "warn") {
		t.Fatalf("%s %v: %v\n%s", prog, args, err, out)
	}
	return string(out)
}

func readFile(t *testing.T, p string) []*EXR {
	t.Helper()
	raw, err := os.ReadFile(p)
	if err != nil {
		t.Fatal(err)
	}
	e, err := ReadEXRParts(raw, DefaultLimits)
	if err != nil {
		t.Fatalf("%s: %v", p, err)
	}
	return e
}

// An independent reader must agree on the numbers and have no complaint.
func TestEXRByIndependentReader(t *testing.T) {
	header, oiio := tools(t)
	p, q := filepath.Join(t.TempDir(), "p.exr"), filepath.Join(t.TempDir(), "q.exr")
	for _, comp := range lossless {
		for _, typ := range []PixelType{Half, Float} {
			e := sample(comp, typ)
			e.Channels[0].Data[0] = 0.25
			if err := os.WriteFile(p, encode(t, e), 0o600); err != nil {
				t.Fatal(err)
			}
			if out := run(t, header, p); !strings.Contains(out, "chromaticities") {
				t.Fatalf("exrheader: %s", out)
			}
			// Rewritten without compression by the other program, the numbers are the same.
			run(t, oiio, p, "--compression", "none", "-o", q)
			same(t, fmt.Sprint(comp, typ), e, readFile(t, q)[0])
		}
	}
	two := parts()
	if err := os.WriteFile(p, encode(t, two...), 0o600); err != nil {
		t.Fatal(err)
	}
	if out := run(t, header, p); !strings.Contains(out, "beauty") || !strings.Contains(out, "data") {
		t.Fatalf("exrheader: %s", out)
	}
	run(t, oiio, p, "--subimage", "data", "--compression", "none", "-o", q)
	same(t, "second part", two[1], readFile(t, q)[0])
}

// Files as other programs write them: tiles, smaller sizes beside the full one,
// several parts, and the lossy methods, whose values the other program gives.
func TestEXROfAnIndependentWriter(t *testing.T) {
	_, oiio := tools(t)
	dir := t.TempDir()
	p, q, r := filepath.Join(dir, "p.exr"), filepath.Join(dir, "q.exr"), filepath.Join(dir, "r.exr")
	e := sample(ZIP, Half)
	for i := range e.Channels { // values that the lossy methods can be judged by
		for k := range e.Channels[i].Data {
			e.Channels[i].Data[k] = FromHalf(ToHalf(0.5 + 0.4*float32(math.Sin(float64(k%37)*0.3+float64(i)))*float32(k/37)/37))
		}
	}
	if err := os.WriteFile(p, encode(t, e), 0o600); err != nil {
		t.Fatal(err)
	}
	for name, args := range map[string][]string{
		"tiled, PIZ":    {p, "--tile", "16", "16", "--compression", "piz", "-o", q},
		"tiled, RLE":    {p, "--tile", "32", "8", "--compression", "rle", "-o", q},
		"smaller sizes": {p, "--compression", "zip", "-otex:filter=box", q},
		"several parts": {p, p, "--siappend", "--compression", "zips", "-o", q},
		"ZIP":           {p, "--compression", "zip", "-o", q},
	} {
		run(t, oiio, args...)
		if name == "smaller sizes" {
			// A texture has a window of its own; what counts is that it is read at all.
			if got := readFile(t, q); got[0].Channel("R") == nil || len(got[0].Channel("R").Data) == 0 {
				t.Errorf("%s: nothing was read", name)
			}
			continue
		}
		for _, g := range readFile(t, q) {
			same(t, name, e, g)
		}
	}
	for _, how := range []string{"dwaa", "dwab", "dwaa:200"} {
		run(t, oiio, p, "--compression", how, "-o", q)
		run(t, oiio, q, "--compression", "none", "-o", r)
		got, want := readFile(t, q)[0], readFile(t, r)[0]
		for _, c := range want.Channels {
			g := got.Channel(c.Name)
			for i := range c.Data {
				if d := math.Abs(float64(g.Data[i] - c.Data[i])); d > 2e-3 { // a few units of a half: transforms round
					t.Fatalf("%s %q[%d]: the other program says %v, we %v", how, c.Name, i, c.Data[i], g.Data[i])
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

// Files that another program wrote, checked in: a gradient whose corners are known.
func TestCheckedInFilesOfAnotherProgram(t *testing.T) {
	for name, want := range map[string]map[image.Point][]float32{
		"dwaa":  {{0, 0}: {0.1, 0.5, 0.9, 1}, {23, 19}: {1, 0.2, 0.1, 0}},
		"dwab":  {{0, 0}: {0.1, 0.5, 0.9}, {23, 19}: {1, 0.2, 0.1}},
		"tiled": {{0, 0}: {0.1, 0.5, 0.9}, {23, 19}: {1, 0.2, 0.1}},
	} {
		e := readFile(t, "testdata/seed-"+name+".exr")[0]
		bar := 1e-3 // a unit of a half
		if e.Compression >= DWAA {
			bar = 0.02 // what the lossy methods lose at their default quality
		}
		for at, values := range want {
			for k, n := range []string{"R", "G", "B", "A"}[:len(values)] {
				c := e.Channel(n)
				if c == nil {
					t.Fatalf("%s: no channel %s", name, n)
				}
				if got := c.Data[at.Y*e.Window.Dx()+at.X]; math.Abs(float64(got-values[k])) > bar {
					t.Errorf("%s, %s at %v: %v, want %v", name, n, at, got, values[k])
				}
			}
		}
	}
}

func FuzzReadEXR(f *testing.F) {
	small := func(name string, c Compression) *EXR { // small files are found their way into sooner
		e := sample(c, Half)
		e.Name, e.Window = name, image.Rect(2, 3, 9, 8)
		e.Channels = e.Channels[2:4]
		for i := range e.Channels {
			e.Channels[i].Data = e.Channels[i].Data[:7*5]
		}
		return withIDs(e)
	}
	for _, c := range lossless {
		f.Add(encode(f, small("", c)))
	}
	f.Add(encode(f, small("a", ZIP), small("b", PIZ)))
	seeds, err := filepath.Glob("testdata/seed-*.exr") // written by another program
	if err != nil || len(seeds) < 3 {
		f.Fatalf("%d seeds: %v", len(seeds), err)
	}
	for _, p := range seeds {
		b, err := os.ReadFile(p)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		all, err := ReadEXRParts(b, Limits{Pixels: 1 << 16})
		if err != nil {
			if !errors.Is(err, ErrFormat) {
				t.Fatalf("an error of another kind: %v", err)
			}
			return
		}
		for _, e := range all {
			e.Compression = min(e.Compression, PIZ) // others are read only
			if err := e.check(); err != nil {
				t.Fatalf("read something unwritable: %v", err)
			}
		}
	})
}

// hd is a picture of 1920 x 1080 with 24 half channels, the usual delivery.
func hd(c Compression) *EXR {
	e := &EXR{Display: image.Rect(0, 0, 1920, 1080), Window: image.Rect(0, 0, 1920, 1080), Compression: c}
	r := rand.New(rand.NewPCG(9, 9))
	d := make([]float32, 1920*1080)
	for i := range d {
		d[i] = float32(i%1920)/1920 + r.Float32()*0.01
	}
	for i := 0; i < 24; i++ {
		e.Channels = append(e.Channels, Channel{Name: string(rune('a' + i)), Type: Half, Data: d})
	}
	return e
}

const hdBytes = 1920 * 1080 * 2 * 24

func BenchmarkWriteEXR1080p24(b *testing.B) {
	for name, c := range map[string]Compression{"ZIP": ZIP, "PIZ": PIZ, "RLE": RLE, "none": NoCompression} {
		b.Run(name, func(b *testing.B) {
			e := hd(c)
			b.SetBytes(hdBytes)
			for b.Loop() {
				if err := WriteEXR(io.Discard, e); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func BenchmarkReadEXR1080p24(b *testing.B) {
	for name, c := range map[string]Compression{"ZIP": ZIP, "PIZ": PIZ, "RLE": RLE, "none": NoCompression} {
		b.Run(name, func(b *testing.B) {
			raw := encode(b, hd(c))
			b.SetBytes(hdBytes)
			for b.Loop() {
				if _, err := ReadEXR(raw, DefaultLimits); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// What cannot be beaten: the same bytes copied, and packed by zlib in the same
// blocks on all cores, nothing else done to them.
func BenchmarkCopyAndZlib(b *testing.B) {
	e := hd(ZIP)
	var raw []byte
	raw = packBlock(raw, 1920, e.Channels, image.Rect(0, 0, 1920, 1080))
	re := make([]byte, len(raw))
	zipReorder(re, raw)
	const piece = 16 * 1920 * 2 * 24
	b.SetBytes(hdBytes)
	for b.Loop() {
		var wg sync.WaitGroup
		n := runtime.GOMAXPROCS(0)
		for k := range n {
			wg.Go(func() {
				var out bytes.Buffer
				z, _ := zlib.NewWriterLevel(&out, zlibLevel) // the level is a constant that is allowed
				buf := make([]byte, piece)
				for at := k * piece; at < len(re); at += n * piece {
					m := copy(buf, re[at:])
					out.Reset()
					z.Reset(&out)
					_, _ = z.Write(buf[:m]) // a Buffer never fails
					_ = z.Close()
				}
			})
		}
		wg.Wait()
	}
}
