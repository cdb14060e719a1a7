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

func unlikeRow(da, db []float32, c *colours) {
	n := whole(len(da))
	one, least, small := archsimd.BroadcastFloat32x8(1), archsimd.BroadcastFloat32x8(leastVariance), archsimd.BroadcastFloat32x8(smallLight)
	for i := 0; i < n; i += 8 {
		sa, sb := archsimd.BroadcastFloat32x8(0), archsimd.BroadcastFloat32x8(0)
		for k := range 3 {
			a, b := lane(c.ap[k], i), lane(c.bp[k], i)
			v, u := lane(c.vp[k], i), lane(c.vq[k], i)
			ea, eb := a.Sub(lane(c.aq[k], i)), b.Sub(lane(c.bq[k], i))
			noise := v.Add(v.Min(u))
			m := a.Add(b)
			over := one.Div(least.Mul(small.Add(m.Mul(m))).Add(v).Add(u))
			sa = sa.Add(ea.Mul(ea).Sub(noise).Mul(over))
			sb = sb.Add(eb.Mul(eb).Sub(noise).Mul(over))
		}
		store(sa, da, i)
		store(sb, db, i)
	}
	archsimd.ClearAVXUpperBits()
	unlikeFrom(n, da, db, c)
}

func apartRow(far []float32, g *guides) {
	n := whole(len(far))
	for i := 0; i < n; i += 8 {
		most := archsimd.BroadcastFloat32x8(0)
		for k := range g.p {
			d := lane(g.p[k], i).Sub(lane(g.q[k], i))
			most = most.Max(d.Mul(d).Mul(lane(g.tight[k], i)))
		}
		store(most, far, i)
	}
	archsimd.ClearAVXUpperBits()
	apartFrom(n, far, g)
}

func threeRow(sum, x, y, z []float32) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		store(lane(x, i).Add(lane(y, i)).Add(lane(z, i)), sum, i)
	}
	archsimd.ClearAVXUpperBits()
	threeFrom(n, sum, x, y, z)
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

func addRow(sum, w []float32, stride, count int) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		s := lane(sum, i)
		for k := range count {
			s = s.Add(lane(w, k*stride+i))
		}
		store(s, sum, i)
	}
	archsimd.ClearAVXUpperBits()
	addFrom(n, sum, w, stride, count)
}

func gatherRow(sum, w, x []float32, stride, count int) {
	n := whole(len(sum))
	for i := 0; i < n; i += 8 {
		s := lane(sum, i)
		for k := range count {
			s = s.Add(lane(w, k*stride+i).Mul(lane(x, i+k)))
		}
		store(s, sum, i)
	}
	archsimd.ClearAVXUpperBits()
	gatherFrom(n, sum, w, x, stride, count)
}

func blendRow(w, v, u, fw, fv, fu []float32) {
	n := whole(len(w))
	for i := 0; i < n; i += 8 {
		store(lane(w, i).Mul(lane(fw, i)).Add(lane(v, i).Mul(lane(fv, i))).Add(lane(u, i).Mul(lane(fu, i))), w, i)
	}
	archsimd.ClearAVXUpperBits()
	blendFrom(n, w, v, u, fw, fv, fu)
}
