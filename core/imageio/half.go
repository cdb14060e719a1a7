// Package imageio reads and writes the picture files of the trade: OpenEXR,
// Radiance HDR and PNG. Every reader is bounded and returns an error that
// says what is wrong with the file; nothing panics on bad input.
package imageio

import "math"

// LargestHalf is the largest finite binary16.
const LargestHalf = 65504

// ToHalf rounds to the nearest IEEE 754 binary16, ties to even. Values beyond
// the largest half become infinity.
func ToHalf(f float32) uint16 {
	b := math.Float32bits(f)
	sign := uint16(b >> 16 & 0x8000)
	b &= 0x7fffffff
	switch {
	case b > 0x7f800000:
		return sign | 0x7e00
	case b >= 0x477ff000: // 65520 and above round to infinity
		return sign | 0x7c00
	case b >= 0x38800000: // normal halves
		b += 0xfff + (b >> 13 & 1)
		return sign | uint16((b-0x38000000)>>13)
	case b < 0x33000000:
		return sign
	}
	// Subnormal half: shift the mantissa with its hidden one, rounding to even.
	e := b >> 23
	m := b&0x7fffff | 0x800000
	shift := 126 - e
	h := m >> shift
	rest := m & (1<<shift - 1)
	mid := uint32(1) << (shift - 1)
	if rest > mid || rest == mid && h&1 == 1 {
		h++
	}
	return sign | uint16(h)
}

// FromHalf widens a binary16 exactly.
func FromHalf(h uint16) float32 { return halfTable[h] }

// halfTable trades 256 kB for a look-up in place of branches: films of a dozen layers
// have tens of millions of values.
var halfTable = func() (t [1 << 16]float32) {
	for i := range t {
		t[i] = widen(uint16(i))
	}
	return t
}()

// widen is FromHalf, computed.
func widen(h uint16) float32 {
	sign := uint32(h&0x8000) << 16
	e := uint32(h >> 10 & 31)
	m := uint32(h & 0x3ff)
	switch e {
	case 0:
		return math.Float32frombits(sign | math.Float32bits(float32(m)*(1.0/(1<<24))))
	case 31:
		return math.Float32frombits(sign | 0x7f800000 | m<<13)
	}
	return math.Float32frombits(sign | (e+112)<<23 | m<<13)
}
