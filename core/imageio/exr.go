package imageio

import (
	"errors"
	"fmt"
	"image"
	"sort"
)

// Layout of the file after the open OpenEXR file-format description: a magic
// number, a version word, attributes, a table of chunk offsets, chunks.
const (
	exrMagic       = 20000630
	exrVersion     = 2
	exrTiledFlag   = 0x200
	exrLongNames   = 0x400
	exrDeepFlag    = 0x800
	exrPartsFlag   = 0x1000
	exrMaxSide     = 1 << 16
	exrMaxChannels = 1024
)

// ErrFormat is wrapped by every error about the contents of a file.
var ErrFormat = errors.New("unreadable picture file")

func formatErr(format string, a ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrFormat}, a...)...)
}

// PixelType is the storage type of a channel, numbered as in the file.
type PixelType int32

const (
	Uint  PixelType = 0
	Half  PixelType = 1
	Float PixelType = 2
)

func (t PixelType) size() int {
	if t == Half {
		return 2
	}
	return 4
}

// Compression is the lossless method of a file, numbered as in the file.
type Compression byte

const (
	NoCompression Compression = 0
	ZIPS          Compression = 2
	ZIP           Compression = 3
)

func (c Compression) lines() int {
	if c == ZIP {
		return 16
	}
	return 1
}

// Channel is one named plane over the data window, row by row. Data of half
// and uint channels is held as float32 as well.
type Channel struct {
	Name string
	Type PixelType
	Data []float32
}

// EXR is a scan-line picture of one part.
type EXR struct {
	Display, Window image.Rectangle // Max is exclusive, unlike in the file
	Channels        []Channel
	Compression     Compression
	Chromaticities  [8]float32 // all zero: not stated
	Text            map[string]string
}

// Channel finds a channel by name, or returns nil.
func (e *EXR) Channel(name string) *Channel {
	for i := range e.Channels {
		if e.Channels[i].Name == name {
			return &e.Channels[i]
		}
	}
	return nil
}

func (e *EXR) check() error {
	if e.Window.Empty() || e.Display.Empty() {
		return errors.New("exr: the picture has no pixels")
	}
	if len(e.Channels) == 0 {
		return errors.New("exr: the picture has no channels")
	}
	seen := map[string]bool{}
	for _, c := range e.Channels {
		if c.Name == "" || len(c.Name) > 255 {
			return fmt.Errorf("exr: channel name %q must have 1 to 255 bytes", c.Name)
		}
		if seen[c.Name] {
			return fmt.Errorf("exr: channel %q is there twice", c.Name)
		}
		seen[c.Name] = true
		if len(c.Data) != e.Window.Dx()*e.Window.Dy() {
			return fmt.Errorf("exr: channel %q has %d values, the window %v needs %d", c.Name, len(c.Data), e.Window, e.Window.Dx()*e.Window.Dy())
		}
	}
	return nil
}

// sorted returns the channels in the order the file requires: by name.
func (e *EXR) sorted() []Channel {
	s := append([]Channel(nil), e.Channels...)
	sort.Slice(s, func(i, j int) bool { return s[i].Name < s[j].Name })
	return s
}

// zipReorder splits even and odd bytes and stores differences, which makes
// floating-point rows compress well; zipRestore undoes it.
func zipReorder(dst, src []byte) {
	half := (len(src) + 1) / 2
	for i := 0; i < len(src); i += 2 {
		dst[i/2] = src[i]
	}
	for i := 1; i < len(src); i += 2 {
		dst[half+i/2] = src[i]
	}
	p := byte(0)
	for i, v := range dst {
		if i == 0 {
			p = v
			continue
		}
		dst[i] = v - p + 128
		p = v
	}
}

func zipRestore(dst, src []byte) {
	for i := 1; i < len(src); i++ {
		src[i] = src[i-1] + src[i] - 128
	}
	half := (len(src) + 1) / 2
	for i := range dst {
		if i&1 == 0 {
			dst[i] = src[i/2]
		} else {
			dst[i] = src[half+i/2]
		}
	}
}
