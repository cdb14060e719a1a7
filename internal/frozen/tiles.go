package frozen

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"io"
	"os"
	"path/filepath"

	"amberproof/core/finish"
	"amberproof/core/imageio"
)

// TileSide is the side of the tiles in which pictures are kept, pixels.
const TileSide = 256

// tileSums are checksums of the head of a file and of its chunks.
func tileSums(path string) ([]string, error) {
	f, t, err := open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close() // only read
	sums := []string{sumOf(t.Head)}
	err = t.Chunks(func(data []byte) { sums = append(sums, sumOf(data)) })
	return sums, err
}

func sumOf(b []byte) string {
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}

func open(path string) (*os.File, *imageio.Tiles, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, nil, fmt.Errorf("the files of the proof are gone from the data folder: %w", err)
	}
	info, err := f.Stat()
	var t *imageio.Tiles
	if err == nil {
		t, err = imageio.OpenTiles(f, info.Size())
	}
	if err != nil {
		f.Close() // only read
		return nil, nil, err
	}
	return f, t, nil
}

// Parts is the picture of a pass, read in parts, each of them checked.
type Parts struct {
	*imageio.Tiles
	io.Closer
	pass *Pass
	// Whole says that the file had to be read whole: it has no tiles.
	Whole bool
}

// Open opens the picture of a pass. One that is kept as scan lines is read whole; the others
// are read no further than is asked for.
func (p *Pass) Open(dir string) (*Parts, error) {
	if len(p.Tiles) == 0 {
		b, err := p.read(dir)
		if err != nil {
			return nil, err
		}
		t, err := imageio.OpenTiles(bytes.NewReader(b), int64(len(b)))
		return &Parts{t, io.NopCloser(nil), p, true}, err
	}
	f, t, err := open(filepath.Join(dir, p.File.File))
	if err != nil {
		return nil, err
	}
	if sumOf(t.Head) != p.Tiles[0] {
		f.Close() // only read
		return nil, ErrDamaged
	}
	t.Check = func(chunk int, data []byte) error {
		if chunk+1 >= len(p.Tiles) || sumOf(data) != p.Tiles[chunk+1] {
			return ErrDamaged
		}
		return nil
	}
	return &Parts{t, f, p, false}, nil
}

// Part is a part of the picture at a size, as Tiles.Read takes it; nil of what lies beyond it.
func (p *Parts) Part(level int, r image.Rectangle) (*finish.Picture, error) {
	if !r.Overlaps(image.Rectangle{Max: p.Size(level)}) {
		return nil, nil
	}
	e, err := p.Read(level, r)
	if err != nil {
		return nil, err
	}
	return p.pass.picture(e), nil
}
