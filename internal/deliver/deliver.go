// Package deliver writes the files of a run, with names from the ticket's
// template and a manifest beside them.
package deliver

import (
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"iter"
	"path/filepath"

	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/internal/ticket"
	"amberproof/internal/whole"
)

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
func Write(ctx context.Context, dir string, frames iter.Seq2[Picture, error], w ticket.Words, m *Manifest) error {
	err := whole.Folder(dir, func(making string) error {
		m.describe()
		for p, err := range frames {
			if err == nil {
				err = writeFrame(ctx, making, &p, w, m)
			}
			if err != nil {
				return err
			}
		}
		_, _, err := whole.File(filepath.Join(making, ticket.ManifestName), func(out io.Writer) error {
			_, err := out.Write(ticket.Encode(m))
			return err
		})
		return err
	})
	if err != nil {
		err = fmt.Errorf("writing the delivery: %w", err)
	}
	return err
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
func writeFile(dir string, f *File, encode func(io.Writer) error) (err error) {
	f.Bytes, f.SHA256, err = whole.File(filepath.Join(dir, filepath.FromSlash(f.Path)), encode)
	return err
}
