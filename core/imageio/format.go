package imageio

import (
	"image"
	"image/png"
	"io"
)

// Format is a kind of file that pictures are written as. All that is known of a format
// stands in its line of Formats.
type Format struct {
	Key    string // names it in plans and manifests
	Ending string // of file names, without a dot
	// Display is set where it holds pictures as they are displayed, and not scene-linear
	// values.
	Display bool
	// Layers is set where one file takes several passes.
	Layers bool
	// PixelBytes is the memory that writing takes beside the film, for each pixel of so
	// many channels.
	PixelBytes func(channels int) int64
	Write      func(w io.Writer, c Content) error
}

// Content is what a file is made of: parts of scene-linear values, or a displayed picture.
type Content struct {
	Parts []*EXR
	Shown image.Image
}

// EXRFormat is OpenEXR: planes, and as much again at most for what is compressed of them.
var EXRFormat = Format{
	Key: "exr", Ending: "exr", Layers: true,
	PixelBytes: func(channels int) int64 { return 8 * int64(channels) },
	Write:      func(w io.Writer, c Content) error { return WriteEXRParts(w, c.Parts) },
}

// PNGFormat is PNG of 8 or 16 bits a channel: planes, and the picture of up to eight bytes a pixel.
var PNGFormat = Format{
	Key: "png", Ending: "png", Display: true,
	PixelBytes: func(channels int) int64 { return 4*int64(channels) + 8 },
	Write:      func(w io.Writer, c Content) error { return WritePNG(w, c.Shown) },
}

// Formats are all formats that pictures are written as.
var Formats = []*Format{&EXRFormat, &PNGFormat}

// FormatOf is the format of a key; nil where there is none.
func FormatOf(key string) *Format {
	for _, f := range Formats {
		if f.Key == key {
			return f
		}
	}
	return nil
}

// WritePNG writes a displayed picture, as many bits a channel as it has.
func WritePNG(w io.Writer, shown image.Image) error {
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	return enc.Encode(w, shown)
}
