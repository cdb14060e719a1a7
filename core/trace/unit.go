package trace

import (
	"context"
	"math"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Unit is the smallest piece of work: a range of samples of one tile. Doing it
// anywhere, any number of times, gives the same sums.
type Unit struct {
	Tile, From, To int
}

// Render computes a unit for a film laid over the world's window. It gives up
// with the context's error between pixels.
func (t *Tracer) Render(ctx context.Context, f *film.Film, u Unit) (*film.Patch, error) {
	r := f.Rect(u.Tile)
	p := &film.Patch{Tile: u.Tile, From: u.From, To: u.To, Sums: film.NewSums(r, t.w.opt.Layout)}
	i := 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			t.Pixel(p.Sums, i, x, y, u.From, u.To)
			i++
		}
	}
	return p, nil
}

// Pixel adds the samples [from, to) of pixel (x, y) of the frame to sums, as their pixel i.
func (t *Tracer) Pixel(sums *film.Sums, i, x, y, from, to int) {
	for s := from; s < to; s++ {
		sums.Add(i, t.sample(x, y, s))
	}
}

// Sketch computes the pixels [from, to) of a sketch into their places.
func (t *Tracer) Sketch(ctx context.Context, k *film.Sketch, from, to int) error {
	for i := from; i < to; i++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		p := k.Stands(i)
		k.Add(i, t.sample(p.X, p.Y, 0))
	}
	return nil
}

// sample traces sample s of pixel (x, y). What it returns is the tracer's own, until
// the next one.
func (t *Tracer) sample(x, y, s int) *film.Sample {
	w := t.w
	t.rng = sampling.NewStream(x, y, s, w.opt.Seed)
	u, v, lu, lv := t.rng.Four(dimPixel)
	dx, dy, weight := w.filter.Draw(s, u, v)
	t.open(t.drawMoment())
	px, py := float32(x)+0.5+dx, float32(y)+0.5+dy
	ray := t.camera.ray(px, py, lu, lv)
	t.setPens(px, py, lu, lv)
	alpha := t.path(ray)
	t.sane()
	t.out = film.Sample{
		Weight: weight, Even: s&1 == 0, Light: t.beauty, Alpha: alpha, Elements: t.light, Catch: t.caught.sums(),
		Part: film.NoPart, Open: 1, Paths: t.paths, Guide: t.guide, Ink: min(t.inked, 1),
	}
	if t.sources > 0 {
		t.out.Source = film.SourceAt(x, y, t.sources)
	}
	if t.twin != nil {
		t.out.Twin = t.twinned(px, py, lu, lv)
		t.out.Ink = max(t.out.Ink, t.out.Twin.Ink)
	}
	t.look(ray)
	return &t.out
}

// sane leaves out of a sample what is no number, and would spoil all around it.
func (t *Tracer) sane() {
	if !t.beauty.Finite() {
		t.beauty = geom.Vec3{}
	}
	if g := &t.guide; !g.Albedo.Finite() || !g.Normal.Finite() || !(g.Far < math.MaxFloat32) {
		*g = film.Guide{}
	}
}

// look finds what data passes show along a ray of the camera, as far as the film
// asks for it: the first surface or, for those that look through, the first that is
// not clear. What looks at nothing is open.
func (t *Tracer) look(ray geom.Ray) {
	o := &t.w.opt
	pt, s := &t.pt, &t.out
	asks, covers := o.Layout.Asks(), o.Layout.Cover()
	for _, through := range [...]bool{false, true} {
		open, cover := asks&film.AskOpen != 0 && o.AOSeeThrough == through, covers && o.MaskSeeThrough == through
		first := asks&(film.AskFirst|film.AskMotion) != 0 && !through
		if !open && !cover && !first {
			continue
		}
		if *pt = t.opening; !t.firstSeen(ray, t.opened, through, pt) {
			continue
		}
		if first {
			s.First, s.Normal = true, pt.ns
			s.Depth = pt.p.Sub(t.camera.origin).Dot(t.camera.back.Neg())
			if asks&film.AskMotion != 0 {
				s.Motion[0], s.Motion[1], s.Moves = t.swept(pt)
			}
		}
		if cover {
			s.Part = int32(pt.part)
		}
		if open {
			s.Open = t.occlusion(pt)
		}
	}
}

// At tells what the camera sees through the centre of a pixel: its part, or ok false.
func (t *Tracer) At(x, y int, through bool) (part int, ok bool) {
	s, ok := t.Sight(float32(x)+0.5, float32(y)+0.5, through)
	return s.Part, ok
}

// Sighting is a place on a part, and the unit normal there on the side it is seen from, both in
// the world.
type Sighting struct {
	Part       int
	At, Normal geom.Vec3
}

// Sight tells what the camera sees at a point of the frame, in pixels from its upper left
// corner, sharp and in the middle of the shutter; ok is false where it sees nothing.
func (t *Tracer) Sight(x, y float32, through bool) (s Sighting, ok bool) {
	t.rng = sampling.NewStream(int(x), int(y), 0, t.w.opt.Seed)
	t.open(0.5)
	e := t.camera
	e.lens = 0
	r := e.ray(x, y, 0, 0)
	ok = t.firstSeen(r, t.intersect(&r, &t.pt, e.cone()), through, &t.pt)
	return Sighting{int(t.pt.part), t.pt.p, t.pt.ns}, ok
}
