package imageio

import (
	"errors"
	"fmt"
	"image"
	"sort"

	"amberproof/core/colour"
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

// formatErr is an ErrFormat that says what is wrong with the file, in words that
// begin after a colon.
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

// size is the number of bytes of a value in the file.
func (t PixelType) size() int {
	if t == Half {
		return 2
	}
	return 4
}

// Compression is the method of a part, numbered as in the file. Those not
// named lossy give back what was written, bit for bit.
type Compression byte

const (
	NoCompression Compression = 0
	RLE           Compression = 1
	ZIPS          Compression = 2
	ZIP           Compression = 3
	PIZ           Compression = 4
	DWAA          Compression = 8 // lossy; read only
	DWAB          Compression = 9 // lossy; read only
)

// lines is the number of scan lines of a chunk.
func (c Compression) lines() int {
	switch c {
	case ZIP:
		return 16
	case PIZ, DWAA:
		return 32
	case DWAB:
		return 256
	}
	return 1
}

// Channel is one named plane over the data window, row by row. Data holds half
// and float channels, Ints those of type Uint.
type Channel struct {
	Name string
	Type PixelType
	Data []float32
	Ints []uint32
}

// values is the number of values held, of whichever type.
func (c *Channel) values() int {
	if c.Type == Uint {
		return len(c.Ints)
	}
	return len(c.Data)
}

// EXR is a flat picture: a file of one part, or a part of a file of several.
type EXR struct {
	Name            string          // of the part; needed where there are several
	Display, Window image.Rectangle // Max is exclusive, unlike in the file
	Channels        []Channel
	Compression     Compression
	Chromaticities  colour.Primaries // all zero: not stated
	Text            map[string]string

	tile image.Point // zero of scan lines
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

// check refuses what could not be written, or not be read again: the format itself
// has no way to say that a picture is empty or that two channels share a name.
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
		if c.values() != e.Window.Dx()*e.Window.Dy() {
			return fmt.Errorf("exr: channel %q has %d values, the window %v needs %d", c.Name, c.values(), e.Window, e.Window.Dx()*e.Window.Dy())
		}
	}
	if e.Compression > PIZ {
		return fmt.Errorf("exr: compression %d can be read, but not written", e.Compression)
	}
	return nil
}

// sorted returns the channels in the order the file requires: by name.
func (e *EXR) sorted() []Channel {
	s := append([]Channel(nil), e.Channels...)
	sort.Slice(s, func(i, j int) bool { return s[i].Name < s[j].Name })
	return s
}

// grid is the number of chunks across and down.
func (e *EXR) grid() (nx, ny int) {
	if e.tile.X > 0 {
		return (e.Window.Dx() + e.tile.X - 1) / e.tile.X, (e.Window.Dy() + e.tile.Y - 1) / e.tile.Y
	}
	return 1, (e.Window.Dy() + e.Compression.lines() - 1) / e.Compression.lines()
}

// chunks is the number of chunks.
func (e *EXR) chunks() int {
	nx, ny := e.grid()
	return nx * ny
}

// chunk is what the i-th chunk says of where it lies, and the part of the window that it is,
// from the window's corner. level counts the sizes of a tiled picture, from 0 for the full one.
func (e *EXR) chunk(i, level int) (at []int, part image.Rectangle) {
	if e.tile.X > 0 {
		nx, _ := e.grid()
		at = []int{i % nx, i / nx, level, level}
		part = image.Rectangle{Max: e.tile}.Add(image.Pt(at[0]*e.tile.X, at[1]*e.tile.Y))
	} else {
		y := i * e.Compression.lines()
		at = []int{e.Window.Min.Y + y}
		part = image.Rect(0, y, e.Window.Dx(), y+e.Compression.lines())
	}
	return at, part.Intersect(image.Rectangle{Max: e.Window.Size()})
}
