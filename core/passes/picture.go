package passes

import (
	"context"
	"image"

	"amberproof/core/film"
	"amberproof/core/finish"
)

// Planes computes the pass over a window within that of the film: one slice per
// channel, row by row. The film must not change meanwhile.
func (p *Pass) Planes(f Films, w image.Rectangle) [][]float32 {
	out, _, _ := p.gather(context.Background(), f, w, 1, func(read func()) { read() }) // never cancelled
	return out
}

// Stride is the step between the pixels that are looked at so that the longer
// side of a film's picture has at most so many; 0 asks for all.
func Stride(f *film.Film, side int) int {
	if side <= 0 {
		return 1
	}
	return max(1, (max(f.Window.Dx(), f.Window.Dy())+side-1)/side)
}

// Seen is Picture of all of a film that may change meanwhile, at one pixel in each block
// of stride x stride: the mean of a few of the block, in scene-linear light.
// Who renders waits for a few thousand pixels at most, and who looks waits for its
// turn a few dozen times and not at every row of every tile.
func (p *Pass) Seen(ctx context.Context, f Films, stride int) (*finish.Picture, error) {
	planes, size, err := p.gather(ctx, f, f.Window, stride, f.Locked)
	if err != nil {
		return nil, err
	}
	return p.picture(planes, size), nil
}

// mostInBlock is how many pixels of a block are looked at in each direction.
const mostInBlock = 3

// mostAtOnce is how many blocks are read in one look at the film: about a
// millisecond's work.
const mostAtOnce = 1 << 13

// gather computes the pass at every block of pixels of a window. look is called around every
// read of the film, for some rows of blocks; a clean film does not change.
func (p *Pass) gather(ctx context.Context, f Films, w image.Rectangle, stride int, look func(func())) (out [][]float32, size image.Point, err error) {
	if !p.Denoised {
		return p.gatherOne(ctx, f.Film, w, stride, look)
	}
	clean, size, err := p.gatherOne(ctx, f.Clean, w, stride, func(read func()) { read() })
	if err != nil || p.Data() { // numbers are about all that can be taken out
		return clean, size, err
	}
	plain, _, err := p.gatherOne(ctx, f.Film, w, stride, look)
	if err != nil {
		return nil, size, err
	}
	for c := range clean {
		f.blend(plain[c], clean[c])
	}
	return clean, size, nil
}

func (p *Pass) gatherOne(ctx context.Context, f *film.Film, w image.Rectangle, stride int, look func(func())) (out [][]float32, size image.Point, err error) {
	size = image.Pt((w.Dx()+stride-1)/stride, (w.Dy()+stride-1)/stride)
	form, from := p.shown.form(), p.reader(f)
	out = make([][]float32, len(form.channels))
	for c := range out {
		out[c] = make([]float32, size.X*size.Y)
	}
	step := (stride + mostInBlock - 1) / mostInBlock
	if form.noMean {
		step = stride
	}
	rows := max(1, mostAtOnce/max(1, size.X))
	for top := 0; top < size.Y; top += rows {
		if err := ctx.Err(); err != nil {
			return nil, size, err
		}
		look(func() {
			for by := top; by < min(top+rows, size.Y); by++ {
				for bx := range size.X {
					from.block(f, image.Rect(bx*stride, by*stride, (bx+1)*stride, (by+1)*stride).Add(w.Min).Intersect(w), step, out, by*size.X+bx)
				}
			}
		})
	}
	return out, size, nil
}

// block writes the mean over some pixels of a block to place at of the planes.
func (r reader) block(f *film.Film, b image.Rectangle, step int, out [][]float32, at int) {
	n := float32(0)
	for y := b.Min.Y; y < b.Max.Y; y += step {
		for x := b.Min.X; x < b.Max.X; x += step {
			v := r.read(f.At(x, y))
			for c := range out {
				out[c][at] += v[c]
			}
			n++
		}
	}
	if n > 1 {
		for c := range out {
			out[c][at] /= n
		}
	}
}

// At computes the pass at one pixel of the frame.
func (p *Pass) At(f Films, x, y int) []float32 {
	n := len(p.shown.form().channels)
	of := f.Film
	if p.Denoised {
		of = f.Clean
	}
	v := p.reader(of).read(of.At(x, y))
	if p.Denoised && !p.Data() {
		plain := p.reader(f.Film).read(f.At(x, y))
		f.blend(plain[:n], v[:n])
	}
	return v[:n]
}

// Picture makes a pass ready for a PNG: light as it is, numbers brought to 0..1 so
// that they can be looked at; of a window as for Planes.
func (p *Pass) Picture(f Films, w image.Rectangle) *finish.Picture {
	return p.picture(p.Planes(f, w), w.Size())
}

func (p *Pass) picture(planes [][]float32, size image.Point) *finish.Picture {
	pic := &finish.Picture{W: size.X, H: size.Y, Data: p.Data()}
	p.shown.view(planes, pic)
	return pic
}

// grey is looked at as it is.
type grey struct{}

func (grey) view(p [][]float32, to *finish.Picture) { to.R = p[0] }

// mean divides n sums of a pixel from a place on by its weight.
func (v *values) mean(s *film.Sums, i, at, n int) {
	px := s.Pixel(i)
	for k, sum := range px[at : at+n] {
		v[k] = sum / px[film.Weight]
	}
}

// reader reads a pass off one film.
type reader struct {
	shown
	at int // where the plane it reads is
}

func (p *Pass) reader(f *film.Film) reader {
	at, _ := f.Layout.Place(p.shown.form().plane)
	return reader{p.shown, at}
}

// read is the pass at a pixel of sums: nothing, where these are empty.
func (r reader) read(s *film.Sums, i int) (v values) {
	if s.Pixel(i)[film.Weight] > 0 {
		r.value(s, i, r.at, &v)
	}
	return v
}
