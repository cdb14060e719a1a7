// Package app holds the use cases: what a person can do, in their words.
package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"path"
	"path/filepath"
	"strings"
	"sync"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/scene"
	"amberproof/internal/job"
	"amberproof/internal/store"
)

// BadInputError is something wrong with what a person gave, in words for them.
type BadInputError struct {
	Message string
	Faults  []job.Fault
}

func (e *BadInputError) Error() string { return e.Message }

func bad(format string, a ...any) error {
	return &BadInputError{Message: fmt.Sprintf(format, a...)}
}

// App is safe for concurrent use.
type App struct {
	Store   *store.Store
	Files   *store.Files
	Version string
	log     *slog.Logger
	hub     *Hub
	runner  *runner
	scenes  *cache[string, *scene.Scene]
	films   *cache[int64, *Proof]
	hdrs    *cache[string, *imageio.HDR]
}

// New makes an app; threads is how many threads render. Call Work to let it
// render queued runs.
func New(st *store.Store, files *store.Files, version string, threads int, log *slog.Logger) *App {
	a := &App{Store: st, Files: files, Version: version, log: log, hub: newHub()}
	a.scenes = newCache(3, func(sum string) (*scene.Scene, error) {
		b, err := files.Scene(sum)
		if err != nil {
			return nil, err
		}
		return importer.Import(context.Background(), b, importer.DefaultLimits)
	})
	a.hdrs = newCache(3, func(sum string) (*imageio.HDR, error) {
		data, err := files.Surround(sum)
		if err != nil {
			return nil, err
		}
		return imageio.ReadSurround(data, imageio.DefaultLimits)
	})
	a.films = newCache(2, a.loadProof)
	a.runner = newRunner(a, threads)
	return a
}

// Hub tells what happens to runs.
func (a *App) Hub() *Hub { return a.hub }

// nameOf checks a name that a person gave.
func nameOf(what, name string) (string, error) {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 120 || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }) {
		return "", bad("%s needs a name of 1 to 120 bytes without line breaks", what)
	}
	return name, nil
}

// ImportScene reads a scene from files and keeps it. Nothing is kept of files
// that are refused.
func (a *App) ImportScene(ctx context.Context, project int64, b importer.Bundle) (store.Scene, error) {
	s, err := importer.Import(ctx, b, importer.DefaultLimits)
	if err != nil {
		if errors.Is(err, importer.ErrRefused) {
			return store.Scene{}, bad("%s", err.Error())
		}
		return store.Scene{}, err
	}
	main, err := b.Main()
	if err != nil {
		return store.Scene{}, bad("%s", err.Error())
	}
	sum := b.Checksum()
	var size int64
	for _, d := range b {
		size += int64(len(d))
	}
	if err := a.Files.PutScene(sum, b); err != nil {
		return store.Scene{}, err
	}
	base := path.Base(main)
	row := store.Scene{
		Project: project, Name: strings.TrimSuffix(base, path.Ext(base)), File: base, SHA256: sum, Bytes: size,
		Triangles: s.Triangles(), Parts: len(s.Parts), LeftOut: s.LeftOut,
	}
	if row.LeftOut == nil {
		row.LeftOut = []scene.Note{}
	}
	if len(row.Name) > 120 {
		row.Name = row.Name[:120]
	}
	a.scenes.put(sum, s)
	id, err := a.Store.AddScene(ctx, row, job.ViewsOf(s))
	if err != nil {
		return store.Scene{}, err
	}
	a.log.Info("scene imported", "scene", id, "file", base, "triangles", row.Triangles, "leftOut", len(row.LeftOut))
	return a.Store.Scene(ctx, id)
}

// ImportSurround keeps an environment picture.
func (a *App) ImportSurround(ctx context.Context, name string, data []byte) (store.Surround, error) {
	name = filepath.Base(name)
	if ext := strings.ToLower(filepath.Ext(name)); ext != ".hdr" && ext != ".exr" || len(name) > 200 {
		return store.Surround{}, bad("%q is neither a Radiance .hdr nor an OpenEXR .exr picture; environment pictures come as one of these", name)
	}
	p, err := imageio.ReadSurround(data, imageio.DefaultLimits)
	if err != nil {
		return store.Surround{}, bad("%q: %s", name, err.Error())
	}
	if p.W < p.H {
		return store.Surround{}, bad("%q is %d x %d; an environment picture is about twice as wide as high", name, p.W, p.H)
	}
	sum := sha256.Sum256(data)
	v := store.Surround{SHA256: hex.EncodeToString(sum[:]), Name: name, Width: p.W, Height: p.H}
	if err := a.Files.PutSurround(v.SHA256, data); err != nil {
		return v, err
	}
	return v, a.Store.AddSurround(ctx, v)
}

// Scene opens a scene's row and contents.
func (a *App) Scene(ctx context.Context, id int64) (store.Scene, *scene.Scene, error) {
	row, err := a.Store.Scene(ctx, id)
	if err != nil {
		return row, nil, err
	}
	s, err := a.scenes.get(row.SHA256)
	return row, s, err
}

// Pose is a scene and its views at a moment of an animation; without one as saved.
func (a *App) Pose(ctx context.Context, id int64, animation string, moment float64) (*scene.Scene, []store.View, error) {
	_, s, err := a.Scene(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	views, err := a.Store.Views(ctx, id)
	if err != nil || animation == "" {
		return s, views, err
	}
	at := s.MotionNamed(animation)
	if at < 0 {
		return nil, nil, bad("The scene has no animation %q", animation)
	}
	for i := range views {
		views[i].Camera = views[i].Camera.Posed(s, at, moment)
	}
	return s.At(at, float32(moment)), views, nil
}

// SaveView saves a new view of a scene.
func (a *App) SaveView(ctx context.Context, sceneID int64, name string, c job.Camera) (store.View, error) {
	name, err := nameOf("The view", name)
	if err != nil {
		return store.View{}, err
	}
	if err := checkCamera(c); err != nil {
		return store.View{}, err
	}
	if _, err := a.Store.Scene(ctx, sceneID); err != nil {
		return store.View{}, err
	}
	v, err := a.Store.AddView(ctx, store.View{Scene: sceneID, Name: name, Camera: c})
	if errors.Is(err, store.ErrTaken) {
		return v, bad("There is a view %q already; choose another name", name)
	}
	return v, err
}

func checkCamera(c job.Camera) error {
	var sum float32
	for _, v := range c.Matrix {
		sum += v - v
	}
	if sum != 0 || !(c.YFov >= 0 && c.YFov < 3.1) || !(c.YMag >= 0 && c.YMag < 1e6) || c.YFov == 0 && c.YMag == 0 || len(c.Follows) > 200 {
		return bad("The camera is not a proper one; move the view and save again")
	}
	return nil
}

// CreateJob makes a job for a scene, with a ticket or the defaults.
func (a *App) CreateJob(ctx context.Context, sceneID int64, name string, t *job.Ticket) (store.Job, error) {
	name, err := nameOf("The job", name)
	if err != nil {
		return store.Job{}, err
	}
	row, err := a.Store.Scene(ctx, sceneID)
	if err != nil {
		return store.Job{}, err
	}
	if t == nil {
		d := job.New()
		t = &d
	}
	t.Tidy()
	if f := job.Check(t); len(f) > 0 {
		return store.Job{}, &BadInputError{"The ticket has faults", f}
	}
	if t.View.Name == "" {
		views, err := a.Store.Views(ctx, sceneID)
		if err != nil {
			return store.Job{}, err
		}
		if len(views) > 0 {
			t.View.Name = views[0].Name
		}
	}
	id, err := a.Store.AddJob(ctx, store.Job{Project: row.Project, Scene: sceneID, Name: name, Ticket: *t})
	if err != nil {
		return store.Job{}, err
	}
	return a.Store.Job(ctx, id)
}

// SaveTicket saves a job's ticket over the version it was made from. Faults
// are told, and nothing is saved.
func (a *App) SaveTicket(ctx context.Context, id, version int64, t job.Ticket) (store.Job, error) {
	t.Tidy()
	if f := job.Check(&t); len(f) > 0 {
		return store.Job{}, &BadInputError{"The ticket has faults", f}
	}
	if _, err := a.Store.SaveTicket(ctx, id, version, t); err != nil {
		return store.Job{}, err
	}
	return a.Store.Job(ctx, id)
}

// cache keeps the few last used of something that is costly to load.
type cache[K comparable, V any] struct {
	mu    sync.Mutex
	size  int
	load  func(K) (V, error)
	order []K
	have  map[K]V
}

func newCache[K comparable, V any](size int, load func(K) (V, error)) *cache[K, V] {
	return &cache[K, V]{size: size, load: load, have: map[K]V{}}
}

// get loads under the lock: two askers for the same thing load it once.
func (c *cache[K, V]) get(k K) (V, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if v, ok := c.have[k]; ok {
		c.touch(k)
		return v, nil
	}
	v, err := c.load(k)
	if err == nil {
		c.add(k, v)
	}
	return v, err
}

func (c *cache[K, V]) put(k K, v V) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.add(k, v)
}

func (c *cache[K, V]) drop(k K) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.have, k)
	for i, o := range c.order {
		if o == k {
			c.order = append(c.order[:i], c.order[i+1:]...)
			break
		}
	}
}

func (c *cache[K, V]) add(k K, v V) {
	c.have[k] = v
	c.touch(k)
	for len(c.order) > c.size {
		delete(c.have, c.order[0])
		c.order = c.order[1:]
	}
}

func (c *cache[K, V]) touch(k K) {
	for i, o := range c.order {
		if o == k {
			c.order = append(c.order[:i], c.order[i+1:]...)
			break
		}
	}
	c.order = append(c.order, k)
}
