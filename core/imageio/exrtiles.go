package imageio

import (
	"encoding/binary"
	"fmt"
	"image"
	"io"
	"math/bits"
	"slices"

	"amberproof/core/parallel"
)

// What the last byte of the attribute "tiles" says.
const (
	mipMapped = 1    // smaller sizes follow, each half as wide and as high
	roundedUp = 0x10 // an odd side is halved upwards
)

// WriteTiledEXR writes e as tiles of side x side pixels, at all sizes from the full one down to a
// single pixel, so that a part can be read at the size it is looked at. A pixel of a smaller size
// is the mean of those that it covers; of whole numbers it is the first.
func WriteTiledEXR(w io.Writer, e *EXR, side int) error {
	if err := e.check(); err != nil {
		return err
	}
	if side < 1 || side > exrMaxSide {
		return fmt.Errorf("exr: tiles of %d pixels", side)
	}
	full := *e
	full.tile = image.Pt(side, side)
	sizes := []*EXR{&full}
	for last := &full; last.Window.Dx() > 1 || last.Window.Dy() > 1; {
		last = last.halved()
		sizes = append(sizes, last)
	}
	version := uint32(exrVersion | exrTiledFlag)
	for _, c := range e.Channels {
		if len(c.Name) > 31 {
			version |= exrLongNames
		}
	}
	chunks, err := exrChunks(sizes)
	if err != nil {
		return err
	}
	h := &exrHead{}
	h.put(uint32(exrMagic))
	h.put(version)
	h.part(&full, false, len(chunks))
	return h.write(w, [][]exrChunk{chunks}, false)
}

// halved is the picture at half its size.
func (e *EXR) halved() *EXR {
	out := *e
	w, h := e.Window.Dx(), e.Window.Dy()
	hw, hh := (w+1)/2, (h+1)/2
	out.Window = image.Rect(0, 0, hw, hh)
	out.Channels = slices.Clone(e.Channels)
	for i := range out.Channels {
		from, to := &e.Channels[i], &out.Channels[i]
		if from.Type == Uint {
			to.Ints = make([]uint32, hw*hh)
		} else {
			to.Data = make([]float32, hw*hh)
		}
		parallel.MustRanges(hh, 64, func(y0, y1 int) {
			for y := y0; y < y1; y++ {
				for x := range hw {
					at := 2*y*w + 2*x
					if from.Type == Uint {
						to.Ints[y*hw+x] = from.Ints[at]
						continue
					}
					right, down := at+min(1, w-1-2*x), w*min(1, h-1-2*y)
					to.Data[y*hw+x] = (from.Data[at] + from.Data[right] + from.Data[at+down] + from.Data[right+down]) / 4
				}
			}
		})
	}
	return &out
}

// Tiles reads parts of a picture file, and no more of the file than they need. It is safe for
// concurrent use if the file is.
type Tiles struct {
	// Head is what the file begins with: its headers and tables.
	Head []byte
	// Check looks at each chunk before it is unpacked, by its number over all sizes from the
	// full one; nil takes all.
	Check func(chunk int, data []byte) error

	file  io.ReaderAt
	bytes int64
	sizes []size
	h     *exrHeader
}

// size is one of the sizes of a picture.
type size struct {
	EXR   // without channels' values
	table []byte
	first int // number of its first chunk
}

// headMost is where headers and tables of a file have to end that is read in parts, bytes.
const headMost = 1 << 18

// OpenTiles opens an OpenEXR file of one part, of so many bytes: tiles at their sizes, or scan
// lines, which have one size.
func OpenTiles(file io.ReaderAt, bytes int64) (*Tiles, error) {
	head := make([]byte, min(bytes, headMost))
	if _, err := file.ReadAt(head, 0); err != nil && err != io.EOF {
		return nil, err
	}
	s := &exrScan{b: head}
	version, err := readVersion(s)
	if err != nil {
		return nil, err
	}
	if version&exrPartsFlag != 0 {
		return nil, formatErr("it has several parts")
	}
	h, err := readHeader(s, false, version&exrTiledFlag != 0)
	if err != nil {
		return nil, err
	}
	t := &Tiles{file: file, bytes: bytes, h: h}
	window, first := h.Window, 0
	for level := range t.count() {
		one := size{EXR: h.EXR, first: first}
		if level > 0 { // those of the full size count from where it lies
			window = image.Rect(0, 0, h.side(h.Window.Dx(), level), h.side(h.Window.Dy(), level))
		}
		one.Window = window
		var ok bool
		if one.table, ok = s.take(8 * one.chunks()); !ok {
			return nil, formatErr("the offset table is cut short")
		}
		first += one.chunks()
		t.sizes = append(t.sizes, one)
	}
	t.Head = head[:s.off]
	return t, nil
}

// count is the number of sizes.
func (t *Tiles) count() int {
	if t.h.levels != mipMapped {
		return 1
	}
	most := uint(max(t.h.Window.Dx(), t.h.Window.Dy()))
	if t.h.up {
		return bits.Len(most-1) + 1
	}
	return bits.Len(most)
}

// side is a side of the full size at a smaller one.
func (h *exrHeader) side(full, level int) int {
	if h.up {
		full += 1<<level - 1
	}
	return max(1, full>>level)
}

// Levels is the number of sizes that the file has: 1, or down to a single pixel.
func (t *Tiles) Levels() int { return len(t.sizes) }

// Size is the picture's size at a level, pixels; level 0 is the full one. Levels that the file
// does not have are halved upwards.
func (t *Tiles) Size(level int) image.Point {
	if level < len(t.sizes) {
		return t.sizes[level].Window.Size()
	}
	full, step := t.Size(0), 1<<level
	return image.Pt((full.X+step-1)/step, (full.Y+step-1)/step)
}

// Read reads the part r of the picture at a level, in pixels from its upper left corner; what
// lies beyond the picture is left out. Window of the result is the part that was read. A level
// that the file does not have is made from the full size.
func (t *Tiles) Read(level int, r image.Rectangle) (*EXR, error) {
	r = r.Intersect(image.Rectangle{Max: t.Size(level)})
	if level >= len(t.sizes) {
		out, err := t.Read(0, image.Rectangle{Min: r.Min.Mul(1 << level), Max: r.Max.Mul(1 << level)})
		for range level {
			if err == nil {
				out = out.halved()
			}
		}
		if err == nil {
			out.Window = r
		}
		return out, err
	}
	one := &t.sizes[level]
	out := one.EXR
	out.Window, out.tile, out.Channels = r, image.Point{}, planes(one.Channels, r.Size())
	var raw []byte
	for i := range one.chunks() {
		at, part := one.chunk(i, level)
		if !part.Overlaps(r) {
			continue
		}
		b := block{part.Dx(), part.Dy(), one.Channels}
		data, err := t.chunk(one, i, at, b)
		if err != nil {
			return nil, err
		}
		if raw, err = t.h.unpackChunk(raw, data, i, b); err != nil {
			return nil, err
		}
		of := planes(one.Channels, part.Size())
		unpackBlock(raw, b, of, part.Dx(), 0, 0)
		both := part.Intersect(r)
		for k := range of {
			cutOut(&out.Channels[k], r, &of[k], part, both)
		}
	}
	return &out, nil
}

// chunk fetches what chunk i of a size holds.
func (t *Tiles) chunk(one *size, i int, at []int, b block) ([]byte, error) {
	lead := 4*len(at) + 4
	if int64(b.bytes()) > t.bytes*1100+1<<20 { // as readChunks refuses it
		return nil, formatErr("the file is too short for its chunks")
	}
	off := binary.LittleEndian.Uint64(one.table[8*i:])
	if off > uint64(t.bytes) || t.bytes-int64(off) < int64(lead) {
		return nil, formatErr("chunk %d lies outside the file", i)
	}
	// No method makes a chunk longer than it is unpacked by more than a few bytes.
	room := min(t.bytes-int64(off), int64(lead+b.bytes()+b.bytes()/8+1024))
	var first [20]byte
	if _, err := t.file.ReadAt(first[:lead], int64(off)); err != nil {
		return nil, err
	}
	n := int64(int32(binary.LittleEndian.Uint32(first[lead-4:]))) + int64(lead)
	if n < int64(lead) || n > room {
		return nil, formatErr("chunk %d is cut short", i)
	}
	buf := make([]byte, n)
	if _, err := t.file.ReadAt(buf, int64(off)); err != nil {
		return nil, err
	}
	data, err := chunkData(&exrScan{b: buf}, i, at)
	if err == nil && t.Check != nil {
		err = t.Check(one.first+i, data)
	}
	return data, err
}

// Chunks hands over what each chunk of every size holds, in the order of their numbers.
func (t *Tiles) Chunks(each func(data []byte)) error {
	for level := range t.sizes {
		one := &t.sizes[level]
		for i := range one.chunks() {
			at, part := one.chunk(i, level)
			data, err := t.chunk(one, i, at, block{part.Dx(), part.Dy(), one.Channels})
			if err != nil {
				return err
			}
			each(data)
		}
	}
	return nil
}

// planes are empty channels of a size.
func planes(of []Channel, s image.Point) []Channel {
	out := slices.Clone(of)
	for i := range out {
		if c := &out[i]; c.Type == Uint {
			c.Ints = make([]uint32, s.X*s.Y)
		} else {
			c.Data = make([]float32, s.X*s.Y)
		}
	}
	return out
}

// cutOut copies what two parts of a channel have in common.
func cutOut(dst *Channel, to image.Rectangle, src *Channel, from, both image.Rectangle) {
	for y := both.Min.Y; y < both.Max.Y; y++ {
		d := (y-to.Min.Y)*to.Dx() + both.Min.X - to.Min.X
		s := (y-from.Min.Y)*from.Dx() + both.Min.X - from.Min.X
		if src.Type == Uint {
			copy(dst.Ints[d:d+both.Dx()], src.Ints[s:])
		} else {
			copy(dst.Data[d:d+both.Dx()], src.Data[s:])
		}
	}
}
