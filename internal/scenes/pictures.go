package scenes

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"image/png"
	"os"
	"path"
	"strings"
	"time"

	"amberproof/core/importer"
	"amberproof/core/names"
	"amberproof/core/scene"
	"amberproof/core/shelf"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// PictureFile is a picture that finishes and backings show.
type PictureFile struct {
	SHA256 string `json:"sha256" doc:"Of its file; empty of a picture of the shelf"`
	Name   string `json:"name"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// Pictures lists those of the shelf, then those that were taken in, newest first.
func (s *Service) Pictures(ctx context.Context, who identity.Actor) (out []PictureFile, err error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	for _, p := range shelf.Pictures {
		out = append(out, PictureFile{Name: p, Width: shelf.PictureWidth, Height: shelf.PictureHeight})
	}
	rows, err := s.store.Pictures(ctx)
	for _, r := range rows {
		out = append(out, PictureFile(r))
	}
	return out, err
}

// ImportPictures keeps the pictures of an upload and returns the last.
func (s *Service) ImportPictures(ctx context.Context, who identity.Actor, u *Upload) (v PictureFile, err error) {
	if err := s.guard.Any(who, identity.EditScenes); err != nil {
		return v, err
	}
	for _, f := range u.files {
		st, err := os.Stat(f.path)
		if err != nil {
			return v, err
		}
		done, err := s.turn(ctx, "", st.Size()+importer.DefaultLimits.Budget(st.Size()))
		if err != nil {
			return v, err
		}
		data, err := os.ReadFile(f.path)
		if err == nil {
			v, err = s.importPicture(ctx, who, f.name, data)
		}
		done()
		if err != nil {
			return v, err
		}
	}
	return v, nil
}

func (s *Service) importPicture(ctx context.Context, who identity.Actor, name string, data []byte) (PictureFile, error) {
	name = names.Cut(names.Text(path.Base(name)), mostPictureName)
	img, err := importer.Picture(name, data, importer.DefaultLimits)
	if err != nil {
		return PictureFile{}, fault.Bad("%q: %s", name, strings.TrimPrefix(err.Error(), importer.ErrRefused.Error()+": "))
	}
	sum := sha256.Sum256(data)
	v := store.Picture{SHA256: hex.EncodeToString(sum[:]), Name: name, Width: img.W, Height: img.H}
	staged, err := s.files.StagePicture(v.SHA256, data)
	if err != nil {
		return PictureFile{}, err
	}
	return PictureFile(v), errors.Join(s.store.AddPicture(ctx, who.ID, v, staged.Place), staged.Drop())
}

// mostPictureName is how many bytes of a file's name are kept.
const mostPictureName = 200

// readPicture is read for pictures, within the memory that all imports share.
func (s *Service) readPicture(ctx context.Context, sum string) (*scene.Image, error) {
	data, err := s.files.Picture(sum)
	if err != nil {
		return nil, err
	}
	back, err := s.memory.Take(ctx, importer.DefaultLimits.Budget(int64(len(data))))
	if err != nil {
		return nil, err
	}
	defer back()
	return importer.Picture(sum[:8], data, importer.DefaultLimits)
}

// findPicture is what set-ups find their pictures by.
func (s *Service) findPicture(name, sum string) (*scene.Image, error) {
	if sum == "" {
		return shelf.Picture(name)
	}
	if !isSum(sum) {
		return nil, fault.ErrNotFound
	}
	// A set-up is laid over a scene at once, by those who may hold memory themselves: what
	// cannot be had soon is told as not being there.
	ctx, done := context.WithTimeout(context.Background(), longestFind)
	defer done()
	return s.drawn.Get(ctx, sum)
}

const longestFind = time.Minute

// isSum tells whether a text is a checksum, and no path.
func isSum(text string) bool {
	b, err := hex.DecodeString(text)
	return err == nil && len(b) == sha256.Size
}

// SmallPicture is a picture as large as a list shows it, a PNG.
func (s *Service) SmallPicture(_ context.Context, who identity.Actor, name, sum string) ([]byte, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	img, err := s.findPicture(name, sum)
	if err != nil {
		return nil, fault.ErrNotFound
	}
	var out bytes.Buffer
	err = png.Encode(&out, img.Small(smallPicture))
	return out.Bytes(), err
}

// smallPicture is the longer side of a picture in a list, pixels.
const smallPicture = 96
