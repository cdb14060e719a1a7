package review_test

import (
	"bytes"
	"errors"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/review"
	"amberproof/internal/ticket"
)

func picture(t *testing.T, b []byte, err error) *image.NRGBA {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	out := image.NewNRGBA(img.Bounds())
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			out.Set(x, y, img.At(x, y))
		}
	}
	return out
}

// mean is what a part of a picture is on average, of 255.
func mean(img *image.NRGBA, r image.Rectangle) float64 {
	sum, n := 0, 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			c := img.NRGBAAt(x, y)
			sum += int(c.R) + int(c.G) + int(c.B)
			n += 3
		}
	}
	return float64(sum) / float64(n)
}

func TestTiles(t *testing.T) {
	h := open(t)
	r := h.round(t, false)
	up := func(change func(*ticket.Ticket)) review.Proof {
		t.Helper()
		run := h.render(t, change)
		got, err := h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: run, Passes: []string{"beauty"}})
		if err != nil {
			t.Fatal(err)
		}
		return got.Proofs[len(got.Proofs)-1]
	}
	wide := func(v *ticket.Ticket) {
		v.View.Width, v.View.Height, v.View.Region.On = 640, 80, false
		v.Quality.Least, v.Quality.Most, v.Quality.Denoise.On = 2, 2, false
	}
	full := up(wide)
	tile := func(of review.Proof, x review.Tile) *image.NRGBA {
		t.Helper()
		b, err := h.Review.Tile(ctx, h.td, of.ID, x)
		return picture(t, b, err)
	}

	whole, err := h.Review.Picture(ctx, h.td, full.ID, review.Seen{})
	all := picture(t, whole, err)
	for x, w := range []int{256, 256, 128} {
		part := tile(full, review.Tile{X: x})
		if part.Rect.Dx() != w || part.Rect.Dy() != 80 {
			t.Fatalf("tile %d is %v", x, part.Rect)
		}
		for i := range w {
			if a, b := part.NRGBAAt(i, 40), all.NRGBAAt(256*x+i, 40); a != b {
				t.Fatalf("tile %d at %d: %v, and %v in the whole", x, i, a, b)
			}
		}
	}
	half := tile(full, review.Tile{Level: 1})
	if half.Rect.Dx() != 256 || half.Rect.Dy() != 40 {
		t.Errorf("half the size is %v", half.Rect)
	}
	if a, b := mean(half, half.Rect), mean(all, image.Rect(0, 0, 512, 80)); a < b-3 || a > b+3 { // of light and not of display values
		t.Errorf("half the size is %v on average, and the whole %v", a, b)
	}
	if a, b := mean(tile(full, review.Tile{Level: 1, Stops: 1}), half.Rect), mean(half, half.Rect); a < b*1.1 {
		t.Errorf("a stop more: %v, and %v without", a, b)
	}
	for _, beyond := range []review.Tile{{X: 3}, {Y: 1}, {Level: 1, X: 2}, {X: 65536, Y: 65536, Level: 16}} {
		if _, err := h.Review.Tile(ctx, h.td, full.ID, beyond); !errors.Is(err, fault.ErrNotFound) {
			t.Errorf("%+v: %v", beyond, err)
		}
	}

	// Differences: none from itself; of a crop of the same picture none where both are; a picture
	// of another size lies in the same place.
	if d := tile(full, review.Tile{Less: full.ID, Gain: 64}); mean(d, d.Rect) != 0 {
		t.Errorf("from itself: %v", mean(d, d.Rect))
	}
	crop := up(func(v *ticket.Ticket) { v.View.Region = ticket.Region{On: true, X: 25, Y: 25, Width: 50, Height: 50} })
	if crop.Area != [4]int{160, 20, 480, 60} {
		t.Fatalf("the crop is %v", crop.Area)
	}
	d := tile(full, review.Tile{Less: crop.ID, Gain: 64})
	if in, out := mean(d, image.Rect(160, 20, 256, 60)), mean(d, image.Rect(0, 0, 160, 80)); in != 0 || out < 50 {
		t.Errorf("from a crop: %v in it, %v outside", in, out)
	}
	if d := tile(crop, review.Tile{Less: full.ID, Gain: 64}); mean(d, d.Rect) != 0 || d.Rect.Dx() != 256 {
		t.Errorf("of a crop from the whole: %v, %v", mean(d, d.Rect), d.Rect)
	}
	twice := up(func(v *ticket.Ticket) { wide(v); v.View.Width, v.View.Height = 1280, 160 })
	same := mean(tile(full, review.Tile{Less: twice.ID, Gain: 1}), image.Rect(0, 0, 256, 80))
	square := up(func(v *ticket.Ticket) { wide(v); v.View.Width = 80 })
	middle := mean(tile(full, review.Tile{X: 1, Less: square.ID, Gain: 1}), image.Rect(290-256, 5, 350-256, 75))
	if light := mean(all, image.Rect(290, 5, 350, 75)); same > light/4 || middle > light/4 {
		t.Errorf("twice the size is %v apart, a square frame %v in the middle, of %v", same, middle, light)
	}
	lay, err := h.Review.Over(ctx, h.td, full.ID, square.ID)
	if err != nil || !lay.Same || lay.X < 0.437 || lay.X > 0.438 || lay.Width < 0.124 || lay.Width > 0.126 {
		t.Errorf("a square frame lies at %+v, %v", lay, err)
	}
	if _, err := h.Review.Tile(ctx, h.outside, full.ID, review.Tile{}); err == nil {
		t.Error("somebody who is not of the project has a tile")
	}

	// A file that was changed is told, and no part of it shown.
	path := filepath.Join(h.dir, "proofs", full.SHA256, "1.exr")
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	b[len(b)/2] ^= 1
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	bad := 0
	for x := range 3 {
		if _, err := h.Review.Tile(ctx, h.td, full.ID, review.Tile{X: x, Stops: 0.5}); errors.Is(err, frozen.ErrDamaged) {
			bad++
		} else if err != nil {
			t.Error(err)
		}
	}
	if bad != 1 {
		t.Errorf("%d of three tiles are damaged", bad)
	}
}
