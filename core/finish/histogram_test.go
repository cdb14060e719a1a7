package finish

import (
	"image"
	"image/color"
	"testing"
)

// Half of the picture is black, a quarter white, an eighth a red; an eighth is clear.
func TestHistogram(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 16, 8))
	for y := range 8 {
		for x := range 16 {
			c := color.NRGBA{A: 255}
			switch {
			case x >= 14:
				c.A = 0
			case x >= 12:
				c.R = 130
			case x >= 8:
				c = color.NRGBA{255, 255, 255, 255}
			}
			img.SetNRGBA(x, y, c)
		}
	}
	h := HistogramOf(img)
	near := func(got, want float32) bool { return got > want-0.01 && got < want+0.01 }
	if !near(h[0][0], 1000*8/14.) || !near(h[0][63], 1000*4/14.) || !near(h[0][32], 1000*2/14.) || !near(h[1][0], 1000*10/14.) || !near(h[2][63], 1000*4/14.) {
		t.Errorf("%v", h)
	}
	for k := range h {
		var sum float32
		for _, v := range h[k] {
			sum += v
		}
		if !near(sum, 1000) {
			t.Errorf("channel %d adds up to %g", k, sum)
		}
	}
	if h := HistogramOf(image.NewNRGBA(image.Rect(0, 0, 4, 4))); h != (Histogram{}) {
		t.Errorf("of nothing: %v", h)
	}
}
