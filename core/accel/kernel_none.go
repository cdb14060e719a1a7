//go:build !goexperiment.simd || !amd64

package accel

import "amberproof/core/geom"

var useSIMD = false

func (b *BVH) closestSIMD(s *Stack, r *geom.Ray) (Hit, bool) { return b.closestPortable(s, r) }

func (b *BVH) blockedSIMD(s *Stack, r *geom.Ray) bool { return b.blockedPortable(s, r) }
