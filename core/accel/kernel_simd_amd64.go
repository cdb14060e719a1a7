//go:build goexperiment.simd && amd64

package accel

import (
	"math"
	"math/bits"
	"simd/archsimd"

	"amberproof/core/geom"
)

// useSIMD is decided once by what the processor can do.
var useSIMD = archsimd.X86.AVX2()

// rayV is a ray spread over eight lanes.
type rayV struct {
	ox, oy, oz, ix, iy, iz, tmin archsimd.Float32x8
}

func spread(r *geom.Ray, l *lane) rayV {
	return rayV{
		ox: archsimd.BroadcastFloat32x8(r.O.X), oy: archsimd.BroadcastFloat32x8(r.O.Y), oz: archsimd.BroadcastFloat32x8(r.O.Z),
		ix: archsimd.BroadcastFloat32x8(l.inv.X), iy: archsimd.BroadcastFloat32x8(l.inv.Y), iz: archsimd.BroadcastFloat32x8(l.inv.Z),
		tmin: archsimd.BroadcastFloat32x8(r.TMin),
	}
}

// shearV is the part of the watertight test that belongs to the ray.
type shearV struct {
	ox, oy, oz, sx, sy, sz archsimd.Float32x8
}

func shear(r *geom.Ray, l *lane) shearV {
	return shearV{
		archsimd.BroadcastFloat32x8(r.O.At(l.kx)), archsimd.BroadcastFloat32x8(r.O.At(l.ky)), archsimd.BroadcastFloat32x8(r.O.At(l.kz)),
		archsimd.BroadcastFloat32x8(l.sx), archsimd.BroadcastFloat32x8(l.sy), archsimd.BroadcastFloat32x8(l.sz),
	}
}

func (b *BVH) closestSIMD(s *Stack, r *geom.Ray) (Hit, bool) {
	l := prepare(r.D)
	v := spread(r, &l)
	h := shear(r, &l)
	pad := archsimd.BroadcastFloat32x8(farPad)
	zero := archsimd.BroadcastFloat32x8(0)
	tmax := archsimd.BroadcastFloat32x8(r.TMax)
	nx, ny, nz := l.nx&7, l.ny&7, l.nz&7
	fx, fy, fz := (l.nx^1)&7, (l.ny^1)&7, (l.nz^1)&7
	kx, ky, kz := l.kx%3, l.ky%3, l.kz%3
	best := Hit{T: r.TMax}
	found := false
	var near, ta, ub, vb [wide]float32
	stack := s.refs
	sp := 0
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			tn := archsimd.LoadFloat32x8(&n.rows[nx]).Sub(v.ox).Mul(v.ix).
				Max(archsimd.LoadFloat32x8(&n.rows[ny]).Sub(v.oy).Mul(v.iy)).
				Max(archsimd.LoadFloat32x8(&n.rows[nz]).Sub(v.oz).Mul(v.iz)).Max(v.tmin)
			tf := archsimd.LoadFloat32x8(&n.rows[fx]).Sub(v.ox).Mul(v.ix).
				Min(archsimd.LoadFloat32x8(&n.rows[fy]).Sub(v.oy).Mul(v.iy)).
				Min(archsimd.LoadFloat32x8(&n.rows[fz]).Sub(v.oz).Mul(v.iz)).Mul(pad).Min(tmax)
			if m := tn.LessEqual(tf).ToBits(); m != 0 {
				k := bits.TrailingZeros8(m) & 7
				if m&(m-1) == 0 {
					ref = math.Float32bits(n.rows[6][k])
					continue
				}
				tn.Store(&near)
				base := sp
				for ; m != 0; m &= m - 1 {
					k := bits.TrailingZeros8(m) & 7
					key := uint64(math.Float32bits(near[k]))<<32 | uint64(math.Float32bits(n.rows[6][k]))
					i := sp
					for i > base && stack[i-1] < key {
						stack[i] = stack[i-1]
						i--
					}
					stack[i] = key
					sp++
				}
				sp--
				ref = uint32(stack[sp])
				continue
			}
		} else {
			first := int(ref & blockMask)
			for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
				bl := &b.blocks[i]
				az := archsimd.LoadFloat32x8(&bl.rows[kz]).Sub(h.oz)
				bz := archsimd.LoadFloat32x8(&bl.rows[3+kz]).Sub(h.oz)
				cz := archsimd.LoadFloat32x8(&bl.rows[6+kz]).Sub(h.oz)
				ax := archsimd.LoadFloat32x8(&bl.rows[kx]).Sub(h.ox).Sub(h.sx.Mul(az))
				ay := archsimd.LoadFloat32x8(&bl.rows[ky]).Sub(h.oy).Sub(h.sy.Mul(az))
				bx := archsimd.LoadFloat32x8(&bl.rows[3+kx]).Sub(h.ox).Sub(h.sx.Mul(bz))
				by := archsimd.LoadFloat32x8(&bl.rows[3+ky]).Sub(h.oy).Sub(h.sy.Mul(bz))
				cx := archsimd.LoadFloat32x8(&bl.rows[6+kx]).Sub(h.ox).Sub(h.sx.Mul(cz))
				cy := archsimd.LoadFloat32x8(&bl.rows[6+ky]).Sub(h.oy).Sub(h.sy.Mul(cz))
				wa := cx.Mul(by).Sub(cy.Mul(bx))
				wb := ax.Mul(cy).Sub(ay.Mul(cx))
				wc := bx.Mul(ay).Sub(by.Mul(ax))
				in := wa.Min(wb).Min(wc).GreaterEqual(zero).Or(wa.Max(wb).Max(wc).LessEqual(zero))
				if in.ToBits() == 0 {
					continue
				}
				det := wa.Add(wb).Add(wc)
				t := wa.Mul(h.sz.Mul(az)).Add(wb.Mul(h.sz.Mul(bz))).Add(wc.Mul(h.sz.Mul(cz))).Div(det)
				// A degenerate lane has det 0 and t not-a-number, which fails both comparisons.
				m := in.And(t.Greater(v.tmin)).And(t.Less(tmax)).And(det.NotEqual(zero)).ToBits()
				if m == 0 {
					continue
				}
				t.Store(&ta)
				k := bits.TrailingZeros8(m) & 7
				for m &= m - 1; m != 0; m &= m - 1 {
					if j := bits.TrailingZeros8(m) & 7; ta[j] < ta[k] {
						k = j
					}
				}
				wb.Div(det).Store(&ub)
				wc.Div(det).Store(&vb)
				best = Hit{ta[k], ub[k], vb[k], bl.prim[k]}
				tmax = archsimd.BroadcastFloat32x8(best.T)
				found = true
			}
		}
		for {
			if sp == 0 {
				archsimd.ClearAVXUpperBits()
				return best, found
			}
			sp--
			if math.Float32frombits(uint32(stack[sp]>>32)) <= best.T {
				ref = uint32(stack[sp])
				break
			}
		}
	}
}

// blockedSIMD has the tests of closestSIMD once more, without distances and
// order: the compiler does not inline functions of vectors this large, and a
// call per node would cost more than the node.
func (b *BVH) blockedSIMD(s *Stack, r *geom.Ray) bool {
	l := prepare(r.D)
	v := spread(r, &l)
	h := shear(r, &l)
	pad := archsimd.BroadcastFloat32x8(farPad)
	zero := archsimd.BroadcastFloat32x8(0)
	tmax := archsimd.BroadcastFloat32x8(r.TMax)
	nx, ny, nz := l.nx&7, l.ny&7, l.nz&7
	fx, fy, fz := (l.nx^1)&7, (l.ny^1)&7, (l.nz^1)&7
	kx, ky, kz := l.kx%3, l.ky%3, l.kz%3
	stack := s.refs
	stack[0] = 0
	for sp := 1; sp > 0; {
		sp--
		ref := uint32(stack[sp])
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			tn := archsimd.LoadFloat32x8(&n.rows[nx]).Sub(v.ox).Mul(v.ix).
				Max(archsimd.LoadFloat32x8(&n.rows[ny]).Sub(v.oy).Mul(v.iy)).
				Max(archsimd.LoadFloat32x8(&n.rows[nz]).Sub(v.oz).Mul(v.iz)).Max(v.tmin)
			tf := archsimd.LoadFloat32x8(&n.rows[fx]).Sub(v.ox).Mul(v.ix).
				Min(archsimd.LoadFloat32x8(&n.rows[fy]).Sub(v.oy).Mul(v.iy)).
				Min(archsimd.LoadFloat32x8(&n.rows[fz]).Sub(v.oz).Mul(v.iz)).Mul(pad).Min(tmax)
			for m := tn.LessEqual(tf).ToBits(); m != 0; m &= m - 1 {
				stack[sp] = uint64(math.Float32bits(n.rows[6][bits.TrailingZeros8(m)&7]))
				sp++
			}
			continue
		}
		first := int(ref & blockMask)
		for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
			bl := &b.blocks[i]
			az := archsimd.LoadFloat32x8(&bl.rows[kz]).Sub(h.oz)
			bz := archsimd.LoadFloat32x8(&bl.rows[3+kz]).Sub(h.oz)
			cz := archsimd.LoadFloat32x8(&bl.rows[6+kz]).Sub(h.oz)
			ax := archsimd.LoadFloat32x8(&bl.rows[kx]).Sub(h.ox).Sub(h.sx.Mul(az))
			ay := archsimd.LoadFloat32x8(&bl.rows[ky]).Sub(h.oy).Sub(h.sy.Mul(az))
			bx := archsimd.LoadFloat32x8(&bl.rows[3+kx]).Sub(h.ox).Sub(h.sx.Mul(bz))
			by := archsimd.LoadFloat32x8(&bl.rows[3+ky]).Sub(h.oy).Sub(h.sy.Mul(bz))
			cx := archsimd.LoadFloat32x8(&bl.rows[6+kx]).Sub(h.ox).Sub(h.sx.Mul(cz))
			cy := archsimd.LoadFloat32x8(&bl.rows[6+ky]).Sub(h.oy).Sub(h.sy.Mul(cz))
			wa := cx.Mul(by).Sub(cy.Mul(bx))
			wb := ax.Mul(cy).Sub(ay.Mul(cx))
			wc := bx.Mul(ay).Sub(by.Mul(ax))
			in := wa.Min(wb).Min(wc).GreaterEqual(zero).Or(wa.Max(wb).Max(wc).LessEqual(zero))
			if in.ToBits() == 0 {
				continue
			}
			det := wa.Add(wb).Add(wc)
			t := wa.Mul(h.sz.Mul(az)).Add(wb.Mul(h.sz.Mul(bz))).Add(wc.Mul(h.sz.Mul(cz))).Div(det)
			if in.And(t.Greater(v.tmin)).And(t.Less(tmax)).And(det.NotEqual(zero)).ToBits() != 0 {
				archsimd.ClearAVXUpperBits()
				return true
			}
		}
	}
	archsimd.ClearAVXUpperBits()
	return false
}
