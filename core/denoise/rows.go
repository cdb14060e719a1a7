package denoise

// The loops that all time goes into, over rows of pixels from place i on. All slices of a
// row have one length, but where it says otherwise. Each computes the same to the bit as
// its eight-wide form.

// addFrom adds x to sum.
func addFrom(i int, sum, x []float32) {
	x = x[:len(sum)]
	for ; i < len(sum); i++ {
		sum[i] += x[i]
	}
}

// gatherFrom adds x to sum by weights.
func gatherFrom(i int, sum, w, x []float32) {
	w, x = w[:len(sum)], x[:len(sum)]
	for ; i < len(sum); i++ {
		sum[i] += float32(w[i] * x[i])
	}
}

// shareFrom makes of weights their share of a sum, by how much of them is chosen.
func shareFrom(i int, w, chosen, sum []float32) {
	chosen, sum = chosen[:len(w)], sum[:len(w)]
	for ; i < len(w); i++ {
		w[i] = w[i] * chosen[i] / sum[i]
	}
}

// unlikeFrom adds to da and db how much colours differ beyond their noise, in each half,
// over their variances v and u: p is at the pixel, q at the other.
func unlikeFrom(i int, da, db, ap, aq, bp, bq, v, u []float32) {
	n := len(da)
	db, ap, aq, bp, bq, v, u = db[:n], ap[:n], aq[:n], bp[:n], bq[:n], v[:n], u[:n]
	for ; i < n; i++ {
		ea, eb := ap[i]-aq[i], bp[i]-bq[i]
		noise := v[i] + min(v[i], u[i])
		m := ap[i] + bp[i]
		over := 1 / (leastVariance*(smallLight+float32(m*m)) + v[i] + u[i])
		da[i] += float32((float32(ea*ea) - noise) * over)
		db[i] += float32((float32(eb*eb) - noise) * over)
	}
}

// threeFrom writes the sum of three rows.
func threeFrom(i int, sum, x, y, z []float32) {
	x, y, z = x[:len(sum)], y[:len(sum)], z[:len(sum)]
	for ; i < len(sum); i++ {
		sum[i] = x[i] + y[i] + z[i]
	}
}

// apartFrom raises far to how much guides differ over what they may.
func apartFrom(i int, far, p, q, tight []float32) {
	p, q, tight = p[:len(far)], q[:len(far)], tight[:len(far)]
	for ; i < len(far); i++ {
		d := p[i] - q[i]
		far[i] = max(far[i], d*d*tight[i])
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
