//go:build goexperiment.simd && amd64

package denoise

import "simd/archsimd"

// useSIMD is decided once by what the processor can do.
var useSIMD = archsimd.X86.AVX2()

type lanes = archsimd.Float32x8

// lane is eight values from place i of a row on.
func lane(x []float32, i int) lanes { return archsimd.LoadFloat32x8((*[8]float32)(x[i:])) }

func store(v lanes, x []float32, i int) { v.Store((*[8]float32)(x[i:])) }

// whole is how far eight lanes at a time reach.
func whole(n int) int {
	if !useSIMD {
		return 0
	}
	return n &^ 7
}

func addRow(sum, x []float32) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		store(lane(sum, i).Add(lane(x, i)), sum, i)
	}
	archsimd.ClearAVXUpperBits()
	addFrom(n, sum, x)
}

func gatherRow(sum, w, x []float32) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		store(lane(sum, i).Add(lane(w, i).Mul(lane(x, i))), sum, i)
	}
	archsimd.ClearAVXUpperBits()
	gatherFrom(n, sum, w, x)
}

func shareRow(w, chosen, sum []float32) {
	n := whole(len(w))
	for i := 0; i < n; i += 8 {
		store(lane(w, i).Mul(lane(chosen, i)).Div(lane(sum, i)), w, i)
	}
	archsimd.ClearAVXUpperBits()
	shareFrom(n, w, chosen, sum)
}

func unlikeRows(da, db, ap, aq, bp, bq, v, u []float32) {
	n := whole(len(da))
	one, least, small := archsimd.BroadcastFloat32x8(1), archsimd.BroadcastFloat32x8(leastVariance), archsimd.BroadcastFloat32x8(smallLight)
	for i := 0; i < n; i += 8 {
		a, b := lane(ap, i), lane(bp, i)
		ea, eb := a.Sub(lane(aq, i)), b.Sub(lane(bq, i))
		vi, ui := lane(v, i), lane(u, i)
		noise := vi.Add(vi.Min(ui))
		m := a.Add(b)
		over := one.Div(least.Mul(small.Add(m.Mul(m))).Add(vi).Add(ui))
		store(lane(da, i).Add(ea.Mul(ea).Sub(noise).Mul(over)), da, i)
		store(lane(db, i).Add(eb.Mul(eb).Sub(noise).Mul(over)), db, i)
	}
	archsimd.ClearAVXUpperBits()
	unlikeFrom(n, da, db, ap, aq, bp, bq, v, u)
}

func threeRow(sum, x, y, z []float32) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		store(lane(x, i).Add(lane(y, i)).Add(lane(z, i)), sum, i)
	}
	archsimd.ClearAVXUpperBits()
	threeFrom(n, sum, x, y, z)
}

func apartRow(far, p, q, tight []float32) {
	n := whole(len(far))
	for i := 0; i < n; i += 8 {
		d := lane(p, i).Sub(lane(q, i))
		store(lane(far, i).Max(d.Mul(d).Mul(lane(tight, i))), far, i)
	}
	archsimd.ClearAVXUpperBits()
	apartFrom(n, far, p, q, tight)
}

func weighRow(w, colour, guide []float32, perColour, perGuide float32) {
	n := whole(len(w))
	pc, pg := archsimd.BroadcastFloat32x8(perColour), archsimd.BroadcastFloat32x8(perGuide)
	zero, one, quarter := archsimd.BroadcastFloat32x8(0), archsimd.BroadcastFloat32x8(1), archsimd.BroadcastFloat32x8(0.25)
	for i := 0; i < n; i += 8 {
		x := lane(colour, i).Mul(pc).Max(lane(guide, i).Mul(pg)).Max(zero)
		y := one.Sub(x.Mul(quarter)).Max(zero)
		y = y.Mul(y)
		store(y.Mul(y), w, i)
	}
	archsimd.ClearAVXUpperBits()
	weighFrom(n, w, colour, guide, perColour, perGuide)
}
