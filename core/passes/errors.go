package passes

import (
	"context"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
)

// huge is the square of an error of what has too few samples to tell.
const huge = 1e12

// Over how many pixels on each side a pixel's error is measured: the wide one is steady, the
// narrow one tells edges and lone specks.
const wide, narrow = 4, 1

// Errors is the standard error of each pixel of a pass, row by row over the film's window: that
// of its noisiest channel, in scene-linear light. It is told by how far the two halves of the
// film's samples are apart around the pixel (Rousselle et al. 2012), and not known, nil, of
// passes whose halves the film does not keep. The film is looked at row by row.
func (p *Pass) Errors(ctx context.Context, f Films) ([]float32, error) {
	var halves func(s *film.Sums, i int) (a, b geom.Vec3, ok bool)
	switch p.Kind {
	case Beauty:
		halves = (*film.Sums).Halves
	case Clay:
		halves = (*film.Sums).TwinHalves
	default:
		return nil, nil
	}
	w, h := f.Window.Dx(), f.Window.Dy()
	squares := make([]float32, w*h)
	row := func(y int) {
		for x := range w {
			s, i := f.At(f.Window.Min.X+x, f.Window.Min.Y+y)
			a, b, ok := halves(s, i)
			scale := float32(1)
			if p.Denoised && ok {
				cs, ci := f.Clean.At(f.Window.Min.X+x, f.Window.Min.Y+y)
				ca, cb, known := halves(cs, ci)
				a, b, ok = a.Lerp(ca, f.Amount), b.Lerp(cb, f.Amount), known
				scale += noise.Untold * f.Amount
			}
			d := a.Sub(b)
			if squares[y*w+x] = d.Mul(d).Max() / 4 * scale * scale; !ok {
				squares[y*w+x] = huge
			}
		}
	}
	for y := range h {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		f.Locked(func() { row(y) })
	}
	out := around(squares, w, h, wide)
	for i, v := range around(squares, w, h, narrow) {
		out[i] = geom.Sqrt(max(out[i], v))
	}
	return out, nil
}

// around is the mean of a plane over so many pixels on each side of every pixel.
func around(plane []float32, w, h, by int) []float32 {
	rows, out := make([]float32, w*h), make([]float32, w*h)
	slide(h, w, by, func(line, at int) int { return line*w + at }, plane, rows)
	slide(w, h, by, func(line, at int) int { return at*w + line }, rows, out)
	return out
}

// slide means lines of n values, each over so many on each side of it.
func slide(lines, n, by int, place func(line, at int) int, from, to []float32) {
	for l := range lines {
		var sum float64
		count := 0
		add := func(at int, sign float64) {
			if at >= 0 && at < n {
				sum += sign * float64(from[place(l, at)])
				count += int(sign)
			}
		}
		for at := range min(by, n) {
			add(at, 1)
		}
		for at := range n {
			add(at+by, 1)
			add(at-by-1, -1)
			to[place(l, at)] = float32(max(0, sum) / float64(count))
		}
	}
}
