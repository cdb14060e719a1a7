//go:build goexperiment.simd && amd64

package accel

import "simd/archsimd"

func (s *span) load() archsimd.Float32x8 { return archsimd.LoadFloat32x8((*[8]float32)(s)) }

// sort adds the triangles to their bins; the numbers are those of sortPortable.
func (g *grid) sort(refs []span, b *binned) {
	if !useSIMD {
		g.sortPortable(refs, b)
		return
	}
	lo, scale := archsimd.LoadFloat32x4(&g.lo), archsimd.LoadFloat32x4(&g.scale)
	most, least := archsimd.BroadcastInt32x4(bins-1), archsimd.BroadcastInt32x4(0)
	var at [4]int32
	for i := range refs {
		v := refs[i].load()
		v.GetHi().Sub(v.GetLo()).Sub(lo).Mul(scale).ConvertToInt32().Min(most).Max(least).Store(&at)
		for k := range 3 {
			j := at[k] & (bins - 1)
			box := (*[8]float32)(&b.box[k][j])
			archsimd.LoadFloat32x8(box).Max(v).Store(box)
			b.count[k][j]++
		}
	}
	archsimd.ClearAVXUpperBits()
}

// partition is partitionPortable with all lanes at once.
func partition(refs []span, g *grid, axis, bin int) (left, right region) {
	if !useSIMD {
		return partitionPortable(refs, g, axis, bin)
	}
	left, right = emptyRegion(), emptyRegion()
	lb, rb := left.box.load(), right.box.load()
	ll, lh := archsimd.LoadFloat32x4(&left.lo), archsimd.LoadFloat32x4(&left.hi)
	rl, rh := ll, lh
	i, j := 0, len(refs)-1
	for i <= j {
		v := refs[i].load()
		c := v.GetHi().Sub(v.GetLo())
		if g.bin(&refs[i], axis) <= bin {
			lb, ll, lh = lb.Max(v), ll.Min(c), lh.Max(c)
			i++
		} else {
			rb, rl, rh = rb.Max(v), rl.Min(c), rh.Max(c)
			refs[i], refs[j] = refs[j], refs[i]
			j--
		}
	}
	lb.Store((*[8]float32)(&left.box))
	rb.Store((*[8]float32)(&right.box))
	ll.Store(&left.lo)
	lh.Store(&left.hi)
	rl.Store(&right.lo)
	rh.Store(&right.hi)
	archsimd.ClearAVXUpperBits()
	left.n, right.n = i, len(refs)-i
	return left, right
}
