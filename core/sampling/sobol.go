// Package sampling makes the sample points of the renderer: every point is
// addressed by (pixel, sample index, dimension), so that any range of samples
// of any tile can be computed anywhere and gives the same numbers.
package sampling

import "math/bits"

// Sobol direction numbers for the first four dimensions, from Joe & Kuo 2008
// (new-joe-kuo-6.21201): primitive polynomial degree s, coefficients a, and
// initial values m. Dimension 0 is the van der Corput sequence.
var joeKuo = [4]struct {
	s, a uint32
	m    []uint32
}{
	{},
	{1, 0, []uint32{1}},
	{2, 1, []uint32{1, 3}},
	{3, 1, []uint32{1, 3, 1}},
}

// sobolBytes[k][b][d] is the contribution of byte k of the index, with value b, to
// dimension d: the sequence is linear over GF(2), so four look-ups make a point. Here
// words are kept back to front, index and coordinates both: that is how the scramble
// takes and leaves them.
var sobolBytes = makeSobolBytes()

func makeSobolBytes() (table [4][256][4]uint32) {
	for d := range joeKuo {
		var v [32]uint32
		p := joeKuo[d]
		s := int(p.s)
		for i := 0; i < 32; i++ {
			switch {
			case d == 0:
				v[i] = 1 << (31 - i)
			case i < s:
				v[i] = p.m[i] << (31 - i)
			default:
				v[i] = v[i-s] ^ v[i-s]>>s
				for k := 1; k < s; k++ {
					if p.a>>(s-1-k)&1 == 1 {
						v[i] ^= v[i-k]
					}
				}
			}
		}
		for k := 0; k < 4; k++ {
			for b := 0; b < 256; b++ {
				for j := 0; j < 8; j++ {
					if b>>j&1 == 1 {
						table[k][b][d] ^= bits.Reverse32(v[31-k*8-j])
					}
				}
			}
		}
	}
	return table
}

// scramble is a nested uniform (Owen) scramble in base two by hashing (Burley
// 2020, after Laine & Karras 2011, with Vegdahl's constants), of a word that is kept
// back to front.
func scramble(x, seed uint32) uint32 {
	x ^= x * 0x3d20adea
	x += seed
	x *= (seed >> 16) | 1
	x ^= x * 0x05526c56
	x ^= x * 0x53a22864
	return x
}

// Hash mixes two words into one (the finaliser of splitmix, 32 bit).
func Hash(a, b uint32) uint32 {
	x := a ^ (b*0x9e3779b9 + 0x7f4a7c15 + a<<6 + a>>2)
	x ^= x >> 16
	x *= 0x21f0aaad
	x ^= x >> 15
	x *= 0x735a2d97
	x ^= x >> 15
	return x
}

// Stream is the sequence of sample points of one camera sample. Dimensions
// are taken in sets of four; each set is an independently shuffled and
// scrambled Sobol sequence (padding, Burley 2020).
type Stream struct{ index, seed uint32 } // the index back to front

// NewStream addresses sample i of pixel (x, y) under a frame seed.
//
// Even and odd samples belong to two independent sequences, because the noise
// measure compares the two halves: the halves of one Sobol sequence are not
// independent of each other and would make noise look smaller than it is.
func NewStream(x, y, i int, frameSeed uint32) Stream {
	seed := Hash(Hash(uint32(x), uint32(y)), Hash(frameSeed, uint32(i&1)))
	return Stream{index: bits.Reverse32(uint32(i >> 1)), seed: seed}
}

const toUnit = 1.0 / (1 << 24)

// unit turns two words that are kept back to front into numbers in [0, 1).
func unit(a, b uint32) (x, y float32) {
	both := bits.Reverse64(uint64(b)<<32 | uint64(a))
	return float32(both>>40) * toUnit, float32(uint32(both)>>8) * toUnit
}

// Four returns the four coordinates of dimension set k, each in [0, 1).
func (s Stream) Four(k uint32) (a, b, c, d float32) {
	seed := Hash(s.seed, k)
	i := scramble(s.index, seed)
	p, q, r, o := &sobolBytes[0][i&255], &sobolBytes[1][i>>8&255], &sobolBytes[2][i>>16&255], &sobolBytes[3][i>>24]
	a, b = unit(scramble(p[0]^q[0]^r[0]^o[0], Hash(seed, 1)), scramble(p[1]^q[1]^r[1]^o[1], Hash(seed, 2)))
	c, d = unit(scramble(p[2]^q[2]^r[2]^o[2], Hash(seed, 3)), scramble(p[3]^q[3]^r[3]^o[3], Hash(seed, 4)))
	return a, b, c, d
}

// One returns coordinate d of dimension set k alone.
func (s Stream) One(k uint32, d int) float32 {
	seed := Hash(s.seed, k)
	i := scramble(s.index, seed)
	x := sobolBytes[0][i&255][d] ^ sobolBytes[1][i>>8&255][d] ^ sobolBytes[2][i>>16&255][d] ^ sobolBytes[3][i>>24][d]
	return float32(bits.Reverse32(scramble(x, Hash(seed, uint32(d+1))))>>8) * toUnit
}

// Two returns the first two coordinates of dimension set k.
func (s Stream) Two(k uint32) (a, b float32) {
	seed := Hash(s.seed, k)
	i := scramble(s.index, seed)
	p, q, r, o := &sobolBytes[0][i&255], &sobolBytes[1][i>>8&255], &sobolBytes[2][i>>16&255], &sobolBytes[3][i>>24]
	return unit(scramble(p[0]^q[0]^r[0]^o[0], Hash(seed, 1)), scramble(p[1]^q[1]^r[1]^o[1], Hash(seed, 2)))
}
