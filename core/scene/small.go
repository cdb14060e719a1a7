package scene

import (
	"image"

	"golang.org/x/image/draw"
)

// Small is an image with its longer side of so many pixels, or as it is if that is less.
func (img *Image) Small(side int) *image.NRGBA {
	whole := &image.NRGBA{Pix: img.Pix, Stride: 4 * img.W, Rect: image.Rect(0, 0, img.W, img.H)}
	w, h := min(side, img.W), min(side, img.H)
	if img.W > img.H {
		h = max(1, img.H*w/img.W)
	} else {
		w = max(1, img.W*h/img.H)
	}
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.ApproxBiLinear.Scale(out, out.Rect, whole, whole.Rect, draw.Src, nil)
	return out
}
