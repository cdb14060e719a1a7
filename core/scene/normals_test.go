package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// A fine sphere becomes smooth: its normals are its radii. A cube keeps its
// edges, with a normal for each side at each corner.
func TestNormalsAreSmoothedUpToTheCrease(t *testing.T) {
	m := globe(40, false)
	m.Normals, m.UV[0] = nil, nil
	m.AddNormals(t.Context(), 0.5)
	if len(m.Positions) != 41*41 || len(m.Normals) != len(m.Positions) {
		t.Fatalf("%d vertices, %d normals", len(m.Positions), len(m.Normals))
	}
	for k, p := range m.Positions { // at the borders half of the faces are missing
		if d := m.Normals[k].Dot(p); geom.Abs(d) < 0.999 {
			t.Fatalf("normal %v at %v", m.Normals[k], p)
		}
	}
	cube := Mesh{}
	for i := range 8 {
		cube.Positions = append(cube.Positions, geom.V(float32(i&1), float32(i>>1&1), float32(i>>2)))
	}
	cube.Indices = []uint32{0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5}
	sharp, round := cube, cube
	sharp.AddNormals(t.Context(), math.Pi/4)
	if len(sharp.Positions) != 24 {
		t.Errorf("a cube with sharp edges has %d vertices", len(sharp.Positions))
	}
	for k, i := range sharp.Indices {
		a, b, c := sharp.corners(k / 3)
		if d := sharp.Normals[i].Dot(b.Sub(a).Cross(c.Sub(a)).Unit()); d < 0.9999 {
			t.Errorf("corner %d leans: %v", k, d)
		}
	}
	round.AddNormals(t.Context(), math.Pi)
	if len(round.Positions) != 8 {
		t.Errorf("a rounded cube has %d vertices", len(round.Positions))
	}
	for i, n := range round.Normals {
		want := round.Positions[i].Sub(geom.Splat(0.5)).Unit()
		if n.Dot(want) < 0.99 {
			t.Errorf("corner %v has normal %v", round.Positions[i], n)
		}
	}
}

func TestNormalsOfTheFileAndDegenerateFacesAreSafe(t *testing.T) {
	m := Mesh{Positions: []geom.Vec3{{}, {X: 1}, {X: 2}}, Indices: []uint32{0, 1, 2}}
	m.AddNormals(t.Context(), 1)
	if len(m.Normals) != len(m.Positions) {
		t.Error("a line has no normals at all")
	}
	n := []geom.Vec3{{Z: 1}, {Z: 1}, {Z: 1}}
	m = Mesh{Positions: []geom.Vec3{{}, {X: 1}, {Y: 1}}, Normals: n, Indices: []uint32{0, 1, 2}}
	m.AddNormals(t.Context(), 1)
	if m.Normals[0] != n[0] || len(m.Positions) != 3 {
		t.Error("the file's normals were replaced")
	}
}
