package review_test

import (
	"bytes"
	"image/png"
	"testing"
)

// apart is by how much two pictures differ at most, of 255.
func apart(t *testing.T, a, b []byte) int {
	t.Helper()
	p, err1 := png.Decode(bytes.NewReader(a))
	q, err2 := png.Decode(bytes.NewReader(b))
	if err1 != nil || err2 != nil || p.Bounds() != q.Bounds() {
		t.Fatalf("%v %v %v %v", err1, err2, p.Bounds(), q.Bounds())
	}
	most := 0
	for y := p.Bounds().Min.Y; y < p.Bounds().Max.Y; y++ {
		for x := p.Bounds().Min.X; x < p.Bounds().Max.X; x++ {
			r1, g1, b1, _ := p.At(x, y).RGBA()
			r2, g2, b2, _ := q.At(x, y).RGBA()
			for _, d := range []int{int(r1>>8) - int(r2>>8), int(g1>>8) - int(g2>>8), int(b1>>8) - int(b2>>8)} {
				most = max(most, d, -d)
			}
		}
	}
	return most
}
