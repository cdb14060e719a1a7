package proofs

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"sync"

	"amberproof/core/film"
	"amberproof/core/trace"
	"amberproof/internal/budget"
	"amberproof/internal/cache"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
)

// Service opens proofs. It is safe for concurrent use.
type Service struct {
	store  *store.Store
	files  *store.Files
	guard  identity.Guard
	scenes *scenes.Service

	films    *cache.Cache[frame, *Proof]
	memory   int64
	pictures *cache.Cache[wanted, []byte]
	cleans   *cache.Cache[cleaned, *film.Film]
	turn     turn                           // held while a picture is made
	cleaning func(run int64, share float64) // see OnCleaning
	pace     pace

	mu   sync.Mutex
	live *Proof // of the frame that is rendered now
}

// frame names a frame of a run.
type frame struct {
	run    int64
	number int
}

// pictureBytes is how much of pictures is kept, packed as PNG.
const pictureBytes = 96 << 20

// New makes a service that keeps films open within its shares of the memory.
func New(st *store.Store, files *store.Files, guard identity.Guard, sc *scenes.Service, m budget.Shares) *Service {
	s := &Service{store: st, files: files, guard: guard, scenes: sc, memory: m.Films, cleaning: func(int64, float64) {}}
	s.films = cache.New(m.Films, func(p *Proof) int64 { return film.Bytes(p.Film.Window, p.Film.Layout) }, s.load)
	s.cleans = cache.New(m.Cleaned, func(f *film.Film) int64 { return film.Bytes(f.Window, f.Layout) }, s.clean)
	s.pictures = cache.New(pictureBytes, func(b []byte) int64 { return int64(len(b)) + 200 }, s.make)
	return s
}

// OnCleaning has f told what share of a run's rendered frame has its noise taken out, by any
// goroutine. It is set before the service is used.
func (s *Service) OnCleaning(f func(run int64, share float64)) { s.cleaning = f }

// Live shows a frame while it is rendered, until Ended.
func (s *Service) Live(p *Proof) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.live = p
	s.films.Drop(frame{p.Run, p.Frame})
}

// Ended says that nothing is added to the frames of a run any more.
func (s *Service) Ended(run int64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.live != nil && s.live.Run == run {
		s.live = nil
	}
	s.films.DropAll(func(k frame) bool { return k.run == run })
}

// Busy tells whether a frame is being rendered.
func (s *Service) Busy() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.live != nil && !s.live.rendered.Load()
}

// going tells whether it is a certain one.
func (s *Service) going(k frame) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.live != nil && s.live.Run == k.run && s.live.Frame == k.number && !s.live.rendered.Load()
}

// Open opens the picture of a frame as far as it is; fault.ErrNotFound before it
// has any sample.
func (s *Service) Open(ctx context.Context, who identity.Actor, run int64, number int) (*Proof, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.RunKind, run); err != nil {
		return nil, err
	}
	return s.Film(ctx, run, number)
}

// Film is Open without asking, for whoever delivers the frame.
func (s *Service) Film(ctx context.Context, run int64, number int) (*Proof, error) {
	s.mu.Lock()
	live := s.live
	s.mu.Unlock()
	if live != nil && live.Run == run && live.Frame == number {
		return live, nil
	}
	return s.films.Get(ctx, frame{run, number})
}

func (s *Service) load(ctx context.Context, k frame) (*Proof, error) {
	run, err := s.store.Run(ctx, k.run)
	if err != nil {
		return nil, err
	}
	path := s.files.Film(k.run, k.number)
	if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("the picture of run %d: %w; it has no samples", k.run, fault.ErrNotFound)
	}
	v, err := s.scenes.SubjectOf(ctx, &run.Resolved)
	if err != nil {
		return nil, err
	}
	t := &run.Resolved.Ticket
	made, err := film.Revision(path)
	if err != nil {
		return nil, err
	}
	want := t.Wanted()
	want.Sources = made >= trace.SourcesFrom
	l := want.Needs(run.Elements)
	if n := film.Bytes(t.Window(), l); n > s.memory {
		return nil, fault.Bad("The picture needs %d MB of memory to be opened, and there are %d for pictures; its files can be fetched", n>>20, s.memory>>20)
	}
	f := film.New(t.Window(), l)
	revision, err := film.Load(path, f, run.Film)
	if err != nil {
		return nil, err
	}
	p := &Proof{Run: run.ID, Job: run.Job, Frame: k.number, Resolved: &run.Resolved, Scene: v, Film: f, Elements: run.Elements,
		Passes: t.List(v, run.Elements), Renderer: revision}
	// A version that no live picture of it had, so that nothing stale is shown.
	p.version.Store(int64(run.Samples*1e6) + 1<<40)
	return p, nil
}
