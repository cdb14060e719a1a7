// Package scenes holds what people do with scenes: take them in, name their
// views, put them away, and see them at a moment of an animation. Environment
// pictures belong here too.
package scenes

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/internal/budget"
	"amberproof/internal/cache"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store       *store.Store
	files       *store.Files
	guard       identity.Guard
	log         *slog.Logger
	memory      *budget.Bytes // shared by all that read or draw scenes
	line        *budget.Line  // of imports
	places      places
	scenes      *cache.Cache[string, *scene.Scene]
	hdrs        *cache.Cache[string, *imageio.HDR]
	drawn       *cache.Cache[string, *scene.Image]
	shaded      *cache.Cache[drawing, []byte]
	fresh       chan drawing // to be made ahead
	drawingLine *budget.Line // of drawings: each takes all cores
	bench       *budget.Line // of preflights
	checks      checks
	busy        func() bool
	// contents is held for moments, while the files of a scene and its row come or go together.
	contents sync.Mutex
	reports  *cache.Cache[checked, []preflight.Finding]
	blocks   *cache.Cache[checked, blocked]
}

// Options of a service.
type Options struct {
	Store  *store.Store
	Files  *store.Files
	Guard  identity.Guard
	Log    *slog.Logger
	Shares budget.Shares // of the memory
	Busy   func() bool   // whether a run goes, to which checks leave most of the machine
}

// importers is how many imports are read at a time.
const importers = 2

// New makes a service.
func New(o Options) *Service {
	s := &Service{store: o.Store, files: o.Files, guard: o.Guard, log: o.Log, busy: o.Busy, memory: budget.NewBytes(o.Shares.Work),
		line: budget.NewLine(importers), fresh: make(chan drawing, mostFresh), drawingLine: budget.NewLine(1), bench: budget.NewLine(1)}
	// Scenes and pictures are named by their content, so what is open never has to be
	// looked after: it can only be right or gone.
	s.scenes = cache.New(o.Shares.Scenes, func(v *scene.Scene) int64 { return v.Bytes() }, s.read)
	s.hdrs = cache.New(o.Shares.Surrounds, func(v *imageio.HDR) int64 { return int64(len(v.Pix)) * 4 }, s.readSurround)
	s.drawn = cache.New(o.Shares.Pictures, func(v *scene.Image) int64 { return int64(len(v.Pix)) }, s.readPicture)
	s.reports = cache.New(reportBytes, func(f []preflight.Finding) int64 { return 1024 * int64(len(f)+1) }, s.check)
	s.blocks = cache.New(reportBytes, func(b blocked) int64 { return 1024 * int64(len(b.parts)+1) }, s.findBlocked)
	s.shaded = cache.New(shadedBytes, func(b []byte) int64 { return int64(len(b)) }, s.draw)
	return s
}

// read reads a scene that is kept, within the memory that all imports share: many that
// are opened at one moment wait for each other.
func (s *Service) read(ctx context.Context, sum string) (*scene.Scene, error) {
	size, err := s.files.SceneBytes(sum)
	if err != nil {
		return nil, err
	}
	back, err := s.memory.Take(ctx, size+importer.DefaultLimits.Budget(size))
	if err != nil {
		return nil, err
	}
	defer back()
	b, err := s.files.Scene(sum)
	if err != nil {
		return nil, err
	}
	v, err := importer.Import(ctx, b, importer.DefaultLimits)
	if err == nil {
		v.Pictures = s.findPicture
	}
	return v, err
}

// readSurround is read for environment pictures.
func (s *Service) readSurround(ctx context.Context, sum string) (*imageio.HDR, error) {
	size, err := s.files.SurroundBytes(sum)
	if err != nil {
		return nil, err
	}
	back, err := s.memory.Take(ctx, size+imageio.DefaultLimits.Budget(size))
	if err != nil {
		return nil, err
	}
	defer back()
	data, err := s.files.Surround(sum)
	if err != nil {
		return nil, err
	}
	return imageio.ReadSurround(data, imageio.DefaultLimits)
}

// MaySee tells whether somebody may see what is here.
func (s *Service) MaySee(who identity.Actor) error { return s.guard.Any(who, identity.See) }

// Scene is an imported scene.
type Scene struct {
	ID        int64        `json:"id"`
	Project   int64        `json:"project"`
	Name      string       `json:"name"`
	File      string       `json:"file" doc:"Name of the main file"`
	SHA256    string       `json:"sha256"`
	Bytes     int64        `json:"bytes"`
	Triangles int          `json:"triangles"`
	Parts     int          `json:"parts"`
	LeftOut   []scene.Note `json:"leftOut" nullable:"false"`
	Created   time.Time    `json:"created"`
	PutAway   bool         `json:"putAway"`
	Jobs      int          `json:"jobs" doc:"Jobs on it"`
	Delivered int          `json:"delivered" doc:"Runs on it that have delivered"`
}

// sceneOf is a row as people see it.
func sceneOf(r store.Scene) Scene {
	if r.LeftOut == nil {
		r.LeftOut = []scene.Note{}
	}
	return Scene(r)
}

// List lists scenes, newest first: those put away, or those that are not.
func (s *Service) List(ctx context.Context, who identity.Actor, project int64, putAway bool) ([]Scene, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.Scenes(ctx, store.Within(of.Only(project)), putAway)
	out := make([]Scene, len(rows))
	for i, r := range rows {
		out[i] = sceneOf(r)
	}
	return out, err
}

// Open opens a scene: its row and its contents as imported, which must not be changed.
func (s *Service) Open(ctx context.Context, who identity.Actor, id int64) (Scene, *scene.Scene, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.SceneKind, id); err != nil {
		return Scene{}, nil, err
	}
	row, err := s.store.Scene(ctx, id)
	if err != nil {
		return Scene{}, nil, err
	}
	v, err := s.scenes.Get(ctx, row.SHA256)
	return sceneOf(row), v, err
}

// SubjectOf is the scene that a resolved ticket is of, with the ticket's own set-up.
func (s *Service) SubjectOf(ctx context.Context, r *ticket.Resolved) (*scene.Scene, error) {
	v, err := s.scenes.Get(ctx, r.Scene.SHA256)
	if err != nil {
		return nil, err
	}
	return r.Subject(ctx, v)
}

// Rename gives a scene another name.
func (s *Service) Rename(ctx context.Context, who identity.Actor, id int64, name string) (Scene, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, id); err != nil {
		return Scene{}, err
	}
	name, err := ticket.NameOf("The scene", name)
	if err != nil {
		return Scene{}, err
	}
	if err := s.store.RenameScene(ctx, id, name); err != nil {
		return Scene{}, err
	}
	row, err := s.store.Scene(ctx, id)
	return sceneOf(row), err
}

// PutAway takes a scene out of the lists, or back into them. Jobs on it go on.
func (s *Service) PutAway(ctx context.Context, who identity.Actor, id int64, away bool) (Scene, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, id); err != nil {
		return Scene{}, err
	}
	if err := s.store.PutSceneAway(ctx, id, away); err != nil {
		return Scene{}, err
	}
	row, err := s.store.Scene(ctx, id)
	return sceneOf(row), err
}

// Remove removes a scene for good. One with jobs is kept: they are removed first.
func (s *Service) Remove(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.Remove, identity.SceneKind, id); err != nil {
		return err
	}
	s.contents.Lock()
	defer s.contents.Unlock()
	orphan, err := s.store.RemoveScene(ctx, id)
	if errors.Is(err, fault.ErrState) {
		return fmt.Errorf("there are jobs on the scene; remove them first, or put the scene away: %w", err)
	}
	if err != nil || orphan == "" {
		return err
	}
	s.scenes.Drop(orphan)
	return s.files.RemoveScene(orphan)
}
