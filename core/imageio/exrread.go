package imageio

import (
	"bytes"
	"encoding/binary"
	"image"
	"io"
	"math"

	"github.com/klauspost/compress/zlib"
)

// Limits bound what a reader will take.
type Limits struct{ Pixels int }

// DefaultLimits allow a 16384 x 16384 picture.
var DefaultLimits = Limits{Pixels: 16384 * 16384}

type exrScan struct {
	b   []byte
	off int
}

func (s *exrScan) take(n int) ([]byte, bool) {
	if n < 0 || n > len(s.b)-s.off {
		return nil, false
	}
	s.off += n
	return s.b[s.off-n : s.off], true
}

func (s *exrScan) name() (string, bool) {
	end := bytes.IndexByte(s.b[s.off:min(len(s.b), s.off+256)], 0)
	if end < 0 {
		return "", false
	}
	n := string(s.b[s.off : s.off+end])
	s.off += end + 1
	return n, true
}

// ReadEXR reads a single-part scan-line file with none, ZIPS or ZIP
// compression. Other kinds are refused by name.
func ReadEXR(b []byte, lim Limits) (*EXR, error) {
	s := &exrScan{b: b}
	head, ok := s.take(8)
	if !ok || binary.LittleEndian.Uint32(head) != exrMagic {
		return nil, formatErr("not an OpenEXR file")
	}
	version := binary.LittleEndian.Uint32(head[4:])
	switch {
	case version&0xff != exrVersion:
		return nil, formatErr("OpenEXR version %d is not supported", version&0xff)
	case version&exrTiledFlag != 0:
		return nil, formatErr("tiled OpenEXR files are not supported; save it as scan lines")
	case version&(exrDeepFlag|exrPartsFlag) != 0:
		return nil, formatErr("deep or multi-part OpenEXR files are not supported; save it as one flat part")
	}
	e := &EXR{Text: map[string]string{}}
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
		sz, ok2 := s.take(4)
		if !ok1 || !ok2 {
			return nil, formatErr("attribute %q is cut short", name)
		}
		v, ok := s.take(int(int32(binary.LittleEndian.Uint32(sz))))
		if !ok {
			return nil, formatErr("attribute %q is cut short", name)
		}
		if err := e.attribute(name, kind, v); err != nil {
			return nil, err
		}
		have[name] = true
	}
	for _, need := range []string{"channels", "compression", "dataWindow", "displayWindow"} {
		if !have[need] {
			return nil, formatErr("the attribute %q is missing", need)
		}
	}
	return e, e.readChunks(s, lim)
}

func (e *EXR) attribute(name, kind string, v []byte) error {
	i32 := func(i int) int { return int(int32(binary.LittleEndian.Uint32(v[i*4:]))) }
	switch name {
	case "channels":
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
			if e.Channel(n) != nil {
				return formatErr("channel %q is there twice", n)
			}
			if len(e.Channels) == exrMaxChannels {
				return formatErr("more than %d channels", exrMaxChannels)
			}
			e.Channels = append(e.Channels, Channel{Name: n, Type: t})
		}
	case "compression":
		if len(v) != 1 {
			return formatErr("bad compression attribute")
		}
		e.Compression = Compression(v[0])
		switch e.Compression {
		case NoCompression, ZIPS, ZIP:
		default:
			return formatErr("compression %d is not supported; save it with none, ZIPS or ZIP", v[0])
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
		r := image.Rectangle{image.Pt(i32(0), i32(1)), image.Pt(i32(2)+1, i32(3)+1)}
		if r.Min.X >= r.Max.X || r.Min.Y >= r.Max.Y || r.Dx() > exrMaxSide || r.Dy() > exrMaxSide {
			return formatErr("the %s %v is empty or larger than %d", name, r, exrMaxSide)
		}
		if name == "dataWindow" {
			e.Window = r
		} else {
			e.Display = r
		}
	case "chromaticities":
		if len(v) != 32 {
			return formatErr("bad chromaticities")
		}
		for i := range e.Chromaticities {
			e.Chromaticities[i] = math.Float32frombits(binary.LittleEndian.Uint32(v[i*4:]))
		}
	default:
		if kind == "string" {
			e.Text[name] = string(v)
		}
	}
	return nil
}

func (e *EXR) readChunks(s *exrScan, lim Limits) error {
	w, h := e.Window.Dx(), e.Window.Dy()
	if len(e.Channels) == 0 {
		return formatErr("the file has no channels")
	}
	if w*h > lim.Pixels {
		return formatErr("%d x %d pixels are more than the limit of %d", w, h, lim.Pixels)
	}
	lines := e.Compression.lines()
	n := (h + lines - 1) / lines
	table, ok := s.take(8 * n)
	if !ok {
		return formatErr("the offset table is cut short")
	}
	row := 0
	for _, c := range e.Channels {
		row += c.Type.size() * w
	}
	// zlib expands at most about a thousandfold: a file far smaller than its
	// picture is refused before memory is taken.
	if int64(row)*int64(h) > int64(len(s.b))*1100+1<<20 {
		return formatErr("the file is too short for its %d x %d pixels", w, h)
	}
	for i := range e.Channels {
		e.Channels[i].Data = make([]float32, w*h)
	}
	raw := make([]byte, row*lines)
	tmp := make([]byte, row*lines)
	for i := 0; i < n; i++ {
		off := binary.LittleEndian.Uint64(table[i*8:])
		if off > uint64(len(s.b)) {
			return formatErr("chunk %d lies outside the file", i)
		}
		c := &exrScan{b: s.b, off: int(off)}
		head, ok := c.take(8)
		if !ok {
			return formatErr("chunk %d is cut short", i)
		}
		y0 := int(int32(binary.LittleEndian.Uint32(head))) - e.Window.Min.Y
		if y0 < 0 || y0 >= h || y0%lines != 0 {
			return formatErr("chunk %d starts at a wrong line", i)
		}
		data, ok := c.take(int(int32(binary.LittleEndian.Uint32(head[4:]))))
		if !ok {
			return formatErr("chunk %d is cut short", i)
		}
		y1 := min(y0+lines, h)
		want := row * (y1 - y0)
		block := raw[:want]
		switch {
		case len(data) == want:
			copy(block, data)
		case e.Compression == NoCompression || len(data) > want:
			return formatErr("chunk %d has %d bytes, not %d", i, len(data), want)
		default:
			z, err := zlib.NewReader(bytes.NewReader(data))
			if err != nil {
				return formatErr("chunk %d: %v", i, err)
			}
			if _, err := io.ReadFull(z, tmp[:want]); err != nil {
				return formatErr("chunk %d: %v", i, err)
			}
			zipRestore(block, tmp[:want])
		}
		e.unpackLines(block, y0, y1)
	}
	return nil
}

func (e *EXR) unpackLines(b []byte, y0, y1 int) {
	w := e.Window.Dx()
	for y := y0; y < y1; y++ {
		for i := range e.Channels {
			c := &e.Channels[i]
			row := c.Data[y*w : (y+1)*w]
			for x := range row {
				switch c.Type {
				case Half:
					row[x] = FromHalf(binary.LittleEndian.Uint16(b[x*2:]))
				case Float:
					row[x] = math.Float32frombits(binary.LittleEndian.Uint32(b[x*4:]))
				default:
					row[x] = float32(binary.LittleEndian.Uint32(b[x*4:]))
				}
			}
			b = b[w*c.Type.size():]
		}
	}
}
