//go:build goexperiment.simd && amd64

package accel

import (
	"math"
	"math/bits"
	"simd/archsimd"
	"unsafe"

	"amberproof/core/geom"
)

// useSIMD is decided once by what the processor can do.
var useSIMD = archsimd.X86.AVX2() && archsimd.X86.FMA()

// row is the eight lanes at a byte offset of a node or block. The kernels
// compute the offsets from the ray once; checked indexing costs a fifth.
func row(p unsafe.Pointer, offset uintptr) archsimd.Float32x8 {
	return archsimd.LoadFloat32x8((*[wide]float32)(unsafe.Add(p, offset)))
}

func lane32(p unsafe.Pointer, offset uintptr, k int) uint32 {
	return *(*uint32)(unsafe.Add(p, offset+uintptr(k)*4))
}

// lanes are eight floats as bits. Between the first vector of a kernel and the clearing of
// the upper halves no scalar float is touched: the compiler does that with legacy SSE, and
// some processors take 70 cycles for each change between the two. Distances are positive,
// so their bits order as they do.
type lanes = [wide]uint32

// keep stores eight floats where single ones will be read as bits.
func keep(v archsimd.Float32x8, to *lanes) { v.AsUint32x8().Store(to) }

// aimed is what the kernels need of a ray. In inv and add lanes 3 to 5 are for
// the near sides of boxes and lanes 0 to 2, padded, for the far ones.
type aimed struct {
	inv, add   [wide]float32
	nx, ny, nz uintptr
	kx, ky, kz uintptr
	// Each of these in all lanes.
	o, s             [3][wide]float32
	tmin, tmax, zero [wide]float32
	limit            lanes
	// Scratch, so that no array is zeroed among vectors.
	near, t, u, v lanes
	// The nearest hit so far, as bits.
	best struct{ t, u, v, prim, found uint32 }
}

// every spreads the float of these bits over all lanes.
func every(bits uint32) archsimd.Float32x8 { return archsimd.BroadcastUint32x8(bits).AsFloat32x8() }

// rayEnd is the place of a ray's TMax among its eight floats.
const rayEnd = 7

var (
	spreadO   = [wide]uint32{0, 1, 2, 0, 1, 2, 6, 7}
	spreadD   = [wide]uint32{3, 4, 5, 3, 4, 5, 3, 3}
	spreadMin = [wide]uint32{6, 6, 6, 6, 6, 6, 6, 6}
	spreadMax = [wide]uint32{rayEnd, rayEnd, rayEnd, rayEnd, rayEnd, rayEnd, rayEnd, rayEnd}
	ones      = [wide]float32{1, 1, 1, 1, 1, 1, 1, 1}
	tinies    = [wide]float32{tiny, tiny, tiny, tiny, tiny, tiny, tiny, tiny}
	nearests  = [wide]float32{nearest, nearest, nearest, nearest, nearest, nearest, nearest, nearest}
	padAll    = [wide]float32{farPad, farPad, farPad, farPad, farPad, farPad, farPad, farPad}
	padFar    = [wide]float32{farPad, farPad, farPad, 1, 1, 1, 1, 1}
	slack     = [wide]float32{slabError, slabError, slabError, -slabError, -slabError, -slabError, 0, 0}
	nextAxis  = [4]uintptr{1, 2, 0, 0}
	lastAxis  = [4]uintptr{2, 0, 1, 0}
)

// aim prepares a ray, as prepare does for the portable path, but all axes at a
// time and without a branch: with short rays it is a third of the work.
//
//go:noinline
func (s *Stack) aim(r *geom.Ray) {
	a := &s.aimed
	v := archsimd.LoadFloat32x8((*[wide]float32)(unsafe.Pointer(r))) // O, D, TMin, TMax
	d := v.Permute(archsimd.LoadUint32x8(&spreadD))
	o := v.Permute(archsimd.LoadUint32x8(&spreadO))
	sign := archsimd.BroadcastUint32x8(1 << 31)
	size := d.AsUint32x8().AndNot(sign).AsFloat32x8()
	inv := archsimd.LoadFloat32x8(&ones).Div(size.Max(archsimd.LoadFloat32x8(&tinies)).AsUint32x8().Or(d.AsUint32x8().And(sign)).AsFloat32x8())
	signs := uintptr(d.AsInt32x8().Less(archsimd.BroadcastInt32x8(0)).ToBits())
	keep(size, &a.t)
	k, most := uintptr(0), a.t[0]
	if a.t[1] > most {
		k, most = 1, a.t[1]
	}
	if a.t[2] > most {
		k = 2
	}
	inv.Store(&a.inv)
	main := archsimd.BroadcastFloat32x8(a.inv[k&7])
	both := inv.Mul(archsimd.LoadFloat32x8(&padFar))
	p := o.Mul(both)
	archsimd.LoadFloat32x8(&slack).Mul(p.AsUint32x8().AndNot(sign).AsFloat32x8()).Sub(p).Store(&a.add)
	both.Store(&a.inv)
	a.nx, a.ny, a.nz = (signs&1)*rowBytes, 2*rowBytes+(signs>>1&1)*rowBytes, 4*rowBytes+(signs>>2&1)*rowBytes
	i, j := nextAxis[k&3], lastAxis[k&3]
	a.kx, a.ky, a.kz = i*rowBytes, j*rowBytes, k*rowBytes
	ray := (*[wide]float32)(unsafe.Pointer(r))
	archsimd.BroadcastFloat32x8(ray[i&3]).Store(&a.o[0])
	archsimd.BroadcastFloat32x8(ray[j&3]).Store(&a.o[1])
	archsimd.BroadcastFloat32x8(ray[k&3]).Store(&a.o[2])
	archsimd.BroadcastFloat32x8(ray[(3+i)&7]).Mul(main).Store(&a.s[0])
	archsimd.BroadcastFloat32x8(ray[(3+j)&7]).Mul(main).Store(&a.s[1])
	main.Store(&a.s[2])
	v.Permute(archsimd.LoadUint32x8(&spreadMin)).Max(archsimd.LoadFloat32x8(&nearests)).Store(&a.tmin)
	end := v.Permute(archsimd.LoadUint32x8(&spreadMax))
	end.Store(&a.tmax)
	keep(end.Mul(archsimd.LoadFloat32x8(&padAll)), &a.limit)
	archsimd.ClearAVXUpperBits()
}

func (b *BVH) closestSIMD(s *Stack, r *geom.Ray) (Hit, bool) {
	s.aim(r)
	a := &s.aimed
	nx, ny, nz := a.nx, a.ny, a.nz
	fx, fy, fz := nx^rowBytes, ny^rowBytes, nz^rowBytes
	ix, iy, iz := archsimd.BroadcastFloat32x8(a.inv[3]), archsimd.BroadcastFloat32x8(a.inv[4]), archsimd.BroadcastFloat32x8(a.inv[5])
	jx, jy, jz := archsimd.BroadcastFloat32x8(a.inv[0]), archsimd.BroadcastFloat32x8(a.inv[1]), archsimd.BroadcastFloat32x8(a.inv[2])
	nox, noy, noz := archsimd.BroadcastFloat32x8(a.add[3]), archsimd.BroadcastFloat32x8(a.add[4]), archsimd.BroadcastFloat32x8(a.add[5])
	fox, foy, foz := archsimd.BroadcastFloat32x8(a.add[0]), archsimd.BroadcastFloat32x8(a.add[1]), archsimd.BroadcastFloat32x8(a.add[2])
	nodes, blocks, stack := unsafe.Pointer(unsafe.SliceData(b.nodes)), unsafe.Pointer(unsafe.SliceData(b.blocks)), unsafe.Pointer(unsafe.SliceData(s.refs))
	best := &a.best
	best.t, best.prim, best.found = (*lanes)(unsafe.Pointer(r))[rayEnd], 0, 0 // of triangles at the same distance the first counts; none comes before 0
	sp := uintptr(0)                                                          // bytes on the stack
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := unsafe.Add(nodes, uintptr(ref)*nodeBytes)
			tn := row(n, nx).MulAdd(ix, nox).Max(row(n, ny).MulAdd(iy, noy)).Max(row(n, nz).MulAdd(iz, noz).Max(archsimd.LoadFloat32x8(&a.tmin)))
			tf := row(n, fx).MulAdd(jx, fox).Min(row(n, fy).MulAdd(jy, foy)).Min(row(n, fz).MulAdd(jz, foz).Min(archsimd.LoadUint32x8(&a.limit).AsFloat32x8()))
			if m := tn.LessEqual(tf).ToBits(); m != 0 {
				k := bits.TrailingZeros8(m)
				if m &= m - 1; m == 0 {
					ref = lane32(n, childRow, k)
					continue
				}
				keep(tn, &a.near)
				j := bits.TrailingZeros8(m)
				one := uint64(a.near[k&7])<<32 | uint64(lane32(n, childRow, k))
				two := uint64(a.near[j&7])<<32 | uint64(lane32(n, childRow, j))
				if two < one {
					one, two = two, one
				}
				if m &= m - 1; m == 0 {
					*(*uint64)(unsafe.Add(stack, sp)) = two
					sp += 8
					ref = uint32(one)
					continue
				}
				base := sp
				*(*uint64)(unsafe.Add(stack, sp)) = two
				*(*uint64)(unsafe.Add(stack, sp+8)) = one
				sp += 16
				for ; m != 0; m &= m - 1 {
					k := bits.TrailingZeros8(m)
					key := uint64(a.near[k&7])<<32 | uint64(lane32(n, childRow, k))
					i := sp
					for i > base {
						below := *(*uint64)(unsafe.Add(stack, i-8))
						if below >= key {
							break
						}
						*(*uint64)(unsafe.Add(stack, i)) = below
						i -= 8
					}
					*(*uint64)(unsafe.Add(stack, i)) = key
					sp += 8
				}
				sp -= 8
				ref = uint32(*(*uint64)(unsafe.Add(stack, sp)))
				continue
			}
		} else {
			kx, ky, kz := a.kx, a.ky, a.kz
			// A pointer stays within the blocks: it is made anew from its place, since one
			// moved on from the last would point beyond them.
			at := uintptr(ref&blockMask) * blockBytes
			for left := int(ref &^ leafBit >> blockBits); left >= 0; left, at = left-1, at+blockBytes {
				bl := unsafe.Add(blocks, at)
				oz := archsimd.LoadFloat32x8(&a.o[2])
				az := row(bl, kz).Sub(oz)
				bz := row(bl, kz+3*rowBytes).Sub(oz)
				cz := row(bl, kz+6*rowBytes).Sub(oz)
				ox, sx := archsimd.LoadFloat32x8(&a.o[0]), archsimd.LoadFloat32x8(&a.s[0])
				ax := row(bl, kx).Sub(ox).Sub(sx.Mul(az))
				bx := row(bl, kx+3*rowBytes).Sub(ox).Sub(sx.Mul(bz))
				cx := row(bl, kx+6*rowBytes).Sub(ox).Sub(sx.Mul(cz))
				oy, sy := archsimd.LoadFloat32x8(&a.o[1]), archsimd.LoadFloat32x8(&a.s[1])
				ay := row(bl, ky).Sub(oy).Sub(sy.Mul(az))
				by := row(bl, ky+3*rowBytes).Sub(oy).Sub(sy.Mul(bz))
				cy := row(bl, ky+6*rowBytes).Sub(oy).Sub(sy.Mul(cz))
				wa := cx.Mul(by).Sub(cy.Mul(bx))
				wb := ax.Mul(cy).Sub(ay.Mul(cx))
				wc := bx.Mul(ay).Sub(by.Mul(ax))
				zero := archsimd.LoadFloat32x8(&a.zero)
				in := wa.Min(wb).Min(wc).GreaterEqual(zero).Or(wa.Max(wb).Max(wc).LessEqual(zero))
				if in.ToBits() == 0 {
					continue
				}
				det := wa.Add(wb).Add(wc)
				sz := archsimd.LoadFloat32x8(&a.s[2])
				t := wa.Mul(sz.Mul(az)).Add(wb.Mul(sz.Mul(bz))).Add(wc.Mul(sz.Mul(cz))).Div(det)
				// A degenerate lane has det 0 and t not-a-number, which fails both comparisons.
				m := in.And(t.Greater(archsimd.LoadFloat32x8(&a.tmin))).And(t.LessEqual(archsimd.LoadFloat32x8(&a.tmax))).And(det.NotEqual(zero)).ToBits()
				if m == 0 {
					continue
				}
				keep(t, &a.t)
				took := -1
				for ; m != 0; m &= m - 1 {
					k := bits.TrailingZeros8(m) & 7
					if p := lane32(bl, primRow, k); a.t[k] < best.t || a.t[k] == best.t && p < best.prim {
						best.t, best.prim = a.t[k], p
						took = k
					}
				}
				if took >= 0 {
					keep(wb.Div(det), &a.u)
					keep(wc.Div(det), &a.v)
					best.u, best.v, best.found = a.u[took&7], a.v[took&7], 1
					end := every(best.t)
					end.Store(&a.tmax)
					keep(end.Mul(archsimd.LoadFloat32x8(&padAll)), &a.limit)
				}
			}
		}
		for {
			if sp == 0 {
				archsimd.ClearAVXUpperBits()
				if best.found == 0 {
					return Hit{T: r.TMax}, false
				}
				return Hit{math.Float32frombits(best.t), math.Float32frombits(best.u), math.Float32frombits(best.v), best.prim}, true
			}
			sp -= 8
			top := *(*uint64)(unsafe.Add(stack, sp))
			if uint32(top>>32) <= a.limit[0] {
				ref = uint32(top)
				break
			}
		}
	}
}

// blockedSIMD has the tests of closestSIMD once more, without distances and
// order: the compiler does not inline functions of vectors this large, and a
// call per node would cost more than the node.
func (b *BVH) blockedSIMD(s *Stack, r *geom.Ray) bool {
	s.aim(r)
	a := &s.aimed
	nx, ny, nz := a.nx, a.ny, a.nz
	fx, fy, fz := nx^rowBytes, ny^rowBytes, nz^rowBytes
	ix, iy, iz := archsimd.BroadcastFloat32x8(a.inv[3]), archsimd.BroadcastFloat32x8(a.inv[4]), archsimd.BroadcastFloat32x8(a.inv[5])
	jx, jy, jz := archsimd.BroadcastFloat32x8(a.inv[0]), archsimd.BroadcastFloat32x8(a.inv[1]), archsimd.BroadcastFloat32x8(a.inv[2])
	nox, noy, noz := archsimd.BroadcastFloat32x8(a.add[3]), archsimd.BroadcastFloat32x8(a.add[4]), archsimd.BroadcastFloat32x8(a.add[5])
	fox, foy, foz := archsimd.BroadcastFloat32x8(a.add[0]), archsimd.BroadcastFloat32x8(a.add[1]), archsimd.BroadcastFloat32x8(a.add[2])
	nodes, blocks, stack := unsafe.Pointer(unsafe.SliceData(b.nodes)), unsafe.Pointer(unsafe.SliceData(b.blocks)), unsafe.Pointer(unsafe.SliceData(s.refs))
	sp := uintptr(0)
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := unsafe.Add(nodes, uintptr(ref)*nodeBytes)
			tn := row(n, nx).MulAdd(ix, nox).Max(row(n, ny).MulAdd(iy, noy)).Max(row(n, nz).MulAdd(iz, noz).Max(archsimd.LoadFloat32x8(&a.tmin)))
			tf := row(n, fx).MulAdd(jx, fox).Min(row(n, fy).MulAdd(jy, foy)).Min(row(n, fz).MulAdd(jz, foz).Min(archsimd.LoadUint32x8(&a.limit).AsFloat32x8()))
			if m := tn.LessEqual(tf).ToBits(); m != 0 {
				ref = lane32(n, childRow, bits.TrailingZeros8(m))
				for m &= m - 1; m != 0; m &= m - 1 {
					*(*uint64)(unsafe.Add(stack, sp)) = uint64(lane32(n, childRow, bits.TrailingZeros8(m)))
					sp += 8
				}
				continue
			}
		} else {
			kx, ky, kz := a.kx, a.ky, a.kz
			// A pointer stays within the blocks: it is made anew from its place, since one
			// moved on from the last would point beyond them.
			at := uintptr(ref&blockMask) * blockBytes
			for left := int(ref &^ leafBit >> blockBits); left >= 0; left, at = left-1, at+blockBytes {
				bl := unsafe.Add(blocks, at)
				oz := archsimd.LoadFloat32x8(&a.o[2])
				az := row(bl, kz).Sub(oz)
				bz := row(bl, kz+3*rowBytes).Sub(oz)
				cz := row(bl, kz+6*rowBytes).Sub(oz)
				ox, sx := archsimd.LoadFloat32x8(&a.o[0]), archsimd.LoadFloat32x8(&a.s[0])
				ax := row(bl, kx).Sub(ox).Sub(sx.Mul(az))
				bx := row(bl, kx+3*rowBytes).Sub(ox).Sub(sx.Mul(bz))
				cx := row(bl, kx+6*rowBytes).Sub(ox).Sub(sx.Mul(cz))
				oy, sy := archsimd.LoadFloat32x8(&a.o[1]), archsimd.LoadFloat32x8(&a.s[1])
				ay := row(bl, ky).Sub(oy).Sub(sy.Mul(az))
				by := row(bl, ky+3*rowBytes).Sub(oy).Sub(sy.Mul(bz))
				cy := row(bl, ky+6*rowBytes).Sub(oy).Sub(sy.Mul(cz))
				wa := cx.Mul(by).Sub(cy.Mul(bx))
				wb := ax.Mul(cy).Sub(ay.Mul(cx))
				wc := bx.Mul(ay).Sub(by.Mul(ax))
				zero := archsimd.LoadFloat32x8(&a.zero)
				in := wa.Min(wb).Min(wc).GreaterEqual(zero).Or(wa.Max(wb).Max(wc).LessEqual(zero))
				if in.ToBits() == 0 {
					continue
				}
				det := wa.Add(wb).Add(wc)
				sz := archsimd.LoadFloat32x8(&a.s[2])
				t := wa.Mul(sz.Mul(az)).Add(wb.Mul(sz.Mul(bz))).Add(wc.Mul(sz.Mul(cz))).Div(det)
				if in.And(t.Greater(archsimd.LoadFloat32x8(&a.tmin))).And(t.Less(archsimd.LoadFloat32x8(&a.tmax))).And(det.NotEqual(zero)).ToBits() != 0 {
					archsimd.ClearAVXUpperBits()
					return true
				}
			}
		}
		if sp == 0 {
			archsimd.ClearAVXUpperBits()
			return false
		}
		sp -= 8
		ref = uint32(*(*uint64)(unsafe.Add(stack, sp)))
	}
}
