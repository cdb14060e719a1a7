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
		if creases, borders := kindsOf(m.Edges(float32(c.over * deg))); creases != c.creases || borders != c.borders {
			t.Errorf("%s: %d creases and %d borders, want %d and %d", c.name, creases, borders, c.creases, c.borders)
		}
		// Wound the other way round, one of the faces, it is the same.
		m.Indices[6], m.Indices[7], m.Indices[9], m.Indices[10] = m.Indices[7], m.Indices[6], m.Indices[10], m.Indices[9]
		if creases, borders := kindsOf(m.Edges(float32(c.over * deg))); creases != c.creases || borders != c.borders {
			t.Errorf("%s, wound otherwise: %d creases and %d borders", c.name, creases, borders)
		}
	}
	three := roof(0, 0)
	three.Positions = append(three.Positions, geom.V(0, 1, 0), geom.V(0, 1, 1))
	three.Indices = append(three.Indices, 1, 2, 9, 1, 9, 8)
	if creases, borders := kindsOf(three.Edges(0.5)); creases != 1 || borders != 9 {
		t.Errorf("three faces at one edge: %d creases and %d borders", creases, borders)
	}
	flat := Mesh{Positions: []geom.Vec3{{}, {}, geom.V(1, 0, 0)}, Indices: []uint32{0, 1, 2, 2, 1, 0}}
	if e := flat.Edges(0.1); len(e) != 0 {
		t.Errorf("of no area: %v", e)
	}
	if e := (&Mesh{}).Edges(0.1); len(e) != 0 {
		t.Errorf("of nothing: %v", e)
	}
}
