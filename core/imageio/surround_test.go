package imageio

import (
	"bytes"
	"fmt"
	"image"
	"math"
	"runtime"
	"strings"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// A picture with a mark is the same in all eight orientations.
func TestRadianceOrientations(t *testing.T) {
	const w, h = 9, 4
	px := func(x, y int) [4]byte { return [4]byte{byte(10*x + 1), byte(20*y + 1), 7, 136} }
	for _, turned := range []bool{false, true} {
		for _, sx := range []string{"+", "-"} {
			for _, sy := range []string{"+", "-"} {
				res := fmt.Sprintf("%sY %d %sX %d", sy, h, sx, w)
				outer, inner := h, w
				if turned {
					res = fmt.Sprintf("%sX %d %sY %d", sx, w, sy, h)
					outer, inner = w, h
				}
				b := bytes.NewBufferString("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\nEXPOSURE=2\nEXPOSURE=0.25\n\n" + res + "\n")
				for o := range outer {
					for i := range inner {
						x, y := i, o
						if turned {
							x, y = o, i
						}
						if sx == "-" {
							x = w - 1 - x
						}
						if sy == "+" {
							y = h - 1 - y
						}
						v := px(x, y)
						b.Write(v[:])
					}
				}
				p, err := ReadHDR(b.Bytes(), DefaultLimits)
				if err != nil {
					t.Fatalf("%s: %v", res, err)
				}
				if p.W != w || p.H != h {
					t.Fatalf("%s: %d x %d", res, p.W, p.H)
				}
				for y := range h {
					for x := range w {
						// The exposures make a half: values are doubled.
						if got, want := p.Pix[(y*w+x)*3], 2*(float32(10*x+1)+0.5); got != want {
							t.Fatalf("%s at %d, %d: %v, want %v", res, x, y, got, want)
						}
					}
				}
			}
		}
	}
}

// The white of XYZE, equal X, Y and Z, is white; pure Y is a green beyond Rec.709.
func TestRadianceXYZ(t *testing.T) {
	b := append([]byte("#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 1 +X 2\n"), 100, 100, 100, 136, 0, 100, 0, 136)
	p, err := ReadHDR(b, DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	for k := range 3 {
		if math.Abs(float64(p.Pix[k])-100.5) > 0.01 {
			t.Errorf("white: %v", p.Pix[:3])
		}
	}
	if p.Pix[3] != 0 || p.Pix[4] < 100 || p.Pix[5] != 0 {
		t.Errorf("pure Y: %v", p.Pix[3:])
	}
}

func TestSurroundFromEXR(t *testing.T) {
	c := geom.V(0.2, 0.5, 3)
	to, _ := colour.Between(colour.Rec709, colour.AP1)
	stored := to.Apply(c)
	e := &EXR{Display: image.Rect(0, 0, 4, 2), Window: image.Rect(1, 0, 6, 1), Compression: ZIP, Chromaticities: colour.AP1}
	for k, n := range []string{"R", "G", "B"} {
		d := make([]float32, 5)
		for i := range d {
			d[i] = stored.At(k)
		}
		d[2] = float32(math.Inf(1))
		e.Channels = append(e.Channels, Channel{Name: n, Type: Float, Data: d})
	}
	p, err := ReadSurround(encode(t, e), DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if p.W != 4 || p.H != 2 {
		t.Fatalf("%d x %d", p.W, p.H)
	}
	at := func(x, y int) geom.Vec3 { i := (y*4 + x) * 3; return geom.V(p.Pix[i], p.Pix[i+1], p.Pix[i+2]) }
	if got := at(1, 0); got.Sub(c).Len() > 1e-5 {
		t.Errorf("colour %v, want %v", got, c)
	}
	for _, q := range []image.Point{{0, 0}, {3, 0}, {1, 1}} { // outside the data, not finite, outside
		if !at(q.X, q.Y).IsZero() {
			t.Errorf("%v: %v", q, at(q.X, q.Y))
		}
	}
	var grey bytes.Buffer
	y := &EXR{Display: image.Rect(0, 0, 1, 1), Window: image.Rect(0, 0, 1, 1), Channels: []Channel{{Name: "Y", Type: Half, Data: []float32{0.5}}}}
	if err := WriteEXR(&grey, y); err != nil {
		t.Fatal(err)
	}
	if p, err := ReadSurround(grey.Bytes(), DefaultLimits); err != nil || p.Pix[2] != 0.5 {
		t.Errorf("grey: %v %v", p, err)
	}
	if _, err := ReadSurround([]byte("GIF89a"), DefaultLimits); err == nil {
		t.Error("a GIF was taken")
	}
}

// A few pixels in a display window of a hundred million are refused before
// anything is laid out for them; at a size that such a file may have they are read.
func TestSurroundOfAVastDisplayWindow(t *testing.T) {
	few := func(side int) []byte {
		return encode(t, &EXR{Display: image.Rect(0, 0, 2*side, side), Window: image.Rect(0, 0, 1, 1),
			Channels: []Channel{{Name: "Y", Type: Half, Data: []float32{1}}}})
	}
	var before, after runtime.MemStats
	b := few(8192)
	runtime.ReadMemStats(&before)
	_, err := ReadSurround(b, DefaultLimits)
	runtime.ReadMemStats(&after)
	if err == nil || !strings.Contains(err.Error(), "memory") {
		t.Errorf("a vast display window: %v", err)
	}
	if used := after.TotalAlloc - before.TotalAlloc; used > 1<<20 {
		t.Errorf("refusing it took %d bytes", used)
	}
	if p, err := ReadSurround(few(1024), DefaultLimits); err != nil || p.W != 2048 || p.Pix[0] != 1 {
		t.Errorf("a modest one: %v", err)
	}
	if _, err := ReadSurround(few(1<<20), DefaultLimits); err == nil {
		t.Error("more pixels than the limit were taken")
	}
}
