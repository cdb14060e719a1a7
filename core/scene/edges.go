package scene

import (
	"math"

	"amberproof/core/geom"
)

// Edge is a side of a mesh's faces along which it has a crease or an open border, in the
// space of the mesh.
type Edge struct {
	A, B   geom.Vec3
	Border bool // one face is there, and no other
}

// Edges are the creases of a mesh, where faces meet that turn by more than an angle,
// radians, and its open borders. Vertices in one place are one; faces without an area are
// none, and their neighbours on either side meet where they are as thin as a line.
func (m *Mesh) Edges(angle float32) (out []Edge) {
	place, first := weld(len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i].Add(geom.Vec3{}) })
	n := &net{points: make([][8]float32, len(first))}
	for i, v := range first {
		p := m.Positions[v]
		n.points[i] = [8]float32{p.X, p.Y, p.Z}
	}
	for k := 0; k+2 < len(m.Indices); k += 3 {
		a, b, c := place[m.Indices[k]], place[m.Indices[k+1]], place[m.Indices[k+2]]
		if a != b && b != c && c != a {
			n.tri = append(n.tri, a, b, c)
		}
	}
	n.join()
	// The sides of each edge.
	of := make([][]int32, n.edges)
	for k := range n.sides {
		of[n.sides[k].mid] = append(of[n.sides[k].mid], int32(k))
	}
	limit := float32(math.Cos(float64(angle)))
	for _, sides := range of {
		k := int(sides[0])
		e := Edge{n.place(n.tri[k]), n.place(n.tri[next(k)]), len(sides) == 1}
		if e.Border || n.turns(sides, limit) {
			out = append(out, e)
		}
	}
	return out
}

// turns tells whether any two faces at an edge turn by more than the angle of a cosine.
func (n *net) turns(sides []int32, limit float32) bool {
	for i, a := range sides {
		for _, b := range sides[i+1:] {
			u, v := n.facing(int(a/3)).Unit(), n.facing(int(b/3)).Unit()
			cos := u.Dot(v)
			if n.tri[a] == n.tri[b] { // wound the other way round, one of them looks to the other side
				cos = -cos
			}
			if !u.IsZero() && !v.IsZero() && cos < limit-1e-6 {
				return true
			}
		}
	}
	return false
}

// EdgeBytes is about how much memory finding the edges of a mesh takes, in bytes.
func EdgeBytes(m *Mesh) int64 { return int64(len(m.Indices))*60 + int64(len(m.Positions))*60 }
