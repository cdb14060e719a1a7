package imageio

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"image"
	"math"
	"runtime"
	"sync/atomic"

	"amberproof/core/parallel"
)

// Limits bound what a reader will take.
type Limits struct {
	Pixels int
	Memory int64 // bytes that a picture may take while it is read, see Budget
}

// DefaultLimits allow a 16384 x 16384 picture.
var DefaultLimits = Limits{Pixels: 16384 * 16384, Memory: 8 << 30}

// What a picture may take beside its file: the least is enough for what a small
// file can honestly hold, and the factor for one that is mostly of one colour.
const (
	leastBudget = 256 << 20
	growth      = 128
)

// Budget is how many bytes reading a file of so many bytes may take; it is
// counted before anything is allocated.
func (l Limits) Budget(file int64) int64 { return min(l.Memory, leastBudget+growth*file) }

// allows refuses a picture that would take more than its file's budget.
func (l Limits) allows(bytes int64, file int) error {
	if bytes > l.Budget(int64(file)) {
		return formatErr("the file of %d kB would take %d MB of memory, far more than a file of its size should; save it anew, cropped to what it shows",
			file>>10, bytes>>20)
	}
	return nil
}

// exrMaxParts bounds the headers of a file: each may ask for memory of its own.
const exrMaxParts = 256

// exrScan walks over the bytes of a file. It never goes beyond their end: each step
// says whether it was there.
type exrScan struct {
	b   []byte
	off int
}

// take is the next n bytes, which stay the file's.
func (s *exrScan) take(n int) ([]byte, bool) {
	if n < 0 || n > len(s.b)-s.off {
		return nil, false
	}
	s.off += n
	return s.b[s.off-n : s.off], true
}

// i32 is the next whole number, with its sign.
func (s *exrScan) i32() (int, bool) {
	b, ok := s.take(4)
	if !ok {
		return 0, false
	}
	return int(int32(binary.LittleEndian.Uint32(b))), true
}

// name is the next text up to a zero byte, at most 255 bytes long as the format has it.
func (s *exrScan) name() (string, bool) {
	end := bytes.IndexByte(s.b[s.off:min(len(s.b), s.off+256)], 0)
	if end < 0 {
		return "", false
	}
	n := string(s.b[s.off : s.off+end])
	s.off += end + 1
	return n, true
}

// ReadEXR reads the first part of an OpenEXR file.
func ReadEXR(b []byte, lim Limits) (*EXR, error) {
	parts, err := ReadEXRParts(b, lim)
	if err != nil {
		return nil, err
	}
	return parts[0], nil
}

// ReadEXRParts reads every part of an OpenEXR file: scan lines or tiles (of
// which the full size), half, float and uint channels, with no compression,
// RLE, ZIPS, ZIP, PIZ, DWAA or DWAB. Other kinds are refused by name. The
// limit is for all parts together.
func ReadEXRParts(b []byte, lim Limits) ([]*EXR, error) {
	s := &exrScan{b: b}
	version, err := readVersion(s)
	if err != nil {
		return nil, err
	}
	several := version&exrPartsFlag != 0
	var heads []*exrHeader
	for {
		h, err := readHeader(s, several, version&exrTiledFlag != 0)
		if err != nil {
			return nil, err
		}
		if h == nil {
			break
		}
		if heads = append(heads, h); !several {
			break
		}
		if len(heads) > exrMaxParts {
			return nil, formatErr("more than %d parts", exrMaxParts)
		}
	}
	if len(heads) == 0 {
		return nil, formatErr("the file has no parts")
	}
	// All sizes are known before the first of them is allocated, and count together: a
	// file of many small lies is one large one.
	pixels, bytes := 0, int64(0)
	for _, h := range heads {
		bytes += int64(h.Window.Dx()) * int64(h.Window.Dy()) * int64(len(h.Channels)) * 4
		if pixels += h.Window.Dx() * h.Window.Dy(); pixels > lim.Pixels {
			return nil, formatErr("%d x %d pixels are more than the limit of %d", h.Window.Dx(), h.Window.Dy(), lim.Pixels)
		}
	}
	if err := lim.allows(bytes, len(b)); err != nil {
		return nil, err
	}
	var parts []*EXR
	for k, h := range heads {
		if err := h.readTable(s, several); err != nil {
			return nil, err
		}
		if !several {
			k = -1
		}
		if err := h.readChunks(b, k); err != nil {
			return nil, err
		}
		parts = append(parts, &h.EXR)
	}
	return parts, nil
}

// readVersion reads what a file begins with: the version of the format, and flags.
func readVersion(s *exrScan) (uint32, error) {
	head, ok := s.take(8)
	if !ok || binary.LittleEndian.Uint32(head) != exrMagic {
		return 0, formatErr("not an OpenEXR file")
	}
	version := binary.LittleEndian.Uint32(head[4:])
	switch {
	case version&0xff != exrVersion:
		return 0, formatErr("OpenEXR version %d is not supported", version&0xff)
	case version&exrDeepFlag != 0:
		return 0, formatErr("deep OpenEXR files are not supported; flatten it")
	}
	return version, nil
}

// exrHeader is a part while it is read.
type exrHeader struct {
	EXR
	kind   string
	stated int    // chunks, of a file of several parts
	levels byte   // how smaller sizes of tiles are kept, as the file says it; 0: there are none
	up     bool   // sides of smaller sizes are rounded up
	table  []byte // offsets of the chunks of the full size
}

// readHeader reads one header; nil ends those of a file of several parts.
func readHeader(s *exrScan, several, tiled bool) (*exrHeader, error) {
	h := &exrHeader{EXR: EXR{Text: map[string]string{}}, stated: -1}
	have := map[string]bool{}
	for {
		name, ok := s.name()
		if !ok {
			return nil, formatErr("the header is cut short")
		}
		if name == "" {
			break
		}
		kind, ok1 := s.name()
		size, ok2 := s.i32()
		if !ok1 || !ok2 {
			return nil, formatErr("attribute %q is cut short", name)
		}
		v, ok := s.take(size)
		if !ok {
			return nil, formatErr("attribute %q is cut short", name)
		}
		if err := h.attribute(name, kind, v); err != nil {
			return nil, err
		}
		have[name] = true
	}
	if several && len(have) == 0 {
		return nil, nil
	}
	need := []string{"channels", "compression", "dataWindow", "displayWindow"}
	if several {
		need = append(need, "name", "type", "chunkCount")
		tiled = h.kind == "tiledimage"
		if h.kind != "tiledimage" && h.kind != "scanlineimage" {
			return nil, formatErr("part %q is a %s, which is not supported; flatten it", h.Name, h.kind)
		}
	}
	if tiled {
		need = append(need, "tiles")
	} else {
		h.tile = image.Point{}
	}
	for _, n := range need {
		if !have[n] {
			return nil, formatErr("the attribute %q is missing", n)
		}
	}
	if len(h.Channels) == 0 {
		return nil, formatErr("the file has no channels")
	}
	return h, nil
}

// attribute takes one attribute of a header by its name. Those that are not known are
// passed over, but for texts, which are kept. Windows are checked here, before any
// size is computed from them: their corners are 32-bit numbers, and a difference of two
// may be more than that.
func (h *exrHeader) attribute(name, kind string, v []byte) error {
	i32 := func(i int) int { return int(int32(binary.LittleEndian.Uint32(v[i*4:]))) }
	switch name {
	case "channels":
		return h.channelList(v)
	case "compression":
		if len(v) != 1 {
			return formatErr("bad compression attribute")
		}
		switch h.Compression = Compression(v[0]); h.Compression {
		case NoCompression, RLE, ZIPS, ZIP, PIZ, DWAA, DWAB:
		default:
			return formatErr("compression %d is not supported; save it with ZIP or PIZ", v[0])
		}
	case "dataWindow", "displayWindow":
		if len(v) != 16 {
			return formatErr("bad %s", name)
		}
		const far = 1 << 24
		for i := 0; i < 4; i++ {
			if i32(i) < -far || i32(i) > far {
				return formatErr("the %s lies absurdly far out", name)
			}
		}
		r := image.Rectangle{Min: image.Pt(i32(0), i32(1)), Max: image.Pt(i32(2)+1, i32(3)+1)}
		if r.Min.X >= r.Max.X || r.Min.Y >= r.Max.Y || r.Dx() > exrMaxSide || r.Dy() > exrMaxSide {
			return formatErr("the %s %v is empty or larger than %d", name, r, exrMaxSide)
		}
		if name == "dataWindow" {
			h.Window = r
		} else {
			h.Display = r
		}
	case "tiles":
		if len(v) != 9 || i32(0) < 1 || i32(1) < 1 || i32(0) > exrMaxSide || i32(1) > exrMaxSide {
			return formatErr("bad tiles attribute")
		}
		h.tile = image.Pt(i32(0), i32(1))
		h.levels = v[8] & 15
		h.up = v[8]&roundedUp != 0
	case "chunkCount":
		if len(v) != 4 || i32(0) < 0 {
			return formatErr("bad chunkCount")
		}
		h.stated = i32(0)
	case "chromaticities":
		if len(v) != 32 {
			return formatErr("bad chromaticities")
		}
		for i := range h.Chromaticities {
			h.Chromaticities[i] = math.Float32frombits(binary.LittleEndian.Uint32(v[i*4:]))
		}
	case "name":
		h.Name = string(v)
	case "type":
		h.kind = string(v)
	default:
		if kind == "string" {
			h.Text[name] = string(v)
		}
	}
	return nil
}

// channelList reads names and types. Channels of fewer pixels than the others are
// refused, rather than shown stretched.
func (h *exrHeader) channelList(v []byte) error {
	c := &exrScan{b: v}
	for {
		n, ok := c.name()
		if !ok {
			return formatErr("the channel list is cut short")
		}
		if n == "" {
			return nil
		}
		d, ok := c.take(16)
		if !ok {
			return formatErr("channel %q is cut short", n)
		}
		t := PixelType(binary.LittleEndian.Uint32(d))
		if t < Uint || t > Float {
			return formatErr("channel %q has the unknown type %d", n, t)
		}
		if binary.LittleEndian.Uint32(d[8:]) != 1 || binary.LittleEndian.Uint32(d[12:]) != 1 {
			return formatErr("channel %q is subsampled, which is not supported", n)
		}
		if h.Channel(n) != nil {
			return formatErr("channel %q is there twice", n)
		}
		if len(h.Channels) == exrMaxChannels {
			return formatErr("more than %d channels", exrMaxChannels)
		}
		h.Channels = append(h.Channels, Channel{Name: n, Type: t})
	}
}

// readTable takes the part's table of offsets. Smaller sizes of a tiled part
// come after the full one and are left out; where they are not counted in the
// header, the part must be the last.
func (h *exrHeader) readTable(s *exrScan, several bool) error {
	// The table is only cut out here: what it points to is checked chunk by chunk.
	n := h.chunks()
	var ok bool
	if h.table, ok = s.take(8 * n); !ok {
		return formatErr("the offset table is cut short")
	}
	if several {
		if h.stated < n || h.levels == 0 && h.stated != n {
			return formatErr("part %q says %d chunks, it needs %d", h.Name, h.stated, n)
		}
		if _, ok := s.take(8 * (h.stated - n)); !ok {
			return formatErr("the offset table is cut short")
		}
	}
	return nil
}

// readChunks reads all chunks of the full size; part is -1 in files of one.
func (h *exrHeader) readChunks(b []byte, part int) error {
	w := h.Window.Dx()
	whole := block{w, h.Window.Dy(), h.Channels}
	// Compression makes at most about a thousandth of the data: a file far
	// smaller than its picture is refused before memory is taken.
	if int64(whole.row())*int64(whole.h) > int64(len(b))*1100+1<<20 {
		return formatErr("the file is too short for its %d x %d pixels", w, whole.h)
	}
	for i := range h.Channels {
		if c := &h.Channels[i]; c.Type == Uint {
			c.Ints = make([]uint32, w*whole.h)
		} else {
			c.Data = make([]float32, w*whole.h)
		}
	}
	n := len(h.table) / 8
	var next atomic.Int64
	errs := make([]error, min(runtime.GOMAXPROCS(0), n))
	err := parallel.Workers(len(errs), func(k int) {
		var raw []byte
		for errs[k] == nil {
			i := int(next.Add(1) - 1)
			if i >= n {
				return
			}
			raw, errs[k] = h.readChunk(b, i, part, raw)
		}
	})
	return cmp.Or(err, cmp.Or(errs...))
}

// readChunk reads chunk i into its place in the planes; raw is scratch, which it gives
// back, perhaps larger. Chunks of a part never overlap, so several are read at a time.
func (h *exrHeader) readChunk(file []byte, i, part int, raw []byte) ([]byte, error) {
	off := binary.LittleEndian.Uint64(h.table[i*8:])
	if off > uint64(len(file)) {
		return raw, formatErr("chunk %d lies outside the file", i)
	}
	s := &exrScan{b: file, off: int(off)}
	if part >= 0 {
		if p, ok := s.i32(); !ok || p != part {
			return raw, formatErr("chunk %d is of another part", i)
		}
	}
	at, r := h.chunk(i, 0)
	data, err := chunkData(s, i, at)
	if err != nil {
		return raw, err
	}
	b := block{r.Dx(), r.Dy(), h.Channels}
	if raw, err = h.unpackChunk(raw, data, i, b); err == nil {
		unpackBlock(raw, b, h.Channels, h.Window.Dx(), r.Min.X, r.Min.Y)
	}
	return raw, err
}

// chunkData is what chunk i holds. The table decides what a chunk is; what the chunk says must
// agree, or two would be written to one place at a time.
func chunkData(s *exrScan, i int, at []int) ([]byte, error) {
	cut := formatErr("chunk %d is cut short", i)
	for _, v := range at {
		if got, ok := s.i32(); !ok {
			return nil, cut
		} else if got != v {
			return nil, formatErr("chunk %d says that it lies elsewhere", i)
		}
	}
	size, ok := s.i32()
	if !ok {
		return nil, cut
	}
	data, ok := s.take(size)
	if !ok {
		return nil, cut
	}
	return data, nil
}

// unpackChunk undoes the compression of chunk i; raw is scratch.
func (h *exrHeader) unpackChunk(raw, data []byte, i int, b block) ([]byte, error) {
	if cap(raw) < b.bytes() {
		raw = make([]byte, b.bytes())
	}
	raw = raw[:b.bytes()]
	if err := h.Compression.unpack(raw, data, b); err != nil {
		return raw, formatErr("chunk %d: %v", i, err)
	}
	return raw, nil
}
