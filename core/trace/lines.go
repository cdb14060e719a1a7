package trace

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Lines are lines drawn along the edges of what is seen.
type Lines struct {
	Creases    bool      // of a part, where faces turn by more than Angle
	Outlines   bool      // where something else is seen behind
	Borders    bool      // where a surface ends
	Boundaries bool      // where one part touches another
	Angle      float32   // radians
	Weight     float32   // across, by the height of the frame
	Tone       geom.Vec3 // radiance
	Fade       bool      // lighter where it is farther away
	// Through has lines of what is seen in smooth mirrors and through smooth clear parts.
	Through bool
	// Apart leaves the picture as it is: lines are there in film.Sample.Ink only.
	Apart bool
}

// lineKinds is a set of kinds of edges.
type lineKinds uint8

const (
	crease lineKinds = 1 << iota
	outline
	border
	boundary
)

// lined is what a world knows of edges.
type lined struct {
	*Lines
	kinds lineKinds
	box   geom.Box // around all parts that lines are drawn of
	// Between these distances from the camera they lie.
	near, far float32
}

// faintestLine is what is left of a line that fades at the far end of the product.
const faintestLine = 0.2

type edgesOf struct {
	mesh  *uint32 // by its triangles
	angle float32
	axes  [3]geom.Vec3 // of the world, where it is scaled unevenly
}

// uneven tells whether a placing changes angles.
func uneven(world *geom.Affine) bool {
	x, y, z := world.Axis(0), world.Axis(1), world.Axis(2)
	most := max(x.Len2(), y.Len2(), z.Len2())
	slack := 1e-3 * most
	return most-min(x.Len2(), y.Len2(), z.Len2()) > slack || geom.Abs(x.Dot(y)) > slack || geom.Abs(y.Dot(z)) > slack || geom.Abs(z.Dot(x)) > slack
}

// draw prepares the lines of a world whose parts are known.
func (w *World) draw(ctx context.Context) {
	l := w.opt.Lines
	if l == nil || l.Weight <= 0 {
		return
	}
	d := &lined{Lines: l}
	made := map[edgesOf]*edgeTree{}
	for k, on := range map[lineKinds]bool{crease: l.Creases, outline: l.Outlines, border: l.Borders, boundary: l.Boundaries} {
		if on {
			d.kinds |= k
		}
	}
	d.box = geom.EmptyBox()
	for i := range w.parts {
		p := &w.parts[i]
		if p.drawn = p.drawn && !p.catches && !p.absent; !p.drawn {
			continue
		}
		if w.scene.Parts[i].Staged {
			p.drawn = false
			continue
		}
		d.box = d.box.Union(w.scene.PartBounds(i))
		if d.kinds&(crease|border) == 0 || len(p.mesh.Indices) < 3 {
			continue
		}
		of := edgesOf{mesh: &p.mesh.Indices[0], angle: l.Angle}
		var in *geom.Affine
		if uneven(&p.world) { // its angles are others than those of the mesh
			in = &p.world
			of.axes = [3]geom.Vec3{in.Axis(0), in.Axis(1), in.Axis(2)}
		}
		if made[of] == nil {
			made[of] = scene.Once(w.scene.Memo, of, func() (*edgeTree, int64) {
				t := newEdgeTree(p.mesh.Edges(ctx, l.Angle, in))
				return t, int64(len(t.edges))*28 + int64(len(t.nodes))*36
			})
		}
		p.edges = made[of]
	}
	w.lines = d.from(w.camera.origin)
}

// Unlined is the world without its lines: for pictures too small for them, in which they
// would be dots.
func (w *World) Unlined() *World {
	v := *w
	v.lines = nil
	return &v
}

// from is the same as a camera sees it from a place.
func (l *lined) from(origin geom.Vec3) *lined {
	if l == nil || l.box.Empty() {
		return l
	}
	d := *l
	away := d.box.Centre().Sub(origin).Len()
	d.near, d.far = max(0, away-d.box.Radius()), away+d.box.Radius()
	return &d
}

// strength of a line at a distance from the camera.
func (l *lined) strength(distance float32) float32 {
	if !l.Fade || l.far <= l.near {
		return 1
	}
	return 1 - (1-faintestLine)*geom.Clamp01((distance-l.near)/(l.far-l.near))
}

// pens are rays around that of the camera, by which a path knows whether an edge is near.
type pens struct {
	rays [penCount]geom.Ray
	live [penCount]bool
	any  bool
}

const penCount = 6

// penReach is how far from the path its pens are, by half of a line's weight: an edge at
// a distance is found if any pen is beyond it, which is so up to a distance that is in the
// mean, over how the pens are turned, by sin(pi/n)/(pi/n) less than that of the pens.
var penReach = float32(math.Pi / penCount / math.Sin(math.Pi/penCount))

// setPens lays pens around the point (x, y) of the frame.
func (t *Tracer) setPens(x, y, lu, lv float32) {
	t.pens = pens{}
	l := t.w.lines
	if l == nil {
		return
	}
	t.pens.any = true
	reach := l.Weight * t.camera.height / 2 * penReach
	turn := t.rng.One(dimLines, 0)
	for i := range t.pens.rays {
		a := (float32(i) + turn) / penCount
		sin, cos := geom.SinCosTurn(a - float32(math.Floor(float64(a))))
		t.pens.rays[i], t.pens.live[i] = t.camera.ray(x+cos*reach, y+sin*reach, lu, lv), true
	}
}

// mark is what a ray hits, as far as edges are concerned.
type mark struct {
	hit   bool
	part  uint32
	p     geom.Vec3
	n, ns geom.Vec3 // true and smooth normal, on the ray's side
	t     float32
	back  bool
}

func markOf(pt *point) mark { return mark{true, pt.part, pt.p, pt.ng, pt.ns, pt.t, pt.back} }
