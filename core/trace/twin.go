package trace

import (
	"context"
	"slices"
	"time"

	"amberproof/core/accel"
	"amberproof/core/film"
	"amberproof/core/scene"
)

// prepareTwin prepares the world of the picture's twin, which takes over all geometry that
// is the same.
func (w *World) prepareTwin(ctx context.Context, s *scene.Scene, from *World) error {
	o := *w.opt.Twin
	o.Layout = film.Layout{}
	if _, guided := w.opt.Layout.Place(film.TwinPlane(film.GuidePlane).Name); guided {
		o.Layout = film.NewLayout(false, film.GuidePlane)
	}
	before := w
	if from != nil && from.twin != nil && !from.twin.SameShapes(from) {
		before = from.twin // of shapes that are not this picture's
	}
	var err error
	if w.twin, err = prepare(ctx, s, o, before); err != nil {
		return err
	}
	w.alike = true
	for k, l := range []*layer{&w.passable, &w.solid} {
		its := []*layer{&w.twin.passable, &w.twin.solid}[k]
		w.alike = w.alike && slices.EqualFunc(l.stands, its.stands, stand.same)
	}
	return nil
}

// samePlaces tells whether two pictures have the same parts in the same layers.
func samePlaces(s *scene.Scene, a, b *Options) bool {
	kind := func(o *Options, i int) [3]bool {
		k := o.Wears[i]
		if k == LeftOutOfPicture {
			return [3]bool{true}
		}
		f := prepareFinish(o.Finishes[k], o.StraightShadows)
		return [3]bool{false, f.passable(), f.Glowing()}
	}
	for i := range s.Parts {
		if kind(a, i) != kind(b, i) {
			return false
		}
	}
	return true
}

// foreseen is what the twin's camera ray hits first: what that of the picture itself did.
type foreseen struct {
	known bool
	hits  bool
	hit   accel.Hit
	at    prim
}

// twinned traces the twin of a sample along the same ray.
func (t *Tracer) twinned(px, py, lu, lv float32) *film.Sample {
	k := t.twin
	k.rng = t.rng
	k.open(t.moment)
	k.foreseen = foreseen{}
	if t.w.alike {
		k.foreseen = foreseen{true, t.opened, t.opening.hit, prim{t.opening.part, t.opening.hit.Prim}}
	}
	k.setPens(px, py, lu, lv)
	alpha := k.path(k.camera.ray(px, py, lu, lv))
	k.sane()
	k.out = film.Sample{
		Weight: t.out.Weight, Even: t.out.Even, Light: k.beauty, Alpha: alpha, Catch: k.caught.sums(), Guide: k.guide, Part: film.NoPart, Open: 1,
		Ink: min(k.inked, 1),
	}
	return &k.out
}

// To tell what is saved, so many samples are traced so many times in each way, by turns.
const (
	savedSamples = 240
	savedTimes   = 25
)

// Saved measures what share of the time that a picture and its twin would take apart is
// saved by tracing them together; 0 without a twin. It takes the time of some ten thousand
// samples: by turns, together and apart, and of what each turn says the middle one, as
// others use the machine too.
func (w *World) Saved(ctx context.Context) float64 {
	if w.twin == nil {
		return 0
	}
	own, its := *w, *w.twin
	own.twin = nil
	its.opt.Layout = w.opt.Layout // with data of its own
	both, one, other := w.NewTracer(), own.NewTracer(), its.NewTracer()
	win := w.opt.Window
	n := win.Dx() * win.Dy()
	took := func(t *Tracer, turn int) float64 {
		began := time.Now()
		for i := turn * savedSamples; i < (turn+1)*savedSamples; i++ {
			at := i * 7919 % n // all over the picture
			t.sample(win.Min.X+at%win.Dx(), win.Min.Y+at/win.Dx(), i/n)
		}
		return float64(time.Since(began))
	}
	saved := make([]float64, savedTimes)
	for i := range saved {
		if ctx.Err() != nil {
			return 0
		}
		together := took(both, i)
		apart := took(one, i) + took(other, i)
		saved[i] = (apart - together) / apart
	}
	slices.Sort(saved)
	return max(0, saved[savedTimes/2])
}
