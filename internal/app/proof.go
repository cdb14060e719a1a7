package app

import (
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"io/fs"
	"os"
	"sync"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/internal/store"
)

// Proof is a run's picture, finished or in the making.
type Proof struct {
	Run     store.Run
	Scene   *scene.Scene
	Film    *film.Film
	Passes  []passes.Pass
	mu      sync.Mutex // the film of a run that is going changes
	version int64
}

// OpenProof opens the picture of a run as far as it is.
func (a *App) OpenProof(ctx context.Context, id int64) (*Proof, error) {
	a.runner.mu.Lock()
	live := a.runner.live
	a.runner.mu.Unlock()
	if live != nil && live.Run.ID == id {
		return live, nil
	}
	if _, err := a.Store.Run(ctx, id); err != nil {
		return nil, err
	}
	return a.films.get(id)
}

func (a *App) loadProof(id int64) (*Proof, error) {
	run, err := a.Store.Run(context.Background(), id)
	if err != nil {
		return nil, err
	}
	if _, err := os.Stat(a.filmPath(id)); errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("the picture of run %d: %w; it has no samples yet", id, store.ErrNotFound)
	}
	s, err := a.scenes.get(run.Resolved.Scene.SHA256)
	if err != nil {
		return nil, err
	}
	t := &run.Resolved.Ticket
	l := t.Wanted().Needs()
	if t.Passes.Lights {
		l.Elements = len(run.Elements)
	}
	f := film.New(t.Window(), l)
	if err := film.Load(a.filmPath(id), f, run.Fingerprint); err != nil {
		return nil, err
	}
	return &Proof{Run: run, Scene: s, Film: f, Passes: t.List(s, run.Elements)}, nil
}

func (p *Proof) pass(key string) (*passes.Pass, error) {
	for i := range p.Passes {
		if p.Passes[i].Key == key {
			return &p.Passes[i], nil
		}
	}
	return nil, fmt.Errorf("pass %q: %w", key, store.ErrNotFound)
}

// PNG writes a pass for looking at. side limits the longer side in pixels by
// averaging; 0 is full size.
func (p *Proof) PNG(w io.Writer, key string, look imageio.Look, side int) error {
	pass, err := p.pass(key)
	if err != nil {
		return err
	}
	p.mu.Lock()
	pic := pass.Picture(p.Film)
	p.mu.Unlock()
	if side > 0 {
		pic = shrink(pic, side)
	}
	return imageio.EncodePNG(w, pic, 8, look)
}

// shrink averages whole blocks of pixels, in scene-linear light, until the
// longer side is at most side.
func shrink(p *imageio.Picture, side int) *imageio.Picture {
	k := (max(p.W, p.H) + side - 1) / side
	if k <= 1 {
		return p
	}
	w, h := (p.W+k-1)/k, (p.H+k-1)/k
	plane := func(src []float32) []float32 {
		if src == nil {
			return nil
		}
		dst := make([]float32, w*h)
		for y := 0; y < h; y++ {
			for x := 0; x < w; x++ {
				var sum float32
				n := 0
				for v := y * k; v < min((y+1)*k, p.H); v++ {
					for u := x * k; u < min((x+1)*k, p.W); u++ {
						sum += src[v*p.W+u]
						n++
					}
				}
				dst[y*w+x] = sum / float32(n)
			}
		}
		return dst
	}
	return &imageio.Picture{W: w, H: h, R: plane(p.R), G: plane(p.G), B: plane(p.B), A: plane(p.A), Data: p.Data}
}

// Reading is what lies under the pointer.
type Reading struct {
	X       int       `json:"x"`
	Y       int       `json:"y"`
	Values  []float32 `json:"values" nullable:"false" doc:"Of the pass, scene-linear"`
	Display []int     `json:"display" nullable:"false" doc:"As shown, 0 to 255; empty for data passes"`
	Part    string    `json:"part" doc:"Empty where nothing was met"`
	Finish  string    `json:"finish" doc:"The part's own finish"`
	Wears   string    `json:"wears" doc:"What it wears in this picture"`
	Samples int       `json:"samples"`
}

// Read tells what lies under a pixel of the frame.
func (p *Proof) Read(key string, x, y int, look imageio.Look) (Reading, error) {
	r := Reading{X: x, Y: y, Values: []float32{}, Display: []int{}}
	pass, err := p.pass(key)
	if err != nil {
		return r, err
	}
	if !image.Pt(x, y).In(p.Film.Window) {
		return r, bad("The point %d, %d lies outside the picture", x, y)
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	r.Values = pass.At(p.Film, x, y)
	if !pass.Data() {
		c := geom.V(r.Values[0], r.Values[1], r.Values[2])
		d := look.Transform.Display(c, colour.Gain(look.Exposure))
		for _, v := range []float32{d.X, d.Y, d.Z} {
			r.Display = append(r.Display, int(v*255+0.5))
		}
	}
	r.Samples = p.Film.SamplesAt(x, y)
	if part, ok := passes.PartAt(p.Film, x, y); ok {
		r.Part = p.Scene.Keys()[part]
		r.Finish = p.Scene.FinishName(part)
		o := p.Run.Resolved.Options(p.Scene, nil)
		if f := o.Wears[part]; f >= 0 {
			r.Wears = o.Finishes[f].Name
		}
	}
	return r, nil
}

// asBad reports whether an error is a person's, and finds it.
func asBad(err error, b **BadInputError) bool { return errors.As(err, b) }
