package scene

import (
	"math"
	"math/rand/v2"
	"sync"
	"testing"

	"amberproof/core/geom"
)

// block adds a closed box between two corners; each side has a picture of its own.
func (m *Mesh) block(a, b geom.Vec3) {
	at := uint32(len(m.Positions))
	corner := func(i int) geom.Vec3 { return geom.Box{Min: a, Max: b}.Corner(i) }
	for s, f := range [][4]int{{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}} {
		n := corner(f[1]).Sub(corner(f[0])).Cross(corner(f[2]).Sub(corner(f[0]))).Unit()
		for k, i := range f {
			m.Positions, m.Normals = append(m.Positions, corner(i)), append(m.Normals, n)
			m.UV[0] = append(m.UV[0], [2]float32{float32(s) + float32(k&1)/2, float32(k>>1) / 2})
		}
		q := at + uint32(4*s)
		m.Indices = append(m.Indices, q, q+1, q+2, q, q+2, q+3)
	}
}

// Of two boxes in one mesh, a piece is one of them, what meets at right angles only is a
// side, and so is an island of the picture; the two meshes hold all triangles between them.
func TestSetsOfFaces(t *testing.T) {
	var m Mesh
	m.block(geom.V(0, 0, 0), geom.V(1, 1, 1))
	m.block(geom.V(3, 0, 0), geom.V(4, 1, 1))
	top := geom.V(3.4, 1.01, 0.3)
	for _, c := range []struct {
		by    Grow
		angle float32
		faces int
	}{{ByPiece, 0, 12}, {ByAngle, 0.5, 2}, {ByAngle, 1.6, 12}, {ByIsland, 0, 2}} {
		in := m.Grown(t.Context(), m.Nearest(t.Context(), top), c.by, c.angle)
		set, rest := m.Parted(t.Context(), in)
		if got := len(set.Indices) / 3; got != c.faces || got+len(rest.Indices)/3 != 24 {
			t.Errorf("by %s at %g: %d faces and %d", c.by, c.angle, got, len(rest.Indices)/3)
		}
		for _, part := range []Mesh{set, rest} {
			if len(part.Normals) != len(part.Positions) || len(part.UV[0]) != len(part.Positions) || len(part.Positions)*6 != len(part.Indices)*4 {
				t.Errorf("by %s: %d places, %d normals, %d of the picture, %d corners", c.by, len(part.Positions), len(part.Normals), len(part.UV[0]), len(part.Indices))
			}
		}
		for _, p := range set.Positions {
			if p.X < 3 || c.faces == 2 && p.Y != 1 {
				t.Errorf("by %s: %v is in the set", c.by, p)
			}
		}
	}
}

// The nearest triangle is the one that a search over many of its points finds.
func TestNearest(t *testing.T) {
	m := globe(12, false)
	r := rand.New(rand.NewPCG(3, 1))
	for range 200 {
		p := geom.V(r.Float32()*4-2, r.Float32()*4-2, r.Float32()*4-2)
		best := float32(math.MaxFloat32)
		away := func(f int) float32 {
			a, b, c := m.corners(f)
			least := float32(math.MaxFloat32)
			for i := range 21 {
				for k := range 21 - i {
					u, v := float32(i)/20, float32(k)/20
					least = min(least, p.Sub(a.Scale(1-u-v).Add(b.Scale(u)).Add(c.Scale(v))).Len())
				}
			}
			return least
		}
		for f := range len(m.Indices) / 3 {
			best = min(best, away(f))
		}
		if got := away(m.Nearest(t.Context(), p)); got > best+0.01 {
			t.Errorf("from %v the triangle is %g away, another %g", p, got, best)
		}
	}
	if (&Mesh{}).Nearest(t.Context(), geom.Vec3{}) != -1 {
		t.Error("a mesh without triangles has a nearest one")
	}
}

// The same cut gives the same meshes, whoever asks; without a memory it works as well.
func TestCuts(t *testing.T) {
	var m Mesh
	m.block(geom.V(0, 0, 0), geom.V(1, 1, 1))
	m.block(geom.V(3, 0, 0), geom.V(4, 1, 1))
	c := &Memo{}
	cut := Cut{At: geom.V(3, 0, 0), By: ByPiece}
	var all [8]*Mesh
	var wg sync.WaitGroup
	for i := range all {
		wg.Go(func() { all[i], _ = cut.Parts(t.Context(), c, &m) })
	}
	wg.Wait()
	for _, s := range all {
		if s == nil || s != all[0] {
			t.Fatal("asked twice, it was cut twice")
		}
	}
	if set, rest := cut.Parts(t.Context(), nil, &m); set == nil || len(set.Indices) != 36 || len(rest.Indices) != 36 {
		t.Error("without a memory it is not cut")
	}
	inf := float32(math.Inf(1))
	for _, bad := range []Cut{{At: geom.V(0, 0, 0), By: ByAngle, Angle: math.Pi}, {At: geom.V(inf, 0, 0), By: ByPiece}} {
		if set, _ := bad.Parts(t.Context(), c, all[0]); set != nil {
			t.Errorf("%+v leaves nothing, and was made", bad)
		}
	}
}
