// Package accel finds the first or any triangle along a ray: a bounding
// volume hierarchy of eight-wide nodes over flat float32 arrays.
//
// Where the processor has AVX2 and the program was built with
// GOEXPERIMENT=simd, eight boxes or triangles are tested at a time; elsewhere
// a portable path does the same arithmetic in the same order, so both agree
// to the bit (a test holds this).
package accel

import (
	"math"

	"amberproof/core/geom"
)

const (
	wide = 8
	// A child reference with leafBit holds the index of its first block in the
	// low 27 bits and its number of blocks less one in the four above.
	leafBit    = 1 << 31
	blockBits  = 27
	blockMask  = 1<<blockBits - 1
	maxBlocks  = 16
	emptyChild = math.MaxUint32
	far        = 1e18 // beyond any scene, and its products with clamped inverses stay finite
	// farPad widens the far distance of a box against rounding (Ize 2013), by
	// more than the box test alone needs: the watertight triangle test rounds
	// too, and a triangle it would accept must not be lost with its box.
	farPad = 1 + 32*(1.0/(1<<24))
)

// node holds eight child boxes as rows: min x, max x, min y, max y, min z,
// max z; row 6 the child references as bits; row 7 pads it to 256 bytes.
type node struct{ rows [8][wide]float32 }

// block holds up to eight triangles as rows of corner coordinates: ax ay az
// bx by bz cx cy cz. Unused lanes are degenerate and are never hit.
type block struct {
	rows [9][wide]float32
	prim [wide]uint32
}

// Triangle is three corners in world space.
type Triangle struct{ A, B, C geom.Vec3 }

// BVH is built once and then only read; any number of goroutines may trace.
type BVH struct {
	nodes  []node
	blocks []block
	bounds geom.Box
	stack  int
}

// Hit is the nearest triangle along a ray: its index, the distance in units of
// the ray's direction, and the barycentric weights of corners B and C.
type Hit struct {
	T, U, V float32
	Prim    uint32
}

// Stack is the scratch of one goroutine; make it with NewStack.
type Stack struct{ refs []uint64 }

// NewStack makes scratch large enough for every one of the hierarchies given.
func NewStack(all ...*BVH) *Stack {
	n := 0
	for _, b := range all {
		n = max(n, b.stack)
	}
	return &Stack{refs: make([]uint64, n+wide)}
}

// Bounds is the box around all triangles.
func (b *BVH) Bounds() geom.Box { return b.bounds }

// Empty reports whether there is nothing to hit.
func (b *BVH) Empty() bool { return len(b.blocks) == 0 }

// Bytes is the memory held.
func (b *BVH) Bytes() int { return len(b.nodes)*256 + len(b.blocks)*(9*32+32) }

// BytesPerTriangle bounds the memory of a hierarchy, for forecasting it: a
// block holds at least two triangles on average, and a node leads to at least
// four blocks.
const BytesPerTriangle = 192

// Closest finds the nearest triangle in the ray's open interval.
func (b *BVH) Closest(s *Stack, r *geom.Ray) (Hit, bool) {
	if len(b.blocks) == 0 {
		return Hit{}, false
	}
	if useSIMD {
		return b.closestSIMD(s, r)
	}
	return b.closestPortable(s, r)
}

// Blocked reports whether any triangle lies in the ray's open interval.
func (b *BVH) Blocked(s *Stack, r *geom.Ray) bool {
	if len(b.blocks) == 0 {
		return false
	}
	if useSIMD {
		return b.blockedSIMD(s, r)
	}
	return b.blockedPortable(s, r)
}

// lane holds what the kernels need of a ray: which rows are near and far by
// the sign of the direction, clamped inverses, and the shear of the
// watertight test (Woop, Benthin & Wald 2013).
type lane struct {
	inv        geom.Vec3
	nx, ny, nz int // near rows; the far row is the near one with its lowest bit turned
	kx, ky, kz int
	sx, sy, sz float32
}

func prepare(d geom.Vec3) (l lane) {
	l.inv = geom.Vec3{X: inverse(d.X), Y: inverse(d.Y), Z: inverse(d.Z)}
	if l.inv.X < 0 {
		l.nx = 1
	}
	l.ny, l.nz = 2, 4
	if l.inv.Y < 0 {
		l.ny = 3
	}
	if l.inv.Z < 0 {
		l.nz = 5
	}
	ax, ay, az := geom.Abs(d.X), geom.Abs(d.Y), geom.Abs(d.Z)
	var mx, my, mz float32
	switch {
	case ax >= ay && ax >= az:
		l.kx, l.ky, l.kz = 1, 2, 0
		mx, my, mz = d.Y, d.Z, d.X
	case ay >= az:
		l.kx, l.ky, l.kz = 2, 0, 1
		mx, my, mz = d.Z, d.X, d.Y
	default:
		l.kx, l.ky, l.kz = 0, 1, 2
		mx, my, mz = d.X, d.Y, d.Z
	}
	l.sx, l.sy, l.sz = mx/mz, my/mz, 1/mz
	return l
}

// inverse is 1/d, kept finite so that no box test meets 0 times infinity.
func inverse(d float32) float32 {
	const tiny = 1e-20
	if geom.Abs(d) < tiny {
		return float32(math.Copysign(1/tiny, float64(d)))
	}
	return 1 / d
}
