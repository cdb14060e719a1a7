package imageio

import (
	"encoding/binary"
	"math"
	"slices"
	"strings"
	"sync"
)

// DWAA and DWAB chunks after the open OpenEXR format: colour as the cosine
// transform of 8 x 8 blocks, alpha in runs, everything else by zlib alone.

// Words of a chunk's head, eight bytes each.
const (
	dwaVersion = iota
	dwaPlainSize
	dwaPlainPacked
	dwaACPacked
	dwaDCPacked
	dwaRunsPacked
	dwaRunsSize
	dwaRunsRaw
	dwaACCount
	dwaDCCount
	dwaACHow
	dwaWords
)

// dwaScheme is how a channel is stored in a chunk.
type dwaScheme uint8

const (
	dwaPlain dwaScheme = iota
	dwaCosine
	dwaRuns
)

// dwaRule says how channels of a name and type are stored.
type dwaRule struct {
	suffix string
	scheme dwaScheme
	colour int // place in a red, green, blue triple, or -1
	typ    PixelType
	fold   bool // of upper and lower case
}

// oldRules hold in chunks that do not bring their own.
var oldRules = []dwaRule{
	{"r", dwaCosine, 0, Half, true}, {"red", dwaCosine, 0, Half, true},
	{"g", dwaCosine, 1, Half, true}, {"grn", dwaCosine, 1, Half, true}, {"green", dwaCosine, 1, Half, true},
	{"b", dwaCosine, 2, Half, true}, {"blu", dwaCosine, 2, Half, true}, {"blue", dwaCosine, 2, Half, true},
	{"y", dwaCosine, -1, Half, true}, {"by", dwaCosine, -1, Half, true}, {"ry", dwaCosine, -1, Half, true},
	{"a", dwaRuns, -1, Uint, true}, {"a", dwaRuns, -1, Half, true}, {"a", dwaRuns, -1, Float, true},
}

// fits reports whether the rule is for a channel: by the last word of its name, as
// layers come before it.
func (r *dwaRule) fits(c *Channel) bool {
	s := c.Name[strings.LastIndexByte(c.Name, '.')+1:]
	return c.Type == r.typ && (s == r.suffix || r.fold && strings.EqualFold(s, r.suffix))
}

// dwaChunk is a chunk taken apart.
type dwaChunk struct {
	b     block
	rules []dwaRule
	plain []byte
	runs  []byte
	ac    []uint16
	dc    []uint16
	out   [][]byte // per channel: its lines one after the other
}

// dwaUnpack decodes a chunk into dst, line by line. DWAA and DWAB differ only in how
// many lines a chunk has.
func dwaUnpack(dst, src []byte, b block) error {
	c := &dwaChunk{b: b, rules: oldRules}
	if err := c.open(src); err != nil {
		return err
	}
	if err := c.channels(); err != nil {
		return err
	}
	// From planes to lines.
	for y := range b.h {
		for i := range b.chans {
			n := b.chans[i].Type.size() * b.w
			dst = dst[copy(dst, c.out[i][y*n:(y+1)*n]):]
		}
	}
	return nil
}

// open takes a chunk apart into its four streams, each with its own packing. Every size
// is held against what the chunk can need before it is believed.
func (c *dwaChunk) open(src []byte) error {
	head, src, err := c.head(src)
	if err != nil {
		return err
	}
	part := func(word int) []byte {
		p := src[:min(head[word], len(src))]
		src = src[len(p):]
		return p
	}
	plain, ac, dc, runs := part(dwaPlainPacked), part(dwaACPacked), part(dwaDCPacked), part(dwaRunsPacked)
	if len(plain) != head[dwaPlainPacked] || len(ac) != head[dwaACPacked] || len(dc) != head[dwaDCPacked] || len(runs) != head[dwaRunsPacked] {
		return dwaCut
	}
	if len(plain) > 0 {
		c.plain = make([]byte, head[dwaPlainSize])
		if err := inflate(c.plain, plain); err != nil {
			return err
		}
	}
	if len(ac) > 0 {
		c.ac = make([]uint16, head[dwaACCount])
		if err := unpackAC(c.ac, ac, head[dwaACHow]); err != nil {
			return err
		}
	}
	if len(dc) > 0 {
		c.dc = make([]uint16, head[dwaDCCount])
		raw, tmp := make([]byte, 2*len(c.dc)), make([]byte, 2*len(c.dc))
		if err := inflate(tmp, dc); err != nil {
			return err
		}
		zipRestore(raw, tmp)
		words(c.dc, raw)
	}
	if len(runs) > 0 {
		tmp := make([]byte, head[dwaRunsSize])
		if err := inflate(tmp, runs); err != nil {
			return err
		}
		c.runs = make([]byte, head[dwaRunsRaw])
		return unrun(c.runs, tmp)
	}
	return nil
}

var dwaCut = formatErr("it is cut short")

// head reads the head of a chunk and its own rules, if it has some, and returns what
// follows.
func (c *dwaChunk) head(src []byte) (head [dwaWords]int, rest []byte, err error) {
	if len(src) < 8*dwaWords {
		return head, nil, dwaCut
	}
	for i := range head {
		v := binary.LittleEndian.Uint64(src[8*i:])
		// Nothing in a chunk is larger than a few times its data.
		if v > uint64(8*c.b.bytes()+1<<16) {
			return head, nil, formatErr("its head is damaged")
		}
		head[i] = int(v)
	}
	src = src[8*dwaWords:]
	if head[dwaVersion] > 2 {
		return head, nil, formatErr("DWA version %d is not supported", head[dwaVersion])
	}
	if head[dwaVersion] < 2 {
		return head, src, nil
	}
	if len(src) < 2 {
		return head, nil, dwaCut
	}
	n := int(binary.LittleEndian.Uint16(src))
	if n < 2 || n > len(src) {
		return head, nil, dwaCut
	}
	return head, src[n:], c.readRules(src[2:n])
}

// unpackAC unpacks the coefficients of cosines, by Huffman's code or by zlib.
func unpackAC(to []uint16, packed []byte, how int) error {
	if how == 0 {
		return huffDecode(to, packed)
	}
	raw := make([]byte, 2*len(to))
	if err := inflate(raw, packed); err != nil {
		return err
	}
	words(to, raw)
	return nil
}

// words reads 16-bit words, the low byte first.
func words(dst []uint16, raw []byte) {
	for i := range dst {
		dst[i] = binary.LittleEndian.Uint16(raw[2*i:])
	}
}

// readRules reads the rules that a chunk of version 2 brings. Bits of a rule: 0 fold,
// 2 and 3 the scheme, 4 to 7 the place in a triple plus one.
func (c *dwaChunk) readRules(b []byte) error {
	c.rules = nil
	s := &exrScan{b: b}
	for s.off < len(b) {
		name, ok := s.name()
		v, ok2 := s.take(2)
		if !ok || !ok2 {
			return formatErr("its rules are cut short")
		}
		r := dwaRule{suffix: name, scheme: dwaScheme(v[0] >> 2 & 3), colour: int(v[0]>>4) - 1, typ: PixelType(v[1]), fold: v[0]&1 != 0}
		if r.scheme > dwaRuns || r.colour > 2 {
			return formatErr("its rules are damaged")
		}
		c.rules = append(c.rules, r)
	}
	return nil
}

// channels decodes all channels: colour triples first, by their common prefix,
// then the others in order.
func (c *dwaChunk) channels() error {
	b := c.b
	c.out = make([][]byte, len(b.chans))
	rule := make([]dwaRule, len(b.chans))
	triples := map[string]*[3]int{}
	var prefixes []string
	for i := range b.chans {
		rule[i] = dwaRule{scheme: dwaPlain, colour: -1}
		for k := range c.rules {
			if c.rules[k].fits(&b.chans[i]) {
				rule[i] = c.rules[k]
				break
			}
		}
		if rule[i].scheme == dwaCosine && b.chans[i].Type == Uint {
			return formatErr("it transforms whole numbers")
		}
		if k := rule[i].colour; rule[i].scheme == dwaCosine && k >= 0 {
			name := b.chans[i].Name
			p := name[:strings.LastIndexByte(name, '.')+1]
			if triples[p] == nil {
				triples[p] = &[3]int{-1, -1, -1}
				prefixes = append(prefixes, p)
			}
			triples[p][k] = i
		}
	}
	slices.Sort(prefixes)
	for _, p := range prefixes {
		t := triples[p]
		if t[0] < 0 || t[1] < 0 || t[2] < 0 || b.chans[t[0]].Type != b.chans[t[1]].Type || b.chans[t[0]].Type != b.chans[t[2]].Type {
			continue
		}
		if err := c.cosine(t[:]); err != nil {
			return err
		}
	}
	for i := range b.chans {
		n := b.chans[i].Type.size() * b.w * b.h
		switch {
		case c.out[i] != nil:
		case rule[i].scheme == dwaCosine:
			if err := c.cosine([]int{i}); err != nil {
				return err
			}
		case rule[i].scheme == dwaRuns:
			if n > len(c.runs) {
				return formatErr("its runs are too short")
			}
			// The bytes of the values stand apart, the lowest of all first.
			size, count := b.chans[i].Type.size(), b.w*b.h
			c.out[i] = make([]byte, n)
			for k := range size {
				for x := range count {
					c.out[i][x*size+k] = c.runs[k*count+x]
				}
			}
			c.runs = c.runs[n:]
		default:
			if n > len(c.plain) {
				return formatErr("its plain channels are too short")
			}
			c.out[i], c.plain = c.plain[:n], c.plain[n:]
		}
	}
	return nil
}

// zigzag is the order of a block's coefficients.
var zigzag = func() (z [64]int) {
	x, y := 0, 0
	for i := range z {
		z[i] = y*8 + x
		switch {
		case (x+y)&1 == 0 && x == 7:
			y++
		case (x+y)&1 == 0 && y == 0:
			x++
		case (x+y)&1 == 0:
			x, y = x+1, y-1
		case y == 7:
			x++
		case x == 0:
			y++
		default:
			x, y = x-1, y+1
		}
	}
	return z
}()

// cosines of the orthonormal transform, by frequency and place.
var cosines = func() (m [8][8]float32) {
	for k := range m {
		for x := range m[k] {
			v := 0.5 * math.Cos(math.Pi/8*float64(k)*(float64(x)+0.5))
			if k == 0 {
				v = math.Sqrt(0.125)
			}
			m[k][x] = float32(v)
		}
	}
	return m
}()

// inverseCosine is the inverse transform of a block in place, along rows and then along
// columns: 1024 multiplications, plain to read. Fast forms round otherwise, and this
// reader serves pictures of other people, once.
func inverseCosine(c *[64]float32) {
	var t [64]float32
	for y := range 8 {
		for x := range 8 {
			var s float32
			for k := range 8 {
				s += c[y*8+k] * cosines[k][x]
			}
			t[y*8+x] = s
		}
	}
	for y := range 8 {
		for x := range 8 {
			var s float32
			for k := range 8 {
				s += t[k*8+x] * cosines[k][y]
			}
			c[y*8+x] = s
		}
	}
}

// toLinear undoes the curve that values take before the transform: a power up
// to one, an exponential above.
var toLinear = sync.OnceValue(func() *[1 << 16]uint16 {
	t := &[1 << 16]uint16{}
	for i := range t {
		f := float64(FromHalf(uint16(i)))
		if math.IsNaN(f) || math.IsInf(f, 0) {
			continue
		}
		a := math.Abs(f)
		if a <= 1 {
			a = math.Pow(a, 2.2)
		} else {
			a = math.Exp(2.2 * (a - 1))
		}
		t[i] = ToHalf(float32(math.Copysign(a, f)))
	}
	return t
})

// cosine decodes one channel, or three that are luminance and two differences.
func (c *dwaChunk) cosine(which []int) error {
	b := c.b
	nx, ny := (b.w+7)/8, (b.h+7)/8
	if len(c.dc) < nx*ny*len(which) {
		return formatErr("its blocks are too few")
	}
	// A half in the file stands for a value on a curve; the table undoes it for all 65536.
	linear := toLinear()
	for _, i := range which {
		c.out[i] = make([]byte, b.chans[i].Type.size()*b.w*b.h)
	}
	var v [3][64]float32
	for by := range ny {
		for bx := range nx {
			for k := range which {
				v[k] = [64]float32{FromHalf(c.dc[k*nx*ny+by*nx+bx])}
				if !c.coefficients(&v[k]) {
					return formatErr("its coefficients are too few")
				}
				inverseCosine(&v[k])
			}
			if len(which) == 3 {
				// The inverse of Rec.709 luma and colour differences, as the format states it.
				for i := range 64 {
					y, cb, cr := v[0][i], v[1][i], v[2][i]
					v[0][i] = y + 1.5747*cr
					v[1][i] = y - 0.1873*cb - 0.4682*cr
					v[2][i] = y + 1.8556*cb
				}
			}
			for k, i := range which {
				for y := by * 8; y < min(by*8+8, b.h); y++ {
					for x := bx * 8; x < min(bx*8+8, b.w); x++ {
						h := linear[ToHalf(v[k][(y-by*8)*8+x-bx*8])]
						if at := y*b.w + x; b.chans[i].Type == Half {
							binary.LittleEndian.PutUint16(c.out[i][2*at:], h)
						} else {
							binary.LittleEndian.PutUint32(c.out[i][4*at:], math.Float32bits(FromHalf(h)))
						}
					}
				}
			}
		}
	}
	c.dc = c.dc[nx*ny*len(which):]
	return nil
}

// coefficients takes those after the first of one block: a word whose upper
// byte is all ones skips as many as its lower says, or all if that is zero.
func (c *dwaChunk) coefficients(v *[64]float32) bool {
	for at := 1; at < 64; {
		if len(c.ac) == 0 {
			return false
		}
		w := c.ac[0]
		c.ac = c.ac[1:]
		switch {
		case w == 0xff00:
			return true
		case w>>8 == 0xff:
			at += int(w & 0xff)
		default:
			v[zigzag[at]] = FromHalf(w)
			at++
		}
	}
	return true
}
