package denoise

import "amberproof/core/film"

// The loops that all time goes into, over rows of pixels from place i on. All slices of a
// row have one length, but where it says otherwise. Each computes the same to the bit as
// its eight-wide form.

// colours are rows of a pixel and of the other that it is held against: of both halves,
// p at the pixel and q at the other, and their variances.
type colours struct {
	ap, aq, bp, bq, vp, vq [3][]float32
}

// unlikeFrom writes to da and db how much colours differ beyond their noise, in each half,
// over their variances.
func unlikeFrom(i int, da, db []float32, c *colours) {
	for ; i < len(da); i++ {
		var sa, sb float32
		for k := range 3 {
			a, b := c.ap[k][i], c.bp[k][i]
			v, u := c.vp[k][i], c.vq[k][i]
			ea, eb := a-c.aq[k][i], b-c.bq[k][i]
			noise := v + min(v, u)
			m := a + b
			over := 1 / (leastVariance*(smallLight+float32(m*m)) + v + u)
			sa += float32((float32(ea*ea) - noise) * over)
			sb += float32((float32(eb*eb) - noise) * over)
		}
		da[i], db[i] = sa, sb
	}
}

// guides are rows of a pixel's guides, of the other's, and of how tight they are held.
type guides struct {
	p, q, tight [film.GuideValues][]float32
}

// apartFrom writes how much guides differ over what they may, whichever does most.
func apartFrom(i int, far []float32, g *guides) {
	for ; i < len(far); i++ {
		var most float32
		for k := range g.p {
			d := g.p[k][i] - g.q[k][i]
			most = max(most, d*d*g.tight[k][i])
		}
		far[i] = most
	}
}

// threeFrom writes the sum of three rows.
func threeFrom(i int, sum, x, y, z []float32) {
	x, y, z = x[:len(sum)], y[:len(sum)], z[:len(sum)]
	for ; i < len(sum); i++ {
		sum[i] = x[i] + y[i] + z[i]
	}
}

// weighFrom turns distances into weights: about exp(-x), and nothing from 4 on.
func weighFrom(i int, w, colour, guide []float32, perColour, perGuide float32) {
	colour, guide = colour[:len(w)], guide[:len(w)]
	for ; i < len(w); i++ {
		x := max(colour[i]*perColour, guide[i]*perGuide, 0)
		y := max(1-float32(x*0.25), 0)
		y *= y
		w[i] = y * y
	}
}

// addFrom adds to sum rows of weights that lie a stride apart, count of them.
func addFrom(i int, sum, w []float32, stride, count int) {
	for ; i < len(sum); i++ {
		s := sum[i]
		for k := range count {
			s += w[k*stride+i]
		}
		sum[i] = s
	}
}

// gatherFrom adds x to sum by rows of weights that lie a stride apart, count of them: the
// k-th for the value k places on. x is longer by count-1.
func gatherFrom(i int, sum, w, x []float32, stride, count int) {
	for ; i < len(sum); i++ {
		s := sum[i]
		for k := range count {
			s += float32(w[k*stride+i] * x[i+k])
		}
		sum[i] = s
	}
}

// blendFrom makes of the weights of three ways, each by its factor, those of the first.
func blendFrom(i int, w, v, u, fw, fv, fu []float32) {
	n := len(w)
	v, u, fw, fv, fu = v[:n], u[:n], fw[:n], fv[:n], fu[:n]
	for ; i < n; i++ {
		w[i] = float32(w[i]*fw[i]) + float32(v[i]*fv[i]) + float32(u[i]*fu[i])
	}
}
