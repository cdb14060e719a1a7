package scenes

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
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

// PictureFile is a picture that was taken in: one that lights scenes, or one that finishes and
// backings show.
type PictureFile struct {
	SHA256  string `json:"sha256" doc:"Of its file; empty of a picture of the shelf"`
	Project int64  `json:"project" doc:"It is seen by the people of; 0: by the whole studio"`
	Name    string `json:"name"`
	Width   int    `json:"width"`
	Height  int    `json:"height"`
}

func fileOf(v *store.Picture) PictureFile {
	return PictureFile{v.SHA256, v.Project, v.Name, v.Width, v.Height}
}

// Pictures lists those of the shelf, then those that were taken in for finishes and backings,
// newest first: the studio's, and those of one project or of all of who asks.
func (s *Service) Pictures(ctx context.Context, who identity.Actor, project int64) (out []PictureFile, err error) {
	for _, p := range shelf.Pictures {
		out = append(out, PictureFile{Name: p, Width: shelf.PictureWidth, Height: shelf.PictureHeight})
	}
	taken, err := s.taken(ctx, who, project, store.ForFinishes)
	return append(out, taken...), err
}

// taken lists pictures that were taken in, each once although several projects have it.
func (s *Service) taken(ctx context.Context, who identity.Actor, project int64, kind store.PictureKind) ([]PictureFile, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.Pictures(ctx, store.Within(of.Only(project)), kind)
	out, have := []PictureFile{}, map[string]bool{}
	for i := range rows {
		if !have[rows[i].SHA256] {
			have[rows[i].SHA256] = true
			out = append(out, fileOf(&rows[i]))
		}
	}
	return out, err
}

// sees tells whether somebody may see a picture that was taken in; one that only projects of
// others have is as if it were not there.
func (s *Service) sees(ctx context.Context, who identity.Actor, kind store.PictureKind, sum string) error {
	of, err := s.guard.Seen(who)
	if err != nil {
		return err
	}
	rows, err := s.store.PicturesSummed(ctx, store.Within(of), kind, sum)
	if err == nil && len(rows) == 0 {
		err = fmt.Errorf("the picture: %w", fault.ErrNotFound)
	}
	return err
}

// ImportPictures keeps pictures for finishes and backings and returns the last.
func (s *Service) ImportPictures(ctx context.Context, who identity.Actor, project int64, u *Upload) (PictureFile, error) {
	return s.importEach(ctx, who, project, u, importer.DefaultLimits.Budget, s.importPicture)
}

// importEach keeps the pictures of an upload, for the people of a project or, with 0, for the
// whole studio, and returns the last. budget is what reading one takes, bytes.
func (s *Service) importEach(ctx context.Context, who identity.Actor, project int64, u *Upload, budget func(size int64) int64,
	keep func(ctx context.Context, who identity.Actor, project int64, name string, data []byte) (PictureFile, error)) (v PictureFile, err error) {
	if err := s.mayImport(who, project); err != nil {
		return v, err
	}
	for _, f := range u.files {
		st, err := os.Stat(f.path)
		if err != nil {
			return v, err
		}
		done, err := s.turn(ctx, "", st.Size()+budget(st.Size()))
		if err != nil {
			return v, err
		}
		data, err := os.ReadFile(f.path)
		if err == nil {
			v, err = keep(ctx, who, project, f.name, data)
		}
		done()
		if err != nil {
			return v, err
		}
	}
	return v, nil
}

// mayImport tells whether somebody may take pictures in for a project or, with 0, for the studio.
func (s *Service) mayImport(who identity.Actor, project int64) error {
	if project == 0 {
		return s.guard.Any(who, identity.EditScenes)
	}
	return s.guard.In(who, identity.EditScenes, project)
}

func (s *Service) importPicture(ctx context.Context, who identity.Actor, project int64, name string, data []byte) (PictureFile, error) {
	name = names.Cut(names.Text(path.Base(name)), mostPictureName)
	img, err := importer.Picture(name, data, importer.DefaultLimits)
	if err != nil {
		return PictureFile{}, fault.Bad("%q: %s", name, strings.TrimPrefix(err.Error(), importer.ErrRefused.Error()+": "))
	}
	return s.take(ctx, who, store.Picture{Kind: store.ForFinishes, Project: project, Name: name, Width: img.W, Height: img.H}, data, s.files.StagePicture)
}

// take keeps the file and the row of a picture.
func (s *Service) take(ctx context.Context, who identity.Actor, v store.Picture, data []byte,
	stage func(sum string, data []byte) (*store.Staged, error)) (PictureFile, error) {
	sum := sha256.Sum256(data)
	v.SHA256 = hex.EncodeToString(sum[:])
	staged, err := stage(v.SHA256, data)
	if err != nil {
		return PictureFile{}, err
	}
	return fileOf(&v), errors.Join(s.store.AddPicture(ctx, who.ID, v, staged.Place), staged.Drop())
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
func (s *Service) SmallPicture(ctx context.Context, who identity.Actor, name, sum string) ([]byte, error) {
	err := s.guard.Any(who, identity.See)
	if err == nil && sum != "" {
		err = s.sees(ctx, who, store.ForFinishes, sum)
	}
	if err != nil {
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
