package scenes

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/names"
	"amberproof/core/scene"
	"amberproof/internal/budget"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Waiting is where an import stands.
type Waiting struct {
	Known bool    `json:"known" doc:"Whether there is such an import; it ends with its answer"`
	Ahead int     `json:"ahead" doc:"Imports before it; -1 while it is read"`
	Step  string  `json:"step" enum:",unpacking,finishes,shapes,finer,keeping" doc:"What is being done; empty while it waits"`
	Share float64 `json:"share" doc:"Of the step that is done, 0 to 1"`
}

// Steps of an import beside those of reading the scene.
const (
	unpacking = "unpacking"
	keeping   = "keeping"
)

// imported is where an import stands: in the line, then at a step.
type imported struct {
	place *budget.Place
	step  string
	share float64
}

// places finds the imports that wait by the word that their sender gave them.
type places struct {
	mu sync.Mutex
	by map[string]*imported
}

// set remembers where the import of a word stands, or with nil forgets it. Without a word
// nobody asks.
func (p *places) set(word string, at *budget.Place) {
	if word == "" {
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.by == nil {
		p.by = map[string]*imported{}
	}
	if at == nil {
		delete(p.by, word)
	} else {
		p.by[word] = &imported{place: at}
	}
}

// at remembers what is being done for an import.
func (p *places) at(word, step string, share float64) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if i := p.by[word]; i != nil {
		i.step, i.share = step, share
	}
}

// Waiting tells where the import stands that was sent with a word.
func (s *Service) Waiting(who identity.Actor, word string) (Waiting, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return Waiting{}, err
	}
	s.places.mu.Lock()
	defer s.places.mu.Unlock()
	if i, ok := s.places.by[word]; ok {
		return Waiting{true, i.place.Ahead(), i.step, i.share}, nil
	}
	return Waiting{}, nil
}

// turn waits until files of so many bytes can be read: for a place at the head
// of the line, then for memory.
func (s *Service) turn(ctx context.Context, word string, bytes int64) (done func(), err error) {
	at := s.line.Join()
	s.places.set(word, at)
	defer func() {
		if err != nil {
			s.places.set(word, nil)
		}
	}()
	leave, err := s.admitted(ctx, at, bytes)
	if err != nil {
		return nil, err
	}
	return func() { leave(); s.places.set(word, nil) }, nil
}

// admitted waits for a place at the head of its line and then for so many bytes: the
// other way round, small files would overtake a large one for ever.
func (s *Service) admitted(ctx context.Context, at *budget.Place, bytes int64) (done func(), err error) {
	leave, err := at.Wait(ctx)
	if err != nil {
		return nil, err
	}
	back, err := s.memory.Take(ctx, bytes)
	if err != nil {
		leave()
		return nil, err
	}
	return func() { back(); leave() }, nil
}

// Import reads a scene from uploaded files and keeps it. Nothing is kept of files
// that are refused. word is how Waiting finds it; it may be empty.
func (s *Service) Import(ctx context.Context, who identity.Actor, project int64, u *Upload, word string) (Scene, error) {
	if err := s.guard.In(who, identity.EditScenes, project); err != nil {
		return Scene{}, err
	}
	done, err := s.turn(ctx, word, u.needs())
	if err != nil {
		return Scene{}, err
	}
	defer done()
	s.places.at(word, unpacking, 0)
	b, err := u.bundle()
	if err != nil {
		return Scene{}, refused(err)
	}
	ctx = importer.Watched(ctx, func(step importer.Step, share float64) { s.places.at(word, string(step), share) })
	return s.importBundle(ctx, who, project, b, u.lim.Packed(u.bytes), func() { s.places.at(word, keeping, 0) })
}

// ImportBundle is Import of files that are in memory already.
func (s *Service) ImportBundle(ctx context.Context, who identity.Actor, project int64, b importer.Bundle) (Scene, error) {
	if err := s.guard.In(who, identity.EditScenes, project); err != nil {
		return Scene{}, err
	}
	return s.importBundle(ctx, who, project, b, importer.DefaultLimits, func() {})
}

// importBundle reads a scene and keeps it; read is called in between.
func (s *Service) importBundle(ctx context.Context, who identity.Actor, project int64, b importer.Bundle, lim importer.Limits, read func()) (Scene, error) {
	v, err := importer.Import(ctx, b, lim)
	if err != nil {
		return Scene{}, refused(err)
	}
	read()
	main, err := b.Main()
	if err != nil {
		return Scene{}, refused(err)
	}
	row := rowOf(v, b, main)
	row.Project = project
	// Files are put beside their place first and moved there within the transaction that
	// writes the rows: cut off anywhere, there is a scene with its files or none.
	staged, err := s.files.StageScene(row.SHA256, b)
	if err != nil {
		return Scene{}, err
	}
	views := ticket.ViewsOf(v)
	s.contents.Lock()
	id, err := s.store.AddScene(ctx, who.ID, row, views, staged.Place)
	s.contents.Unlock()
	if err := errors.Join(err, staged.Drop()); err != nil {
		return Scene{}, err
	}
	v.Pictures = s.findPicture
	s.scenes.Put(row.SHA256, v)
	s.drawAhead(row.SHA256, views)
	s.log.Info("scene imported", "scene", id, "file", row.File, "triangles", row.Triangles, "leftOut", len(row.LeftOut))
	row, err = s.store.Scene(ctx, id)
	return sceneOf(row), err
}

// rowOf describes a scene for its row.
func rowOf(v *scene.Scene, b importer.Bundle, main string) store.Scene {
	var size int64
	for _, d := range b {
		size += int64(len(d))
	}
	file := names.Cut(names.Text(path.Base(main)), ticket.MostName)
	name := strings.TrimSpace(strings.TrimSuffix(file, path.Ext(file)))
	if name == "" {
		name = "Scene"
	}
	left := v.LeftOut
	if left == nil {
		left = []scene.Note{}
	}
	return store.Scene{Name: name, File: file, SHA256: b.Checksum(), Bytes: size, Triangles: v.Triangles(), Parts: len(v.Parts), LeftOut: left}
}

// refused makes a person's error of one about the contents of files.
func refused(err error) error {
	if errors.Is(err, importer.ErrRefused) {
		return fault.Bad("%s", err.Error())
	}
	return err
}

// Surround is an environment picture.
type Surround struct {
	SHA256 string `json:"sha256"`
	Name   string `json:"name"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// ImportSurrounds keeps the environment pictures of an upload and returns the last.
func (s *Service) ImportSurrounds(ctx context.Context, who identity.Actor, u *Upload) (v Surround, err error) {
	for _, f := range u.files {
		st, err := os.Stat(f.path)
		if err != nil {
			return v, err
		}
		done, err := s.turn(ctx, "", st.Size()+imageio.DefaultLimits.Budget(st.Size()))
		if err != nil {
			return v, err
		}
		data, err := os.ReadFile(f.path)
		if err == nil {
			v, err = s.ImportSurround(ctx, who, f.name, data)
		}
		done()
		if err != nil {
			return v, err
		}
	}
	return v, nil
}

// ImportSurround keeps an environment picture.
func (s *Service) ImportSurround(ctx context.Context, who identity.Actor, name string, data []byte) (Surround, error) {
	if err := s.guard.Any(who, identity.EditScenes); err != nil {
		return Surround{}, err
	}
	name = names.Text(path.Base(name))
	if ext := strings.ToLower(filepath.Ext(name)); ext != ".hdr" && ext != ".exr" || len(name) > 200 {
		return Surround{}, fault.Bad("%q is neither a Radiance .hdr nor an OpenEXR .exr picture with a name of at most "+
			"200 bytes; environment pictures come as one of these", names.Cut(name, 80))
	}
	p, err := imageio.ReadSurround(data, imageio.DefaultLimits)
	if err != nil {
		return Surround{}, fault.Bad("%q: %s", name, err.Error())
	}
	// A portrait wrapped around a scene is a mistake in the choice of the file.
	if p.W < p.H {
		return Surround{}, fault.Bad("%q is %d x %d; an environment picture is about twice as wide as high", name, p.W, p.H)
	}
	sum := sha256.Sum256(data)
	v := store.Surround{SHA256: hex.EncodeToString(sum[:]), Name: name, Width: p.W, Height: p.H}
	staged, err := s.files.StageSurround(v.SHA256, data)
	if err != nil {
		return Surround{}, err
	}
	return Surround(v), errors.Join(s.store.AddSurround(ctx, who.ID, v, staged.Place), staged.Drop())
}

// Surrounds lists all environment pictures, newest first.
func (s *Service) Surrounds(ctx context.Context, who identity.Actor) ([]Surround, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	rows, err := s.store.Surrounds(ctx)
	out := make([]Surround, len(rows))
	for i, v := range rows {
		out[i] = Surround(v)
	}
	return out, err
}

// Picture opens the environment picture that a ticket names, and pins it: its
// checksum is filled in, so that another file of its name does not take its
// place. nil without one.
func (s *Service) Picture(ctx context.Context, t *ticket.Ticket) (*imageio.HDR, error) {
	if err := s.Pin(ctx, t); err != nil {
		return nil, err
	}
	p := &t.Stage.Surround.Picture
	if !t.Stage.Surround.On || p.SHA256 == "" {
		p.SHA256 = ""
		return nil, nil
	}
	v, err := s.hdrs.Get(ctx, p.SHA256)
	if errors.Is(err, os.ErrNotExist) {
		return nil, fault.Ticket([]fault.Fault{fault.At("stage.surround.picture", "The environment picture "+p.Name+" is not here any more; upload it again")})
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

// Pin fills in the checksum of the environment picture that a ticket names: that
// of the newest of its name.
func (s *Service) Pin(ctx context.Context, t *ticket.Ticket) error {
	p := &t.Stage.Surround.Picture
	if p.Name == "" {
		p.SHA256 = ""
		return nil
	}
	if p.SHA256 != "" {
		return nil
	}
	all, err := s.store.SurroundsNamed(ctx, p.Name)
	if err != nil {
		return err
	}
	if len(all) > 0 {
		p.SHA256 = all[0].SHA256
		return nil
	}
	if !t.Stage.Surround.On {
		return nil
	}
	return fault.Ticket([]fault.Fault{fault.At("stage.surround.picture", "There is no environment picture "+p.Name+"; upload it or choose another")})
}
