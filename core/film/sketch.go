package film

import "image"

// SketchStep is the distance between the pixels of a sketch.
const SketchStep = 8

// Sketch is the first coarse picture of a film: the first sample of one pixel
// in each block of SketchStep x SketchStep. It is never part of the film.
type Sketch struct {
	*Sums
	window image.Rectangle
}

// NewSketch makes an empty sketch of a film.
func NewSketch(f *Film) *Sketch {
	down := func(n int) int { return (n + SketchStep - 1) / SketchStep }
	r := image.Rect(0, 0, down(f.Window.Dx()), down(f.Window.Dy()))
	return &Sketch{NewSums(r, f.Layout), f.Window}
}

// Stands is the pixel of the frame that pixel i of the sketch stands for: the
// middle of its block, as far as that lies within the film.
func (s *Sketch) Stands(i int) image.Point {
	w := s.Rect.Dx()
	p := image.Pt(i%w*SketchStep+SketchStep/2, i/w*SketchStep+SketchStep/2)
	return image.Pt(min(p.X, s.window.Dx()-1), min(p.Y, s.window.Dy()-1)).Add(s.window.Min)
}

// Join adds what another sketch of the same film has, for pixels that only one
// of the two has computed.
func (s *Sketch) Join(o *Sketch) { s.add(o.Sums) }

// At is where the film keeps what is known of pixel (x, y) of the frame.
func (f *Film) At(x, y int) (s *Sums, i int) {
	t := f.tileAt(x, y)
	if k := f.Sketch; t.Samples == 0 && k != nil {
		return k.Sums, (y-f.Window.Min.Y)/SketchStep*k.Rect.Dx() + (x-f.Window.Min.X)/SketchStep
	}
	return t.Sums, t.place(x, y)
}
