package trace

import (
	"cmp"
	"context"
	"runtime"
	"sync/atomic"

	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/sampling"
)

// shadedRays is how many rays a pixel of a shaded picture gets in each direction.
const shadedRays = 3

// Shaded makes a picture of the scene's shapes at once, as a drawing rather than
// a photograph: every surface in its base colour, brightest where it faces the
// camera; clear parts as a veil over what is behind them. Nothing lights it.
// Where nothing is hit it is transparent.
func (w *World) Shaded(ctx context.Context) (*finish.Picture, error) {
	win := w.opt.Window
	p := &finish.Picture{W: win.Dx(), H: win.Dy()}
	n := p.W * p.H
	p.R, p.G, p.B, p.A = make([]float32, n), make([]float32, n), make([]float32, n), make([]float32, n)
	var next atomic.Int64
	err := parallel.Workers(runtime.GOMAXPROCS(0), func(int) {
		t := w.NewTracer()
		t.open(0.5)
		for {
			y := int(next.Add(1) - 1)
			if y >= p.H || ctx.Err() != nil {
				return
			}
			for x := range p.W {
				i := y*p.W + x
				p.R[i], p.G[i], p.B[i], p.A[i] = t.drawn(win.Min.X+x, win.Min.Y+y)
			}
		}
	})
	return p, cmp.Or(err, ctx.Err())
}

// drawn is the mean over a pixel's rays of what they show.
func (t *Tracer) drawn(x, y int) (r, g, b, a float32) {
	const share = 1.0 / (shadedRays * shadedRays)
	t.rng = sampling.NewStream(x, y, 0, t.w.opt.Seed)
	t.camera.lens = 0
	for k := range shadedRays * shadedRays {
		u, v := float32(k%shadedRays), float32(k/shadedRays)
		ray := t.camera.ray(float32(x)+(u+0.5)/shadedRays, float32(y)+(v+0.5)/shadedRays, 0, 0)
		c, alpha := t.drawnAlong(ray)
		r, g, b, a = r+c.X*share, g+c.Y*share, b+c.Z*share, a+alpha*share
	}
	return r, g, b, a
}

// How strongly a clear part veils what is behind it, where it faces the camera
// and at its outline.
const (
	veilFacing  = 0.12
	veilOutline = 0.7
)

// drawnAlong is what a ray shows, premultiplied by how much of it.
func (t *Tracer) drawnAlong(ray geom.Ray) (c geom.Vec3, alpha float32) {
	left := float32(1)
	for range maxWindows {
		pt := &t.pt
		if !t.intersect(&ray, pt, t.w.camera.cone()) {
			break
		}
		s := t.w.surface(pt, 1)
		facing := geom.Abs(pt.ns.Dot(ray.D))
		lit := 0.2 + 0.8*facing
		share, base := left, s.Base
		switch {
		case pt.f.Glowing() && base.IsZero():
			base = geom.Splat(1)
		case s.Transmission > 0.5:
			share *= veilOutline + (veilFacing-veilOutline)*facing
			base = base.Scale(0.9)
		case pt.f.alpha:
			share *= t.w.alphaAt(pt)
		}
		c = c.MulAdd(base, lit*share)
		alpha += share
		if left -= share; left < 0.02 {
			break
		}
		ray.TMin = nextAfter(pt.t, pt.p)
	}
	return c, alpha
}
