package frozen

import (
	"context"
	"errors"
	"image"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"amberproof/core/finish"
	"amberproof/core/imageio"
	"amberproof/internal/ticket"
)

// large is a proof of one picture of w x h pixels of noise.
func large(t testing.TB, w, h int) (dir string, p *Proof) {
	t.Helper()
	p = &Proof{Window: [4]int{0, 0, w, h}, Resolved: ticket.Resolved{Ticket: ticket.New()}}
	p.Resolved.Ticket.View.Width, p.Resolved.Ticket.View.Height = w, h
	r := rand.New(rand.NewPCG(3, 4))
	plane := func() []float32 {
		out := make([]float32, w*h)
		for i := range out {
			out[i] = 0.2 + 0.1*r.Float32()
		}
		return out
	}
	v := &finish.Picture{W: w, H: h, R: plane(), G: plane(), B: plane(), A: make([]float32, w*h)}
	for i := range v.A {
		v.A[i] = 1
	}
	root := t.TempDir()
	sum, err := Write(context.Background(), root, p, []Shown{{"beauty", "Beauty", v, plane()}}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if p, err = Read(root, sum); err != nil {
		t.Fatal(err)
	}
	return filepath.Join(root, sum), p
}

func TestPartsAreThoseOfTheWhole(t *testing.T) {
	dir, p := large(t, 1100, 530)
	whole, err := Picture(dir, &p.Passes[0])
	if err != nil {
		t.Fatal(err)
	}
	o, err := p.Passes[0].Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer o.Close()
	r := image.Rect(500, 500, 1030, 530)
	part, err := o.Part(0, r)
	if err != nil {
		t.Fatal(err)
	}
	for y := range r.Dy() {
		at := (r.Min.Y+y)*whole.W + r.Min.X
		for k, plane := range [][]float32{part.R, part.G, part.B, part.A} {
			if !reflect.DeepEqual(plane[y*r.Dx():(y+1)*r.Dx()], [][]float32{whole.R, whole.G, whole.B, whole.A}[k][at:at+r.Dx()]) {
				t.Fatalf("line %d of plane %d differs", y, k)
			}
		}
	}
	if v, err := o.Part(1, image.Rect(600, 0, 700, 10)); v != nil || err != nil {
		t.Errorf("beyond it: %v, %v", v, err)
	}
}

// A proof of form 2 is kept as scan lines: the same parts are read from it.
func TestPartsOfScanLines(t *testing.T) {
	dir, p := large(t, 700, 90)
	pass := &p.Passes[0]
	want, err := Picture(dir, pass)
	if err != nil {
		t.Fatal(err)
	}
	again := Shown{Picture: want}
	f, err := os.Create(filepath.Join(dir, "lines.exr"))
	if err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(imageio.WriteEXR(f, exr(p, &again)), f.Close()); err != nil {
		t.Fatal(err)
	}
	old := Pass{File: File{File: "lines.exr"}}
	a, err1 := pass.Open(dir)
	b, err2 := old.Open(dir)
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	defer a.Close()
	for level := range 4 {
		r := image.Rect(10, 5, 60, 9)
		v, err1 := a.Part(level, r)
		w, err2 := b.Part(level, r)
		if err1 != nil || err2 != nil || v.W != w.W || v.H != w.H {
			t.Fatal(level, err1, err2)
		}
		for i := range v.R {
			if d := v.G[i] - w.G[i]; d > 1e-3 || d < -1e-3 { // a mean of means that were kept as halves
				t.Fatalf("level %d, pixel %d: %v and %v", level, i, v.G[i], w.G[i])
			}
		}
	}
}

func TestAChangedHeadIsTold(t *testing.T) {
	dir, p := large(t, 600, 40)
	path := filepath.Join(dir, "1.exr")
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	b[60] ^= 1
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	if o, err := p.Passes[0].Open(dir); err == nil {
		o.Close()
		t.Error("it is opened")
	}
}

// The first tile of a picture of 3840 x 2160 pixels, from its file to what is sent; beside it
// what that would take if the picture had to be read whole.
func BenchmarkFirstTile(b *testing.B) {
	dir, p := large(b, 3840, 2160)
	pass, look := &p.Passes[0], p.Resolved.Ticket.Finish()
	for name, level := range map[string]int{"tile/full": 0, "tile/quarter": 2} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				o, err := pass.Open(dir)
				if err != nil {
					b.Fatal(err)
				}
				v, err := o.Part(level, image.Rect(0, 0, TileSide, TileSide))
				if err == nil {
					_, err = PNG(look.Shown(v))
				}
				o.Close()
				if err != nil {
					b.Fatal(err)
				}
			}
		})
	}
	b.Run("whole", func(b *testing.B) {
		for b.Loop() {
			v, err := Picture(dir, pass)
			if err == nil {
				_, err = PNG(look.Shown(v))
			}
			if err != nil {
				b.Fatal(err)
			}
		}
	})
}
