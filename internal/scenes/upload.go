package scenes

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"

	"amberproof/core/importer"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// Upload is a set of files that is coming in. They are kept on disk until their
// import has its turn, so that many who send at once take no memory. Close it
// when done.
type Upload struct {
	dir   string
	lim   importer.Limits
	files []uploaded
	bytes int64
}

type uploaded struct{ name, path string }

// NewUpload makes an empty upload, for somebody who may import what comes: nobody
// else is to fill the disk.
func (s *Service) NewUpload(who identity.Actor) (*Upload, error) {
	if err := s.guard.Any(who, identity.EditScenes); err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp(s.files.Uploads(), "")
	if err != nil {
		return nil, err
	}
	return &Upload{dir: dir, lim: importer.DefaultLimits}, nil
}

// Close removes the files.
func (u *Upload) Close() error { return os.RemoveAll(u.dir) }

// Empty tells whether nothing has come.
func (u *Upload) Empty() bool { return len(u.files) == 0 }

// Add takes a file in; its name may have folders, parted by slashes.
func (u *Upload) Add(name string, r io.Reader) error {
	if len(u.files) >= u.lim.Files {
		return fault.Bad("The upload holds more than %d files; pack them in a zip", u.lim.Files)
	}
	name = strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, "\\", "/")), "/")
	if name == "" || len(name) > 1000 {
		return fault.Bad("A file of the upload has no proper name")
	}
	f := uploaded{name, filepath.Join(u.dir, fmt.Sprint(len(u.files)))}
	out, err := os.OpenFile(f.path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	n, err := io.Copy(out, io.LimitReader(r, u.lim.Bytes-u.bytes+1))
	if err = errors.Join(err, out.Close()); err != nil {
		return err
	}
	if u.bytes += n; u.bytes > u.lim.Bytes {
		return fault.Bad("The files have more than %d MB together", u.lim.Bytes>>20)
	}
	u.files = append(u.files, f)
	return nil
}

// needs is the memory that importing the files may take: the files, and what their
// scene may grow to; of archives, also what is in them.
func (u *Upload) needs() int64 {
	n := u.bytes + u.lim.Budget(u.bytes)
	for _, f := range u.files {
		if f.archive() {
			return n + u.lim.Budget(u.bytes)
		}
	}
	return n
}

func (f *uploaded) archive() bool { return strings.EqualFold(path.Ext(f.name), ".zip") }

// bundle reads the files, archives unpacked.
func (u *Upload) bundle() (importer.Bundle, error) {
	b := importer.Bundle{}
	for _, f := range u.files {
		data, err := os.ReadFile(f.path)
		if err != nil {
			return nil, err
		}
		if f.archive() {
			if err := b.AddZip(data, u.lim); err != nil {
				return nil, err
			}
			continue
		}
		b[f.name] = data
	}
	return b, nil
}
