package lights

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Env is light from all round: an even tone, or a picture in latitude and
// longitude whose centre lies towards -Z and whose top is +Y.
type Env struct {
	Mean   float32 // mean luminance over the sphere
	tone   geom.Vec3
	w, h   int
	pix    []float32
	turn   float32 // in turns, counter-clockwise seen from above
	gain   float32
	bw, bh int // of the sampling grid
	rows   sampling.Table
	cols   []sampling.Table
}

// gridWidth bounds the grid by which an environment picture is sampled.
const gridWidth = 512

// EvenTone is an environment of one radiance.
func EvenTone(c geom.Vec3) *Env { return &Env{tone: c, Mean: colour.Luminance(c)} }

// Picture makes an environment of w x h scene-linear RGB pixels, row by row
// from the top, turned by turn (radians) and multiplied by gain.
func Picture(w, h int, pix []float32, turn, gain float32) *Env {
	e := &Env{w: w, h: h, pix: pix, gain: gain, turn: turn / (2 * math.Pi)}
	e.bw = min(w, gridWidth)
	e.bh = max(1, min(h, gridWidth/2))
	sums := make([]float32, e.bw*e.bh)
	n := make([]float32, e.bw*e.bh)
	for y := 0; y < h; y++ {
		for x := 0; x < w; x++ {
			i := y*e.bh/h*e.bw + x*e.bw/w
			p := pix[(y*w+x)*3:]
			sums[i] += colour.Luminance(geom.V(p[0], p[1], p[2]))
			n[i]++
		}
	}
	rows := make([]float32, e.bh)
	e.cols = make([]sampling.Table, e.bh)
	var mean, weight float64
	for y := 0; y < e.bh; y++ {
		s := math.Sin(math.Pi * (float64(y) + 0.5) / float64(e.bh))
		row := make([]float32, e.bw)
		for x := range row {
			v := float64(sums[y*e.bw+x]) / float64(max(n[y*e.bw+x], 1)) * s
			row[x] = float32(v)
			rows[y] += row[x]
			mean += v
			weight += s
		}
		e.cols[y] = sampling.NewTable(row)
	}
	e.rows = sampling.NewTable(rows)
	e.Mean = float32(mean/weight) * gain
	return e
}

// Even reports whether the environment is one tone, which needs no sampling.
func (e *Env) Even() bool { return e.pix == nil }

// Radiance is what comes from direction d, bilinear between pixels.
func (e *Env) Radiance(d geom.Vec3) geom.Vec3 {
	if e.Even() {
		return e.tone
	}
	u, v := e.toUV(d)
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
	return a.Lerp(b, ty).Scale(e.gain)
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

func (e *Env) sample(u, v float32) (geom.Vec3, float32) {
	if e.Even() {
		return sampling.Sphere(u, v), 1 / (4 * math.Pi)
	}
	y, py, ry := e.rows.Draw(v)
	x, px, rx := e.cols[y].Draw(u)
	su := (float32(x)+rx)/float32(e.bw) - 0.5 - e.turn
	sv := (float32(y) + ry) / float32(e.bh)
	su -= float32(math.Floor(float64(su)))
	sin, cos := geom.SinCosTurn(sv / 2)
	s, c := geom.SinCosTurn(su)
	return geom.V(sin*s, cos, -sin*c), e.density(px*py, sin)
}

func (e *Env) density(p, sin float32) float32 {
	if sin < 1e-6 {
		return 0
	}
	return p * float32(e.bw*e.bh) / (2 * math.Pi * math.Pi * sin)
}

func (e *Env) pdf(d geom.Vec3) float32 {
	u, v := e.toUV(d)
	x := min(int(u*float32(e.bw)), e.bw-1)
	y := min(int(v*float32(e.bh)), e.bh-1)
	return e.density(e.rows.P(y)*e.cols[y].P(x), geom.Sqrt(max(0, 1-d.Y*d.Y)))
}
