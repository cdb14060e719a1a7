package trace

import (
	"context"
	"math"
	"sync/atomic"

	"amberproof/core/colour"
	"amberproof/core/lights"
	"amberproof/core/parallel"
	"amberproof/core/sampling"
)

// Falling is light that falls on a point that is seen, of one light.
type Falling struct {
	Point int     // which of the points that were looked at
	On    int     // the part that it falls on
	Light int     // index of World.Lights
	Much  float64 // luminance of irradiance, of one sample
	By    []int   // parts that it comes through, or from
}

// LightNames are the names of the lights, in order.
func (w *World) LightNames() []string {
	out := make([]string, len(w.set.Lights))
	for i := range out {
		out[i] = w.set.Lights[i].Name
	}
	return out
}

const (
	// mostAlone is how many lights are each looked for from every point; of more, so many
	// are drawn.
	mostAlone = 16
	fallBatch = 256
)

// Fallen looks at points all over the picture, through clear parts, and finds the light
// that falls straight on each, with the parts that it comes through on its way in a line.
// Only light that arrives is listed. It is the same for any number of workers.
func (w *World) Fallen(ctx context.Context, points, workers int) ([]Falling, error) {
	batches := make([][]Falling, (points+fallBatch-1)/fallBatch)
	var next atomic.Int64
	err := parallel.Workers(workers, func(int) {
		t := w.NewTracer()
		for b := int(next.Add(1)) - 1; b < len(batches); b = int(next.Add(1)) - 1 {
			for i := b * fallBatch; i < min((b+1)*fallBatch, points) && ctx.Err() == nil; i++ {
				batches[b] = t.falls(i, batches[b])
			}
		}
	})
	if err != nil {
		return nil, err
	}
	var out []Falling
	for _, b := range batches {
		out = append(out, b...)
	}
	return out, ctx.Err()
}

// falls adds the light that falls on what is seen at point i.
func (t *Tracer) falls(i int, out []Falling) []Falling {
	w := t.w
	o := &w.opt
	t.rng = sampling.NewStream(0, 0, i, o.Seed)
	x, y, lu, lv := t.rng.Four(dimPixel)
	t.open(t.drawMoment())
	r := t.camera.ray(float32(o.Window.Min.X)+x*float32(o.Window.Dx()), float32(o.Window.Min.Y)+y*float32(o.Window.Dy()), lu, lv)
	pt := &t.pt
	if !t.firstSeen(r, t.intersect(&r, pt, t.camera.cone()), true, pt) || pt.light >= 0 {
		return out
	}
	one := func(light int, u, v, chance float32) {
		if f, ok := t.fallsFrom(light, u, v); ok {
			f.Point, f.Much = i, f.Much/float64(chance)
			out = append(out, f)
		}
	}
	n := len(w.set.Lights)
	if n <= mostAlone {
		for k := range n {
			u, v := t.rng.Two(dimVertex + dimLight + uint32(k))
			one(k, u, v, 1)
		}
		return out
	}
	at := lights.Receiver{P: pt.p, N: pt.nv}
	for k := range mostAlone {
		uc, u, v, _ := t.rng.Four(dimVertex + dimLight + uint32(k))
		if l, chance, _, ok := w.set.Choose(&at, uc); ok {
			one(l, u, v, chance*mostAlone)
		}
	}
	return out
}

// fallsFrom is what one sample of a light has fall on t.pt.
func (t *Tracer) fallsFrom(light int, u, v float32) (f Falling, ok bool) {
	w, pt := t.w, &t.pt
	l := &w.set.Lights[light]
	at, ok := t.sampleLight(light, pt.p, u, v)
	cos := at.Wi.Dot(pt.ns)
	if !ok || cos <= 0 || at.Wi.Dot(pt.nv) <= 0 {
		return f, false
	}
	radiance := at.Radiance
	if at.OnMesh {
		radiance = t.glowAt(l, &at)
	}
	t.crossed, t.notes = t.crossed[:0], true
	if !l.NoShadows {
		radiance = radiance.Mul(t.through(pt.shadowRay(pt.lifted, at.Wi, at.Dist), media{}, true, false))
	}
	t.notes = false
	f = Falling{On: int(pt.part), Light: light, Much: float64(colour.Luminance(radiance) * cos)}
	if !math.IsInf(float64(at.PDF), 1) {
		f.Much /= float64(at.PDF)
	}
	if !(f.Much > 0) || math.IsInf(f.Much, 1) {
		return f, false
	}
	f.By = append(f.By, t.crossed...)
	if at.OnMesh || l.Kind == lights.Rect {
		f.By = append(f.By, l.Part)
	}
	return f, true
}
