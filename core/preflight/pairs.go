package preflight

import (
	"cmp"
	"context"
	"math"
	"slices"
	"sync"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

// pair is how two parts lie to each other; a is the lower number.
type pair struct {
	a, b     int
	touch    bool
	crosses  bool     // faces of one go through faces of the other
	where    geom.Box // of the crossing, or of faces in the same place
	depth    float32  // metres: how far points of one lie within the other
	within   float64  // share of the area, or points, of the part that lies within the other
	coincide float64  // square metres of the smaller that lie in the other and look the same way
	spots    int      // samples that found that
	doubled  bool
}

// pairs looks at all pairs of parts whose boxes come near each other.
func (b *body) pairs(ctx context.Context, progress func(share float64)) ([]pair, error) {
	near := b.candidates()
	out := make([]pair, len(near))
	err := b.work(ctx, len(near), progress, func(st *accel.Stack, i int) { out[i] = b.look(st, near[i][0], near[i][1]) })
	return slices.DeleteFunc(out, func(p pair) bool { return !p.touch && !p.crosses && p.coincide == 0 && !p.doubled }), err
}

// work is each with a stack for whoever shoots rays.
func (b *body) work(ctx context.Context, n int, progress func(share float64), f func(st *accel.Stack, i int)) error {
	all := []accel.Hierarchy{b.all}
	for _, v := range b.solids {
		if v != nil {
			all = append(all, v.bvh)
		}
	}
	stacks := sync.Pool{New: func() any { return accel.NewStack(all...) }}
	return each(ctx, n, progress, func(i int) {
		st := stacks.Get().(*accel.Stack)
		defer stacks.Put(st)
		f(st, i)
	})
}

// candidates are the pairs whose boxes come near each other: by a sweep along x.
func (b *body) candidates() (out [][2]int) {
	var order []int
	for i, v := range b.solids {
		if v != nil {
			order = append(order, i)
		}
	}
	slices.SortFunc(order, func(i, k int) int {
		return cmp.Or(cmp.Compare(b.solids[i].box.Min.X, b.solids[k].box.Min.X), cmp.Compare(i, k))
	})
	for n, i := range order {
		v := b.solids[i]
		for _, k := range order[n+1:] {
			w := b.solids[k]
			if w.box.Min.X > v.box.Max.X+b.near {
				break
			}
			lo, hi := geom.Max3(v.box.Min, w.box.Min), geom.Min3(v.box.Max, w.box.Max)
			if lo.Y <= hi.Y+b.near && lo.Z <= hi.Z+b.near {
				out = append(out, [2]int{min(i, k), max(i, k)})
			}
		}
	}
	return out
}

// look looks at two parts.
func (b *body) look(st *accel.Stack, i, k int) pair {
	v, w := b.solids[i], b.solids[k]
	p := pair{a: i, b: k, where: geom.EmptyBox()}
	if p.doubled = b.same(v, w); p.doubled {
		p.touch = true
		return p
	}
	for _, one := range [][2]*solid{{v, w}, {w, v}} {
		b.close(st, &p, one[0], one[1])
		b.crossing(st, &p, one[0], one[1])
	}
	if p.crosses {
		p.touch = true
		for _, one := range [][2]*solid{{v, w}, {w, v}} {
			b.within(st, &p, one[0], one[1])
		}
	}
	return p
}

// close finds where points of v are near w, along their normals, and where faces
// of both lie in the same place and look the same way.
func (b *body) close(st *accel.Stack, p *pair, v, w *solid) {
	for _, s := range v.samples {
		if !holds(&w.box, s.p, b.near) {
			continue
		}
		for _, sign := range []float32{1, -1} {
			d := s.n.Scale(sign)
			h, ok := w.hit(st, s.p.Sub(d.Scale(b.exact)), d, 0, b.near+b.exact)
			if !ok {
				continue
			}
			p.touch = true
			if s.area > 0 && sign > 0 && h.leaving && h.t <= 2*b.exact && w.along(st, s, b.exact) {
				if v.area < w.area || v.area == w.area && v.part < w.part { // whose samples lie closer
					p.coincide += float64(s.area)
					p.spots++
				}
				if !p.crosses {
					p.where = p.where.Extend(s.p)
				}
			}
		}
	}
}

// along tells whether the face of a solid at a sample lies in the plane of the
// sample's: points a little aside are hit, too.
func (v *solid) along(st *accel.Stack, s sample, exact float32) bool {
	f := geom.NewFrame(s.n)
	for _, aside := range []geom.Vec3{f.S, f.T, f.S.Neg(), f.T.Neg()} {
		o := s.p.Add(aside.Scale(8 * exact)).Sub(s.n.Scale(exact))
		if h, ok := v.hit(st, o, s.n, 0, 2*exact); ok && h.leaving {
			return true
		}
	}
	return false
}

// mostEdges is how many edges of a part are held against another.
const mostEdges = 20000

// crossing finds where edges of v go through faces of w, by more than rounding.
func (b *body) crossing(st *accel.Stack, p *pair, v, w *solid) {
	step := max(1, len(v.tris)*3/mostEdges)
	for k := 0; k < len(v.tris)*3; k += step {
		t := &v.tris[k/3]
		c := [3]geom.Vec3{t.A, t.B, t.C}
		from, to := c[k%3], c[(k+1)%3]
		lo, hi := geom.Min3(from, to), geom.Max3(from, to)
		if lo.X > w.box.Max.X || hi.X < w.box.Min.X || lo.Y > w.box.Max.Y || hi.Y < w.box.Min.Y || lo.Z > w.box.Max.Z || hi.Z < w.box.Min.Z {
			continue
		}
		d := to.Sub(from)
		l := d.Len()
		if l <= 4*b.exact {
			continue
		}
		d = d.Scale(1 / l)
		h, ok := w.hit(st, from, d, 2*b.exact, l-2*b.exact)
		if !ok {
			continue
		}
		if !p.crosses {
			p.crosses, p.where = true, geom.EmptyBox()
		}
		p.where = p.where.Extend(from.Add(d.Scale(h.t)))
	}
}

// within measures how far and how much of v lies within w, if w is closed.
func (b *body) within(st *accel.Stack, p *pair, v, w *solid) {
	if !w.closed {
		return
	}
	in := 0
	for _, s := range v.samples {
		if !holds(&w.box, s.p, 0) {
			continue
		}
		if d, ok := w.depth(st, s.p); ok && d > b.exact {
			in++
			p.depth = max(p.depth, d)
		}
	}
	p.within = math.Max(p.within, float64(in)/float64(len(v.samples)))
}

// same tells whether two parts are the same triangles in the same place.
func (b *body) same(v, w *solid) bool {
	if len(v.tris) != len(w.tris) || v.box.Min.Sub(w.box.Min).Len() > b.exact || v.box.Max.Sub(w.box.Max).Len() > b.exact ||
		math.Abs(v.area-w.area) > 1e-4*v.area {
		return false
	}
	for k := range v.tris {
		if v.tris[k].A.Sub(w.tris[k].A).Len() > b.exact || v.tris[k].B.Sub(w.tris[k].B).Len() > b.exact {
			return false
		}
	}
	return true
}
