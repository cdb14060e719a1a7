package imageio

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"io"
	"math"
	"runtime"
	"sort"
	"sync"
	"sync/atomic"

	"github.com/klauspost/compress/zlib"
)

// zlibLevel trades a few percent of size for several times the speed.
const zlibLevel = 4

// WriteEXR writes e as a single-part scan-line file, lines increasing.
// Channels are stored sorted by name as the format demands.
func WriteEXR(w io.Writer, e *EXR) error {
	if err := e.check(); err != nil {
		return err
	}
	chans := e.sorted()
	version := uint32(exrVersion)
	for _, c := range chans {
		if len(c.Name) > 31 {
			version |= exrLongNames
		}
	}
	var h bytes.Buffer
	put := func(v any) { _ = binary.Write(&h, binary.LittleEndian, v) } // a Buffer never fails
	attr := func(name, kind string, size int) {
		h.WriteString(name + "\x00" + kind + "\x00")
		put(int32(size))
	}
	put(uint32(exrMagic))
	put(version)

	size := 1
	for _, c := range chans {
		size += len(c.Name) + 1 + 16
	}
	attr("channels", "chlist", size)
	for _, c := range chans {
		h.WriteString(c.Name + "\x00")
		put([]int32{int32(c.Type), 0, 1, 1})
	}
	h.WriteByte(0)
	if e.Chromaticities != [8]float32{} {
		attr("chromaticities", "chromaticities", 32)
		put(e.Chromaticities)
	}
	attr("compression", "compression", 1)
	h.WriteByte(byte(e.Compression))
	attr("dataWindow", "box2i", 16)
	put([]int32{int32(e.Window.Min.X), int32(e.Window.Min.Y), int32(e.Window.Max.X - 1), int32(e.Window.Max.Y - 1)})
	attr("displayWindow", "box2i", 16)
	put([]int32{int32(e.Display.Min.X), int32(e.Display.Min.Y), int32(e.Display.Max.X - 1), int32(e.Display.Max.Y - 1)})
	attr("lineOrder", "lineOrder", 1)
	h.WriteByte(0)
	attr("pixelAspectRatio", "float", 4)
	put(float32(1))
	attr("screenWindowCenter", "v2f", 8)
	put([]float32{0, 0})
	attr("screenWindowWidth", "float", 4)
	put(float32(1))
	names := make([]string, 0, len(e.Text))
	for k := range e.Text {
		names = append(names, k)
	}
	sort.Strings(names)
	for _, k := range names {
		attr(k, "string", len(e.Text[k]))
		h.WriteString(e.Text[k])
	}
	h.WriteByte(0)

	chunks, err := exrChunks(e, chans)
	if err != nil {
		return err
	}
	at := uint64(h.Len() + 8*len(chunks))
	for _, c := range chunks {
		put(at)
		at += uint64(8 + len(c))
	}
	bw := bufio.NewWriterSize(w, 1<<20)
	if _, err := bw.Write(h.Bytes()); err != nil {
		return err
	}
	var head [8]byte
	for i, c := range chunks {
		binary.LittleEndian.PutUint32(head[0:], uint32(int32(e.Window.Min.Y+i*e.Compression.lines())))
		binary.LittleEndian.PutUint32(head[4:], uint32(len(c)))
		if _, err := bw.Write(head[:]); err != nil {
			return err
		}
		if _, err := bw.Write(c); err != nil {
			return err
		}
	}
	return bw.Flush()
}

// exrChunks packs and compresses the blocks of lines on all cores.
func exrChunks(e *EXR, chans []Channel) ([][]byte, error) {
	lines := e.Compression.lines()
	height := e.Window.Dy()
	chunks := make([][]byte, (height+lines-1)/lines)
	var next atomic.Int64
	var wg sync.WaitGroup
	errs := make([]error, runtime.GOMAXPROCS(0))
	for k := range errs {
		wg.Add(1)
		go func() {
			defer wg.Done()
			var raw, re []byte
			var out bytes.Buffer
			z, err := zlib.NewWriterLevel(&out, zlibLevel)
			for err == nil {
				i := int(next.Add(1) - 1)
				if i >= len(chunks) {
					return
				}
				raw = packLines(raw[:0], e, chans, i*lines, min((i+1)*lines, height))
				if e.Compression == NoCompression {
					chunks[i] = bytes.Clone(raw)
					continue
				}
				re = append(re[:0], raw...)
				zipReorder(re, raw)
				out.Reset()
				z.Reset(&out)
				if _, err = z.Write(re); err == nil {
					err = z.Close()
				}
				if out.Len() < len(raw) {
					chunks[i] = bytes.Clone(out.Bytes())
				} else {
					chunks[i] = bytes.Clone(raw) // a block that does not shrink is stored as it is
				}
			}
			errs[k] = err
		}()
	}
	wg.Wait()
	for _, err := range errs {
		if err != nil {
			return nil, err
		}
	}
	return chunks, nil
}

func packLines(dst []byte, e *EXR, chans []Channel, y0, y1 int) []byte {
	width := e.Window.Dx()
	for y := y0; y < y1; y++ {
		for _, c := range chans {
			row := c.Data[y*width : (y+1)*width]
			switch c.Type {
			case Half:
				for _, v := range row {
					dst = binary.LittleEndian.AppendUint16(dst, ToHalf(v))
				}
			case Float:
				for _, v := range row {
					dst = binary.LittleEndian.AppendUint32(dst, math.Float32bits(v))
				}
			default:
				for _, v := range row {
					dst = binary.LittleEndian.AppendUint32(dst, uint32(v))
				}
			}
		}
	}
	return dst
}
