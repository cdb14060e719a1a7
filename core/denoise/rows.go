package denoise

import (
	"math"

	"amberproof/core/film"
)

// The loops that all time goes into, over rows of n pixels from the i-th on. What they
// read of a pixel lies plane after plane: value k of it at k*plane + i. Each computes the
// same to the bit as its eight-wide form.

// Values of a pixel that are held against another's, in order.
const (
	ofA     = 0 // colour by half A
	ofB     = 3 // and by half B
	ofNoise = 6 // variance of either
	colours = 9
)

// tightFrom makes of a guide's own noise, squared, one over what it may differ by, squared:
// that or its step to the next pixel on slopes. g begins a row above.
func tightFrom(i, n int, half, g []float32, stride int) {
	for ; i < n; i++ {
		at := stride + i
		dx := min(abs(g[at]-g[at-1]), abs(g[at+1]-g[at]))
		dy := min(abs(g[at]-g[i]), abs(g[at+stride]-g[at]))
		half[i] = 1 / max(half[i], float32(dx*dx)+float32(dy*dy), leastGuide)
	}
}

// unlikeFrom writes to da and db how much the colours of pixels p differ from those of q
// beyond their noise, in each half, over their variances.
func unlikeFrom(i, n int, da, db, p, q []float32, plane int) {
	for ; i < n; i++ {
		var sa, sb float32
		for k := i; k < 3*plane; k += plane {
			a, b := p[k], p[ofB*plane+k]
			v, u := p[ofNoise*plane+k], q[ofNoise*plane+k]
			ea, eb := a-q[k], b-q[ofB*plane+k]
			noise := v + min(v, u)
			m := a + b
			over := 1 / (leastVariance*(smallLight+float32(m*m)) + v + u)
			sa += float32((float32(ea*ea) - noise) * over)
			sb += float32((float32(eb*eb) - noise) * over)
		}
		da[i], db[i] = sa, sb
	}
}

// threeFrom writes the sum of each value and the two after it.
func threeFrom(i, n int, sum, x []float32) {
	for ; i < n; i++ {
		sum[i] = x[i] + x[i+1] + x[i+2]
	}
}

// weighFrom turns distances into weights, about exp(-x) and nothing from 4 on, for every
// way and half. They are of colour, across either half's, of three rows a stride apart that
// are summed first; and of guides: how much those of p differ from those of q, over what they
// may at either, whichever does most. Were it over what they may at p alone, a pixel whose
// samples see two things, as on a wire, would take from the ground around it what the ground
// does not take from it, and its light would be lost.
func weighFrom(i, n int, w *[len(ways)][2][]float32, across *[2][]float32, stride int, p, q, tp, tq []float32, plane int) {
	for ; i < n; i++ {
		var most float32
		for k := i; k < film.GuideValues*plane; k += plane {
			d := p[k] - q[k]
			most = max(most, d*d*float32(math.Sqrt(float64(tp[k]*tq[k]))))
		}
		for half, x := range across {
			unlike := x[i] + x[stride+i] + x[2*stride+i]
			for k := range w {
				x := max(unlike*perColour[k], most*perGuide[k], 0)
				y := max(1-float32(x*0.25), 0)
				y *= y
				w[k][half][i] = y * y
			}
		}
	}
}

// addFrom adds to sum rows of x that lie a stride apart, count of them.
func addFrom(i, n int, sum, x []float32, stride, count int) {
	for ; i < n; i++ {
		s := sum[i]
		for k := range count {
			s += x[k*stride+i]
		}
		sum[i] = s
	}
}

// gatherFrom adds three planes of x to three sums by rows of weights that lie a stride
// apart, count of them: the k-th for the values k places on.
func gatherFrom(i, n int, sum, x []float32, plane int, w []float32, stride, count int) {
	for ; i < n; i++ {
		for c := i; c < 3*plane; c += plane {
			s := sum[c]
			for k := range count {
				s += float32(w[k*stride+i] * x[c+k])
			}
			sum[c] = s
		}
	}
}

// blendFrom makes of the weights of three ways, each by its factor, those of the first.
func blendFrom(i, n int, w, v, u, fw, fv, fu []float32) {
	for ; i < n; i++ {
		w[i] = float32(w[i]*fw[i]) + float32(v[i]*fv[i]) + float32(u[i]*fu[i])
	}
}
