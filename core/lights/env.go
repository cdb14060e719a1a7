package lights

import (
	"context"
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/sampling"
)

// Env is light from all round: an even tone, or a picture in latitude and
// longitude whose centre lies towards -Z and whose top is +Y.
type Env struct {
	Mean   float32 // mean luminance over the sphere
	spread moments
	tone   geom.Vec3
	w, h   int
	pix    []float32
	turn   float32 // in turns, counter-clockwise seen from above
	gain   float32
	grey   bool // it has the luminance of its picture, and no colour
	bw, bh int  // of the grid it is sampled by
	rows   sampling.Table
	cols   []sampling.Table
	// heights are the cosines at the upper edges of the rows of cells, and at the
	// lower edge of the last.
	heights []float32
}

// The grid by which an environment picture is sampled has two cells a pixel, so
// that light hardly changes within one, up to a width; then one, up to another.
const (
	fineWidth = 1024
	mostWidth = 4096
)

// grid is how many cells an axis is sampled by.
func grid(pixels, fine, most int) int { return min(2*pixels, max(fine, min(pixels, most))) }

// PictureBytes is the memory of the tables by which a picture is sampled, and of what
// they are made from.
func PictureBytes(w, h int) int64 {
	return 16 * int64(grid(w, fineWidth, mostWidth)) * int64(grid(h, fineWidth/2, mostWidth/2))
}

// EvenTone is an environment of one radiance.
func EvenTone(c geom.Vec3) *Env { return &Env{tone: c, Mean: colour.Luminance(c)} }

// Picture makes an environment of w x h scene-linear RGB pixels, row by row
// from the top, turned by turn (radians) and multiplied by gain. Once ctx has ended
// it panics as parallel.Check does.
func Picture(ctx context.Context, w, h int, pix []float32, turn, gain float32) *Env {
	e := &Env{w: w, h: h, pix: pix, gain: gain, turn: turn / (2 * math.Pi)}
	e.bw, e.bh = grid(w, fineWidth, mostWidth), grid(h, fineWidth/2, mostWidth/2)
	cells := e.light(ctx)
	e.total(ctx, cells)
	squares := make([]float32, len(cells))
	for i, l := range cells {
		squares[i] = l * l
	}
	for e.bw%2 == 0 && e.bh%2 == 0 {
		wider, square := halved(ctx, cells, e.bw, e.bh), halved(ctx, squares, e.bw, e.bh)
		if unlike(ctx, wider, square, e.bw/2, e.bh/2) > mostUnlike {
			break
		}
		cells, squares, e.bw, e.bh = wider, square, e.bw/2, e.bh/2
	}
	e.tabulate(ctx, cells)
	return e
}

// Grey is the environment without its colour: as light everywhere, and neutral.
func (e *Env) Grey() *Env {
	g := *e
	g.grey, g.tone = true, geom.Splat(colour.Luminance(e.tone))
	return &g
}

// total takes the mean and the moments of the light of cells.
func (e *Env) total(ctx context.Context, cells []float32) {
	around := make([][2]float32, e.bw) // sine and cosine of the turn of each column's middle
	for x := range around {
		su := (float32(x)+0.5)/float32(e.bw) - 0.5 - e.turn
		around[x][0], around[x][1] = geom.SinCosTurn(su - float32(math.Floor(float64(su))))
	}
	var all float64
	for y := range e.bh {
		parallel.Check(ctx, 0)
		each := ofSphere(y, e.bh) / float32(e.bw)
		up := height(2*y+1, 2*e.bh)
		flat := geom.Sqrt(1 - up*up)
		for x := range e.bw {
			l := cells[y*e.bw+x] * each * e.gain
			all += float64(l)
			e.spread.add(4*math.Pi*l, geom.V(flat*around[x][0], up, -flat*around[x][1]))
		}
	}
	e.Mean = float32(all)
}

// height is the cosine at the upper edge of row y of n.
func height(y, n int) float32 { return float32(math.Cos(math.Pi * float64(y) / float64(n))) }

// light is the mean luminance of every cell, row by row, of what is shown: a
// dark pixel beside a bright one shows light, and so must be sampled for it.
func (e *Env) light(ctx context.Context) []float32 {
	across, down := shares(e.w, e.bw, true), shares(e.h, e.bh, false)
	cells := make([]float32, e.bw*e.bh)
	line := make([]float32, e.w) // of the picture, by its share of a row of cells
	for y := range e.bh {
		parallel.Check(ctx, 0)
		clear(line)
		for _, s := range down[y] {
			for x := range line {
				p := e.pix[(s.pixel*e.w+x)*3:]
				line[x] += s.weight * colour.Luminance(geom.V(p[0], p[1], p[2]))
			}
		}
		for x := range e.bw {
			for _, s := range across[x] {
				cells[y*e.bw+x] += s.weight * line[s.pixel]
			}
		}
	}
	return cells
}

// mostUnlike is how large the variance of what is drawn from a cell may be, over the
// square of its mean: far below that of the angle at which it falls onto a surface,
// while small tables stay in the processor's cache.
const mostUnlike = 0.02

// halved is the mean of what cells hold over cells twice as wide and high.
func halved(ctx context.Context, cells []float32, w, h int) []float32 {
	out := make([]float32, w/2*(h/2))
	for y := range h / 2 {
		parallel.Check(ctx, 0)
		upper, lower := ofSphere(2*y, h), ofSphere(2*y+1, h)
		both := upper + lower
		for x := range w / 2 {
			i := 2*y*w + 2*x
			out[y*(w/2)+x] = ((cells[i]+cells[i+1])*upper + (cells[i+w]+cells[i+w+1])*lower) / (2 * both)
		}
	}
	return out
}

// ofSphere is the share of a row in the sphere.
func ofSphere(y, h int) float32 { return (height(y, h) - height(y+1, h)) / 2 }

// unlike is the variance of luminance over its density, of which the square of the mean
// is one, if it is drawn by w x h cells of a mean luminance and a mean of its square.
func unlike(ctx context.Context, cells, squares []float32, w, h int) float32 {
	var square, all float64
	for y := range h {
		parallel.Check(ctx, 0)
		solid := float64(ofSphere(y, h))
		for i := y * w; i < (y+1)*w; i++ {
			all += float64(cells[i]) * solid
			if cells[i] > 0 {
				square += float64(squares[i]) / float64(cells[i]) * solid
			}
		}
	}
	if !(all > 0) {
		return 0
	}
	return float32(square/all - 1)
}

// tabulate makes the tables of cells of a mean luminance.
func (e *Env) tabulate(ctx context.Context, cells []float32) {
	e.heights = make([]float32, e.bh+1)
	for y := range e.heights {
		e.heights[y] = height(y, e.bh)
	}
	rows := make([]float32, e.bh)
	e.cols = make([]sampling.Table, e.bh)
	for y := range rows {
		parallel.Check(ctx, 0)
		row := cells[y*e.bw : (y+1)*e.bw]
		for _, l := range row {
			rows[y] += l * (e.heights[y] - e.heights[y+1])
		}
		e.cols[y] = sampling.NewTable(row)
	}
	e.rows = sampling.NewTable(rows)
}

// moments are those of luminance over directions, of order 0, 1 and 2.
type moments struct {
	all        float32
	to         geom.Vec3
	xx, yy, zz float32
	xy, yz, zx float32
}

// add takes up so much light from direction d.
func (m *moments) add(l float32, d geom.Vec3) {
	m.all += l
	m.to = m.to.MulAdd(d, l)
	m.xx, m.yy, m.zz = m.xx+l*d.X*d.X, m.yy+l*d.Y*d.Y, m.zz+l*d.Z*d.Z
	m.xy, m.yz, m.zx = m.xy+l*d.X*d.Y, m.yz+l*d.Y*d.Z, m.zx+l*d.Z*d.X
}

// onto is about the irradiance of a surface of normal n: the cosine cut off at zero
// is 1/4 + c/2 + 5/32 (3c^2 - 1) and little more (Ramamoorthi & Hanrahan 2001).
func (m *moments) onto(n geom.Vec3) float32 {
	square := m.xx*n.X*n.X + m.yy*n.Y*n.Y + m.zz*n.Z*n.Z + 2*(m.xy*n.X*n.Y+m.yz*n.Y*n.Z+m.zx*n.Z*n.X)
	return m.all/4 + m.to.Dot(n)/2 + 5.0/32*(3*square-m.all)
}

// share is how much a pixel counts in a cell.
type share struct {
	pixel  int
	weight float32
}

// shares tells for each of cells cells along an axis of n pixels how much each
// pixel counts in the mean over the cell of the line drawn through the pixels'
// middles; beyond the first and last it wraps round or stays level. The weights
// of a cell add up to one.
func shares(n, cells int, wraps bool) [][]share {
	out := make([][]share, cells)
	// hat is the integral up to x of the tent of width two over a pixel's middle.
	hat := func(x float64) float64 {
		switch x = min(max(x, -1), 1); {
		case x < 0:
			return (x + 1) * (x + 1) / 2
		default:
			return 1 - (1-x)*(1-x)/2
		}
	}
	for c := range out {
		lo, hi := float64(c)*float64(n)/float64(cells)-0.5, float64(c+1)*float64(n)/float64(cells)-0.5
		for k := int(math.Floor(lo)); k <= int(math.Ceil(hi)); k++ {
			w := (hat(hi-float64(k)) - hat(lo-float64(k))) / (hi - lo)
			if w <= 0 {
				continue
			}
			at := min(max(k, 0), n-1)
			if wraps {
				at = (k + n) % n
			}
			out[c] = append(out[c], share{at, float32(w)})
		}
	}
	return out
}

// Even reports whether the environment is one tone, which needs no sampling.
func (e *Env) Even() bool { return e.pix == nil }

// shown is what the picture shows at a place in it, bilinear between pixels.
func (e *Env) shown(u, v float32) geom.Vec3 {
	x, y := u*float32(e.w)-0.5, v*float32(e.h)-0.5
	fx0, fy0 := float32(math.Floor(float64(x))), float32(math.Floor(float64(y)))
	tx, ty := x-fx0, y-fy0
	// Wrapped round, without a division: the left of the two is at most one before
	// the picture. The bounds hold for any direction, even none.
	x0 := min(max(int(fx0), -1), e.w-1)
	x1 := x0 + 1
	if x0 < 0 {
		x0 = e.w - 1
	}
	if x1 == e.w {
		x1 = 0
	}
	y0 := min(max(int(fy0), 0), e.h-1)
	y1 := min(max(int(fy0)+1, 0), e.h-1)
	a := e.at(x0, y0).Lerp(e.at(x1, y0), tx)
	b := e.at(x0, y1).Lerp(e.at(x1, y1), tx)
	c := a.Lerp(b, ty).Scale(e.gain)
	if e.grey {
		return geom.Splat(colour.Luminance(c))
	}
	return c
}

func (e *Env) at(x, y int) geom.Vec3 {
	p := e.pix[(y*e.w+x)*3:]
	return geom.V(p[0], p[1], p[2])
}

func (e *Env) toUV(d geom.Vec3) (u, v float32) {
	u = 0.5 + geom.Atan2Turn(d.X, -d.Z) + e.turn
	u -= float32(math.Floor(float64(u)))
	return u, geom.Acos(d.Y) * (1 / math.Pi)
}

// sample draws a direction and returns what comes from it, and its density.
func (e *Env) sample(u, v float32) (d, radiance geom.Vec3, pdf float32) {
	if e.Even() {
		return sampling.Sphere(u, v), e.tone, 1 / (4 * math.Pi)
	}
	y, py, ry := e.rows.Draw(v)
	x, px, rx := e.cols[y].Draw(u)
	across := (float32(x) + rx) / float32(e.bw)
	su := across - 0.5 - e.turn
	su -= float32(math.Floor(float64(su)))
	// Even in height is even in solid angle.
	cos := e.heights[y] + (e.heights[y+1]-e.heights[y])*ry
	sin := geom.Sqrt(max(0, 1-cos*cos))
	s, c := geom.SinCosTurn(su)
	return geom.V(sin*s, cos, -sin*c), e.shown(across, geom.Acos(cos)*(1/math.Pi)), e.density(px*py, y)
}

// density is that of a direction in a cell of a row, per solid angle.
func (e *Env) density(p float32, row int) float32 {
	return p * float32(e.bw) / (2 * math.Pi * (e.heights[row] - e.heights[row+1]))
}

// eval is what comes from direction d, and the density with which sample draws it.
func (e *Env) eval(d geom.Vec3) (radiance geom.Vec3, pdf float32) {
	if e.Even() {
		return e.tone, 0 // light sampling leaves it to scattered rays
	}
	u, v := e.toUV(d)
	// The bounds hold for any direction, even none.
	x := min(max(int(u*float32(e.bw)), 0), e.bw-1)
	y := min(max(int(v*float32(e.bh)), 0), e.bh-1)
	return e.shown(u, v), e.density(e.rows.P(y)*e.cols[y].P(x), y)
}
