package finish

import "image"

// Clipping is the shares of a displayed picture, 0 to 1, that are at the limits of what
// a display shows: clipped where any channel is at its most, so that its colour or its
// shape is lost; crushed where all are at their least. What is clear counts as neither.
type Clipping struct{ Clipped, Crushed float64 }

// ClippingOf measures a displayed picture.
func ClippingOf(img *image.NRGBA) (l Clipping) {
	n := 0
	for y := range img.Rect.Dy() {
		row := img.Pix[y*img.Stride:][:4*img.Rect.Dx()]
		for x := 0; x < len(row); x += 4 {
			r, g, b, a := row[x], row[x+1], row[x+2], row[x+3]
			if a == 0 {
				continue
			}
			n++
			if max(r, g, b) == 255 {
				l.Clipped++
			} else if max(r, g, b) == 0 {
				l.Crushed++
			}
		}
	}
	d := float64(max(n, 1))
	return Clipping{l.Clipped / d, l.Crushed / d}
}
