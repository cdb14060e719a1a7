// Package proofs shows the pictures of runs: as PNGs of any pass, whole or
// small, and as readings under the pointer. Looking must not slow the run that
// is going: see picture.go for how that is held.
package proofs

import (
	"context"
	"image"
	"sync"
	"sync/atomic"

	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/pipeline"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Proof is the picture of a frame of a run, finished or in the making. It is
// safe for concurrent use.
type Proof struct {
	Run, Job int64
	Frame    int
	Resolved *ticket.Resolved
	Scene    *scene.Scene
	Film     *film.Film
	Elements []string // lights kept apart
	Passes   []passes.Pass
	Renderer int // revision that made the film
	// Saved is what share of the time of two runs a picture that is finished and in clay has
	// saved; 0 where it is not known.
	Saved float64

	ready    func(context.Context, func(float64)) (passes.Films, error) // of a frame that was just rendered
	version  atomic.Int64
	rendered atomic.Bool
	judged   atomic.Pointer[[]float64] // see Judge
	worn     sync.Once
	keys     []string // of parts
	wears    []string // finish worn in the picture, by part
}

// Of makes the proof of a frame that is ready to be rendered.
func Of(run *store.Run, number int, v *scene.Scene, sh *pipeline.Shot) *Proof {
	return &Proof{Run: run.ID, Job: run.Job, Frame: number, Resolved: &run.Resolved, Scene: v, Film: sh.Film, Elements: run.Elements,
		Passes: sh.Passes, Renderer: trace.Revision, ready: sh.Films}
}

// Version grows whenever the picture changes.
func (p *Proof) Version() int64 { return p.version.Load() }

// Changed says that the picture has changed, and returns its new version.
func (p *Proof) Changed() int64 { return p.version.Add(1) }

// Rendered says that nothing is added any more, as before Ended, which also lets go of
// the film.
func (p *Proof) Rendered() { p.rendered.Store(true) }

// pass finds a pass by its key.
func (p *Proof) pass(key string) (*passes.Pass, error) {
	for i := range p.Passes {
		if p.Passes[i].Key == key {
			return &p.Passes[i], nil
		}
	}
	return nil, fault.ErrNotFound
}

// Reading is what lies under the pointer.
type Reading struct {
	X       int       `json:"x"`
	Y       int       `json:"y"`
	Values  []float32 `json:"values" nullable:"false" doc:"Of the pass, scene-linear"`
	Display []int     `json:"display" nullable:"false" doc:"As shown, 0 to 255; empty for data passes"`
	Part    string    `json:"part" doc:"Empty where no part is seen"`
	Finish  string    `json:"finish" doc:"The part's own finish"`
	Wears   string    `json:"wears" doc:"What it wears in this picture"`
	Samples int       `json:"samples"`
}

// Read tells what lies under a pixel of the frame; amount is as for PNG. Open asked whether p
// may be seen.
func (s *Service) Read(ctx context.Context, p *Proof, key string, x, y int, look finish.Finish, amount float32) (Reading, error) {
	r := Reading{X: x, Y: y, Values: []float32{}, Display: []int{}}
	pass, err := p.pass(key)
	if err != nil {
		return r, err
	}
	films, err := s.filmsOf(ctx, p, pass)
	if err != nil {
		return r, err
	}
	films.Amount = p.amount(amount)
	if !image.Pt(x, y).In(p.Film.Window) {
		return r, fault.Bad("The point %d, %d lies outside the picture", x, y)
	}
	var part int
	var hit bool
	p.Film.Locked(func() {
		r.Values = pass.At(films, x, y)
		r.Samples = p.Film.SamplesAt(x, y)
		part, hit = passes.PartAt(p.Film, x, y)
	})
	if !pass.Data() {
		c := geom.V(r.Values[0], r.Values[1], r.Values[2])
		d := look.Of(c)
		for _, v := range []float32{d.X, d.Y, d.Z} {
			r.Display = append(r.Display, int(v*255+0.5))
		}
	}
	if hit {
		p.worn.Do(p.dress)
		if part < len(p.keys) {
			r.Part, r.Finish, r.Wears = p.keys[part], p.Scene.FinishName(part), p.wears[part]
		}
	}
	return r, nil
}

// dress finds out once what every part wears.
func (p *Proof) dress() {
	staged := p.Resolved.Staged(p.Scene)
	o := p.Resolved.Options(staged, nil)
	p.keys = p.Scene.Titles()
	p.wears = make([]string, len(p.keys))
	for i := range p.wears {
		if f := o.Wears[i]; f >= 0 {
			p.wears[i] = o.Finishes[f].Name
		}
	}
}
