package ticket

import (
	"image"
	"math"
)

// MostSide bounds the sides of a frame as rendered, pixels.
const MostSide = 16384

// MostSamples bounds the samples of a pixel.
const MostSamples = 65536

// Size is the size of the frame as rendered, scale applied.
func (t *Ticket) Size() image.Point {
	s := float64(t.View.Scale) / 100
	return image.Pt(max(1, int(math.Round(float64(t.View.Width)*s))), max(1, int(math.Round(float64(t.View.Height)*s))))
}

// Window is the part of the frame to compute, in pixels of Size.
func (t *Ticket) Window() image.Rectangle {
	s := t.Size()
	full := image.Rectangle{Max: s}
	r := t.View.Region
	if !r.On {
		return full
	}
	px := func(p float64, n int) int { return int(math.Round(p / 100 * float64(n))) }
	w := image.Rect(px(r.X, s.X), px(r.Y, s.Y), px(r.X+r.Width, s.X), px(r.Y+r.Height, s.Y)).Intersect(full)
	if w.Empty() { // thinner than a pixel: the pixel it lies in
		x, y := min(px(r.X, s.X), s.X-1), min(px(r.Y, s.Y), s.Y-1)
		w = image.Rect(x, y, max(x+1, w.Max.X), max(y+1, w.Max.Y)).Intersect(full)
	}
	return w
}
