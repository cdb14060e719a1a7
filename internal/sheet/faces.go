package sheet

import (
	_ "embed"
	"sync"
	"unicode"

	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
)

//go:embed fonts/archivo-400.ttf
var regular []byte

//go:embed fonts/archivo-600.ttf
var bold []byte

//go:embed fonts/spline-sans-mono-400.ttf
var mono []byte

//go:embed fonts/droid-sans-fallback.ttf
var eastern []byte

//go:embed fonts/nanum-square.ttf
var hangul []byte

// typeface is a face of print in two weights, as TrueType files.
type typeface struct {
	name          string
	regular, bold []byte
	parsed        func() (*sfnt.Font, error)
}

func newFace(name string, regular, bold []byte) *typeface {
	return &typeface{name, regular, bold, sync.OnceValues(func() (*sfnt.Font, error) { return sfnt.Parse(regular) })}
}

// faces are asked for a letter in this order: ours, one for Greek and Cyrillic, and those for
// the scripts of East Asia. What none has is printed as the empty box of the first.
var faces = []*typeface{
	newFace("text", regular, bold), newFace("other", goregular.TTF, gobold.TTF), newFace("eastern", eastern, eastern), newFace("hangul", hangul, hangul),
}

// monospaced is the face of slugs and checksums.
var monospaced = newFace("mono", mono, mono)

func (f *typeface) of(style string) []byte {
	if style == "B" {
		return f.bold
	}
	return f.regular
}

func (f *typeface) has(r rune) bool {
	v, err := f.parsed()
	if err != nil {
		return false
	}
	i, err := v.GlyphIndex(nil, r)
	return err == nil && i != 0
}

// stretch is a piece of a text that one face has.
type stretch struct {
	face *typeface
	text string
}

// stretches cuts a text where its face changes; first is the face that it is to be in.
// Spaces, and what no face has, go with what is before them.
func stretches(text string, first *typeface) (out []stretch) {
	begins, face := 0, first
	for i, r := range text {
		next := face
		if !unicode.IsSpace(r) && !unicode.IsControl(r) {
			if f := faceFor(r, first); f != nil {
				next = f
			}
		}
		if next != face && i > begins {
			out = append(out, stretch{face, text[begins:i]})
			begins = i
		}
		face = next
	}
	if begins < len(text) {
		out = append(out, stretch{face, text[begins:]})
	}
	return out
}

// faceFor is the face for a letter, nil where none has it.
func faceFor(r rune, first *typeface) *typeface {
	if first.has(r) {
		return first
	}
	for _, f := range faces {
		if f.has(r) {
			return f
		}
	}
	return nil
}
