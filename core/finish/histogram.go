package finish

import "image"

// HistogramBins is how many classes of brightness a histogram has.
const HistogramBins = 64

// Histogram counts, for red, green and blue, the pixels of a displayed picture by their
// brightness: thousandths of all pixels, so that pictures of all sizes can be compared.
// What is clear counts as nothing.
type Histogram [3][HistogramBins]float32

// HistogramOf measures a displayed picture.
func HistogramOf(img *image.NRGBA) (h Histogram) {
	n := 0
	for y := range img.Rect.Dy() {
		row := img.Pix[y*img.Stride:][:4*img.Rect.Dx()]
		for x := 0; x < len(row); x += 4 {
			if row[x+3] == 0 {
				continue
			}
			n++
			for k := range h {
				h[k][int(row[x+k])*HistogramBins/256]++
			}
		}
	}
	for k := range h {
		for b := range h[k] {
			h[k][b] *= 1000 / float32(max(n, 1))
		}
	}
	return h
}
