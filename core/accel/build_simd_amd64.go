//go:build goexperiment.simd && amd64

package accel

import "simd/archsimd"

func (s *span) load() archsimd.Float32x8 { return archsimd.LoadFloat32x8((*[8]float32)(s)) }

// around is what lies around some triangles.
func around(refs []span) region {
	if !useSIMD {
		return aroundPortable(refs)
	}
	r := emptyRegion()
	r.n = len(refs)
	box, centres := r.box.load(), r.centres.load()
	for i := range refs {
		v := refs[i].load()
		box, centres = box.Max(v), centres.Max(centre(v))
	}
	box.Store((*[8]float32)(&r.box))
	centres.Store((*[8]float32)(&r.centres))
	archsimd.ClearAVXUpperBits()
	return r
}

// centre is the point at double the centre of a span, as a span.
func centre(v archsimd.Float32x8) archsimd.Float32x8 {
	lo, hi := v.GetLo(), v.GetHi()
	return v.SetLo(lo.Sub(hi)).SetHi(hi.Sub(lo))
}

// sort adds the triangles to their bins; the numbers are those of sortPortable.
func (g *grid) sort(refs []span, b *binned) {
	if !useSIMD {
		g.sortPortable(refs, b)
		return
	}
	lo, scale := archsimd.LoadFloat32x4(&g.lo), archsimd.LoadFloat32x4(&g.scale)
	most, least := archsimd.BroadcastInt32x4(int32(g.bins-1)), archsimd.BroadcastInt32x4(0)
	var at [4]int32
	for i := range refs {
		v := refs[i].load()
		v.GetHi().Sub(v.GetLo()).Sub(lo).Mul(scale).ConvertToInt32().Min(most).Max(least).Store(&at)
		for k := range 3 {
			j := at[k] & (mostBins - 1)
			box := (*[8]float32)(&b.box[k][j])
			archsimd.LoadFloat32x8(box).Max(v).Store(box)
			b.count[k][j]++
		}
	}
	archsimd.ClearAVXUpperBits()
}

// sweep finds the extents of the boxes of all bins up to each, and from each on.
func (b *binned) sweep(k, bins int, left, right *[mostBins]extent) {
	if useSIMD {
		b.sweepEight(k, bins, left, right)
	} else {
		b.sweepPortable(k, bins, left, right)
	}
}

// sweepEight is a function of its own so that its vectors are not loaded before it is
// known that there are any.
func (b *binned) sweepEight(k, bins int, left, right *[mostBins]extent) {
	l, r := nowhere.load(), nowhere.load()
	for i := range bins {
		j := bins - 1 - i
		l, r = l.Max(b.box[k][i].load()), r.Max(b.box[k][j].load())
		l.GetHi().Add(l.GetLo()).Store((*[4]float32)(&left[i]))
		r.GetHi().Add(r.GetLo()).Store((*[4]float32)(&right[j]))
	}
	archsimd.ClearAVXUpperBits()
}

// partition is partitionPortable with all lanes at once.
func partition(refs []span, g *grid, axis, bin int) (left, right region) {
	if !useSIMD {
		return partitionPortable(refs, g, axis, bin)
	}
	sides := [2]region{emptyRegion(), emptyRegion()}
	mid := partitionEight(refs, g, axis, float32(bin+1), &sides)
	sides[1].n, sides[0].n = mid, len(refs)-mid
	return sides[1], sides[0]
}

// partitionEight moves the triangles before end along the axis to the front, adds all to
// their sides, the front's last, and tells how many are there.
func partitionEight(refs []span, g *grid, axis int, end float32, sides *[2]region) (mid int) {
	lo, scale := archsimd.LoadFloat32x4(&g.lo), archsimd.LoadFloat32x4(&g.scale)
	ends := archsimd.BroadcastFloat32x4(end)
	for i := range refs {
		at, to := &refs[i], &refs[mid]
		v := at.load()
		to.load().Store((*[8]float32)(at))
		v.Store((*[8]float32)(to))
		c := centre(v)
		first := int(c.GetHi().Sub(lo).Mul(scale).Less(ends).ToBits()>>axis) & 1
		mid += first
		side := &sides[first]
		side.box.load().Max(v).Store((*[8]float32)(&side.box))
		side.centres.load().Max(c).Store((*[8]float32)(&side.centres))
	}
	archsimd.ClearAVXUpperBits()
	return mid
}
