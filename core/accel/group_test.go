package accel

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

// crowd is instances of three meshes, the last of them empty, at random places,
// one of which flattens its mesh to nothing. Every third moves: in a turn, in a
// line, or from nothing.
func crowd(moves bool) (all []Instance, source [][]Triangle) {
	source = [][]Triangle{soup(500, 0.2, 31), soup(300, 0.3, 32), nil}
	meshes := []*BVH{built(source[0]), built(source[1]), built(nil)}
	r := rand.New(rand.NewPCG(6, 6))
	place := func(i int) geom.Affine {
		q := [4]float32{r.Float32() - 0.5, r.Float32() - 0.5, r.Float32() - 0.5, r.Float32() - 0.5}
		l := geom.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
		for k := range q {
			q[k] /= l
		}
		if i == 7 {
			return geom.Compose(geom.Vec3{}, q, geom.V(0, 1, 1))
		}
		return geom.Compose(geom.V(r.Float32()*4-2, r.Float32()*4-2, r.Float32()*4-2), q, geom.V(0.1+r.Float32()*0.3, 0.2, -0.2))
	}
	for i := range 60 {
		in := Instance{Mesh: meshes[i%3], World: place(i)}
		if moves && i%5 == 2 {
			in.Way = []geom.Affine{in.World, place(i + 100), place(i + 100)}[:2+i%2]
		}
		all = append(all, in)
	}
	return all, source
}

// A group of instances is hit as the same triangles laid out flat where they are
// at that moment: same distances up to rounding, same instance.
func TestAGroupIsHitAsItsTrianglesLaidOut(t *testing.T) {
	for _, c := range []struct {
		moves  bool
		moment float32
	}{{false, 0}, {true, 0}, {true, 0.37}, {true, 0.5}, {true, 1}} {
		all, source := crowd(c.moves)
		var flat []Triangle
		var owner []uint32
		for i, in := range all {
			place := in.World
			if in.Way != nil {
				place = Along(in.Way, c.moment)
			}
			if _, ok := place.Inverse(); !ok {
				continue
			}
			for _, tr := range source[i%3] {
				flat = append(flat, Triangle{place.Point(tr.A), place.Point(tr.B), place.Point(tr.C)})
				owner = append(owner, uint32(i))
			}
		}
		g, b := NewGroup(all), built(flat)
		s := NewStack(g, b)
		s.Moment = c.moment
		hits, odd := 0, 0
		for i, ray := range rays(6000, 33) {
			h, inst, ok := g.Closest(s, &ray)
			if g.Blocked(s, &ray) != ok {
				t.Fatalf("ray %d: blocked disagrees with closest", i)
			}
			want, ok2 := b.Closest(s, &ray)
			if ok != ok2 || ok && (math.Abs(float64(h.T-want.T)) > 1e-4*(1+float64(want.T)) || inst != owner[want.Prim]) {
				odd++ // a graze may round either way
				continue
			}
			if ok {
				hits++
			}
		}
		if hits < 600 || odd > 6 {
			t.Errorf("%+v: %d hits, %d rays disagree", c, hits, odd)
		}
	}
	if e := NewGroup(nil); !e.Empty() || e.Blocked(NewStack(e), &geom.Ray{D: geom.V(1, 0, 0), TMax: 1}) {
		t.Error("an empty group blocks")
	}
}
