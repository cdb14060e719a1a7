package scenes

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"strings"

	"amberproof/core/imageio"
	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// ImportSurrounds keeps the environment pictures of an upload and returns the last.
func (s *Service) ImportSurrounds(ctx context.Context, who identity.Actor, project int64, u *Upload) (PictureFile, error) {
	return s.importEach(ctx, who, project, u, imageio.DefaultLimits.Budget, s.ImportSurround)
}

// ImportSurround keeps an environment picture for the people of a project or, with 0, for the
// whole studio.
func (s *Service) ImportSurround(ctx context.Context, who identity.Actor, project int64, name string, data []byte) (PictureFile, error) {
	if err := s.mayImport(who, project); err != nil {
		return PictureFile{}, err
	}
	name = names.Text(path.Base(name))
	if ext := strings.ToLower(filepath.Ext(name)); ext != ".hdr" && ext != ".exr" || len(name) > 200 {
		return PictureFile{}, fault.Bad("%q is neither a Radiance .hdr nor an OpenEXR .exr picture with a name of at most "+
			"200 bytes; environment pictures come as one of these", names.Cut(name, 80))
	}
	p, err := imageio.ReadSurround(data, imageio.DefaultLimits)
	if err != nil {
		return PictureFile{}, fault.Bad("%q: %s", name, err.Error())
	}
	// A portrait wrapped around a scene is a mistake in the choice of the file.
	if p.W < p.H {
		return PictureFile{}, fault.Bad("%q is %d x %d; an environment picture is about twice as wide as high", name, p.W, p.H)
	}
	return s.take(ctx, who, store.Picture{Kind: store.ForSurrounds, Project: project, Name: name, Width: p.W, Height: p.H}, data, s.files.StageSurround)
}

// Surrounds lists environment pictures, newest first: the studio's, and those of one project
// or of all of who asks.
func (s *Service) Surrounds(ctx context.Context, who identity.Actor, project int64) ([]PictureFile, error) {
	return s.taken(ctx, who, project, store.ForSurrounds)
}

// SeesSurround tells whether somebody may see an environment picture.
func (s *Service) SeesSurround(ctx context.Context, who identity.Actor, sha256 string) error {
	return s.sees(ctx, who, store.ForSurrounds, sha256)
}

// Pin fills in the checksum of the environment picture that a ticket names, so that another
// file of its name does not take its place: that of the newest of its name that a project or
// the studio has.
func (s *Service) Pin(ctx context.Context, project int64, t *ticket.Ticket) error {
	p := &t.Stage.Surround.Picture
	if p.Name == "" {
		p.SHA256 = ""
		return nil
	}
	if p.SHA256 != "" {
		return nil
	}
	all, err := s.store.PicturesNamed(ctx, store.Within{Some: []int64{project}}, store.ForSurrounds, p.Name)
	if err == nil && len(all) > 0 {
		p.SHA256 = all[0].SHA256
	}
	return err
}

// Picture opens the environment picture that a pinned ticket names; nil without one.
func (s *Service) Picture(ctx context.Context, t *ticket.Ticket) (*imageio.HDR, error) {
	p := &t.Stage.Surround.Picture
	if !t.Stage.Surround.On || p.Name == "" {
		p.SHA256 = "" // what is not looked at makes no other picture
		return nil, nil
	}
	wrong := func(says string) error {
		return fault.Ticket([]fault.Fault{fault.At("stage.surround.picture", says)})
	}
	if p.SHA256 == "" {
		return nil, wrong("There is no environment picture " + p.Name + "; upload it or choose another")
	}
	v, err := s.hdrs.Get(ctx, p.SHA256)
	if errors.Is(err, os.ErrNotExist) {
		return nil, wrong("The environment picture " + p.Name + " is not here any more; upload it again")
	}
	return v, err
}

// Surround reads an environment picture by its checksum; fault.ErrNotFound where it is not.
func (s *Service) Surround(ctx context.Context, sha256 string) (*imageio.HDR, error) {
	v, err := s.hdrs.Get(ctx, sha256)
	if errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("the environment picture: %w", fault.ErrNotFound)
	}
	return v, err
}
