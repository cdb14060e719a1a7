package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// globe is a part of a unit sphere whose texture coordinates run with longitude
// and, downwards, with latitude; its right half is mirrored.
func globe(n int, mirrored bool) Mesh {
	var m Mesh
	for j := range n + 1 {
		for i := range n + 1 {
			lon, lat := (float64(i)/float64(n)-0.5)*2, (0.5-float64(j)/float64(n))*1.5
			p := geom.V(float32(math.Cos(lat)*math.Sin(lon)), float32(math.Sin(lat)), float32(math.Cos(lat)*math.Cos(lon)))
			u := float64(i) / float64(n)
			if mirrored && u > 0.5 {
				u = 1 - u
			}
			m.Positions = append(m.Positions, p)
			m.Normals = append(m.Normals, p)
			m.UV[0] = append(m.UV[0], [2]float32{float32(u), float32(j) / float32(n)})
		}
	}
	row := uint32(n + 1)
	for j := range uint32(n) {
		for i := range uint32(n) {
			a := j*row + i
			m.Indices = append(m.Indices, a, a+row, a+1, a+1, a+row, a+row+1)
		}
	}
	return m
}

// On a sphere the direction of longitude is known: east; the bitangent, against
// v, is north.
func TestTangentsOfASphere(t *testing.T) {
	for _, mirrored := range []bool{false, true} {
		m := globe(40, mirrored)
		before := len(m.Positions)
		m.AddTangents(t.Context(), 0)
		wantCopies := 0
		if mirrored {
			wantCopies = 41 // the seam
		}
		if got := len(m.Positions) - before; got != wantCopies || len(m.Tangents) != len(m.Positions) {
			t.Fatalf("mirrored %v: %d vertices doubled, want %d; %d tangents", mirrored, got, wantCopies, len(m.Tangents))
		}
		for k, i := range m.Indices {
			p := m.Positions[i]
			east := geom.V(p.Z, 0, -p.X).Unit()
			tri := m.Indices[k/3*3 : k/3*3+3]
			middle := m.Positions[tri[0]].Add(m.Positions[tri[1]]).Add(m.Positions[tri[2]])
			if mirrored && middle.X > 0 {
				east = east.Neg()
			}
			q := m.Tangents[i]
			tan := geom.V(q[0], q[1], q[2])
			if tan.Dot(east) < 0.999 {
				t.Fatalf("mirrored %v: tangent %v at %v, want %v", mirrored, tan, p, east)
			}
			if north := p.Cross(tan).Scale(q[3]); north.Y < 0.6 {
				t.Fatalf("mirrored %v: bitangent %v at %v", mirrored, north, p)
			}
		}
	}
}

func TestTangentsNeedCoordinatesAndKeepTheFiles(t *testing.T) {
	m := globe(4, false)
	m.UV[0] = nil
	m.AddTangents(t.Context(), 0)
	if m.Tangents != nil {
		t.Error("tangents without coordinates")
	}
	m = globe(4, false)
	for i := range m.UV[0] {
		m.UV[0][i] = [2]float32{0.5, 0.5}
	}
	m.AddTangents(t.Context(), 0)
	for i, q := range m.Tangents {
		if v := geom.V(q[0], q[1], q[2]); math.Abs(float64(v.Len())-1) > 1e-5 || math.Abs(float64(v.Dot(m.Normals[i]))) > 1e-5 {
			t.Fatalf("coordinates in one point: tangent %v", q)
		}
	}
	given := [][4]float32{{9, 0, 0, 1}}
	m = Mesh{Positions: make([]geom.Vec3, 1), Normals: make([]geom.Vec3, 1), Tangents: given}
	m.AddTangents(t.Context(), 0)
	if m.Tangents[0] != given[0] {
		t.Error("the file's own tangents were replaced")
	}
}
