package trace

import (
	"amberproof/core/accel"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

// Tracer is the scratch of one goroutine over a shared world.
type Tracer struct {
	w     *World
	stack *accel.Stack
	rng   sampling.Stream
	// The moment of the shutter, and what is somewhere else at another.
	moment float32
	camera preparedCamera
	drifts []drift
	moved  part
	// light gathers the elements of the sample being traced.
	light   []geom.Vec3
	beauty  geom.Vec3
	caught  caught
	paths   []film.Contribution // where the film asks for them
	sources int                 // that the film tells apart
	guide   film.Guide
	guides  bool // the film asks for it
	out     film.Sample
	// twin traces the picture's twin; foreseen is what its camera rays hit.
	twin     *Tracer
	foreseen foreseen
	// branches are paths that split off and are still to be followed; branching says that the
	// first surface makes some, times as many of each kind.
	branches  []walk
	branching bool
	times     [3]int
	pens      pens // around the camera's ray
	marks     [penCount]mark
	inked     float32 // share of the sample that lines take
	covered   float32 // and of its alpha
	pt        point   // the surface being scattered at
	opening   point   // what the camera's ray hit first, if it did
	opened    bool
	tmp       point // surfaces passed by shadow rays
	turned    bool  // the last shadow ray was stopped by nothing but how clear solids turn light
	// crossed are the parts that the last shadow ray came through, where notes are taken.
	crossed []int
	notes   bool
}

// NewTracer makes scratch for one goroutine.
func (w *World) NewTracer() *Tracer {
	t := &Tracer{w: w, camera: w.camera, drifts: make([]drift, len(w.drifters)),
		stack: accel.NewStack(w.solid.flat, w.solid.shared, w.passable.flat, w.passable.shared),
		light: make([]geom.Vec3, len(w.elements.names)), guides: w.opt.Layout.Asks()&film.AskGuide != 0, sources: w.opt.Layout.Sources()}
	for k, n := range w.opt.Branches {
		t.times[k] = max(1, n)
		t.branching = t.branching || n > 1
	}
	if w.twin != nil {
		t.twin = w.twin.NewTracer()
	}
	return t
}

// Sets of sample dimensions. Each vertex of a path has its own block.
const (
	dimPixel   = 0
	dimMoment  = 1 << 15
	dimAO      = 1 << 16
	dimCrevice = 1 << 17
	dimLines   = 1 << 18
	dimDraws   = 1 << 20 // further samples of one light where the camera looks
	dimBranch  = 1 << 22 // directions of branches
	dimStream  = 1 << 24 // apart from each other, for what branches meet
	dimVertex  = 16      // from here on, vertexDims for each vertex
	// Within a vertex: scatter, roulette and alpha, choice, then one set per light, then
	// which faint lights to sample.
	dimScatter = 0
	dimExtra   = 1
	dimLight   = 2
	dimFaint   = 24
	vertexDims = 64
)

// Coordinates of dimExtra.
const (
	extraHole = iota
	extraRoulette
	extraColour
)

// manyLights is the number of lights above which even the first vertex samples
// one, chosen by expected contribution, instead of each.
const manyLights = 12

// faintShare is the share of all light expected at the first vertex below which a light
// is sampled by chance: a fifth of the time goes into lights that hardly count there
// (docs/decisions/0024 has what other shares measured).
const faintShare = 0.15

// intersect finds the nearest surface of either layer.
func (t *Tracer) intersect(r *geom.Ray, pt *point, wide cone) bool {
	w := t.w
	h, pr, ok := w.solid.closest(t.stack, r)
	if !w.passable.empty() {
		q := *r
		if ok {
			q.TMax = h.T
		}
		if h2, pr2, ok2 := w.passable.closest(t.stack, &q); ok2 {
			h, ok, pr = h2, true, pr2
		}
	}
	if !ok {
		return false
	}
	t.fill(pt, h, &pr, r, wide)
	return true
}

// nextAfter is a distance just beyond t for a surface at p: past its rounding
// error, so that the same surface is not hit again.
func nextAfter(t float32, p geom.Vec3) float32 {
	return t + 4e-7*(t+geom.Abs(p.X)+geom.Abs(p.Y)+geom.Abs(p.Z)) + 1e-9
}

// record adds light that a path has found after so many turns: the one place where
// light comes into the picture.
func (t *Tracer) record(k *walk, element, turns int, c geom.Vec3) {
	if !c.Finite() {
		return
	}
	way := film.Looked
	switch {
	case turns > 1:
		way = film.ByMatte + film.Way(k.first)
	case turns == 1:
		way = film.Direct
	}
	if limit := t.w.opt.Clamp; limit > 0 && way.Indirect() {
		if m := c.Max(); m > limit {
			c = c.Scale(limit / m)
		}
	}
	if t.guides && !k.guided {
		t.guide.Albedo = t.guide.Albedo.MulAdd(c, 1/(1+max(0, c.Max())))
	}
	t.light[element] = t.light[element].Add(c)
	t.beauty = t.beauty.Add(c)
	if t.w.opt.Layout.Asks()&film.AskPaths != 0 {
		t.paths = append(t.paths, film.Contribution{Element: element, Way: way, Depth: turns, Light: c})
	}
}
