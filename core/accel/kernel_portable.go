package accel

import (
	"math"

	"amberproof/core/geom"
)

// boxes tests the eight children of a node; near receives the entry distances
// and the result has a bit for each child entered. Products are rounded before
// they are added (the conversions forbid fusing), as in the other path.
func (n *node) boxes(o geom.Vec3, l *lane, tmin, tmax float32, near *[wide]float32) (mask uint8) {
	for k := 0; k < wide; k++ {
		tn := max(float32((n.rows[l.nx][k]-o.X)*l.inv.X), float32((n.rows[l.ny][k]-o.Y)*l.inv.Y), float32((n.rows[l.nz][k]-o.Z)*l.inv.Z), tmin)
		tf := min(float32((n.rows[l.nx^1][k]-o.X)*l.inv.X), float32((n.rows[l.ny^1][k]-o.Y)*l.inv.Y), float32((n.rows[l.nz^1][k]-o.Z)*l.inv.Z))
		tf = min(tf*farPad, tmax)
		near[k] = tn
		if tn <= tf {
			mask |= 1 << k
		}
	}
	return mask
}

// lanes tests triangle k of a block and returns distance and barycentrics.
func (b *block) lane(k int, o geom.Vec3, l *lane, tmin, tmax float32) (t, u, v float32, ok bool) {
	ox, oy, oz := o.At(l.kx), o.At(l.ky), o.At(l.kz)
	az := b.rows[l.kz][k] - oz
	bz := b.rows[3+l.kz][k] - oz
	cz := b.rows[6+l.kz][k] - oz
	ax := (b.rows[l.kx][k] - ox) - float32(l.sx*az)
	ay := (b.rows[l.ky][k] - oy) - float32(l.sy*az)
	bx := (b.rows[3+l.kx][k] - ox) - float32(l.sx*bz)
	by := (b.rows[3+l.ky][k] - oy) - float32(l.sy*bz)
	cx := (b.rows[6+l.kx][k] - ox) - float32(l.sx*cz)
	cy := (b.rows[6+l.ky][k] - oy) - float32(l.sy*cz)
	wa := float32(cx*by) - float32(cy*bx)
	wb := float32(ax*cy) - float32(ay*cx)
	wc := float32(bx*ay) - float32(by*ax)
	if min(wa, wb, wc) < 0 && max(wa, wb, wc) > 0 {
		return 0, 0, 0, false
	}
	det := wa + wb + wc
	if det == 0 {
		return 0, 0, 0, false
	}
	t = (float32(wa*float32(l.sz*az)) + float32(wb*float32(l.sz*bz)) + float32(wc*float32(l.sz*cz))) / det
	if !(t > tmin && t < tmax) {
		return 0, 0, 0, false
	}
	return t, wb / det, wc / det, true
}

func (b *BVH) closestPortable(s *Stack, r *geom.Ray) (Hit, bool) {
	l := prepare(r.D)
	best := Hit{T: r.TMax}
	found := false
	var near [wide]float32
	stack := s.refs
	sp := 0
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			if m := n.boxes(r.O, &l, r.TMin, best.T, &near); m != 0 {
				sp = push(stack, sp, n, m, &near)
				sp--
				ref = uint32(stack[sp])
				continue
			}
		} else {
			first := int(ref & blockMask)
			for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
				bl := &b.blocks[i]
				hit := -1
				for k := 0; k < wide; k++ {
					if t, u, v, ok := bl.lane(k, r.O, &l, r.TMin, best.T); ok {
						best = Hit{t, u, v, bl.prim[k]}
						hit = k
					}
				}
				found = found || hit >= 0
			}
		}
		for {
			if sp == 0 {
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

func (b *BVH) blockedPortable(s *Stack, r *geom.Ray) bool {
	l := prepare(r.D)
	var near [wide]float32
	stack := s.refs
	stack[0] = 0
	for sp := 1; sp > 0; {
		sp--
		ref := uint32(stack[sp])
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			m := n.boxes(r.O, &l, r.TMin, r.TMax, &near)
			for k := 0; m != 0; k, m = k+1, m>>1 {
				if m&1 == 1 {
					stack[sp] = uint64(math.Float32bits(n.rows[6][k]))
					sp++
				}
			}
			continue
		}
		first := int(ref & blockMask)
		for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
			for k := 0; k < wide; k++ {
				if _, _, _, ok := b.blocks[i].lane(k, r.O, &l, r.TMin, r.TMax); ok {
					return true
				}
			}
		}
	}
	return false
}

// push puts the children in mask on the stack, nearest on top. Distance and
// reference share one word; distances are never negative, so their bits sort.
func push(stack []uint64, sp int, n *node, mask uint8, near *[wide]float32) int {
	base := sp
	for k := 0; mask != 0; k, mask = k+1, mask>>1 {
		if mask&1 == 0 {
			continue
		}
		key := uint64(math.Float32bits(near[k&7]))<<32 | uint64(math.Float32bits(n.rows[6][k&7]))
		i := sp
		for i > base && stack[i-1] < key {
			stack[i] = stack[i-1]
			i--
		}
		stack[i] = key
		sp++
	}
	return sp
}
