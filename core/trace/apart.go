package trace

import (
	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/sampling"
)

// Numbers choose the random numbers that a sample is traced by: those of each stage are one of
// many sets, which are independent of each other and of those that pictures are made of. Samples
// that differ in one stage alone tell what that stage adds to the noise.
type Numbers struct {
	Place, Lens, Moment uint32 // of the camera's ray
	Rest                uint32 // of everything after it
}

// apartSeed keeps them apart from those of pictures.
const apartSeed = 0x5eed

func (t *Tracer) set(x, y int, n uint32) sampling.Stream {
	return sampling.NewStream(x, y, 0, sampling.Hash(t.w.opt.Seed^apartSeed, n))
}

// Apart traces one sample of pixel (x, y) of the frame, for a film that tells sources apart: it
// sets luminance to what each film.Source gives and adds to rays how many rays were traced for
// each, the camera's own among those of what is looked at. Both have Layout.Sources values.
func (t *Tracer) Apart(x, y int, n Numbers, luminance []float64, rays []int) {
	place, lens := t.set(x, y, n.Place), t.set(x, y, n.Lens)
	u, v, _, _ := place.Four(dimPixel)
	_, _, lu, lv := lens.Four(dimPixel)
	dx, dy, _ := t.w.filter.Draw(0, u, v)
	t.rng = t.set(x, y, n.Moment)
	t.open(t.drawMoment())
	px, py := float32(x)+0.5+dx, float32(y)+0.5+dy
	ray := t.camera.ray(px, py, lu, lv)
	t.setPens(px, py, lu, lv)
	t.rng = t.set(x, y, n.Rest)
	t.rays = rays
	t.path(ray)
	t.rays = nil
	clear(luminance)
	for i := range t.paths {
		if c := &t.paths[i]; c.Light.Finite() {
			luminance[c.Source()] += float64(colour.Luminance(c.Light))
		}
	}
}

// count notes a ray for what it is traced for, where somebody wants to know.
func (t *Tracer) count(s film.Source) {
	if t.rays != nil {
		t.rays[s]++
	}
}

// source is what the rays of a path are traced for.
func (k *walk) source() film.Source {
	if k.scatters == 0 {
		return film.SourceLooked
	}
	return film.SourceMatte + film.Source(k.first)
}
