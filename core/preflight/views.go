package preflight

import (
	"fmt"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/units"
)

// views finds what is wrong with the cameras.
func (b *body) views() (out []Finding) {
	all := []accel.Hierarchy{b.all}
	for _, v := range b.solids {
		if v != nil {
			all = append(all, v.bvh)
		}
	}
	st := accel.NewStack(all...)
	for k := range b.of.Views {
		if f, ok := b.inside(st, k); ok {
			out = append(out, f)
			continue // what it sees from there says nothing
		}
		if f, ok := b.edge(st, k); ok {
			out = append(out, f)
		}
	}
	return out
}

// inside finds a camera within a closed part. One within a part that stands around
// the product, as within a room, is where it should be.
func (b *body) inside(st *accel.Stack, view int) (Finding, bool) {
	w := &b.of.Views[view]
	eye := w.Camera.Origin()
	for i, v := range b.solids {
		if v == nil || b.around[i] || !v.closed || !holds(&v.box, eye, 0) {
			continue
		}
		if d, ok := v.depth(st, eye); ok {
			mm := 1000 * float64(d)
			return Finding{
				Check: Inside, Part: i, Other: -1, View: view, Value: mm, Unit: "mm", Sure: Certain, Where: v.box,
				Says: fmt.Sprintf("The camera of %s is within %s, %s deep.", w.Name, b.of.Scene.Parts[i].Name, units.Length(mm)),
			}, true
		}
	}
	return Finding{}, false
}

// edgeRays is how many rays look for the edge of the backdrop, along the longer
// side of the frame.
const edgeRays = 128

// edge finds a view that looks past the edge of what stands around the product: it
// shows some of that, and beside it nothing.
func (b *body) edge(st *accel.Stack, view int) (Finding, bool) {
	w := &b.of.Views[view]
	nx, ny := grid(w, edgeRays)
	backdrop, past := -1, 0
	seen := false
	where := geom.EmptyBox()
	for y := range ny {
		for x := range nx {
			o, d := w.Ray((float32(x)+0.5)/float32(nx)*2-1, 1-(float32(y)+0.5)/float32(ny)*2)
			h, ok := b.next(st, o, d, func(part int) bool {
				f := b.of.Scene.FinishOf(part)
				return !f.Clear()
			})
			switch {
			case !ok:
				past++
			case b.around[h.part]:
				backdrop, seen = h.part, true
				where = where.Extend(o.Add(d.Scale(h.t)))
			}
		}
	}
	if !seen || past == 0 {
		return Finding{}, false
	}
	share := 100 * float64(past) / float64(nx*ny)
	return Finding{
		Check: Edge, Part: backdrop, Other: -1, View: view, Value: share, Unit: "%", Sure: Certain, Where: where,
		Says: fmt.Sprintf("%s looks past the edge of %s: %.2g %% of the picture is what lies behind.", w.Name, b.of.Scene.Parts[backdrop].Name, share),
	}, true
}

// grid is how many rays go through the frame of a view in each direction, most along its
// longer side.
func grid(w *scene.View, most int) (nx, ny int) {
	if w.Aspect > 1 {
		return most, max(1, int(float32(most)/w.Aspect))
	}
	return max(1, int(float32(most)*w.Aspect)), most
}
