// Package frozen keeps what is put up in a round: its pictures and all that they came about
// by, in a folder under the checksum of that. It outlives run, job and scene, and cannot
// change without its name being wrong.
package frozen

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"path/filepath"

	"amberproof/core/finish"
	"amberproof/core/imageio"
	"amberproof/core/surface"
	"amberproof/internal/fault"
	"amberproof/internal/ticket"
	"amberproof/internal/whole"
)

// Version is that of the document's form; earlier ones are read.
const Version = 3

// Proof says what was put up.
type Proof struct {
	Version     int             `json:"version"`
	Scene       string          `json:"scene"`
	Job         string          `json:"job"`
	Run         int             `json:"run"` // its number within the job
	Frame       int             `json:"frame"`
	Slug        string          `json:"slug"`
	Renderer    int             `json:"renderer"`    // revision of the renderer
	Film        string          `json:"filmSamples"` // SHA-256 of the samples of every tile
	Fingerprint string          `json:"fingerprint"` // of the resolved ticket
	Window      [4]int          `json:"window"`      // computed part of the frame: left, top, right, bottom in pixels
	Passes      []Pass          `json:"passes"`
	Lights      []string        `json:"lights,omitempty"` // names; proofs up to form 2 do not know
	Places      *File           `json:"places,omitempty"` // where its surfaces are; proofs of form 1 have none
	Resolved    ticket.Resolved `json:"resolved"`
}

// Pass is a picture of a proof, in a file of half floats as it is shown before its display
// transform, and small as it is displayed.
type Pass struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Data  bool   `json:"data"` // numbers that are not light: no display transform
	File
	Small       string `json:"small"`
	SmallSHA256 string `json:"smallSha256,omitempty"` // proofs of form 1 do not know, and have nothing for a screen
	Screen      *File  `json:"screen,omitempty"`
	// Tiles are checksums of what can be read by itself: the head of the file and its chunks.
	// Files of proofs up to form 2 are scan lines and have none.
	Tiles []string `json:"tiles,omitempty"`
}

// File is a file of a proof.
type File struct {
	File   string `json:"file"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Shown is a pass with its picture.
type Shown struct {
	Key, Title string
	Picture    *finish.Picture
	Errors     []float32 // standard errors of its pixels; nil: not known
}

// document is the name of the file that says what a proof is.
const document = "proof.json"

// Write writes a proof into a folder of root named by its checksum, which it returns; its
// Passes are filled in from the pictures, and Places from places, which may be nil. The same
// proof being there already is harmless.
func Write(ctx context.Context, root string, p *Proof, pictures []Shown, places *surface.Map) (sum string, err error) {
	err = whole.Named(root, func(making string) (string, error) {
		p.Version, p.Passes, p.Places = Version, []Pass{}, nil
		for i, v := range pictures {
			if err := ctx.Err(); err != nil {
				return "", err
			}
			pass, err := p.write(making, i+1, &v)
			if err != nil {
				return "", err
			}
			p.Passes = append(p.Passes, pass)
		}
		if places != nil {
			f := File{File: "places.exr"}
			if f.Bytes, f.SHA256, err = whole.File(filepath.Join(making, f.File), places.Write); err != nil {
				return "", err
			}
			p.Places = &f
		}
		doc := ticket.Encode(p)
		h := sha256.Sum256(doc)
		sum = hex.EncodeToString(h[:])
		_, err := put(making, document, doc)
		return sum, err
	})
	if errors.Is(err, whole.ErrExists) {
		err = nil
	}
	return sum, err
}

// write writes the n-th picture.
func (p *Proof) write(making string, n int, v *Shown) (Pass, error) {
	pass := Pass{Key: v.Key, Title: v.Title, Data: v.Picture.Data, Small: fmt.Sprintf("%d-small.png", n)}
	pass.File.File = fmt.Sprintf("%d.exr", n)
	var err error
	pass.Bytes, pass.SHA256, err = whole.File(filepath.Join(making, pass.File.File), func(w io.Writer) error {
		return imageio.WriteTiledEXR(w, exr(p, v), TileSide)
	})
	if err == nil {
		pass.Tiles, err = tileSums(filepath.Join(making, pass.File.File))
	}
	if err != nil {
		return pass, err
	}
	// Of the halves that are kept, and not of what they were rounded from: every look at
	// a proof is one at the same numbers.
	kept, err := Picture(making, &pass)
	if err != nil {
		return pass, err
	}
	shown := p.Resolved.Ticket.Finish().Shown(kept)
	small, err1 := PNG(Smaller(shown, SmallSide))
	screen, err2 := JPEG(Smaller(shown, ScreenSide))
	if err := errors.Join(err1, err2); err != nil {
		return pass, err
	}
	kept1, err1 := put(making, pass.Small, small)
	kept2, err2 := put(making, fmt.Sprintf("%d-screen.jpg", n), screen)
	pass.SmallSHA256, pass.Screen = kept1.SHA256, &kept2
	return pass, errors.Join(err1, err2)
}

func put(dir, name string, b []byte) (f File, err error) {
	f.File = name
	f.Bytes, f.SHA256, err = whole.File(filepath.Join(dir, name), func(w io.Writer) error { _, err := w.Write(b); return err })
	return f, err
}

// exr lays a picture out as a file.
func exr(p *Proof, shown *Shown) *imageio.EXR {
	v := shown.Picture
	e := &imageio.EXR{Compression: imageio.ZIP, Text: map[string]string{"proofFingerprint": p.Fingerprint}}
	e.Window = image.Rect(p.Window[0], p.Window[1], p.Window[2], p.Window[3])
	e.Display.Max = p.Resolved.Ticket.Size()
	add := func(name string, plane []float32) {
		if plane != nil {
			e.Channels = append(e.Channels, imageio.Channel{Name: name, Type: imageio.Half, Data: limited(plane)})
		}
	}
	if v.G == nil {
		add("Y", v.R)
	} else {
		add("R", v.R)
		add("G", v.G)
		add("B", v.B)
	}
	add("A", v.A)
	add(errorChannel, shown.Errors)
	return e
}

// limited is a plane whose values are no more than halves can be.
func limited(plane []float32) []float32 {
	out := make([]float32, len(plane))
	for i, v := range plane {
		out[i] = max(-imageio.LargestHalf, min(v, imageio.LargestHalf))
	}
	return out
}

// Read reads what a proof is, from its folder under root. Who changed its file is told.
func Read(root, sum string) (*Proof, error) {
	b, err := os.ReadFile(filepath.Join(root, sum, document))
	if err != nil {
		return nil, fmt.Errorf("the files of the proof are gone from the data folder: %w", err)
	}
	if h := sha256.Sum256(b); hex.EncodeToString(h[:]) != sum {
		return nil, fmt.Errorf("the document of proof %s was changed: %w", sum, ErrDamaged)
	}
	var p Proof
	if err := json.Unmarshal(b, &p); err != nil {
		return nil, err
	}
	if p.Version < 1 || p.Version > Version {
		return nil, fmt.Errorf("proof %s has form %d; this program knows 1 to %d", sum, p.Version, Version)
	}
	return &p, nil
}

// ErrDamaged says that a file is not the one that was put up.
var ErrDamaged = errors.New("a file of the proof is not the one that was put up")

// Pass finds a pass by its key; the first one with none. fault.ErrNotFound if there is no such.
func (p *Proof) Pass(key string) (*Pass, error) {
	for i := range p.Passes {
		if key == "" || p.Passes[i].Key == key {
			return &p.Passes[i], nil
		}
	}
	return nil, fmt.Errorf("pass %q of the proof: %w", key, fault.ErrNotFound)
}

// read reads a file from a proof's folder, and checks it where its checksum is known.
func (f *File) read(dir string) ([]byte, error) {
	b, err := os.ReadFile(filepath.Join(dir, f.File))
	if err != nil {
		return nil, fmt.Errorf("the files of the proof are gone from the data folder: %w", err)
	}
	if h := sha256.Sum256(b); f.SHA256 != "" && hex.EncodeToString(h[:]) != f.SHA256 {
		return nil, ErrDamaged
	}
	return b, nil
}

// ReadPlaces reads where the surfaces of a proof are; nil of a proof that does not know.
func (p *Proof) ReadPlaces(dir string) (*surface.Map, error) {
	if p.Places == nil {
		return nil, nil
	}
	b, err := p.Places.read(dir)
	if err != nil {
		return nil, err
	}
	return surface.Read(b)
}

// errorChannel keeps the standard errors of a picture's pixels.
const errorChannel = "error.Y"

// Picture reads the picture of a pass from a proof's folder, and checks it.
func Picture(dir string, pass *Pass) (*finish.Picture, error) {
	v, _, err := Measured(dir, pass)
	return v, err
}

// Measured is Picture with the standard errors of its pixels, in scene-linear light; nil where
// they are not known.
func Measured(dir string, pass *Pass) (*finish.Picture, []float32, error) {
	b, err := pass.read(dir)
	if err != nil {
		return nil, nil, err
	}
	e, err := imageio.ReadEXR(b, imageio.DefaultLimits)
	if err != nil {
		return nil, nil, err
	}
	var errs []float32
	if c := e.Channel(errorChannel); c != nil {
		errs = c.Data
	}
	return pass.picture(e), errs, nil
}

// picture takes the planes of a picture, or of a part of it, from its file.
func (p *Pass) picture(e *imageio.EXR) *finish.Picture {
	v := &finish.Picture{W: e.Window.Dx(), H: e.Window.Dy(), Data: p.Data}
	for name, plane := range map[string]*[]float32{"R": &v.R, "Y": &v.R, "G": &v.G, "B": &v.B, "A": &v.A} {
		if c := e.Channel(name); c != nil {
			*plane = c.Data
		}
	}
	return v
}
