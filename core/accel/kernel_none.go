//go:build !goexperiment.simd || !amd64

package accel

import "amberproof/core/geom"

var useSIMD = false

// aimed is the ray as the eight-wide kernels want it.
type aimed struct{}

func (b *BVH) closestSIMD(s *Stack, r *geom.Ray) (Hit, bool) { return b.closestPortable(s, r) }

func (b *BVH) blockedSIMD(s *Stack, r *geom.Ray) bool { return b.blockedPortable(s, r) }

func around(refs []span) region { return aroundPortable(refs) }

func (g *grid) sort(refs []span, b *binned) { g.sortPortable(refs, b) }

func (b *binned) sweep(k, bins int, left, right *[mostBins]extent) {
	b.sweepPortable(k, bins, left, right)
}

func partition(refs []span, g *grid, axis, bin int) (left, right region) {
	return partitionPortable(refs, g, axis, bin)
}
