//go:build goexperiment.simd && amd64

package denoise

import (
	"simd/archsimd"
	"unsafe"

	"amberproof/core/film"
)

// useSIMD is decided once by what the processor can do.
var useSIMD = archsimd.X86.AVX2()

type lanes = archsimd.Float32x8

// row is where values begin of which so many are there: that is checked once a row, which
// takes a third of the time of checking every eight.
func row(x []float32, many int) unsafe.Pointer { return unsafe.Pointer(unsafe.SliceData(x[:many])) }

// on is the place i values further, which must be there: no pointer may lead past the end.
func on(p unsafe.Pointer, i int) unsafe.Pointer { return unsafe.Add(p, 4*i) }

func lane(p unsafe.Pointer, i int) lanes {
	return archsimd.LoadFloat32x8((*[8]float32)(on(p, i)))
}

func store(v lanes, p unsafe.Pointer, i int) { v.Store((*[8]float32)(on(p, i))) }

func same(x float32) lanes { return archsimd.BroadcastFloat32x8(x) }

// nothing is zero in all lanes. (A broadcast of 0 is made by legacy SSE, which some
// processors are slow to change to among vectors.)
func nothing() (zero lanes) { return zero }

// whole is how far eight lanes at a time reach.
func whole(n int) int {
	if !useSIMD {
		return 0
	}
	return n &^ 7
}

func tightRow(n int, half, g []float32, stride int) {
	m := whole(n)
	to, from := row(half, n), row(g, 2*stride+n)
	zero, one, least := nothing(), same(1), same(leastGuide)
	step := func(a, b lanes) lanes {
		d := a.Sub(b)
		return d.Max(zero.Sub(d))
	}
	for i := 0; i < m; i += 8 {
		g := on(from, stride+i)
		v := lane(g, 0)
		dx := step(v, lane(g, -1)).Min(step(lane(g, 1), v))
		dy := step(v, lane(g, -stride)).Min(step(lane(g, stride), v))
		store(one.Div(lane(to, i).Max(dx.Mul(dx).Add(dy.Mul(dy))).Max(least)), to, i)
	}
	archsimd.ClearAVXUpperBits()
	tightFrom(m, n, half, g, stride)
}

func unlikeRow(n int, da, db, p, q []float32, plane int) {
	m := whole(n)
	a, b := row(da, n), row(db, n)
	pp, qq := row(p, (colours-1)*plane+n), row(q, (colours-1)*plane+n)
	one, least, small, zero := same(1), same(leastVariance), same(smallLight), nothing()
	for i := 0; i < m; i += 8 {
		sa, sb := zero, zero
		for k := i; k < 3*plane; k += plane {
			a, b := lane(pp, k), lane(pp, k+ofB*plane)
			v, u := lane(pp, k+ofNoise*plane), lane(qq, k+ofNoise*plane)
			ea, eb := a.Sub(lane(qq, k)), b.Sub(lane(qq, k+ofB*plane))
			noise := v.Add(v.Min(u))
			m := a.Add(b)
			over := one.Div(least.Mul(small.Add(m.Mul(m))).Add(v).Add(u))
			sa = sa.Add(ea.Mul(ea).Sub(noise).Mul(over))
			sb = sb.Add(eb.Mul(eb).Sub(noise).Mul(over))
		}
		store(sa, a, i)
		store(sb, b, i)
	}
	archsimd.ClearAVXUpperBits()
	unlikeFrom(m, n, da, db, p, q, plane)
}

func threeRow(n int, sum, x []float32) {
	m := whole(n)
	to, from := row(sum, n), row(x, n+2)
	for i := 0; i < m; i += 8 {
		store(lane(from, i).Add(lane(from, i+1)).Add(lane(from, i+2)), to, i)
	}
	archsimd.ClearAVXUpperBits()
	threeFrom(m, n, sum, x)
}

func weighRow(n int, w *[len(ways)][2][]float32, across *[2][]float32, stride int, p, q, tp, tq []float32, plane int) {
	m := whole(n)
	guides := (film.GuideValues-1)*plane + n
	of := [4]unsafe.Pointer{row(p, guides), row(q, guides), row(tp, guides), row(tq, guides)}
	var to [len(ways)][2]unsafe.Pointer
	for k := range to {
		to[k] = [2]unsafe.Pointer{row(w[k][0], n), row(w[k][1], n)}
	}
	from := [2]unsafe.Pointer{row(across[0], 2*stride+n), row(across[1], 2*stride+n)}
	weighEight(m, &to, &from, stride, &of, plane)
	weighFrom(m, n, w, across, stride, p, q, tp, tq, plane)
}

// weighEight is a function of its own so that its arrays are made before its first vector.
func weighEight(m int, to *[len(ways)][2]unsafe.Pointer, from *[2]unsafe.Pointer, stride int, of *[4]unsafe.Pointer, plane int) {
	pp, qq, tp, tq := of[0], of[1], of[2], of[3]
	zero, one, quarter := nothing(), same(1), same(0.25)
	for i := 0; i < m; i += 8 {
		most := zero
		for k := i; k < film.GuideValues*plane; k += plane {
			d := lane(pp, k).Sub(lane(qq, k))
			most = most.Max(d.Mul(d).Mul(lane(tp, k).Mul(lane(tq, k)).Sqrt()))
		}
		a, b := from[0], from[1]
		ua := lane(a, i).Add(lane(a, i+stride)).Add(lane(a, i+2*stride))
		ub := lane(b, i).Add(lane(b, i+stride)).Add(lane(b, i+2*stride))
		for k := range to {
			colour := same(perColour[k])
			g := most.Mul(same(perGuide[k])).Max(zero)
			y := one.Sub(ua.Mul(colour).Max(g).Mul(quarter)).Max(zero)
			y = y.Mul(y)
			store(y.Mul(y), to[k][0], i)
			y = one.Sub(ub.Mul(colour).Max(g).Mul(quarter)).Max(zero)
			y = y.Mul(y)
			store(y.Mul(y), to[k][1], i)
		}
	}
	archsimd.ClearAVXUpperBits()
}

func addRow(n int, sum, x []float32, stride, count int) {
	m := whole(n)
	to, from := row(sum, n), row(x, (count-1)*stride+n)
	for i := 0; i < m; i += 8 {
		s := lane(to, i)
		for k := i; k < i+count*stride; k += stride {
			s = s.Add(lane(from, k))
		}
		store(s, to, i)
	}
	archsimd.ClearAVXUpperBits()
	addFrom(m, n, sum, x, stride, count)
}

func gatherRow(n int, sum, x []float32, plane int, w []float32, stride, count int) {
	m := whole(n)
	to, from, by := row(sum, 2*plane+n), row(x, 2*plane+n+count-1), row(w, (count-1)*stride+n)
	for i := 0; i < m; i += 8 {
		r, g, b := lane(to, i), lane(to, i+plane), lane(to, i+2*plane)
		for k, at := i, i; k < i+count; k, at = k+1, at+stride {
			f := lane(by, at)
			r = r.Add(f.Mul(lane(from, k)))
			g = g.Add(f.Mul(lane(from, k+plane)))
			b = b.Add(f.Mul(lane(from, k+2*plane)))
		}
		store(r, to, i)
		store(g, to, i+plane)
		store(b, to, i+2*plane)
	}
	archsimd.ClearAVXUpperBits()
	gatherFrom(m, n, sum, x, plane, w, stride, count)
}

func blendRow(n int, w, v, u, fw, fv, fu []float32) {
	m := whole(n)
	ww, vv, uu := row(w, n), row(v, n), row(u, n)
	fww, fvv, fuu := row(fw, n), row(fv, n), row(fu, n)
	for i := 0; i < m; i += 8 {
		store(lane(ww, i).Mul(lane(fww, i)).Add(lane(vv, i).Mul(lane(fvv, i))).Add(lane(uu, i).Mul(lane(fuu, i))), ww, i)
	}
	archsimd.ClearAVXUpperBits()
	blendFrom(m, n, w, v, u, fw, fv, fu)
}
