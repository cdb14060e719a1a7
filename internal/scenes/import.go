package scenes

import (
	"context"
	"errors"
	"path"
	"strings"
	"sync"

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
