package main

import (
	"math"
)

// picture is a display picture: linear RGB of a screen, 0 to 1, row by row.
type picture struct {
	w, h int
	px   [][3]float64
}

// pixelsADegree is how many pixels a degree of sight covers: a monitor 0.7 m wide of
// 3840 pixels, 0.7 m away, as the published measure takes it.
const pixelsADegree = 0.7 * 3840 / 0.7 * math.Pi / 180

// Constants of the published measure.
const (
	flipQC = 0.7  // exponent on colour differences
	flipPC = 0.4  // where these are compressed
	flipPT = 0.95 // to this
	flipW  = 0.082
	flipQF = 0.5 // exponent on feature differences
)

// flip is the mean perceived difference of two pictures, 0 to 1: FLIP (Andersson et
// al. 2020). Colours are compared as the eye blurs them, edges and points by how much
// stronger one picture has them.
func flip(reference, test *picture) float64 {
	a, b := newSeen(reference), newSeen(test)
	cmax := math.Pow(hyab(hunt(lab([3]float64{0, 1, 0})), hunt(lab([3]float64{0, 0, 1}))), flipQC)
	var sum float64
	for i := range a.colour {
		d := math.Pow(hyab(a.colour[i], b.colour[i]), flipQC)
		if most := flipPC * cmax; d < most {
			d *= flipPT / most
		} else {
			d = flipPT + (d-most)/(cmax-most)*(1-flipPT)
		}
		f := math.Max(math.Abs(a.edge[i]-b.edge[i]), math.Abs(a.point[i]-b.point[i])) / math.Sqrt2
		sum += math.Pow(d, 1-math.Pow(f, flipQF))
	}
	return sum / float64(len(a.colour))
}

// seen is a picture as the measure looks at it.
type seen struct {
	colour      [][3]float64 // L*a*b* of what the eye's blur leaves, adapted
	edge, point []float64
}

func newSeen(p *picture) *seen {
	opponent := make([][3]float64, len(p.px))
	for i, c := range p.px {
		opponent[i] = toOpponent(c)
	}
	s := &seen{colour: make([][3]float64, len(p.px)), edge: make([]float64, len(p.px)), point: make([]float64, len(p.px))}
	var blurred [3][]float64
	for k := range blurred {
		blurred[k] = spread(plane(opponent, k), p.w, p.h, sensitivity(k))
	}
	for i := range s.colour {
		c := fromOpponent([3]float64{blurred[0][i], blurred[1][i], blurred[2][i]})
		for k := range c {
			c[k] = math.Min(1, math.Max(0, c[k]))
		}
		s.colour[i] = hunt(lab(c))
	}
	grey := plane(opponent, 0)
	for i := range grey {
		grey[i] = (grey[i] + 16) / 116
	}
	for _, f := range []struct {
		order int
		to    []float64
	}{{1, s.edge}, {2, s.point}} {
		along, across := feature(f.order)
		x := oneWay(oneWay(grey, p.w, p.h, along, true), p.w, p.h, across, false)
		y := oneWay(oneWay(grey, p.w, p.h, across, true), p.w, p.h, along, false)
		for i := range f.to {
			f.to[i] = math.Hypot(x[i], y[i])
		}
	}
	return s
}

func plane(px [][3]float64, k int) []float64 {
	out := make([]float64, len(px))
	for i := range px {
		out[i] = px[i][k]
	}
	return out
}

// lobe is a Gaussian of a sensitivity: a in strength, b in width.
type lobe struct{ a, b float64 }

// sensitivity is that of the eye to contrast: of luminance, red against green, and
// blue against yellow.
func sensitivity(channel int) []lobe {
	return [][]lobe{{{1, 0.0047}}, {{1, 0.0053}}, {{34.1, 0.04}, {13.5, 0.025}}}[channel]
}

// spread filters a plane by a sum of Gaussians that together weigh one.
func spread(v []float64, w, h int, lobes []lobe) []float64 {
	out := make([]float64, len(v))
	// The widest of all channels decides how far each is looked at.
	radius := int(math.Ceil(3 * math.Sqrt(0.04/(2*math.Pi*math.Pi)) * pixelsADegree))
	var total float64
	type filter struct {
		line  []float64
		share float64
	}
	var filters []filter
	for _, l := range lobes {
		line := make([]float64, 2*radius+1)
		var sum float64
		for i := range line {
			x := float64(i-radius) / pixelsADegree
			line[i] = math.Exp(-math.Pi * math.Pi * x * x / l.b)
			sum += line[i]
		}
		for i := range line {
			line[i] /= sum
		}
		share := l.a * math.Sqrt(math.Pi/l.b) * sum * sum
		filters = append(filters, filter{line, share})
		total += share
	}
	for _, f := range filters {
		for i, x := range oneWay(oneWay(v, w, h, f.line, true), w, h, f.line, false) {
			out[i] += x * f.share / total
		}
	}
	return out
}

// feature is the filter for edges (order 1) or points (order 2): along the direction
// looked in, with the positive and the negative weights of all of it summing to one
// each, and across it.
func feature(order int) (along, across []float64) {
	sd := 0.5 * flipW * pixelsADegree
	radius := int(math.Ceil(3 * sd))
	along, across = make([]float64, 2*radius+1), make([]float64, 2*radius+1)
	var plus, minus, sum float64
	for i := range along {
		x := float64(i - radius)
		g := math.Exp(-x * x / (2 * sd * sd))
		across[i] = g
		sum += g
		if along[i] = -x * g; order == 2 {
			along[i] = (x*x/(sd*sd) - 1) * g
		}
		if along[i] > 0 {
			plus += along[i]
		} else {
			minus -= along[i]
		}
	}
	for i := range along {
		across[i] /= sum
		if along[i] > 0 {
			along[i] /= plus
		} else {
			along[i] /= minus
		}
	}
	return along, across
}

// oneWay filters along rows or columns; beyond the edge its last value goes on.
func oneWay(v []float64, w, h int, f []float64, rows bool) []float64 {
	out := make([]float64, len(v))
	r := len(f) / 2
	for y := range h {
		for x := range w {
			var s float64
			for i, k := range f {
				if rows {
					s += k * v[y*w+min(max(x+i-r, 0), w-1)]
				} else {
					s += k * v[min(max(y+i-r, 0), h-1)*w+x]
				}
			}
			out[y*w+x] = s
		}
	}
	return out
}

// White of Rec.709 at 6500 K, XYZ.
var white = [3]float64{0.950428545, 1, 1.088900371}

func toXYZ(c [3]float64) [3]float64 {
	return [3]float64{
		0.41238656*c[0] + 0.35759149*c[1] + 0.18045049*c[2],
		0.21263682*c[0] + 0.71518298*c[1] + 0.0721802*c[2],
		0.01933062*c[0] + 0.11919716*c[1] + 0.95037259*c[2],
	}
}

func fromXYZ(c [3]float64) [3]float64 {
	return [3]float64{
		3.241003*c[0] - 1.53739904*c[1] - 0.49861583*c[2],
		-0.96922426*c[0] + 1.87592999*c[1] + 0.04155422*c[2],
		0.05563942*c[0] - 0.2040112*c[1] + 1.05714898*c[2],
	}
}

// toOpponent is luminance, red against green and blue against yellow, linear in light.
func toOpponent(c [3]float64) [3]float64 {
	v := toXYZ(c)
	x, y, z := v[0]/white[0], v[1]/white[1], v[2]/white[2]
	return [3]float64{116*y - 16, 500 * (x - y), 200 * (y - z)}
}

func fromOpponent(c [3]float64) [3]float64 {
	y := (c[0] + 16) / 116
	return fromXYZ([3]float64{(y + c[1]/500) * white[0], y * white[1], (y - c[2]/200) * white[2]})
}

func lab(c [3]float64) [3]float64 {
	v := toXYZ(c)
	for k := range v {
		const d = 6.0 / 29
		if v[k] /= white[k]; v[k] > d*d*d {
			v[k] = math.Cbrt(v[k])
		} else {
			v[k] = v[k]/(3*d*d) + 4.0/29
		}
	}
	return [3]float64{116*v[1] - 16, 500 * (v[0] - v[1]), 200 * (v[1] - v[2])}
}

// hunt lets colours fade with the light, as they do to the eye.
func hunt(c [3]float64) [3]float64 { return [3]float64{c[0], 0.01 * c[0] * c[1], 0.01 * c[0] * c[2]} }

// hyab is a distance of colours that are far apart (Abasi et al. 2020).
func hyab(a, b [3]float64) float64 {
	return math.Abs(a[0]-b[0]) + math.Hypot(a[1]-b[1], a[2]-b[2])
}
