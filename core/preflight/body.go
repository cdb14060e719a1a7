package preflight

import (
	"cmp"
	"context"
	"math"
	"runtime"
	"sync"
	"sync/atomic"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// body is the scene as the checks look at it: every part that is not left out as
// triangles in the world.
type body struct {
	of     Subject
	solids []*solid // by part; nil for lamps, what is left out and what has no faces
	around []bool   // by part: stands around the product
	focus  geom.Box // of the product
	near   float32  // metres: what is closer touches
	exact  float32  // metres: what is closer lies in the same place
	all    *accel.BVH
	owner  []owner // of the triangles in all
}

type owner struct{ part, tri uint32 }

// solid is one part in the world.
type solid struct {
	part    int
	tris    []accel.Triangle
	box     geom.Box
	bvh     *accel.BVH
	samples []sample
	area    float64 // square metres
	closed  bool
	volume  float64 // cubic metres, of a closed mesh: negative where faces look inwards
	borders float64 // metres of edges with a face on one side only
	seams   []seam
}

// seam is an edge that joins two triangles: which, and which side of the first; and the
// numbers of its ends, by place.
type seam struct {
	tri  [2]int32
	ends [2]int32
	side int8
}

// sample is a point of a surface, the unit normal of its face, and for how much of
// the area it stands, square metres; none for corners.
type sample struct {
	p, n geom.Vec3
	area float32
}

// How near two surfaces are that touch, and that lie in the same place, by the
// product's radius.
const (
	nearShare  = 1.0 / 500
	exactShare = 1e-5
)

// gather puts all parts into the world, on all cores.
func gather(ctx context.Context, of Subject) (*body, error) {
	s, err := of.Scene.Made(ctx, func(int) bool { return true }) // as it is rendered
	if err != nil {
		return nil, err
	}
	of.Scene = s
	b := &body{of: of, solids: make([]*solid, len(s.Parts)), around: s.Around(of.Lamp), focus: s.Focus(of.Lamp)}
	r := b.focus.Radius()
	b.near, b.exact = r*nearShare, r*exactShare
	err = each(ctx, len(s.Parts), nil, func(i int) {
		if !of.Lamp(i) && !s.Parts[i].Out && len(s.Meshes[s.Parts[i].Mesh].Indices) > 2 {
			b.solids[i] = newSolid(ctx, s, i)
		}
	})
	if err != nil {
		return nil, err
	}
	var tris []accel.Triangle
	for i, v := range b.solids {
		if v == nil {
			continue
		}
		for k := range v.tris {
			b.owner = append(b.owner, owner{uint32(i), uint32(k)})
		}
		tris = append(tris, v.tris...)
	}
	if b.all, err = accel.Build(ctx, tris); err != nil {
		return nil, err
	}
	return b, nil
}

// each calls f for 0 to n-1, on all cores, and tells the share that is done.
func each(ctx context.Context, n int, progress func(share float64), f func(i int)) error {
	var telling sync.Mutex // so that shares are told in order
	var next atomic.Int64
	done := 0
	tell := func() {
		telling.Lock()
		defer telling.Unlock()
		done++
		progress(float64(done) / float64(n))
	}
	err := parallel.Workers(min(n, runtime.GOMAXPROCS(0)), func(int) {
		for i := int(next.Add(1)) - 1; i < n && ctx.Err() == nil; i = int(next.Add(1)) - 1 {
			if f(i); progress != nil {
				tell()
			}
		}
	})
	return cmp.Or(err, ctx.Err())
}

// How many samples of its area a part gets at least and at most, and how many of
// its corners are looked at.
const (
	leastSamples = 48
	mostSamples  = 3000
	mostCorners  = 8000
)

// newSolid is nil where the context has ended.
func newSolid(ctx context.Context, s *scene.Scene, part int) *solid {
	m, world := &s.Meshes[s.Parts[part].Mesh], s.World(part)
	v := &solid{part: part, box: geom.EmptyBox()}
	at := make([]geom.Vec3, len(m.Positions))
	for i, p := range m.Positions {
		at[i] = world.Point(p)
		v.box = v.box.Extend(at[i])
	}
	mirror := world.Det() < 0
	v.tris = make([]accel.Triangle, 0, len(m.Indices)/3)
	sums := make([]float64, 0, len(m.Indices)/3) // of areas, up to and with each triangle
	for k := 0; k+2 < len(m.Indices); k += 3 {
		t := accel.Triangle{A: at[m.Indices[k]], B: at[m.Indices[k+1]], C: at[m.Indices[k+2]]}
		if mirror {
			t.B, t.C = t.C, t.B
		}
		v.tris = append(v.tris, t)
		v.area += float64(across(&t).Len()) / 2
		sums = append(sums, v.area)
	}
	var err error
	if v.bvh, err = accel.Build(ctx, v.tris); err != nil {
		return nil
	}
	v.sew()
	v.sample(sums)
	return v
}

// across is a triangle's normal, as long as twice its area.
func across(t *accel.Triangle) geom.Vec3 { return t.B.Sub(t.A).Cross(t.C.Sub(t.A)) }

// sample puts points on a solid: its corners, and points spread evenly over its area.
func (v *solid) sample(sums []float64) {
	// Every so many corners of a fine mesh: its shape is told by those.
	step := max(1, len(v.tris)*3/mostCorners)
	seen := map[geom.Vec3]bool{}
	for k := 0; k < len(v.tris)*3; k += step {
		t := &v.tris[k/3]
		p := [3]geom.Vec3{t.A, t.B, t.C}[k%3]
		if n := across(t).Unit(); !n.IsZero() && !seen[p] {
			seen[p] = true
			v.samples = append(v.samples, sample{p: p, n: n})
		}
	}
	if !(v.area > 0) {
		return
	}
	n := min(max(len(v.tris), leastSamples), mostSamples)
	share, k := v.area/float64(n), 0
	for i := range n {
		for k < len(sums)-1 && sums[k] <= (float64(i)+0.5)*share {
			k++
		}
		t := &v.tris[k]
		// The sequence of Roberts (2018) in the triangle: even, and the same each time.
		x, y := frac(0.5+float64(i+1)*0.7548776662466927), frac(0.5+float64(i+1)*0.5698402909980532)
		if x+y > 1 {
			x, y = 1-x, 1-y
		}
		p := t.A.Add(t.B.Sub(t.A).Scale(float32(x))).Add(t.C.Sub(t.A).Scale(float32(y)))
		v.samples = append(v.samples, sample{p, across(t).Unit(), float32(share)})
	}
}

func frac(x float64) float64 { return x - math.Floor(x) }

// sew finds whether a mesh is closed: every edge between corners in the same
// place has a face on either side. It measures the rest, and the volume.
func (v *solid) sew() {
	id := map[geom.Vec3]int32{}
	num := func(p geom.Vec3) int32 {
		p = p.Add(geom.Vec3{}) // no negative zeros
		k, ok := id[p]
		if !ok {
			k = int32(len(id))
			id[p] = k
		}
		return k
	}
	type edge struct{ a, b int32 }
	// How much more often an edge is gone along one way than back, and by which first.
	type way struct {
		more  int32
		first int32
		side  int8
		two   bool
	}
	ways := map[edge]way{}
	mid := v.box.Centre()
	for i := range v.tris {
		t := &v.tris[i]
		n := [3]int32{num(t.A), num(t.B), num(t.C)}
		if n[0] == n[1] || n[1] == n[2] || n[2] == n[0] {
			continue // closed to a line
		}
		for k := range 3 {
			a, b := n[k], n[(k+1)%3]
			e := edge{min(a, b), max(a, b)}
			w, known := ways[e]
			if a < b {
				w.more++
			} else {
				w.more--
			}
			if !known {
				w.first, w.side = int32(i), int8(k)
			} else if !w.two {
				w.two = true
				ends := [2]int32{a, b}
				if t := &v.tris[w.first]; [3]geom.Vec3{t.A, t.B, t.C}[w.side] != [3]geom.Vec3{v.tris[i].A, v.tris[i].B, v.tris[i].C}[k] {
					ends = [2]int32{b, a} // as the first triangle has it
				}
				v.seams = append(v.seams, seam{[2]int32{w.first, int32(i)}, ends, w.side})
			}
			ways[e] = w
		}
		v.volume += float64(t.A.Sub(mid).Dot(t.B.Sub(mid).Cross(t.C.Sub(mid)))) / 6
	}
	for _, w := range ways {
		if w.more != 0 {
			a, b := v.side(int(w.first), int(w.side))
			v.borders += float64(a.Sub(b).Len())
		}
	}
	v.closed = v.borders == 0 && len(ways) > 0
}

// side are the ends of a side of a triangle.
func (v *solid) side(tri, k int) (a, b geom.Vec3) {
	t := &v.tris[tri]
	p := [3]geom.Vec3{t.A, t.B, t.C}
	return p[k], p[(k+1)%3]
}
