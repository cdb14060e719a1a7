package accel

import (
	"math"

	"amberproof/core/geom"
)

// lane holds what the kernel needs of a ray: the rows that are near by the sign
// of the direction (a far row is the near one with its lowest bit turned), the
// inverse direction, and axes and shear of the watertight test (Woop, Benthin &
// Wald 2013).
type lane struct {
	inv        geom.Vec3
	nx, ny, nz int
	kx, ky, kz int
	sx, sy, sz float32
}

func prepare(d geom.Vec3) (l lane) {
	l.inv = geom.Vec3{X: inverse(d.X), Y: inverse(d.Y), Z: inverse(d.Z)}
	l.nx, l.ny, l.nz = signOf(d.X), 2+signOf(d.Y), 4+signOf(d.Z)
	big := geom.Abs(d.X)
	if y := geom.Abs(d.Y); y > big {
		l.kz, big = 1, y
	}
	if geom.Abs(d.Z) > big {
		l.kz = 2
	}
	l.kx, l.ky = (l.kz+1)%3, (l.kz+2)%3
	l.sz = l.inv.At(l.kz)
	l.sx, l.sy = d.At(l.kx)*l.sz, d.At(l.ky)*l.sz
	return l
}

func signOf(x float32) int { return int(math.Float32bits(x) >> 31) }

func inverse(d float32) float32 {
	if geom.Abs(d) < tiny {
		return float32(math.Copysign(1/tiny, float64(d)))
	}
	return 1 / d
}

// boxes tests the eight children of a node; near receives the entry distances
// and the result has a bit for each child entered.
func (n *node) boxes(o geom.Vec3, l *lane, tmin, tmax float32, near *[wide]float32) (mask uint8) {
	x, y, z, inv := l.nx, l.ny, l.nz, l.inv
	for k := 0; k < wide; k++ {
		tn := max((n.rows[x][k]-o.X)*inv.X, (n.rows[y][k]-o.Y)*inv.Y, (n.rows[z][k]-o.Z)*inv.Z, tmin)
		tf := min((n.rows[x^1][k]-o.X)*inv.X, (n.rows[y^1][k]-o.Y)*inv.Y, (n.rows[z^1][k]-o.Z)*inv.Z, tmax) * farPad
		near[k] = tn
		if tn <= tf {
			mask |= 1 << k
		}
	}
	return mask
}

// lane tests triangle k of a block and returns distance and barycentrics.
// Products are rounded before they are added (the conversions forbid fusing),
// as in the other path.
func (b *block) lane(k int, o geom.Vec3, l *lane, tmin, tmax float32) (t, u, v float32, ok bool) {
	x, y, z := l.kx, l.ky, l.kz
	ox, oy, oz := o.At(x), o.At(y), o.At(z)
	az := b.rows[z][k] - oz
	bz := b.rows[3+z][k] - oz
	cz := b.rows[6+z][k] - oz
	ax := (b.rows[x][k] - ox) - float32(l.sx*az)
	ay := (b.rows[y][k] - oy) - float32(l.sy*az)
	bx := (b.rows[3+x][k] - ox) - float32(l.sx*bz)
	by := (b.rows[3+y][k] - oy) - float32(l.sy*bz)
	cx := (b.rows[6+x][k] - ox) - float32(l.sx*cz)
	cy := (b.rows[6+y][k] - oy) - float32(l.sy*cz)
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
	if !(t > tmin && t <= tmax) {
		return 0, 0, 0, false
	}
	return t, wb / det, wc / det, true
}

func (b *BVH) closestPortable(s *Stack, r *geom.Ray) (Hit, bool) {
	l, tmin := prepare(r.D), max(r.TMin, nearest)
	best := Hit{T: r.TMax}
	found := false
	var near [wide]float32
	stack := s.refs
	sp := 0
	ref := uint32(0)
	for {
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			if m := n.boxes(r.O, &l, tmin, best.T, &near); m != 0 {
				sp = push(stack, sp, n, m, &near)
				sp--
				ref = uint32(stack[sp])
				continue
			}
		} else {
			first := int(ref & blockMask)
			for i := first; i <= first+int(ref&^leafBit>>blockBits); i++ {
				bl := &b.blocks[i]
				for k := 0; k < wide; k++ {
					t, u, v, ok := bl.lane(k, r.O, &l, tmin, best.T)
					if p := bl.prim[k]; ok && (t < best.T || p < best.Prim) {
						best, found = Hit{t, u, v, p}, true
					}
				}
			}
		}
		for {
			if sp == 0 {
				return best, found
			}
			sp--
			if math.Float32frombits(uint32(stack[sp]>>32)) <= best.T*farPad {
				ref = uint32(stack[sp])
				break
			}
		}
	}
}

func (b *BVH) blockedPortable(s *Stack, r *geom.Ray) bool {
	l, tmin := prepare(r.D), max(r.TMin, nearest)
	var near [wide]float32
	stack := s.refs
	stack[0] = 0
	for sp := 1; sp > 0; {
		sp--
		ref := uint32(stack[sp])
		if ref&leafBit == 0 {
			n := &b.nodes[ref]
			m := n.boxes(r.O, &l, tmin, r.TMax, &near)
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
				if t, _, _, ok := b.blocks[i].lane(k, r.O, &l, tmin, r.TMax); ok && t < r.TMax {
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
