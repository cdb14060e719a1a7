package proofs

import (
	"image"
	"testing"
	"time"
)

// As many pixels are looked at as the time allows, and no more than are shown.
func TestLooksKeepToTheirTime(t *testing.T) {
	var p pace
	window := image.Rect(0, 0, 3840, 2160)
	pixels := func(lights bool) int {
		n := p.stride(window, lights)
		return ((3840 + n - 1) / n) * ((2160 + n - 1) / n)
	}
	first := pixels(false)
	for pass := range 12 {
		p.took(0, first, true, time.Second)
		if pass == 0 && pixels(false) != first {
			t.Error("what lights take counts for the beauty alone")
		}
	}
	for _, at := range []time.Duration{time.Nanosecond, 500 * time.Nanosecond, 2 * time.Microsecond, 4 * time.Microsecond, time.Second} {
		const read = 60 * time.Millisecond // whatever the size
		for range 40 {
			n := pixels(false)
			p.took(read, n, false, at*time.Duration(n))
		}
		n := pixels(false)
		d := read + at*time.Duration(n)
		if n > mostPixels || d > quickTime && n > leastPixels {
			t.Errorf("%v a pixel: %d pixels, %v", at, n, d)
		}
		if more := n * 5 / 4; more < mostPixels*3/4 && read+at*time.Duration(more) < quickTime*3/4 {
			t.Errorf("%v a pixel: %d pixels only, %v", at, n, d)
		}
	}
	if n := p.stride(image.Rect(0, 0, 100, 100), true); n != 1 {
		t.Errorf("a small picture is seen by every %d pixels", n)
	}
	p.took(0, 0, false, 0)
	p.stride(window, false)
}
