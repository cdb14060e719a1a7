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
	maxUnits   = 16 // of a leaf
	emptyChild = math.MaxUint32
	far        = 1e18 // beyond any scene, and its products with clamped inverses stay finite
	// mostTriangles keeps block numbers in their bits and triangle numbers in
	// those of a positive float, as the builder packs them.
	mostTriangles = 1 << 26
	// farPad widens the far distance of a box against rounding (Ize 2013), by
	// more than the box test alone needs: the watertight triangle test rounds
	// too, and a triangle it would accept must not be lost with its box.
	farPad = 1 + 32*(1.0/(1<<24))
)

// Sizes and places of rows in bytes.
const (
	rowBytes   = 4 * wide
	nodeBytes  = 8 * rowBytes
	blockBytes = 10 * rowBytes
	childRow   = 6 * rowBytes
	primRow    = 9 * rowBytes
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
type Stack struct {
	// Moment of the shutter, 0 to 1, at which moving instances are hit.
	Moment float32

	refs  []uint64
	tops  []uint64 // of a group, while refs serves the mesh being tested
	aimed aimed
}

// NewStack makes scratch large enough for every one of the hierarchies given.
func NewStack(all ...Hierarchy) *Stack {
	n, tops := 0, 0
	for _, h := range all {
		a, b := h.room()
		n, tops = max(n, a), max(tops, b)
	}
	return &Stack{refs: make([]uint64, n+wide), tops: make([]uint64, tops+wide)}
}

// Hierarchy is a BVH or a Group.
type Hierarchy interface {
	// room is how much of the stack it needs for triangles and for instances.
	room() (refs, tops int)
}

func (b *BVH) room() (refs, tops int) { return b.stack, 0 }

// Bounds is the box around all triangles.
func (b *BVH) Bounds() geom.Box { return b.bounds }

// Empty reports whether there is nothing to hit.
func (b *BVH) Empty() bool { return len(b.blocks) == 0 }

// Bytes is the memory held.
func (b *BVH) Bytes() int { return len(b.nodes)*nodeBytes + len(b.blocks)*blockBytes }

// BytesPerTriangle bounds the memory of a hierarchy, for forecasting it: a
// block holds at least two triangles on average, and a node leads to at least
// four blocks.
const BytesPerTriangle = 192

// Closest finds the nearest triangle in the ray's open interval; of several at
// the same distance the first, whatever the order of the search.
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

// tiny is the least size of a direction's component that counts; smaller ones
// are lifted to it, so that no box test hits 0 times infinity.
const tiny = 1e-18

// nearest is the least distance at which a ray begins. It is not zero, so that no
// box lies at a negative zero, whose bits would sort last.
const nearest = 0x1p-126

// slabError bounds the rounding of an origin's product with an inverse
// direction, which box tests take off a near distance and add to a far one.
const slabError = 4.0 / (1 << 24)
