package frozen

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/color"
	"math"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/surface"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// made is a proof of two passes, 3 x 2 pixels: light with alpha, and numbers.
func made() (*Proof, []Shown) {
	p := &Proof{Scene: "Lamp", Slug: "a slug", Window: [4]int{1, 1, 4, 3}, Resolved: ticket.Resolved{Ticket: ticket.New()}}
	p.Resolved.Ticket.View.Width, p.Resolved.Ticket.View.Height = 5, 4
	ramp := func(by float32) []float32 {
		out := make([]float32, 6)
		for i := range out {
			out[i] = by * float32(i)
		}
		return out
	}
	light := ramp(0.2)
	light[5] = 1e6 // more than a half can be
	return p, []Shown{
		{"beauty", "Beauty", &finish.Picture{W: 3, H: 2, R: light, G: ramp(0.1), B: ramp(0.05), A: ramp(0.2)}, ramp(0.01)},
		{"occlusion", "Occlusion", &finish.Picture{W: 3, H: 2, R: ramp(0.125), Data: true}, nil},
	}
}

// What was written is read as it was, to the precision of halves; the same proof has the same
// name, and is there once.
func TestWhatIsWrittenIsRead(t *testing.T) {
	root := t.TempDir()
	p, pictures := made()
	sum, err := Write(t.Context(), root, p, pictures, nil)
	if err != nil {
		t.Fatal(err)
	}
	p2, _ := made()
	if again, err := Write(t.Context(), root, p2, pictures, nil); err != nil || again != sum {
		t.Errorf("the same again is %s, %v", again, err)
	}
	if all, err := os.ReadDir(root); err != nil || len(all) != 1 || all[0].Name() != sum {
		t.Errorf("there are %v %v", all, err)
	}
	got, err := Read(root, sum)
	if err != nil || got.Slug != "a slug" || len(got.Passes) != 2 {
		t.Fatalf("%+v %v", got, err)
	}
	dir := filepath.Join(root, sum)
	for i, want := range pictures {
		pass, err := got.Pass(want.Key)
		if err != nil {
			t.Fatal(err)
		}
		v, err := Picture(dir, pass)
		if err != nil {
			t.Fatal(err)
		}
		if v.W != 3 || v.H != 2 || v.Data != want.Picture.Data || (v.G == nil) != (want.Picture.G == nil) || (v.A == nil) != (want.Picture.A == nil) {
			t.Errorf("pass %d is %+v", i, v)
		}
		for k, x := range want.Picture.R {
			if x = min(x, imageio.LargestHalf); math.Abs(float64(v.R[k]-x)) > float64(x)/2048 {
				t.Errorf("pass %d, pixel %d: %v, not %v", i, k, v.R[k], x)
			}
		}
		if _, errs, err := Measured(dir, pass); err != nil || (errs == nil) != (want.Errors == nil) || errs != nil && math.Abs(float64(errs[3])-0.03) > 1e-4 {
			t.Errorf("pass %d: errors %v, %v", i, errs, err)
		}
		if png, err := Packed(dir, pass, SmallSide, false); err != nil || len(png) == 0 {
			t.Errorf("small: %v", err)
		}
	}
	if first, err := got.Pass(""); err != nil || first.Key != "beauty" {
		t.Errorf("the first is %+v, %v", first, err)
	}
	if _, err := got.Pass("../../beauty"); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("a pass that is not there: %v", err)
	}
}

// Whatever of a proof is changed, it is found out.
func TestChangedFilesAreFoundOut(t *testing.T) {
	for _, file := range []string{document, "1.exr", "2.exr"} {
		root := t.TempDir()
		p, pictures := made()
		sum, err := Write(t.Context(), root, p, pictures, nil)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(root, sum, file)
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		b[len(b)-3] ^= 0x10
		if err := os.WriteFile(path, b, 0o644); err != nil {
			t.Fatal(err)
		}
		got, err := Read(root, sum)
		for i := 0; err == nil && i < len(got.Passes); i++ {
			_, err = Picture(filepath.Join(root, sum), &got.Passes[i])
		}
		if !errors.Is(err, ErrDamaged) {
			t.Errorf("%s: %v", file, err)
		}
	}
}

// Where the surfaces are is kept with the pictures, and who changed that is told; a proof
// without it says so.
func TestPlacesAreKept(t *testing.T) {
	root := t.TempDir()
	p, pictures := made()
	m := surface.New(trace.Camera{World: geom.Identity(), YFov: 1}, 5, 4, image.Rect(1, 1, 4, 3))
	m.SetParts([]surface.Part{{Key: "Card", Title: "Card", World: geom.Identity()}})
	m.Front.Part[2] = 1
	sum, err := Write(t.Context(), root, p, pictures, m)
	if err != nil {
		t.Fatal(err)
	}
	dir := filepath.Join(root, sum)
	read, err := Read(root, sum)
	if err != nil {
		t.Fatal(err)
	}
	got, err := read.ReadPlaces(dir)
	if err != nil || !reflect.DeepEqual(got, m) {
		t.Errorf("%+v %v", got, err)
	}
	path := filepath.Join(dir, read.Places.File)
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	b[len(b)-1] ^= 1
	if err := os.WriteFile(path, b, 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := read.ReadPlaces(dir); !errors.Is(err, ErrDamaged) {
		t.Errorf("changed: %v", err)
	}
	read.Places = nil
	if got, err := read.ReadPlaces(dir); got != nil || err != nil {
		t.Errorf("without: %v %v", got, err)
	}
}

// Given up, nothing is left.
func TestGivenUpNothingIsLeft(t *testing.T) {
	root := t.TempDir()
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	p, pictures := made()
	if _, err := Write(ctx, root, p, pictures, nil); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
	if all, _ := os.ReadDir(root); len(all) != 0 {
		t.Errorf("left are %v", all)
	}
}

// A smaller picture keeps its shape and the mean of what it shows, and is never larger.
func TestSmaller(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 64, 16))
	for y := range 16 {
		for x := range 64 {
			img.SetNRGBA(x, y, color.NRGBA{uint8(255 * (x % 2)), 100, 0, 255})
		}
	}
	got := Smaller(img, 16)
	if got.Rect.Dx() != 16 || got.Rect.Dy() != 4 {
		t.Fatalf("it has %v", got.Rect)
	}
	if c := got.NRGBAAt(8, 2); c.R < 120 || c.R > 135 || c.G != 100 {
		t.Errorf("the mean is %v", c)
	}
	if Smaller(img, 100) != img {
		t.Error("it became larger")
	}
	if thin := Smaller(image.NewNRGBA(image.Rect(0, 0, 9000, 1)), 10); thin.Rect.Dy() != 1 {
		t.Errorf("a line has %v", thin.Rect)
	}
}

// What is packed for a screen is at hand; other sizes are not.
func TestPacked(t *testing.T) {
	root := t.TempDir()
	p, pictures := made()
	sum, err := Write(t.Context(), root, p, pictures, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		side int
		jpeg bool
		kind string
	}{{SmallSide, false, "png"}, {100, false, "png"}, {ScreenSide, true, "jpeg"}, {1000, true, "jpeg"}, {1000, false, ""}, {5000, true, ""}, {200, true, ""}} {
		b, err := Packed(filepath.Join(root, sum), &p.Passes[0], c.side, c.jpeg)
		if err != nil || (b == nil) != (c.kind == "") {
			t.Errorf("%+v: %d bytes, %v", c, len(b), err)
			continue
		}
		if b != nil {
			if cfg, kind, err := image.DecodeConfig(bytes.NewReader(b)); err != nil || kind != c.kind || cfg.Width != 3 {
				t.Errorf("%+v: %s %v %v", c, kind, cfg, err)
			}
		}
	}
}

// A watermark is all over a picture, dark and light, and leaves what is between.
func TestMarked(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 600, 400))
	for i := range img.Pix {
		img.Pix[i] = 128
		if i%4 == 3 {
			img.Pix[i] = 255
		}
	}
	got, err := Marked(img, "Ottilie Harrowgate · 12 March 2031")
	if err != nil {
		t.Fatal(err)
	}
	for _, q := range []image.Rectangle{image.Rect(0, 0, 300, 200), image.Rect(300, 0, 600, 200), image.Rect(0, 200, 300, 400), image.Rect(300, 200, 600, 400)} {
		var dark, light, same int
		for y := q.Min.Y; y < q.Max.Y; y++ {
			for x := q.Min.X; x < q.Max.X; x++ {
				switch v := got.NRGBAAt(x, y).R; {
				case v < 120:
					dark++
				case v > 136:
					light++
				case v == 128:
					same++
				}
			}
		}
		if n := q.Dx() * q.Dy(); dark < n/200 || light < n/200 || same < n/2 {
			t.Errorf("in %v: %d dark, %d light, %d as before of %d", q, dark, light, same, n)
		}
	}
	if img.NRGBAAt(10, 10).R != 128 {
		t.Error("the picture itself was written on")
	}
}
