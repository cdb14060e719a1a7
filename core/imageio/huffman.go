package imageio

import (
	"container/heap"
	"encoding/binary"
	"slices"
)

// Huffman coding of 16-bit words as PIZ and DWA use it: canonical codes in
// which longer ones have smaller numbers, most significant bit first, with one
// more symbol that stands for a run of the word before it.
const (
	huffSymbols  = 1<<16 + 1
	huffLongest  = 58
	huffTable    = 12 // bits looked up at once
	shortZeros   = 59 // of the table of lengths: 2 to 5 zeros
	longZeros    = 63 // 6 to 261 zeros
	fewLongZeros = 6
	mostZeros    = 261
	mostRepeats  = 255
	huffHeader   = 20
)

// bitWriter packs bits, the most significant first.
type bitWriter struct {
	out []byte
	acc uint64
	n   uint
}

// put adds the low n bits of v, which has no others.
func (w *bitWriter) put(v uint64, n uint) {
	for n > 32 { // codes may be longer than what is free in acc
		w.put(v>>(n-32)&0xffffffff, 32)
		n -= 32
		v &= 1<<n - 1
	}
	w.acc = w.acc<<n | v
	w.n += n
	for w.n >= 8 {
		w.n -= 8
		w.out = append(w.out, byte(w.acc>>w.n))
	}
}

// flush fills the last byte up with zeros.
func (w *bitWriter) flush() {
	if w.n > 0 {
		w.out = append(w.out, byte(w.acc<<(8-w.n)))
		w.n = 0
	}
}

// canonical gives every symbol with a length its code.
func canonical(length []uint8) []uint64 {
	var count [huffLongest + 1]uint64
	for _, l := range length {
		count[l]++
	}
	count[0] = 0
	var first [huffLongest + 1]uint64
	c := uint64(0)
	for l := huffLongest; l > 0; l-- {
		next := (c + count[l]) >> 1
		first[l] = c
		c = next
	}
	code := make([]uint64, len(length))
	for s, l := range length {
		if l > 0 {
			code[s] = first[l]
			first[l]++
		}
	}
	return code
}

// huffEncoder keeps its scratch from block to block.
type huffEncoder struct {
	freq   [huffSymbols]uint64
	length [huffSymbols]uint8
}

// huffNode is a symbol or a pair of nodes of the tree while it is built. order breaks
// ties between equal weights, so that a block has one coding and not any of several.
type huffNode struct {
	weight      uint64
	order       int
	left, right int // of nodes; -1 for a symbol
	symbol      int
}

// huffHeap gives the lightest of the nodes that have no parent yet.
type huffHeap struct {
	nodes []huffNode
	open  []int
}

func (h *huffHeap) Len() int { return len(h.open) }
func (h *huffHeap) Less(i, j int) bool {
	a, b := &h.nodes[h.open[i]], &h.nodes[h.open[j]]
	return a.weight < b.weight || a.weight == b.weight && a.order < b.order
}
func (h *huffHeap) Swap(i, j int) { h.open[i], h.open[j] = h.open[j], h.open[i] }
func (h *huffHeap) Push(x any)    { h.open = append(h.open, x.(int)) }
func (h *huffHeap) Pop() any {
	n := h.open[len(h.open)-1]
	h.open = h.open[:len(h.open)-1]
	return n
}

// lengths finds the code lengths of the symbols that occur. A block has fewer
// than 2^40 words, so none is longer than the format allows.
func (e *huffEncoder) lengths() {
	h := &huffHeap{}
	for s, f := range e.freq {
		e.length[s] = 0
		if f > 0 {
			h.nodes = append(h.nodes, huffNode{f, len(h.nodes), -1, -1, s})
			h.open = append(h.open, len(h.nodes)-1)
		}
	}
	heap.Init(h)
	for h.Len() > 1 {
		a, b := heap.Pop(h).(int), heap.Pop(h).(int)
		h.nodes = append(h.nodes, huffNode{h.nodes[a].weight + h.nodes[b].weight, len(h.nodes), a, b, -1})
		heap.Push(h, len(h.nodes)-1)
	}
	depth := make([]uint8, len(h.nodes))
	for i := len(h.nodes) - 1; i >= 0; i-- {
		n := &h.nodes[i]
		if n.left < 0 {
			e.length[n.symbol] = max(depth[i], 1)
			continue
		}
		depth[n.left], depth[n.right] = depth[i]+1, depth[i]+1
	}
}

// encode codes a block: a head of five numbers (first symbol, last symbol, bytes of the
// table, bits of the code, a spare one), the table of code lengths with its zeros in
// runs, and the code.
func (e *huffEncoder) encode(words []uint16) []byte {
	clear(e.freq[:])
	for _, v := range words {
		e.freq[v]++
	}
	lo, hi := 0, huffSymbols-2
	for e.freq[lo] == 0 {
		lo++
	}
	for e.freq[hi] == 0 {
		hi--
	}
	hi++ // the symbol for runs
	e.freq[hi] = 1
	e.lengths()
	length := e.length[:hi+1]
	code := canonical(length)

	w := &bitWriter{out: make([]byte, huffHeader, huffHeader+len(words))}
	for s := lo; s <= hi; s++ {
		if length[s] > 0 {
			w.put(uint64(length[s]), 6)
			continue
		}
		zeros := 1
		for s < hi && zeros < mostZeros && length[s+1] == 0 {
			s++
			zeros++
		}
		switch {
		case zeros >= fewLongZeros:
			w.put(longZeros, 6)
			w.put(uint64(zeros-fewLongZeros), 8)
		case zeros >= 2:
			w.put(uint64(shortZeros+zeros-2), 6)
		default:
			w.put(0, 6)
		}
	}
	w.flush()
	table := len(w.out) - huffHeader
	bits := 0
	send := func(s int) {
		w.put(code[s], uint(length[s]))
		bits += int(length[s])
	}
	for i := 0; i < len(words); {
		v := words[i]
		n := 0
		for i+n+1 < len(words) && words[i+n+1] == v && n < mostRepeats {
			n++
		}
		send(int(v))
		// A run pays where its symbol and count are shorter than the word again and again.
		if int(length[hi])+8 < int(length[v])*n {
			send(hi)
			w.put(uint64(n), 8)
			bits += 8
		} else {
			for range n {
				send(int(v))
			}
		}
		i += n + 1
	}
	w.flush()
	for i, v := range []int{lo, hi, table, bits, 0} {
		binary.LittleEndian.PutUint32(w.out[4*i:], uint32(v))
	}
	return w.out
}

// bitReader hands out bits, the most significant first.
type bitReader struct {
	src  []byte
	acc  uint64
	n    uint
	left int // bits not yet taken
}

// peek returns the next n bits (at most 58), with zeros beyond the end.
func (r *bitReader) peek(n uint) uint64 {
	for r.n <= 56 && len(r.src) > 0 {
		r.acc = r.acc<<8 | uint64(r.src[0])
		r.src = r.src[1:]
		r.n += 8
	}
	if r.n >= n {
		return r.acc >> (r.n - n) & (1<<n - 1)
	}
	return r.acc << (n - r.n) & (1<<n - 1)
}

// skip drops bits that were peeked at; false, if there are not so many.
func (r *bitReader) skip(n uint) bool {
	if r.n < n || r.left < int(n) {
		return false
	}
	r.n -= n
	r.left -= int(n)
	return true
}

// take is peek and skip.
func (r *bitReader) take(n uint) (uint64, bool) {
	v := r.peek(n)
	return v, r.skip(n)
}

// huffDecode fills dst from a coded block.
func huffDecode(dst []uint16, src []byte) error {
	if len(src) < huffHeader {
		return formatErr("its Huffman block is cut short")
	}
	lo, hi := int(binary.LittleEndian.Uint32(src)), int(binary.LittleEndian.Uint32(src[4:]))
	bits := int(binary.LittleEndian.Uint32(src[12:]))
	if lo < 0 || hi >= huffSymbols || lo > hi {
		return formatErr("its Huffman table is damaged")
	}
	body := src[huffHeader:]
	length, used, err := huffLengths(body, lo, hi)
	if err != nil {
		return err
	}
	body = body[used:]
	if bits < 0 || bits > 8*len(body) {
		return formatErr("its Huffman block is cut short")
	}
	d := newHuffDecoder(length)
	r := &bitReader{src: body, left: bits}
	n := 0
	for r.left > 0 {
		s, ok := d.next(r)
		if !ok {
			return formatErr("its Huffman code is damaged")
		}
		if s != hi {
			if n == len(dst) {
				return formatErr("its Huffman block is too long")
			}
			dst[n] = uint16(s)
			n++
			continue
		}
		k, ok := r.take(8)
		if !ok || n == 0 || int(k) > len(dst)-n {
			return formatErr("its Huffman code is damaged")
		}
		for range k {
			dst[n] = dst[n-1]
			n++
		}
	}
	if n != len(dst) {
		return formatErr("its Huffman block gives %d words, not %d", n, len(dst))
	}
	return nil
}

// huffLengths reads the table of code lengths of symbols lo to hi, and tells how many
// bytes it took. Its zeros stand in runs, none of which may lead beyond hi.
func huffLengths(body []byte, lo, hi int) (length []uint8, used int, err error) {
	length = make([]uint8, hi+1)
	r := &bitReader{src: body, left: 8 * len(body)}
	for s := lo; s <= hi; s++ {
		l, ok := r.take(6)
		zeros := 0
		switch {
		case !ok:
		case l == longZeros:
			var k uint64
			k, ok = r.take(8)
			zeros = int(k) + fewLongZeros
		case l >= shortZeros:
			zeros = int(l) - shortZeros + 2
		default:
			length[s] = uint8(l)
			ok = l < huffLongest // 57 bits is what peek is sure of, and no block needs more
		}
		if !ok || zeros > hi-s+1 {
			return nil, 0, formatErr("its Huffman table is damaged")
		}
		if zeros > 0 {
			s += zeros - 1
		}
	}
	return length, (8*len(body) - r.left + 7) / 8, nil
}

// huffDecoder finds symbols by the first bits of their codes, and those of longer codes
// by their length: codes of one length are consecutive numbers.
type huffDecoder struct {
	table [1 << huffTable]struct {
		symbol int32
		length uint8 // 0: the code is longer than the table's bits
	}
	first   [huffLongest + 2]uint64 // code of the first symbol of a length
	count   [huffLongest + 2]int
	start   [huffLongest + 2]int // of the length's symbols in symbols
	symbols []int32
}

func newHuffDecoder(length []uint8) *huffDecoder {
	d := &huffDecoder{}
	code := canonical(length)
	bySize := make([]int32, 0, len(length))
	for s, l := range length {
		if l > 0 {
			bySize = append(bySize, int32(s))
			d.count[l]++
		}
	}
	slices.SortStableFunc(bySize, func(a, b int32) int { return int(length[a]) - int(length[b]) })
	d.symbols = bySize
	at := 0
	for l := 1; l <= huffLongest; l++ {
		d.start[l] = at
		if d.count[l] > 0 {
			d.first[l] = code[bySize[at]]
		}
		at += d.count[l]
	}
	for _, s := range bySize {
		l := uint(length[s])
		if l > huffTable {
			break
		}
		from := code[s] << (huffTable - l)
		for k := range uint64(1) << (huffTable - l) {
			if i := from + k; i < 1<<huffTable { // damaged lengths give codes that are too large
				d.table[i].symbol, d.table[i].length = s, uint8(l)
			}
		}
	}
	return d
}

// next is the symbol that the coming bits begin with; false where they begin none.
func (d *huffDecoder) next(r *bitReader) (symbol int, ok bool) {
	if e := &d.table[r.peek(huffTable)]; e.length > 0 {
		return int(e.symbol), r.skip(uint(e.length))
	}
	for l := uint(huffTable + 1); l <= huffLongest; l++ {
		if d.count[l] == 0 {
			continue
		}
		if v := r.peek(l); v >= d.first[l] && v-d.first[l] < uint64(d.count[l]) {
			return int(d.symbols[d.start[l]+int(v-d.first[l])]), r.skip(l)
		}
	}
	return 0, false
}
