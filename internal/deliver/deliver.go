// Package deliver writes the files of a run, with names from the ticket's
// template and a manifest beside them.
package deliver

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/trace"
	"amberproof/internal/job"
)

// ManifestName is the manifest's file name within a delivery.
const ManifestName = "manifest.json"

// ErrExists is returned when the folder holds a delivery already: files are
// never overwritten.
var ErrExists = errors.New("there is a delivery already")

// Manifest says what a delivery is and how it came about.
type Manifest struct {
	Software    string       `json:"software"`
	Renderer    int          `json:"renderer"` // revision: the same one gives the same pixels
	Fingerprint string       `json:"fingerprint"`
	Started     time.Time    `json:"started"`
	Finished    time.Time    `json:"finished"`
	Seconds     float64      `json:"seconds"`
	Samples     float64      `json:"samplesPerPixel"`
	Noise       float64      `json:"noisePercent"`
	Complete    bool         `json:"complete"` // false: stopped and kept before the target
	ColourSpace string       `json:"colourSpace"`
	Files       []File       `json:"files"`
	Resolved    job.Resolved `json:"resolved"`
}

// File is one delivered file.
type File struct {
	job.Planned
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Write writes all files of a picture into dir, which must not exist yet. They
// are written beside it and moved into place at the end, so that a delivery is
// whole or absent. m's Files is filled in.
func Write(dir string, f *film.Film, list []passes.Pass, w job.Words, m *Manifest) (err error) {
	if _, err := os.Stat(dir); err == nil {
		return fmt.Errorf("%w in %s", ErrExists, dir)
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	t := &m.Resolved.Ticket
	planned, faults := job.Files(t, w, list)
	if len(faults) > 0 {
		return errors.New(faults[0].Message)
	}
	part := dir + ".part"
	if err := os.RemoveAll(part); err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(fmt.Errorf("writing the delivery: %w", err), os.RemoveAll(part))
		}
	}()
	byKey := map[string]*passes.Pass{}
	for i := range list {
		byKey[list[i].Key] = &list[i]
	}
	m.ColourSpace = map[string]string{
		"rec709": "scene-linear, Rec.709 primaries, D65 white; PNG: sRGB", "acescg": "scene-linear, ACEScg (AP1 primaries); PNG: sRGB",
	}[t.Output.Primaries]
	m.Renderer = trace.Revision
	m.Files = []File{}
	for _, p := range planned {
		var chosen []*passes.Pass
		for _, k := range p.Passes {
			chosen = append(chosen, byKey[k])
		}
		file, err := writeFile(part, p, func(out io.Writer) error {
			if p.Format == "png" {
				bits := 8
				if t.Output.PNG == "16" {
					bits = 16
				}
				return imageio.EncodePNG(out, chosen[0].Picture(f), bits, t.Look())
			}
			return imageio.WriteEXRParts(out, parts(f, chosen, t, m))
		})
		if err != nil {
			return err
		}
		m.Files = append(m.Files, file)
	}
	if err := os.WriteFile(filepath.Join(part, ManifestName), job.Encode(m), 0o644); err != nil {
		return err
	}
	return os.Rename(part, dir)
}

func writeFile(dir string, p job.Planned, encode func(io.Writer) error) (f File, err error) {
	path := filepath.Join(dir, filepath.FromSlash(p.Path))
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return f, err
	}
	out, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return f, err
	}
	h := sha256.New()
	n := &counter{}
	if err := errors.Join(encode(io.MultiWriter(out, h, n)), out.Close()); err != nil {
		return f, err
	}
	return File{Planned: p, Bytes: n.n, SHA256: hex.EncodeToString(h.Sum(nil))}, nil
}

type counter struct{ n int64 }

func (c *counter) Write(b []byte) (int, error) { c.n += int64(len(b)); return len(b), nil }
