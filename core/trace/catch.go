package trace

import (
	"math"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/sampling"
)

// caught is what a camera sample saw of parts that catch shadows; see film.CaughtPlane.
type caught struct {
	cover, alpha, lit, unlit float32
	behind                   geom.Vec3
}

// sums are what the sample adds to film.CaughtPlane.
func (c *caught) sums() [film.CaughtSums]float32 {
	return [film.CaughtSums]float32{
		film.Caught: c.cover, film.Behind: c.behind.X, film.Behind + 1: c.behind.Y, film.Behind + 2: c.behind.Z,
		film.BehindAlpha: c.alpha, film.Lit: c.lit, film.Unlit: c.unlit,
	}
}

// catch takes the point t.pt, which catches shadows, for what is seen behind it
// and for the light that reaches it: of what a matte surface there would get
// straight from the lights, the share that nothing is in the way of but what
// catches shadows itself.
func (t *Tracer) catch(k *walk, dim uint32) {
	w, pt, c := t.w, &t.pt, &t.caught
	back, alpha := t.backing(&k.r)
	c.cover += k.share
	c.alpha += k.share * alpha
	c.behind = c.behind.Add(k.throughput.Mul(back))
	n := len(w.set.Lights)
	if n > manyLights {
		uc, u, v, _ := t.rng.Four(dim)
		if i, chance, _, ok := w.set.Choose(&lights.Receiver{P: pt.p, N: pt.ng}, uc); ok {
			t.catchFrom(k, i, u, v, chance)
		}
	} else {
		for i := range n {
			draws := w.set.Lights[i].Draws()
			for j := range draws {
				u, v := t.rng.Two(dim + uint32(i))
				if j > 0 {
					u, v = t.rng.Two(dimDraws + dim*64 + uint32(i*64+j))
				}
				t.catchFrom(k, i, u, v, float32(draws))
			}
		}
	}
	// An even surround is not sampled as a light.
	if even, ok := w.set.Even(); ok {
		u, v := t.rng.Two(dim + manyLights)
		f := geom.NewFrame(pt.ns)
		t.catchAlong(k, f.ToWorld(sampling.CosineHemisphere(u, v)), float32(math.Inf(1)), colour.Luminance(even), false)
	}
}

// catchFrom adds a sample of light i, one of so many.
func (t *Tracer) catchFrom(k *walk, i int, u, v, draws float32) {
	l := &t.w.set.Lights[i]
	if t.w.set.Expect(i, &lights.Receiver{P: t.pt.p, N: t.pt.ng}) <= 0 {
		return
	}
	p, ok := t.sampleLight(i, t.pt.p, u, v)
	if !ok {
		return
	}
	radiance := p.Radiance
	if p.OnMesh {
		radiance = t.glowAt(l, &p)
	}
	light := colour.Luminance(radiance) * max(0, p.Wi.Dot(t.pt.ns)) / (math.Pi * draws)
	if !math.IsInf(float64(p.PDF), 1) {
		light /= p.PDF
	}
	t.catchAlong(k, p.Wi, p.Dist, light, l.NoShadows)
}

// catchAlong adds light that comes from a direction.
func (t *Tracer) catchAlong(k *walk, wi geom.Vec3, dist, light float32, noShadows bool) {
	if !(light > 0) || wi.Dot(t.pt.ng) <= 0 {
		return
	}
	light *= k.share
	t.caught.unlit += light
	reach := geom.Splat(1)
	if !noShadows {
		reach = t.through(t.pt.shadowRay(t.pt.lifted, wi, dist), k.in, true, true)
	}
	t.caught.lit += light * colour.Luminance(reach)
}
