package imageio

import (
	"encoding/binary"
	"math/bits"
)

// PIZ compression after the open OpenEXR format: the values that occur are
// numbered densely, the numbers go through a two-dimensional Haar wavelet of
// whole numbers, and the result through Huffman coding.

// pizValues is the number of words that 16 bits can tell apart.
const pizValues = 1 << 16

// pizPacker keeps its scratch from chunk to chunk.
type pizPacker struct {
	words []uint16
	huff  huffEncoder
}

// planar lists, for each channel of a block, the words of all its lines one
// after the other: how many a value has, and where the plane begins.
func (b block) planar(visit func(start, size int)) {
	at := 0
	for i := range b.chans {
		size := b.chans[i].Type.size() / 2
		visit(at, size)
		at += size * b.w * b.h
	}
}

// shuffle visits every word of a block by its place in lines and in planes.
func (b block) shuffle(visit func(inLines, inPlanes int)) {
	at := 0
	row := 0
	for y := range b.h {
		plane := 0
		for i := range b.chans {
			n := b.chans[i].Type.size() / 2 * b.w
			from := plane + y*n
			for k := range n {
				visit(row+at+k, from+k)
			}
			at += n
			plane += n * b.h
		}
	}
}

// pack compresses a block. Halves and the two halves of floats alike are words to it.
func (p *pizPacker) pack(raw []byte, b block) []byte {
	if cap(p.words) < len(raw)/2 {
		p.words = make([]uint16, len(raw)/2)
	}
	words := p.words[:len(raw)/2]
	var there [pizValues / 8]byte
	b.shuffle(func(l, k int) {
		v := binary.LittleEndian.Uint16(raw[2*l:])
		words[k] = v
		there[v>>3] |= 1 << (v & 7)
	})
	there[0] &^= 1 // zero is always there, and not marked
	lo, hi := len(there)-1, 0
	for i, m := range there {
		if m != 0 {
			lo, hi = min(lo, i), max(hi, i)
		}
	}
	// Numbered without gaps, the words that occur are small and near to each other, so
	// that their differences are too.
	var number [pizValues]uint16
	k := uint16(0)
	for v := range number {
		if v == 0 || there[v>>3]&(1<<(v&7)) != 0 {
			number[v] = k
			k++
		}
	}
	most := k - 1
	for i, v := range words {
		words[i] = number[v]
	}
	b.planar(func(start, size int) {
		for j := range size {
			waveEncode(words[start+j:], b.w, size, b.h, b.w*size, most)
		}
	})
	out := binary.LittleEndian.AppendUint16(nil, uint16(lo))
	out = binary.LittleEndian.AppendUint16(out, uint16(hi))
	if lo <= hi {
		out = append(out, there[lo:hi+1]...)
	}
	packed := p.huff.encode(words)
	out = binary.LittleEndian.AppendUint32(out, uint32(len(packed)))
	return append(out, packed...)
}

// pizUnpack undoes pack. Words beyond those numbered stand for zero, as a damaged
// chunk may hold any.
func pizUnpack(dst, src []byte, b block) error {
	if len(src) < 4 {
		return formatErr("it is cut short")
	}
	lo, hi := int(binary.LittleEndian.Uint16(src)), int(binary.LittleEndian.Uint16(src[2:]))
	src = src[4:]
	var there [pizValues / 8]byte
	if hi >= len(there) {
		return formatErr("its table of values is damaged")
	}
	if lo <= hi {
		if len(src) < hi-lo+1 {
			return formatErr("it is cut short")
		}
		copy(there[lo:], src[:hi-lo+1])
		src = src[hi-lo+1:]
	}
	var value [pizValues]uint16
	most := 0
	for k := lo; k <= hi; k++ {
		for m := there[k]; m != 0; m &= m - 1 {
			if v := k<<3 | bits.TrailingZeros8(m); v > 0 {
				most++
				value[most] = uint16(v)
			}
		}
	}
	if len(src) < 4 {
		return formatErr("it is cut short")
	}
	n := int(binary.LittleEndian.Uint32(src))
	if n < 0 || n > len(src)-4 {
		return formatErr("it is cut short")
	}
	words := make([]uint16, len(dst)/2)
	if err := huffDecode(words, src[4:4+n]); err != nil {
		return err
	}
	b.planar(func(start, size int) {
		for j := range size {
			waveDecode(words[start+j:], b.w, size, b.h, b.w*size, uint16(most))
		}
	})
	b.shuffle(func(l, k int) {
		binary.LittleEndian.PutUint16(dst[2*l:], value[words[k]])
	})
	return nil
}

// Numbers below 2^14 keep their sums and differences in 16 bits as they are;
// others need arithmetic modulo 2^16.
func enc14(a, b uint16) (l, h uint16) {
	x, y := int16(a), int16(b)
	return uint16((int32(x) + int32(y)) >> 1), uint16(x - y)
}

func dec14(l, h uint16) (a, b uint16) {
	hi := int32(int16(h))
	x := int32(int16(l)) + (hi & 1) + (hi >> 1)
	return uint16(x), uint16(x - hi)
}

func enc16(a, b uint16) (l, h uint16) {
	x := int32(a ^ 0x8000)
	m, d := (x+int32(b))>>1, x-int32(b)
	if d < 0 {
		m += 1 << 15
	}
	return uint16(m), uint16(d)
}

func dec16(l, h uint16) (a, b uint16) {
	y := l - h>>1
	return (h + y) ^ 0x8000, y
}

// waveEncode transforms a plane of nx by ny words in place: ox and oy are the distances
// from word to word and from line to line, most the largest word. Each level leaves
// means at every second place and differences between them; a line or column that is
// left over at the end is transformed along its one direction.
func waveEncode(v []uint16, nx, ox, ny, oy int, most uint16) {
	enc := enc16
	if most < 1<<14 {
		enc = enc14
	}
	for p, p2 := 1, 2; p2 <= min(nx, ny); p, p2 = p2, p2<<1 {
		ox1, ox2, oy1, oy2 := ox*p, ox*p2, oy*p, oy*p2
		y := 0
		for ; y <= oy*(ny-p2); y += oy2 {
			x := y
			for ; x <= y+ox*(nx-p2); x += ox2 {
				i00, i01 := enc(v[x], v[x+ox1])
				i10, i11 := enc(v[x+oy1], v[x+oy1+ox1])
				v[x], v[x+oy1] = enc(i00, i10)
				v[x+ox1], v[x+oy1+ox1] = enc(i01, i11)
			}
			if nx&p != 0 {
				v[x], v[x+oy1] = enc(v[x], v[x+oy1])
			}
		}
		if ny&p != 0 {
			for x := y; x <= y+ox*(nx-p2); x += ox2 {
				v[x], v[x+ox1] = enc(v[x], v[x+ox1])
			}
		}
	}
}

// waveDecode undoes waveEncode, the coarsest level first.
func waveDecode(v []uint16, nx, ox, ny, oy int, most uint16) {
	dec := dec16
	if most < 1<<14 {
		dec = dec14
	}
	p := 1
	for p <= min(nx, ny) {
		p <<= 1
	}
	for p, p2 := p>>2, p>>1; p >= 1; p, p2 = p>>1, p {
		ox1, ox2, oy1, oy2 := ox*p, ox*p2, oy*p, oy*p2
		y := 0
		for ; y <= oy*(ny-p2); y += oy2 {
			x := y
			for ; x <= y+ox*(nx-p2); x += ox2 {
				i00, i10 := dec(v[x], v[x+oy1])
				i01, i11 := dec(v[x+ox1], v[x+oy1+ox1])
				v[x], v[x+ox1] = dec(i00, i01)
				v[x+oy1], v[x+oy1+ox1] = dec(i10, i11)
			}
			if nx&p != 0 {
				v[x], v[x+oy1] = dec(v[x], v[x+oy1])
			}
		}
		if ny&p != 0 {
			for x := y; x <= y+ox*(nx-p2); x += ox2 {
				v[x], v[x+ox1] = dec(v[x], v[x+ox1])
			}
		}
	}
}
