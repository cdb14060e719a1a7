package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// roof is two faces that meet at a ridge, the second turned down by an angle, with the
// vertices of the ridge doubled and a little apart.
func roof(angle, apart float64) Mesh {
	sin, cos := math.Sincos(angle)
	down := geom.V(float32(cos), float32(-sin), 0)
	o := geom.V(0, float32(apart), 0)
	return Mesh{
		Positions: []geom.Vec3{geom.V(-1, 0, 0), {}, geom.V(0, 0, 1), geom.V(-1, 0, 1), o, o.Add(down), o.Add(down).Add(geom.V(0, 0, 1)), o.Add(geom.V(0, 0, 1))},
		Indices:   []uint32{0, 3, 2, 0, 2, 1, 4, 7, 6, 4, 6, 5},
	}
}

func kindsOf(edges []Edge) (creases, borders int) {
	for _, e := range edges {
		if e.Border {
			borders++
		} else {
			creases++
		}
	}
	return creases, borders
}

func TestEdges(t *testing.T) {
	deg := math.Pi / 180
	for _, c := range []struct {
		name             string
		turned, apart    float64 // degrees, metres
		over             float64 // degrees
		creases, borders int
	}{
		{"a ridge over the angle", 40, 0, 30, 1, 6},
		{"a ridge under the angle", 20, 0, 30, 0, 6},
		{"exactly at the angle", 30, 0, 30, 0, 6},
		{"level, over nothing at all", 0, 0, 0, 0, 6},
		{"turned back on itself", 179, 0, 30, 1, 6},
		{"closed to within rounding", 0, 1e-7, 30, 0, 6},
		{"a gap", 0, 1e-3, 30, 0, 8},
	} {
		m := roof(c.turned*deg, c.apart)
		if creases, borders := kindsOf(m.Edges(t.Context(), float32(c.over*deg), nil)); creases != c.creases || borders != c.borders {
			t.Errorf("%s: %d creases and %d borders, want %d and %d", c.name, creases, borders, c.creases, c.borders)
		}
		// Wound the other way round, one of the faces, it is the same.
		m.Indices[6], m.Indices[7], m.Indices[9], m.Indices[10] = m.Indices[7], m.Indices[6], m.Indices[10], m.Indices[9]
		if creases, borders := kindsOf(m.Edges(t.Context(), float32(c.over*deg), nil)); creases != c.creases || borders != c.borders {
			t.Errorf("%s, wound otherwise: %d creases and %d borders", c.name, creases, borders)
		}
	}
	three := roof(0, 0)
	three.Positions = append(three.Positions, geom.V(0, 1, 0), geom.V(0, 1, 1))
	three.Indices = append(three.Indices, 1, 2, 9, 1, 9, 8)
	if creases, borders := kindsOf(three.Edges(t.Context(), 0.5, nil)); creases != 1 || borders != 9 {
		t.Errorf("three faces at one edge: %d creases and %d borders", creases, borders)
	}
	flat := Mesh{Positions: []geom.Vec3{{}, {}, geom.V(1, 0, 0)}, Indices: []uint32{0, 1, 2, 2, 1, 0}}
	if e := flat.Edges(t.Context(), 0.1, nil); len(e) != 0 {
		t.Errorf("of no area: %v", e)
	}
	if e := (&Mesh{}).Edges(t.Context(), 0.1, nil); len(e) != 0 {
		t.Errorf("of nothing: %v", e)
	}
}

// A sheet of one long side and two short ones that meet it has no border there, and a crease
// if it turns there.
func TestALongSideAlongShortOnes(t *testing.T) {
	for _, c := range []struct {
		down             float32
		creases, borders int
	}{{0, 0, 7}, {1, 2, 7}} {
		m := Mesh{
			Positions: []geom.Vec3{{}, geom.V(0, 0, 2), geom.V(-1, 0, 2), geom.V(-1, 0, 0), geom.V(0, 0, 1), geom.V(1, -c.down, 0),
				geom.V(1, -c.down, 2), geom.V(0, 0, 0), geom.V(0, 0, 2)},
			Indices: []uint32{0, 2, 1, 0, 3, 2, 7, 4, 5, 4, 6, 5, 4, 8, 6},
		}
		if creases, borders := kindsOf(m.Edges(t.Context(), 0.5, nil)); creases != c.creases || borders != c.borders-1 {
			t.Errorf("down by %v: %d creases and %d borders, want %d and %d", c.down, creases, borders, c.creases, c.borders-1)
		}
	}
}

// coarseBall has faces of so many degrees and smooth normals.
func coarseBall(step float64) (m Mesh) {
	n := int(360 / step)
	for i := range n/2 + 1 {
		st, ct := math.Sincos(math.Pi * float64(i) / float64(n/2))
		for k := range n {
			sp, cp := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			p := geom.V(float32(st*cp), float32(ct), float32(st*sp))
			m.Positions, m.Normals = append(m.Positions, p), append(m.Normals, p)
		}
	}
	for i := range n / 2 {
		for k := range n {
			a, b := uint32(i*n+k), uint32(i*n+(k+1)%n)
			m.Indices = append(m.Indices, a, b, b+uint32(n), a, b+uint32(n), a+uint32(n))
		}
	}
	return m
}

// A coarse ball that is shaded smoothly has no creases; faceted it has them all over.
func TestWhatIsShadedRoundHasNoCreases(t *testing.T) {
	m := coarseBall(36)
	if creases, borders := kindsOf(m.Edges(t.Context(), 0.5, nil)); creases != 0 || borders != 0 {
		t.Errorf("smooth: %d creases, %d borders", creases, borders)
	}
	m.Normals = nil
	if creases, _ := kindsOf(m.Edges(t.Context(), 0.5, nil)); creases < 50 {
		t.Errorf("faceted: %d creases", creases)
	}
}

// A ridge that is flat in the mesh and steep in the world is a crease, and the other way
// round.
func TestCreasesAreThoseOfTheWorld(t *testing.T) {
	flat, steep := roof(0.2, 0), roof(1, 0)
	tall, low := geom.Affine{1, 0, 0, 0, 0, 8, 0, 0, 0, 0, 1, 0}, geom.Affine{1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 1, 0}
	if own, _ := kindsOf(flat.Edges(t.Context(), 0.5, nil)); own != 0 {
		t.Errorf("as it is: %d creases", own)
	}
	if world, _ := kindsOf(flat.Edges(t.Context(), 0.5, &tall)); world != 1 {
		t.Errorf("tall: %d creases", world)
	}
	if world, _ := kindsOf(steep.Edges(t.Context(), 0.5, &low)); world != 0 {
		t.Errorf("low: %d creases", world)
	}
}
