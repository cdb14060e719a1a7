package scene

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Edge is a side of a mesh's faces along which it has a crease or an open border, in the
// space of the mesh.
type Edge struct {
	A, B   geom.Vec3
	Border bool // one face is there, and no other
}

// roundUpTo is the angle up to which an edge over which the mesh's own normals go on, so that
// it is shaded as one surface, stands for something round and is no crease.
const roundUpTo = 60 * math.Pi / 180

// Edges are the creases of a mesh, where faces meet that turn by more than an angle,
// radians, and its open borders. Angles are those of the mesh as in has it stand, which
// counts where that scales unevenly; nil is as it is. Vertices in one place are one; faces
// without an area are none. Borders that lie along each other to within rounding are no
// borders, though the one side is parted where the other is not. Once ctx has ended
// it panics as parallel.Check does.
func (m *Mesh) Edges(ctx context.Context, angle float32, in *geom.Affine) (out []Edge) {
	place, first := weld(ctx, len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i].Add(geom.Vec3{}) })
	f := &folded{net: &net{points: make([][8]float32, len(first))}, mesh: m, in: in, limit: cosOf(angle), rounded: cosOf(max(angle, roundUpTo))}
	for i, v := range first {
		p := m.Positions[v]
		f.points[i] = [8]float32{p.X, p.Y, p.Z}
	}
	for _, i := range m.Indices[:len(m.Indices)/3*3] {
		f.tri, f.from = append(f.tri, place[i]), append(f.from, i)
	}
	f.widen()
	f.join(ctx)
	if f.close(ctx) {
		f.widen()
		f.edges = 0
		f.join(ctx)
	}
	alone := map[uint32][]int32{} // sides without one neighbour, by edge
	var order []uint32
	for k := range f.sides {
		parallel.Check(ctx, k)
		switch s := f.sides[k]; {
		case s.twin < 0:
			if alone[s.mid] == nil {
				order = append(order, s.mid)
			}
			alone[s.mid] = append(alone[s.mid], int32(k))
		case int(s.twin) > k && f.turns([]int32{int32(k), s.twin}):
			out = append(out, Edge{f.place(f.tri[k]), f.place(f.tri[next(k)]), false})
		}
	}
	var single []int32
	for _, mid := range order {
		if sides := alone[mid]; len(sides) == 1 {
			single = append(single, sides[0])
		} else if f.turns(sides) {
			k := int(sides[0])
			out = append(out, Edge{f.place(f.tri[k]), f.place(f.tri[next(k)]), false})
		}
	}
	return append(out, f.borders(ctx, single)...)
}

func cosOf(angle float32) float32 { return float32(math.Cos(float64(angle))) }

// folded is a net of which the turns at its edges are looked at.
type folded struct {
	*net
	from           []uint32 // the vertex of the mesh of each corner
	mesh           *Mesh
	in             *geom.Affine
	limit, rounded float32 // cosines of the angles of creases, and of those over which normals go on
}

// widen leaves out triangles of fewer than three corners.
func (f *folded) widen() {
	tri, from := f.tri[:0], f.from[:0]
	for k := 0; k+2 < len(f.tri); k += 3 {
		if a, b, c := f.tri[k], f.tri[k+1], f.tri[k+2]; a != b && b != c && c != a {
			tri, from = append(tri, a, b, c), append(from, f.from[k:k+3]...)
		}
	}
	f.tri, f.from = tri, from
}

// looks is where a face looks, of length one, or zero.
func (f *folded) looks(face int) geom.Vec3 {
	if f.in == nil {
		return f.facing(face).Unit()
	}
	at := func(k int) geom.Vec3 { return f.in.Point(f.place(f.tri[3*face+k])) }
	a := at(0)
	return at(1).Sub(a).Cross(at(2).Sub(a)).Unit()
}

// along is the way of a side, from its corner on.
func (f *folded) along(k int32) geom.Vec3 {
	return f.place(f.tri[next(int(k))]).Sub(f.place(f.tri[k]))
}

// goesOn tells whether the mesh's normals are the same on both sides of an edge.
func (f *folded) goesOn(a, b int32) bool {
	n := f.mesh.Normals
	if len(n) != len(f.mesh.Positions) {
		return false
	}
	same := func(i, k int) bool { return n[f.from[i]].Dot(n[f.from[k]]) > 0.999 }
	u, v := int(a), int(b)
	if f.tri[u] == f.tri[v] {
		return same(u, v) && same(next(u), next(v))
	}
	return same(u, next(v)) && same(next(u), v)
}

// closeBy is how far points of borders may be apart that are one, by the size of the mesh:
// as much as rounding puts between them.
const closeBy = 1e-6

// close makes points of borders one that are as good as in one place, and tells whether
// there were any.
func (n *net) close(ctx context.Context) (any bool) {
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
		parallel.Check(ctx, i)
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

// turns tells whether any two faces at an edge turn by more than makes it a crease.
func (f *folded) turns(sides []int32) bool {
	for i, a := range sides {
		for _, b := range sides[i+1:] {
			u, v := f.looks(int(a/3)), f.looks(int(b/3))
			cos := u.Dot(v)
			if f.along(a).Dot(f.along(b)) > 0 { // wound the other way round, one of them looks to the other side
				cos = -cos
			}
			limit := f.limit
			if f.goesOn(a, b) {
				limit = f.rounded
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
