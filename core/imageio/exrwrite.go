package imageio

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"io"
	"runtime"
	"sort"
	"sync/atomic"

	"amberproof/core/colour"
	"amberproof/core/parallel"
)

// zlibLevel trades a few percent of size for several times the speed.
const zlibLevel = 4

// WriteEXR writes e as a file of one part, as scan lines from the top.
func WriteEXR(w io.Writer, e *EXR) error { return WriteEXRParts(w, []*EXR{e}) }

// WriteEXRParts writes one file; several parts need names of their own and
// share the display window. Channels are stored sorted by name as the format
// demands.
func WriteEXRParts(w io.Writer, parts []*EXR) error {
	if len(parts) == 0 {
		return errors.New("exr: a file needs a part")
	}
	several := len(parts) > 1
	version := uint32(exrVersion)
	if several {
		version |= exrPartsFlag
	}
	seen := map[string]bool{}
	for _, e := range parts {
		if err := e.check(); err != nil {
			return err
		}
		if several && (e.Name == "" || seen[e.Name] || e.Display != parts[0].Display) {
			return fmt.Errorf("exr: part %q needs a name of its own and the display window of the others", e.Name)
		}
		seen[e.Name] = true
		for _, c := range e.Channels {
			if len(c.Name) > 31 {
				version |= exrLongNames
			}
		}
	}
	h := &exrHead{}
	h.put(uint32(exrMagic))
	h.put(version)
	chunks := make([][]exrChunk, len(parts))
	for i, e := range parts {
		var err error
		if chunks[i], err = exrChunks([]*EXR{e}); err != nil {
			return err
		}
		h.part(e, several, len(chunks[i]))
	}
	if several {
		h.WriteByte(0)
	}
	return h.write(w, chunks, several)
}

// write writes the headers, the offsets of the chunks of each part, and the chunks. Offsets
// count from the start of the file, so all chunks are packed before the first byte of them
// is written: their bytes, and not their values, wait in memory.
func (h *exrHead) write(w io.Writer, chunks [][]exrChunk, several bool) error {
	lead := func(c *exrChunk) int {
		n := 4*len(c.at) + 4
		if several {
			n += 4
		}
		return n
	}
	n := 0
	for _, list := range chunks {
		n += len(list)
	}
	at := uint64(h.Len() + 8*n)
	for _, list := range chunks {
		for i := range list {
			h.put(at)
			at += uint64(lead(&list[i]) + len(list[i].data))
		}
	}
	bw := bufio.NewWriterSize(w, 1<<20) // it keeps its first error
	_, _ = bw.Write(h.Bytes())
	for p, list := range chunks {
		for _, c := range list {
			var head []byte
			if several {
				head = binary.LittleEndian.AppendUint32(head, uint32(p))
			}
			for _, v := range c.at {
				head = binary.LittleEndian.AppendUint32(head, uint32(int32(v)))
			}
			_, _ = bw.Write(binary.LittleEndian.AppendUint32(head, uint32(len(c.data))))
			_, _ = bw.Write(c.data)
		}
	}
	return bw.Flush()
}

// exrHead gathers the headers of a file.
type exrHead struct{ bytes.Buffer }

func (h *exrHead) put(v any) { _ = binary.Write(h, binary.LittleEndian, v) } // a Buffer never fails

// attr begins an attribute, whose value of so many bytes is to follow.
func (h *exrHead) attr(name, kind string, size int) {
	h.WriteString(name + "\x00" + kind + "\x00")
	h.put(int32(size))
}

// text writes an attribute of type string, which has no zero at its end.
func (h *exrHead) text(name, s string) {
	h.attr(name, "string", len(s))
	h.WriteString(s)
}

// part writes one header. Attributes stand in alphabetical order, the texts last.
func (h *exrHead) part(e *EXR, several bool, chunks int) {
	chans := e.sorted()
	size := 1
	for _, c := range chans {
		size += len(c.Name) + 1 + 16
	}
	h.attr("channels", "chlist", size)
	for _, c := range chans {
		h.WriteString(c.Name + "\x00")
		h.put([]int32{int32(c.Type), 0, 1, 1})
	}
	h.WriteByte(0)
	if e.Chromaticities != (colour.Primaries{}) {
		h.attr("chromaticities", "chromaticities", 32)
		h.put(e.Chromaticities)
	}
	if several {
		h.attr("chunkCount", "int", 4)
		h.put(int32(chunks))
	}
	h.attr("compression", "compression", 1)
	h.WriteByte(byte(e.Compression))
	h.attr("dataWindow", "box2i", 16)
	h.put([]int32{int32(e.Window.Min.X), int32(e.Window.Min.Y), int32(e.Window.Max.X - 1), int32(e.Window.Max.Y - 1)})
	h.attr("displayWindow", "box2i", 16)
	h.put([]int32{int32(e.Display.Min.X), int32(e.Display.Min.Y), int32(e.Display.Max.X - 1), int32(e.Display.Max.Y - 1)})
	h.attr("lineOrder", "lineOrder", 1)
	h.WriteByte(0)
	if several {
		h.text("name", e.Name)
	}
	h.attr("pixelAspectRatio", "float", 4)
	h.put(float32(1))
	h.attr("screenWindowCenter", "v2f", 8)
	h.put([]float32{0, 0})
	h.attr("screenWindowWidth", "float", 4)
	h.put(float32(1))
	if e.tile.X > 0 {
		h.attr("tiles", "tiledesc", 9)
		h.put([]int32{int32(e.tile.X), int32(e.tile.Y)})
		h.WriteByte(mipMapped | roundedUp)
	}
	if several {
		h.text("type", "scanlineimage")
	}
	names := make([]string, 0, len(e.Text))
	for k := range e.Text {
		names = append(names, k)
	}
	sort.Strings(names)
	for _, k := range names {
		h.text(k, e.Text[k])
	}
	h.WriteByte(0)
}

// exrChunk is a packed part of a picture, and the numbers that say where it lies.
type exrChunk struct {
	at   []int
	data []byte
}

// exrChunks packs the blocks of a picture's sizes on all cores; one of scan lines has one size.
func exrChunks(sizes []*EXR) ([]exrChunk, error) {
	type job struct {
		of    *EXR
		chans []Channel
		part  image.Rectangle
	}
	var jobs []job
	var chunks []exrChunk
	for level, e := range sizes {
		chans := e.sorted()
		for i := range e.chunks() {
			at, part := e.chunk(i, level)
			jobs = append(jobs, job{e, chans, part})
			chunks = append(chunks, exrChunk{at: at})
		}
	}
	var next atomic.Int64
	errs := make([]error, runtime.GOMAXPROCS(0))
	err := parallel.Workers(len(errs), func(k int) {
		var raw []byte
		p := packer{how: sizes[0].Compression}
		for errs[k] == nil {
			i := int(next.Add(1) - 1)
			if i >= len(jobs) {
				return
			}
			j := &jobs[i]
			raw = packBlock(raw[:0], j.of.Window.Dx(), j.chans, j.part)
			var out []byte
			out, errs[k] = p.pack(raw, block{j.part.Dx(), j.part.Dy(), j.chans})
			chunks[i].data = bytes.Clone(out)
		}
	})
	return chunks, cmp.Or(err, cmp.Or(errs...))
}
