package accel

import (
	"context"
	"math"
	"runtime"
	"unsafe"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Build makes a hierarchy over the triangles, on all cores: a two-way tree with
// a binned surface-area heuristic (Wald 2007) whose leaf cost counts blocks of
// eight, then the best eight-wide tree that it contains. The result does not
// depend on the number of cores. It gives up with the context's error within
// moments. More than 2^26 triangles panic: a scene is bounded long before.
func Build(ctx context.Context, tris []Triangle) (*BVH, error) {
	b := &BVH{bounds: geom.EmptyBox()}
	if len(tris) == 0 {
		return b, nil
	}
	if len(tris) > mostTriangles {
		panic("accel: too many triangles")
	}
	refs := make([]span, len(tris))
	whole := collect(ctx, tris, refs)
	b.bounds = whole.box.box()
	c := plan(ctx, refs, whole, wide)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	b.nodes, b.blocks = room(c.nodes, c.units)
	var depth int
	b.nodes, depth = c.layOut(b.nodes)
	c.fill(b, tris, refs)
	b.stack = depth*wide + wide
	return b, ctx.Err()
}

// room makes room for the nodes and blocks of a hierarchy, next to each other and
// on huge pages if it is large: rays jump about in it, and much of what they wait
// for else is the translation of addresses.
func room(nodes, blocks int) ([]node, []block) {
	const page = 2 << 20
	n, m := uintptr(nodes)*nodeBytes, uintptr(blocks)*blockBytes
	if n+m < 2*page {
		return make([]node, 0, nodes), make([]block, blocks)
	}
	whole := (n + m + page - 1) &^ (page - 1)
	all := make([]byte, whole+page) // without pointers: the collector does not look into it
	p := unsafe.Pointer(unsafe.SliceData(all))
	p = unsafe.Add(p, -uintptr(p)&(page-1))
	huge(unsafe.Slice((*byte)(p), whole))
	return unsafe.Slice((*node)(p), nodes)[:0], unsafe.Slice((*block)(unsafe.Add(p, n)), blocks)
}

// plan orders refs and finds their eight-wide tree, whose leaves take up one
// unit for each so many refs.
func plan(ctx context.Context, refs []span, whole region, unit int32) *collapse {
	c := newCollapse(ctx, 2*len(refs), unit)
	// Smaller leaves than three quarters of a unit save no rays (of cost 0.03 %).
	w := &splitter{refs: refs, tree: c, leaf: max(2, 3*unit/4), slots: make(chan struct{}, runtime.GOMAXPROCS(0))}
	if w.split(0, 0, &whole, 0); ctx.Err() == nil {
		c.count(0)
	}
	return c
}

// BuildBytesPerTriangle is what Build needs for each triangle while it runs,
// besides the hierarchy itself: the boxes, the two-way tree and the choices of
// its collapse.
const BuildBytesPerTriangle = 32 + 2*48 + 2*36

// collect fills refs and returns what lies around all of them.
func collect(ctx context.Context, tris []Triangle, refs []span) region {
	var parts [64]region
	chunks(len(tris), func(k, from, to int) {
		parts[k] = emptyRegion()
		for ; from < to && ctx.Err() == nil; from += 1024 {
			some := refs[from:min(to, from+1024)]
			for i := range some {
				t := &tris[from+i]
				lo, hi := geom.Min3(geom.Min3(t.A, t.B), t.C), geom.Max3(geom.Max3(t.A, t.B), t.C)
				some[i] = span{-lo.X, -lo.Y, -lo.Z, packPrim(uint32(from + i)), hi.X, hi.Y, hi.Z, 0}
			}
			r := around(some) // while they are in the cache
			parts[k].merge(&r)
		}
	})
	all := emptyRegion()
	for k := range parts {
		if parts[k].n > 0 {
			all.merge(&parts[k])
		}
	}
	return all
}

// chunks shares the work 0..n over the cores, at most 64.
func chunks(n int, work func(k, from, to int)) {
	p := min(runtime.GOMAXPROCS(0), 64)
	if n < parallelFrom {
		p = 1
	}
	parallel.MustScope(func(g *parallel.Group) {
		for k := 1; k < p; k++ {
			g.Go(func() { work(k, n*k/p, n*(k+1)/p) })
		}
		work(0, 0, n/p)
	})
}

// span is a box that is ready to be joined: the lower corner with its sign
// turned in lanes 0 to 2 and the upper in 4 to 6, so that a union is a maximum.
// Lane 3 holds a triangle's number.
type span [8]float32

// packPrim hides a number in a float that arithmetic may pass over: neither
// denormal, which is slow, nor a not-a-number.
func packPrim(i uint32) float32 { return math.Float32frombits(i | 0x40000000) }
func (s *span) prim() uint32    { return math.Float32bits(s[3]) &^ 0x40000000 }
func (s *span) box() geom.Box {
	return geom.Box{Min: geom.V(-s[0], -s[1], -s[2]), Max: geom.V(s[4], s[5], s[6])}
}
func (s *span) halfArea() float32 {
	x, y, z := s[4]+s[0], s[5]+s[1], s[6]+s[2]
	return x*y + y*z + z*x
}

// twice is double the centre along axis k.
func (s *span) twice(k int) float32 { return s[4+k] - s[k] }

// centre is the point at double the centre, as a span.
func (s *span) centre() span {
	x, y, z := s.twice(0), s.twice(1), s.twice(2)
	return span{-x, -y, -z, 0, x, y, z, 0}
}

func (s *span) join(o *span) {
	for i := range s {
		s[i] = max(s[i], o[i])
	}
}

// nowhere is the span of nothing.
var nowhere = span{-4 * far, -4 * far, -4 * far, 0, -4 * far, -4 * far, -4 * far, 0}

// region is a set of triangles: their number, and the spans of their boxes and
// doubled centres.
type region struct {
	box, centres span
	n            int
}

func emptyRegion() region { return region{box: nowhere, centres: nowhere} }

func aroundPortable(refs []span) region {
	r := emptyRegion()
	for i := range refs {
		r.add(&refs[i])
	}
	return r
}

func (r *region) add(s *span) {
	c := s.centre()
	r.box.join(s)
	r.centres.join(&c)
	r.n++
}

func (r *region) merge(o *region) {
	r.box.join(&o.box)
	r.centres.join(&o.centres)
	r.n += o.n
}
