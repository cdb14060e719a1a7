package imageio

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"math"
	"os"
	"path/filepath"
	"slices"
	"testing"
)

func tiled(t testing.TB, e *EXR, side int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := WriteTiledEXR(&b, e, side); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func openTiles(t testing.TB, b []byte) *Tiles {
	t.Helper()
	f, err := OpenTiles(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// ramp is a picture whose value at x, y is x + 1000 y, so that its means are known.
func ramp(w, h int, c Compression) *EXR {
	e := &EXR{Compression: c, Window: image.Rect(5, -3, 5+w, -3+h), Display: image.Rect(0, 0, w, h)}
	v := Channel{Name: "Y", Type: Float, Data: make([]float32, w*h)}
	n := Channel{Name: "id", Type: Uint, Ints: make([]uint32, w*h)}
	for i := range v.Data {
		v.Data[i] = float32(i%w + 1000*(i/w))
		n.Ints[i] = uint32(i)
	}
	e.Channels = []Channel{v, n}
	return e
}

func TestTiledEXRIsReadWhole(t *testing.T) {
	for _, c := range lossless {
		for _, side := range []int{1, 7, 16, 300} {
			e := withIDs(sample(c, Half))
			got, err := ReadEXR(tiled(t, e, side), DefaultLimits)
			if err != nil {
				t.Fatal(err)
			}
			same(t, fmt.Sprint(c, side), e, got)
		}
	}
}

func TestTilesOfEverySize(t *testing.T) {
	f := openTiles(t, tiled(t, ramp(77, 41, ZIP), 16))
	if f.Levels() != 8 {
		t.Fatalf("%d sizes, not 8", f.Levels())
	}
	everySize(t, f)
}

// A file that has only the full size gives the others as well.
func TestSizesThatAFileDoesNotHave(t *testing.T) {
	everySize(t, openTiles(t, encode(t, ramp(77, 41, ZIP))))
}

// everySize reads ramp(77, 41) at all sizes.
func everySize(t *testing.T, f *Tiles) {
	const w, h = 77, 41
	want := []image.Point{{77, 41}, {39, 21}, {20, 11}, {10, 6}, {5, 3}, {3, 2}, {2, 1}, {1, 1}}
	for level, size := range want {
		if f.Size(level) != size {
			t.Errorf("size %d: %v, not %v", level, f.Size(level), size)
		}
		r := image.Rect(size.X/3, size.Y/4, size.X+9, size.Y-size.Y/5)
		got, err := f.Read(level, r)
		if err != nil {
			t.Fatal(err)
		}
		r = r.Intersect(image.Rectangle{Max: size})
		if got.Window != r {
			t.Fatalf("size %d: read %v of %v", level, got.Window, r)
		}
		// Away from odd edges a mean of 2^n pixels is that of their corners.
		step := 1 << level
		for y := r.Min.Y; y < r.Max.Y; y++ {
			for x := r.Min.X; x < r.Max.X; x++ {
				if (x+1)*step > w || (y+1)*step > h {
					continue
				}
				mean := float64(x*step) + float64(step-1)/2 + 1000*(float64(y*step)+float64(step-1)/2)
				i := (y-r.Min.Y)*r.Dx() + x - r.Min.X
				if v := float64(got.Channel("Y").Data[i]); math.Abs(v-mean) > mean*1e-6 {
					t.Fatalf("size %d at %d, %d: %v, not %v", level, x, y, v, mean)
				}
				if id := got.Channel("id").Ints[i]; id != uint32(y*step*w+x*step) {
					t.Fatalf("size %d at %d, %d: number %d", level, x, y, id)
				}
			}
		}
	}
}

// A file of scan lines has one size, and is read in parts as well.
func TestTilesOfScanLines(t *testing.T) {
	for _, c := range lossless {
		e := ramp(50, 70, c)
		f := openTiles(t, encode(t, e))
		got, err := f.Read(0, image.Rect(20, 30, 33, 65))
		if f.Levels() != 1 || err != nil {
			t.Fatal(f.Levels(), err)
		}
		if v := got.Channel("Y").Data; v[0] != 30020 || v[len(v)-1] != 64032 || len(v) != 13*35 {
			t.Errorf("%v: %v to %v, %d values", c, v[0], v[len(v)-1], len(v))
		}
	}
}

// Every chunk is checked before it is used, by its number.
func TestTilesAreChecked(t *testing.T) {
	f := openTiles(t, tiled(t, ramp(40, 20, ZIP), 16))
	var all [][]byte
	if err := f.Chunks(func(data []byte) { all = append(all, bytes.Clone(data)) }); err != nil {
		t.Fatal(err)
	}
	if len(all) != 6+2+1+1+1+1+1 {
		t.Fatalf("%d chunks", len(all))
	}
	var asked []int
	f.Check = func(chunk int, data []byte) error {
		if asked = append(asked, chunk); !bytes.Equal(data, all[chunk]) {
			t.Errorf("chunk %d is not that", chunk)
		}
		return nil
	}
	if _, err := f.Read(0, image.Rect(20, 2, 40, 12)); err != nil || !slices.Equal(asked, []int{1, 2}) {
		t.Errorf("asked of %v, %v", asked, err)
	}
	refused := errors.New("not what was written")
	f.Check = func(chunk int, _ []byte) error { return refused }
	if _, err := f.Read(1, image.Rect(0, 0, 4, 4)); !errors.Is(err, refused) {
		t.Error(err)
	}
}

func TestTilesByIndependentReader(t *testing.T) {
	header, oiio := tools(t)
	dir := t.TempDir()
	p, q := filepath.Join(dir, "p.exr"), filepath.Join(dir, "q.exr")
	e := ramp(77, 41, ZIP)
	e.Channels = e.Channels[:1] // the other program makes floats of whole numbers
	if err := os.WriteFile(p, tiled(t, e, 16), 0o600); err != nil {
		t.Fatal(err)
	}
	run(t, header, p)
	f := openTiles(t, tiled(t, e, 16))
	for level := range f.Levels() {
		run(t, oiio, p, "--selectmip", fmt.Sprint(level), "--scanline", "--compression", "none", "-o", q)
		want, err := f.Read(level, image.Rect(0, 0, 100, 100))
		if err != nil {
			t.Fatal(err)
		}
		if got := readFile(t, q)[0]; !slices.Equal(got.Channels[0].Data, want.Channels[0].Data) {
			t.Errorf("size %d differs: %v and %v", level, got.Window, want.Window)
		}
	}
}

func FuzzOpenTiles(f *testing.F) {
	f.Add(tiled(f, ramp(9, 7, ZIP), 4), uint8(0))
	f.Add(tiled(f, ramp(9, 7, PIZ), 4), uint8(2))
	f.Add(encode(f, ramp(9, 7, RLE)), uint8(0))
	f.Fuzz(func(t *testing.T, b []byte, level uint8) {
		one, err := OpenTiles(bytes.NewReader(b), int64(len(b)))
		if err == nil {
			_, err = one.Read(int(level)%one.Levels(), image.Rect(1, 2, 12, 11))
		}
		if err != nil && !errors.Is(err, ErrFormat) {
			t.Fatalf("an error of another kind: %v", err)
		}
	})
}

// What a part costs against the whole, of a picture of 1920 x 1080.
func BenchmarkReadTile(b *testing.B) {
	e := hd(ZIP)
	e.Channels = e.Channels[:5]
	raw := tiled(b, e, 512)
	b.Run("tile", func(b *testing.B) {
		for b.Loop() {
			if _, err := openTiles(b, raw).Read(0, image.Rect(512, 512, 1024, 1024)); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("whole", func(b *testing.B) {
		for b.Loop() {
			if _, err := ReadEXR(raw, DefaultLimits); err != nil {
				b.Fatal(err)
			}
		}
	})
}
