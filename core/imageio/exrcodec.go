package imageio

import (
	"bytes"
	"encoding/binary"
	"image"
	"io"
	"math"

	"github.com/klauspost/compress/zlib"
)

// block is the shape of a chunk: lines of each channel in turn, line by line.
type block struct {
	w, h  int
	chans []Channel // sorted by name; only their types count
}

// row is the number of bytes of one line of all channels.
func (b block) row() int {
	n := 0
	for i := range b.chans {
		n += b.chans[i].Type.size() * b.w
	}
	return n
}

// bytes is the number of bytes of the block, before compression.
func (b block) bytes() int { return b.row() * b.h }

// unpack undoes a chunk's compression. A chunk as long as its data is stored as
// it is, whatever the method.
func (c Compression) unpack(dst, src []byte, b block) error {
	if len(src) == len(dst) && c < DWAA {
		copy(dst, src)
		return nil
	}
	switch c {
	case RLE, ZIPS, ZIP:
		tmp := make([]byte, len(dst))
		if c == RLE {
			if err := unrun(tmp, src); err != nil {
				return err
			}
		} else if err := inflate(tmp, src); err != nil {
			return err
		}
		zipRestore(dst, tmp)
		return nil
	case PIZ:
		return pizUnpack(dst, src, b)
	case DWAA, DWAB:
		return dwaUnpack(dst, src, b)
	}
	return formatErr("it has %d bytes, not %d", len(src), len(dst))
}

// packer compresses chunks; it belongs to one goroutine.
type packer struct {
	how Compression
	re  []byte
	out bytes.Buffer
	z   *zlib.Writer
	piz pizPacker
}

// pack returns the compressed chunk, or raw itself where that is not shorter.
// The result is only good until the next call.
func (p *packer) pack(raw []byte, b block) ([]byte, error) {
	var packed []byte
	switch p.how {
	case RLE, ZIPS, ZIP:
		if cap(p.re) < len(raw) {
			p.re = make([]byte, len(raw))
		}
		p.re = p.re[:len(raw)]
		zipReorder(p.re, raw)
		if p.how == RLE {
			packed = runs(p.re)
			break
		}
		p.out.Reset()
		if p.z == nil {
			z, err := zlib.NewWriterLevel(&p.out, zlibLevel)
			if err != nil {
				return nil, err
			}
			p.z = z
		}
		p.z.Reset(&p.out)
		if _, err := p.z.Write(p.re); err != nil {
			return nil, err
		}
		if err := p.z.Close(); err != nil {
			return nil, err
		}
		packed = p.out.Bytes()
	case PIZ:
		packed = p.piz.pack(raw, b)
	default:
		return raw, nil
	}
	if len(packed) < len(raw) {
		return packed, nil
	}
	return raw, nil
}

// inflate undoes zlib until dst is full. What a stream holds beyond that is never
// unpacked, so it cannot grow further than its header has promised.
func inflate(dst, src []byte) error {
	z, err := zlib.NewReader(bytes.NewReader(src))
	if err != nil {
		return formatErr("%v", err)
	}
	if _, err := io.ReadFull(z, dst); err != nil {
		return formatErr("%v", err)
	}
	return nil
}

// zipReorder splits even and odd bytes and stores differences, which makes
// floating-point rows compress well; zipRestore undoes it.
func zipReorder(dst, src []byte) {
	half := (len(src) + 1) / 2
	lo, hi := dst[:half], dst[half:]
	for i := range hi {
		lo[i], hi[i] = src[2*i], src[2*i+1]
	}
	if len(src)&1 == 1 {
		lo[half-1] = src[len(src)-1]
	}
	// Neighbouring values share their sign, exponent and first bits: next to each other
	// those bytes differ by little.
	p := byte(128) // the first byte stays as it is
	for i, v := range dst {
		dst[i] = v - p + 128
		p = v
	}
}

// zipRestore fills dst from src, and spoils src on the way.
func zipRestore(dst, src []byte) {
	p := byte(128)
	for i, v := range src {
		p += v - 128
		src[i] = p
	}
	half := (len(src) + 1) / 2
	lo, hi := src[:half], src[half:]
	for i := range hi {
		dst[2*i], dst[2*i+1] = lo[i], hi[i]
	}
	if len(src)&1 == 1 {
		dst[len(src)-1] = lo[half-1]
	}
}

// Run-length coding: a count of n >= 0 stands for n+1 times the next byte, one
// of -n for the n bytes that follow.
const leastRun, mostRun = 3, 127

// runs codes src. Two equal bytes are cheaper as they are: a run has its own count,
// and ends the literal one before it.
func runs(src []byte) []byte {
	out := make([]byte, 0, len(src)+len(src)/mostRun+1)
	for at := 0; at < len(src); {
		end := at + 1
		for end < len(src) && src[end] == src[at] && end-at-1 < mostRun {
			end++
		}
		if end-at >= leastRun {
			out = append(out, byte(end-at-1), src[at])
			at = end
			continue
		}
		for end < len(src) && end-at < mostRun && (end+2 >= len(src) || src[end] != src[end+1] || src[end] != src[end+2]) {
			end++
		}
		out = append(append(out, byte(-(end-at))), src[at:end]...)
		at = end
	}
	return out
}

// unrun undoes runs. What does not fill dst to the byte is damaged: a count may
// point beyond either end.
func unrun(dst, src []byte) error {
	n := 0
	for i := 0; i < len(src); {
		c := int(int8(src[i]))
		i++
		if c < 0 {
			if -c > len(src)-i || -c > len(dst)-n {
				return formatErr("a run goes beyond its end")
			}
			n += copy(dst[n:], src[i:i-c])
			i -= c
			continue
		}
		if i >= len(src) || c+1 > len(dst)-n {
			return formatErr("a run goes beyond its end")
		}
		for k := range c + 1 {
			dst[n+k] = src[i]
		}
		n += c + 1
		i++
	}
	if n != len(dst) {
		return formatErr("the runs give %d bytes, not %d", n, len(dst))
	}
	return nil
}

// packBlock appends part r of the channels, whose planes have the given width.
func packBlock(dst []byte, width int, chans []Channel, r image.Rectangle) []byte {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for i := range chans {
			c := &chans[i]
			from, to := y*width+r.Min.X, y*width+r.Max.X
			switch c.Type {
			case Half:
				for _, v := range c.Data[from:to] {
					dst = binary.LittleEndian.AppendUint16(dst, ToHalf(v))
				}
			case Float:
				for _, v := range c.Data[from:to] {
					dst = binary.LittleEndian.AppendUint32(dst, math.Float32bits(v))
				}
			default:
				for _, v := range c.Ints[from:to] {
					dst = binary.LittleEndian.AppendUint32(dst, v)
				}
			}
		}
	}
	return dst
}

// unpackBlock puts a block at (x0, y0) of the planes of the given width.
func unpackBlock(src []byte, b block, planes []Channel, width, x0, y0 int) {
	for y := range b.h {
		at := (y0+y)*width + x0
		for i := range b.chans {
			c := &planes[i]
			switch c.Type {
			case Half:
				row := c.Data[at : at+b.w]
				for x := range row {
					row[x] = FromHalf(binary.LittleEndian.Uint16(src[x*2:]))
				}
			case Float:
				row := c.Data[at : at+b.w]
				for x := range row {
					row[x] = math.Float32frombits(binary.LittleEndian.Uint32(src[x*4:]))
				}
			default:
				row := c.Ints[at : at+b.w]
				for x := range row {
					row[x] = binary.LittleEndian.Uint32(src[x*4:])
				}
			}
			src = src[b.w*c.Type.size():]
		}
	}
}
