package accel

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

func soup(n int, size float32, seed uint64) []Triangle {
	r := rand.New(rand.NewPCG(seed, 1))
	v := func(s float32) geom.Vec3 {
		return geom.V(r.Float32()*2-1, r.Float32()*2-1, r.Float32()*2-1).Scale(s)
	}
	t := make([]Triangle, n)
	for i := range t {
		c := v(1)
		t[i] = Triangle{c.Add(v(size)), c.Add(v(size)), c.Add(v(size))}
	}
	return t
}

func rays(n int, seed uint64) []geom.Ray {
	r := rand.New(rand.NewPCG(seed, 2))
	out := make([]geom.Ray, n)
	for i := range out {
		d := geom.V(r.Float32()*2-1, r.Float32()*2-1, r.Float32()*2-1)
		switch i % 16 { // rays along axes and within planes meet the boxes' edge cases
		case 0:
			d.X = 0
		case 1:
			d.X, d.Y = 0, 0
		}
		out[i] = geom.Ray{O: geom.V(r.Float32()*4-2, r.Float32()*4-2, r.Float32()*4-2), D: d.Unit(), TMax: float32(math.Inf(1))}
		if i%5 == 0 {
			out[i].TMin, out[i].TMax = 0.5, 1.5
		}
	}
	return out
}

// exact is the textbook intersection in double precision.
func exact(t *Triangle, r *geom.Ray) (float64, bool) {
	sub := func(a, b geom.Vec3) [3]float64 {
		return [3]float64{float64(a.X) - float64(b.X), float64(a.Y) - float64(b.Y), float64(a.Z) - float64(b.Z)}
	}
	cross := func(a, b [3]float64) [3]float64 {
		return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
	}
	dot := func(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
	d := [3]float64{float64(r.D.X), float64(r.D.Y), float64(r.D.Z)}
	e1, e2, s := sub(t.B, t.A), sub(t.C, t.A), sub(r.O, t.A)
	p := cross(d, e2)
	det := dot(p, e1)
	if det == 0 {
		return 0, false
	}
	u := dot(p, s) / det
	q := cross(s, e1)
	v := dot(q, d) / det
	t0 := dot(q, e2) / det
	return t0, u >= 0 && v >= 0 && u+v <= 1 && t0 > float64(r.TMin) && t0 < float64(r.TMax)
}

func TestClosestAndBlockedAgainstEveryTriangleInDoublePrecision(t *testing.T) {
	tris := soup(3000, 0.2, 1)
	b := built(tris)
	s := NewStack(b)
	hits, odd := 0, 0
	for i, r := range rays(4000, 3) {
		want := math.Inf(1)
		for k := range tris {
			if d, ok := exact(&tris[k], &r); ok && d < want {
				want = d
			}
		}
		h, ok := b.Closest(s, &r)
		if blocked := b.Blocked(s, &r); blocked != ok {
			t.Fatalf("ray %d: blocked %v, but closest found %v", i, blocked, ok)
		}
		if ok != !math.IsInf(want, 1) || ok && math.Abs(float64(h.T)-want) > 1e-4*(1+want) {
			odd++ // a graze may round either way
			continue
		}
		if ok {
			hits++
			tr := tris[h.Prim]
			p := tr.A.Scale(1 - h.U - h.V).Add(tr.B.Scale(h.U)).Add(tr.C.Scale(h.V))
			if d := p.Sub(r.At(h.T)).Len(); d > 1e-4 {
				t.Fatalf("ray %d: the barycentric point is %v away from the hit", i, d)
			}
		}
	}
	if hits < 800 || odd > 4 {
		t.Fatalf("%d hits, %d rays disagree", hits, odd)
	}
}

func TestBothPathsAgreeToTheBit(t *testing.T) {
	if !useSIMD {
		t.Skip("built without the eight-wide path, or the processor lacks it")
	}
	tris := append(soup(20000, 0.05, 7), sheet(60)...)
	b := built(tris)
	s := NewStack(b)
	for i, r := range rays(20000, 5) {
		h1, ok1 := b.closestSIMD(s, &r)
		h2, ok2 := b.closestPortable(s, &r)
		if h1 != h2 || ok1 != ok2 {
			t.Fatalf("ray %d %+v: %+v %v, portable %+v %v", i, r, h1, ok1, h2, ok2)
		}
		if b.blockedSIMD(s, &r) != b.blockedPortable(s, &r) {
			t.Fatalf("ray %d: blocked disagrees", i)
		}
	}
}

// sheet is one of triangles with shared edges near the plane z = 0, too flat
// to have an outline inside it from where the tests look.
func sheet(n int) []Triangle {
	at := func(i, j int) geom.Vec3 {
		return geom.V(float32(i)/float32(n)*2-1, float32(j)/float32(n)*2-1, 0.001*float32(math.Sin(float64(i*7+j*3))))
	}
	var t []Triangle
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			t = append(t, Triangle{at(i, j), at(i+1, j), at(i+1, j+1)}, Triangle{at(i, j), at(i+1, j+1), at(i, j+1)})
		}
	}
	return t
}

// No ray aimed exactly at edges and corners of a closed sheet slips through.
func TestSheetIsWatertightAtEdgesAndCorners(t *testing.T) {
	tris := sheet(50)
	b := built(tris)
	s := NewStack(b)
	r := rand.New(rand.NewPCG(5, 5))
	for i := 0; i < 200000; i++ {
		tr := tris[r.IntN(len(tris))]
		p := tr.A.Lerp(tr.B, r.Float32())
		if i%3 == 0 {
			p = tr.C
		}
		if geom.Abs(p.X) > 0.999 || geom.Abs(p.Y) > 0.999 {
			continue
		}
		o := geom.V(r.Float32()*8-4, r.Float32()*8-4, 1+r.Float32()*50)
		ray := geom.Ray{O: o, D: p.Sub(o).Unit(), TMax: float32(math.Inf(1))}
		if _, ok := b.Closest(s, &ray); !ok {
			t.Fatalf("ray %d from %v to %v slipped through", i, o, p)
		}
	}
}

func TestBuildIsTheSameOnAnyNumberOfCoresAndTakesDegenerates(t *testing.T) {
	tris := soup(9000, 0.02, 11)
	p := geom.V(0.1, 0.2, 0.3)
	for i := 0; i < 500; i++ {
		tris = append(tris, Triangle{p, p, p})
	}
	a, b := built(tris), built(tris)
	if len(a.nodes) != len(b.nodes) || len(a.blocks) != len(b.blocks) {
		t.Fatal("two builds differ")
	}
	for i := range a.nodes {
		for row := range a.nodes[i].rows {
			for k := range a.nodes[i].rows[row] {
				if math.Float32bits(a.nodes[i].rows[row][k]) != math.Float32bits(b.nodes[i].rows[row][k]) {
					t.Fatal("two builds differ")
				}
			}
		}
	}
	seen := map[uint32]bool{}
	for i := range a.blocks {
		for _, p := range a.blocks[i].prim {
			if p != emptyChild {
				if seen[p] {
					t.Fatalf("triangle %d is there twice", p)
				}
				seen[p] = true
			}
		}
	}
	if len(seen) != len(tris) {
		t.Fatalf("%d of %d triangles in the hierarchy", len(seen), len(tris))
	}
	if per := float64(a.Bytes()) / float64(len(tris)); per > BytesPerTriangle {
		t.Fatalf("%.0f bytes a triangle, more than forecast", per)
	}
	if built(nil).Blocked(NewStack(), &geom.Ray{D: p, TMax: 1}) {
		t.Fatal("an empty scene blocks")
	}
}

// Of triangles at one distance the first is hit, whatever the tree looks like.
func TestTheFirstOfCoincidentTrianglesIsMet(t *testing.T) {
	tris := soup(3000, 0.3, 21)
	n := uint32(len(tris))
	tris = append(tris, tris...)
	b := built(tris)
	s := NewStack(b)
	hits := 0
	for i, r := range rays(3000, 8) {
		h, ok := b.Closest(s, &r)
		if p, ok2 := b.closestPortable(s, &r); p != h || ok != ok2 {
			t.Fatalf("ray %d: %+v, portable %+v", i, h, p)
		}
		if ok {
			hits++
			if h.Prim >= n {
				t.Fatalf("ray %d met copy %d, not the first", i, h.Prim)
			}
		}
	}
	if hits < 800 {
		t.Fatalf("only %d hits", hits)
	}
}

// A row of triangles that shrinks without end would make a tree as deep as it is long.
func TestNoInputMakesADeepTree(t *testing.T) {
	var tris []Triangle
	for i, x := 0, float32(1); i < 20000; i, x = i+1, x*0.99 {
		tris = append(tris, Triangle{geom.V(x, 0, 0), geom.V(x, x, 0), geom.V(x, 0, x)})
	}
	b := built(tris)
	if most := (deepest+20)*wide + wide; b.stack > most {
		t.Fatalf("a stack of %d, more than %d", b.stack, most)
	}
	s := NewStack(b)
	for _, i := range []int{0, 10, 500, 1500} {
		x := tris[i].A.X
		r := geom.Ray{O: geom.V(x*1.001, x*0.25, x*0.25), D: geom.V(-1, 0, 0), TMax: 1}
		if h, ok := b.Closest(s, &r); !ok || h.Prim != uint32(i) {
			t.Errorf("triangle %d: met %d, %v", i, h.Prim, ok)
		}
	}
}

func TestBothBuildersMakeTheSameTree(t *testing.T) {
	if !useSIMD {
		t.Skip("built without the eight-wide path, or the processor lacks it")
	}
	tris := soup(70000, 0.02, 12) // enough for the binning on all cores
	defer func() { useSIMD = true }()
	fast := built(tris)
	useSIMD = false
	slow := built(tris)
	if len(fast.nodes) != len(slow.nodes) || len(fast.blocks) != len(slow.blocks) {
		t.Fatalf("%d nodes and %d blocks, portable %d and %d", len(fast.nodes), len(fast.blocks), len(slow.nodes), len(slow.blocks))
	}
	for i := range fast.blocks {
		if fast.blocks[i] != slow.blocks[i] {
			t.Fatalf("block %d differs", i)
		}
	}
}

func benchmarkRays(b *testing.B, f func(*BVH, *Stack, *geom.Ray) bool) {
	h := built(soup(250000, 0.01, 1))
	s := NewStack(h)
	rs := rays(1<<14, 9)
	for b.Loop() {
		for i := range rs {
			f(h, s, &rs[i])
		}
	}
	b.ReportMetric(float64(b.N)*float64(len(rs))/b.Elapsed().Seconds()/1e6, "Mrays/s")
	b.ReportMetric(float64(h.Bytes())/250000, "bytes/triangle")
}

func BenchmarkClosest(b *testing.B) {
	benchmarkRays(b, func(h *BVH, s *Stack, r *geom.Ray) bool { _, ok := h.Closest(s, r); return ok })
}

func BenchmarkClosestPortable(b *testing.B) {
	benchmarkRays(b, func(h *BVH, s *Stack, r *geom.Ray) bool { _, ok := h.closestPortable(s, r); return ok })
}

func BenchmarkBlocked(b *testing.B) {
	benchmarkRays(b, func(h *BVH, s *Stack, r *geom.Ray) bool { return h.Blocked(s, r) })
}

func BenchmarkBuild250k(b *testing.B) {
	t := soup(250000, 0.01, 1)
	for b.Loop() {
		built(t)
	}
}

// A box that begins exactly at the ray's origin, at zeros of either sign, comes first.
func TestBoxesAtTheOriginAreNotSortedLast(t *testing.T) {
	var tris []Triangle
	for i := range 64 { // sheets across the axis, the nearest at 0
		x := float32(i)
		tris = append(tris, Triangle{geom.V(x, -1, -1), geom.V(x, 3, -1), geom.V(x+0.5, -1, 3)},
			Triangle{geom.V(-x, -1, -1), geom.V(-x, 3, -1), geom.V(-x-0.5, -1, 3)})
	}
	b := built(tris)
	s := NewStack(b)
	minus := float32(math.Copysign(0, -1))
	for _, zero := range []float32{0, minus} {
		for _, dx := range []float32{1, -1} {
			r := geom.Ray{O: geom.V(zero, zero, zero), D: geom.V(dx, zero, zero), TMax: 100}
			h, ok := b.Closest(s, &r)
			p, okp := b.closestPortable(s, &r)
			if !ok || !okp || h != p || math.Abs(float64(h.T)-0.125) > 1e-6 {
				t.Errorf("from %v along %v: %+v %v, portable %+v %v", zero, dx, h, ok, p, okp)
			}
		}
	}
}

// built is a hierarchy that nobody gives up.
func built(tris []Triangle) *BVH {
	b, err := Build(context.Background(), tris)
	if err != nil {
		panic(err)
	}
	return b
}
