package trace

import (
	"context"

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
	w := t.w
	l := w.opt.Layout
	r := f.Rect(u.Tile)
	p := &film.Patch{Tile: u.Tile, From: u.From, To: u.To, Sums: film.NewSums(r, l)}
	i := 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			px := p.Pixel(i)
			for s := u.From; s < u.To; s++ {
				t.sample(x, y, s, px, p.Sums, i)
			}
			i++
		}
	}
	return p, nil
}

// Sketch computes pixels from to to of a sketch into their places.
func (t *Tracer) Sketch(ctx context.Context, k *film.Sketch, from, to int) error {
	for i := from; i < to; i++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		p := k.Stands(i)
		t.sample(p.X, p.Y, 0, k.Pixel(i), k.Sums, i)
	}
	return nil
}

// sample adds camera sample s of pixel (x, y) to the sums px.
func (t *Tracer) sample(x, y, s int, px []float32, sums *film.Sums, i int) {
	w := t.w
	o := &w.opt
	l := &o.Layout
	t.rng = sampling.NewStream(x, y, s, o.Seed)
	u, v, lu, lv := t.rng.Four(dimPixel)
	dx, dy, weight := w.filter.Draw(s, u, v)
	t.open(t.drawMoment())
	ray := t.eye.ray(float32(x)+0.5+dx, float32(y)+0.5+dy, lu, lv)
	alpha := t.path(ray)
	if !t.beauty.Finite() {
		t.beauty = geom.Vec3{}
	}
	px[film.Weight] += weight
	add3(px[film.Beauty:], t.beauty, weight)
	px[film.Alpha] += alpha * weight
	if s&1 == 0 {
		px[film.WeightA] += weight
		add3(px[film.BeautyA:], t.beauty, weight)
	}
	if l.Caught {
		t.caught.put(px[l.CaughtAt():], weight, s&1 == 0)
	}
	if o.Apart {
		for k, c := range t.light {
			add3(px[l.ElementAt(k):], c, weight)
		}
	}
	if l.Normal || l.Depth || l.Motion || l.Cover && !o.MaskSeeThrough || l.AO && !o.AOSeeThrough {
		if t.firstSeen(ray, false, &t.pt) {
			t.data(&ray, px, weight, sums, i, false)
		} else if l.AO && !o.AOSeeThrough {
			px[l.AOAt()] += weight // nothing is open
		}
	}
	if l.Cover && o.MaskSeeThrough || l.AO && o.AOSeeThrough {
		if t.firstSeen(ray, true, &t.pt) {
			t.data(&ray, px, weight, sums, i, true)
		} else if l.AO && o.AOSeeThrough {
			px[l.AOAt()] += weight
		}
	}
}

// data adds what t.pt shows to those data passes that look through or not.
func (t *Tracer) data(ray *geom.Ray, px []float32, weight float32, sums *film.Sums, i int, through bool) {
	o := &t.w.opt
	l := &o.Layout
	pt := &t.pt
	if !through {
		if l.Normal {
			add3(px[l.NormalAt():], pt.ns, weight)
		}
		if l.Depth {
			e := &t.eye
			px[l.DepthAt()] += pt.p.Sub(e.origin).Dot(e.back.Neg()) * weight
			px[l.DepthAt()+1] += weight
		}
	}
	if l.Motion && !through {
		if x, y, ok := t.swept(pt); ok {
			m := px[l.MotionAt():]
			m[0] += x * weight
			m[1] += y * weight
			m[2] += weight
		}
	}
	if l.Cover && o.MaskSeeThrough == through {
		sums.AddCover(i, pt.part, weight)
	}
	if l.AO && o.AOSeeThrough == through {
		px[l.AOAt()] += t.occlusion(pt) * weight
	}
}

func add3(px []float32, c geom.Vec3, w float32) {
	px = px[:3:3]
	px[0] += c.X * w
	px[1] += c.Y * w
	px[2] += c.Z * w
}

// At tells what the camera sees through the centre of a pixel: its part, or ok false.
func (t *Tracer) At(x, y int, through bool) (part int, ok bool) {
	t.rng = sampling.NewStream(x, y, 0, t.w.opt.Seed)
	t.open(0.5)
	e := t.eye
	e.lens = 0
	ok = t.firstSeen(e.ray(float32(x)+0.5, float32(y)+0.5, 0, 0), through, &t.pt)
	return int(t.pt.part), ok
}
