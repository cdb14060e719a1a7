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
// none. Borders that lie along each other to within rounding, as where a turned shape
// closes, are one edge.
func (m *Mesh) Edges(angle float32) (out []Edge) {
	place, first := weld(len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i].Add(geom.Vec3{}) })
	n := &net{points: make([][8]float32, len(first))}
	for i, v := range first {
		p := m.Positions[v]
		n.points[i] = [8]float32{p.X, p.Y, p.Z}
	}
	for _, i := range m.Indices[:len(m.Indices)/3*3] {
		n.tri = append(n.tri, place[i])
	}
	n.tri = wide(n.tri)
	n.join()
	if n.close() {
		n.tri = wide(n.tri)
		n.edges = 0
		n.join()
	}
	limit := float32(math.Cos(float64(angle)))
	at := func(k int, border bool) Edge { return Edge{n.place(n.tri[k]), n.place(n.tri[next(k)]), border} }
	alone := map[uint32][]int32{} // sides without one neighbour, by edge
	var order []uint32
	for k := range n.sides {
		switch s := n.sides[k]; {
		case s.twin < 0:
			if alone[s.mid] == nil {
				order = append(order, s.mid)
			}
			alone[s.mid] = append(alone[s.mid], int32(k))
		case int(s.twin) > k && n.turns([]int32{int32(k), s.twin}, limit):
			out = append(out, at(k, false))
		}
	}
	for _, mid := range order {
		if sides := alone[mid]; len(sides) == 1 || n.turns(sides, limit) {
			out = append(out, at(int(sides[0]), len(sides) == 1))
		}
	}
	return out
}

// wide are the triangles of a list that have three corners.
func wide(tri []uint32) []uint32 {
	out := tri[:0]
	for k := 0; k+2 < len(tri); k += 3 {
		if a, b, c := tri[k], tri[k+1], tri[k+2]; a != b && b != c && c != a {
			out = append(out, a, b, c)
		}
	}
	return out
}

// closeBy is how far points of borders may be apart that are one, by the size of the mesh:
// as much as rounding puts between them.
const closeBy = 1e-6

// close makes points of borders one that are as good as in one place, and tells whether
// there were any.
func (n *net) close() (any bool) {
	open := make([]bool, len(n.points))
	box := geom.EmptyBox()
	for k := range n.tri {
		if n.sides[k].twin < 0 {
			open[n.tri[k]], open[n.tri[next(k)]] = true, true
		}
		box = box.Extend(n.place(n.tri[k]))
	}
	reach := closeBy * box.Size().Max()
	if !(reach > 0) {
		return false
	}
	type cell [3]int64
	of := func(p geom.Vec3) cell {
		at := func(x float32) int64 { return int64(math.Floor(float64(x) / float64(2*reach))) }
		return cell{at(p.X), at(p.Y), at(p.Z)}
	}
	cells := map[cell][]uint32{}
	to := make([]uint32, len(n.points))
	for i := range to {
		to[i] = uint32(i)
		if !open[i] {
			continue
		}
		p := n.place(uint32(i))
		c := of(p)
		if j, ok := n.beside(p, c, reach, func(c [3]int64) []uint32 { return cells[c] }); ok {
			to[i], any = j, true
			continue
		}
		cells[c] = append(cells[c], uint32(i))
	}
	for k := range n.tri {
		n.tri[k] = to[n.tri[k]]
	}
	return any
}

// beside is a point within reach of a place, in the cells around that of the place.
func (n *net) beside(p geom.Vec3, at [3]int64, reach float32, in func(cell [3]int64) []uint32) (uint32, bool) {
	for i := range int64(27) {
		for _, j := range in([3]int64{at[0] + i%3 - 1, at[1] + i/3%3 - 1, at[2] + i/9 - 1}) {
			if n.place(j).Sub(p).Len() <= reach {
				return j, true
			}
		}
	}
	return 0, false
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
