// Package deliver writes the files of a run, with names from the ticket's
// template and a manifest beside them.
package deliver

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"io"
	"iter"
	"os"
	"path/filepath"

	"golang.org/x/sys/unix"

	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/internal/ticket"
)

// ErrExists is returned when the folder is there already: files are never
// overwritten.
var ErrExists = errors.New("there is a delivery already")

// Making is what the names of folders begin with in which deliveries are being
// written. One that a dead process left can be removed.
const Making = ".making-"

// Picture is a frame to be written: what is known of it, its films and its passes.
type Picture struct {
	Frame
	Films  passes.Films
	Passes []passes.Pass
}

// Write writes all files of a run's frames into dir, which must not be there yet; m says
// what they are; its Frames, its Files and what is measured are filled in. Frames are asked
// for one after the other, so that one film is in memory at a time. The ticket's window may
// be smaller than the films': then it is a crop. Everything is written into a folder beside
// dir, flushed to the disk, and moved into place at the end: a delivery is whole or absent,
// whoever else writes one at the same time.
func Write(ctx context.Context, dir string, frames iter.Seq2[Picture, error], w ticket.Words, m *Manifest) (err error) {
	if _, err := os.Lstat(dir); err == nil {
		return fmt.Errorf("%w in %s", ErrExists, dir)
	}
	if err := os.MkdirAll(filepath.Dir(dir), 0o755); err != nil {
		return err
	}
	making, err := os.MkdirTemp(filepath.Dir(dir), Making)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(fmt.Errorf("writing the delivery: %w", err), os.RemoveAll(making))
		}
	}()
	if err := os.Chmod(making, 0o755); err != nil { // made for its owner alone
		return err
	}
	m.describe()
	for p, err := range frames {
		if err == nil {
			err = writeFrame(ctx, making, &p, w, m)
		}
		if err != nil {
			return err
		}
	}
	if err := writeSynced(filepath.Join(making, ticket.ManifestName), ticket.Encode(m)); err != nil {
		return err
	}
	return place(making, dir)
}

// Still is the frame of a still, as frames are written.
func Still(f Frame, films passes.Films, list []passes.Pass) iter.Seq2[Picture, error] {
	return func(yield func(Picture, error) bool) { yield(Picture{f, films, list}, nil) }
}

// writeFrame writes the files of one frame, and notes it in the manifest.
func writeFrame(ctx context.Context, dir string, f *Picture, w ticket.Words, m *Manifest) error {
	t := &m.Resolved.Ticket
	if window := t.Window(); !window.In(f.Films.Window) {
		return fmt.Errorf("the ticket asks for the pixels %v of a picture that has %v", window, f.Films.Window)
	}
	w.Frame = f.Number
	planned, faults := ticket.Files(t, w, f.Passes)
	if len(faults) > 0 {
		return errors.New(faults[0].Message)
	}
	f.measure(f.Films, t)
	byKey := map[string]*passes.Pass{}
	for i := range f.Passes {
		byKey[f.Passes[i].Key] = &f.Passes[i]
	}
	for _, p := range planned {
		if err := ctx.Err(); err != nil {
			return err
		}
		var chosen []*passes.Pass
		for _, k := range p.Passes {
			chosen = append(chosen, byKey[k])
		}
		file := File{Planned: p, Frame: f.Number}
		if err := writeFile(dir, &file, func(out io.Writer) error {
			format := imageio.FormatOf(p.Format)
			if format.Display {
				return format.Write(out, imageio.Content{Shown: displayed(f.Films, chosen[0], t, p.Crop)})
			}
			e := parts(f.Films, chosen, t, m)
			for _, part := range e {
				file.Limited += part.limited
			}
			return format.Write(out, imageio.Content{Parts: exrs(e)})
		}); err != nil {
			return err
		}
		m.Files = append(m.Files, file)
	}
	m.Frames = append(m.Frames, f.Frame)
	return nil
}

// place flushes a folder to the disk and moves it where nothing is yet.
func place(making, dir string) error {
	if err := syncFolders(making); err != nil {
		return err
	}
	if err := unix.Renameat2(unix.AT_FDCWD, making, unix.AT_FDCWD, dir, unix.RENAME_NOREPLACE); err != nil {
		if errors.Is(err, unix.EEXIST) {
			err = fmt.Errorf("%w in %s", ErrExists, dir)
		}
		return err
	}
	return syncFolder(filepath.Dir(dir))
}

// displayed is a pass as the ticket has it shown: whole, or the crop of a name.
func displayed(f passes.Films, p *passes.Pass, t *ticket.Ticket, crop string) image.Image {
	cut := t.Window()
	if c := t.CropNamed(crop); c != nil {
		cut = c.In(t.Size())
	}
	if pic := p.Picture(f, cut); t.Output.PNG == "16" {
		return t.Finish().Shown16(pic)
	} else {
		return t.Finish().Shown(pic)
	}
}

// writeFile writes one file and fills in its size and checksum.
func writeFile(dir string, f *File, encode func(io.Writer) error) error {
	path := filepath.Join(dir, filepath.FromSlash(f.Path))
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	out, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	h := sha256.New()
	n := &counter{}
	if err := errors.Join(encode(io.MultiWriter(out, h, n)), out.Sync(), out.Close()); err != nil {
		return err
	}
	f.Bytes, f.SHA256 = n.n, hex.EncodeToString(h.Sum(nil))
	return nil
}

func writeSynced(path string, b []byte) error {
	out, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = out.Write(b)
	return errors.Join(err, out.Sync(), out.Close())
}

// syncFolders makes the names of all files in a tree outlast a crash.
func syncFolders(root string) error {
	return filepath.WalkDir(root, func(p string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		return syncFolder(p)
	})
}

func syncFolder(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

type counter struct{ n int64 }

func (c *counter) Write(b []byte) (int, error) { c.n += int64(len(b)); return len(b), nil }
