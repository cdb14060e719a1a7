package scene

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Grow says how far a set of faces reaches from one of them.
type Grow string

const (
	ByPiece  Grow = "piece"  // all that hangs together
	ByAngle  Grow = "angle"  // over edges whose faces meet at no more than an angle
	ByIsland Grow = "island" // all that hangs together in the picture drawn on it
)

// Nearest is the triangle of a mesh that comes nearest to a point of its space, -1 of a
// mesh without any. It gives up as parallel.Check does.
func (m *Mesh) Nearest(ctx context.Context, p geom.Vec3) int {
	best, away := -1, float32(math.MaxFloat32)
	for f := range len(m.Indices) / 3 {
		parallel.Check(ctx, f)
		a, b, c := m.corners(f)
		if d := p.Sub(nearestOn(p, a, b, c)).Len2(); d < away {
			best, away = f, d
		}
	}
	return best
}

// nearestOn is the point of a triangle that is nearest to p (Ericson, Real-Time Collision
// Detection, 2005, 5.1.5).
func nearestOn(p, a, b, c geom.Vec3) geom.Vec3 {
	ab, ac, ap := b.Sub(a), c.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return a
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return b
	}
	if vc := d1*d4 - d3*d2; vc <= 0 && d1 >= 0 && d3 <= 0 {
		return a.Add(ab.Scale(d1 / (d1 - d3)))
	}
	cp := p.Sub(c)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return c
	}
	if vb := d5*d2 - d1*d6; vb <= 0 && d2 >= 0 && d6 <= 0 {
		return a.Add(ac.Scale(d2 / (d2 - d6)))
	}
	if va := d3*d6 - d5*d4; va <= 0 && d4 >= d3 && d5 >= d6 {
		return b.Add(c.Sub(b).Scale((d4 - d3) / ((d4 - d3) + (d5 - d6))))
	}
	va, vb, vc := d3*d6-d5*d4, d5*d2-d1*d6, d1*d4-d3*d2
	s := 1 / (va + vb + vc)
	return a.Add(ab.Scale(vb * s)).Add(ac.Scale(vc * s))
}

// Grown is the set of triangles that is grown from one, by triangle; angle counts where it
// is grown by that, radians. It gives up as parallel.Check does.
func (m *Mesh) Grown(ctx context.Context, from int, by Grow, angle float32) []bool {
	place, first := weld(ctx, len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i].Add(geom.Vec3{}) })
	if by == ByIsland && len(m.UV[0]) > 0 {
		type spot struct {
			p  geom.Vec3
			uv [2]float32
		}
		place, first = weld(ctx, len(m.Positions), func(i int) spot { return spot{m.Positions[i].Add(geom.Vec3{}), m.UV[0][i]} })
	}
	n := &net{points: make([][8]float32, len(first)), tri: make([]uint32, len(m.Indices)/3*3)}
	for i, v := range first {
		p := m.Positions[v]
		n.points[i] = [8]float32{p.X, p.Y, p.Z}
	}
	for k := range n.tri {
		n.tri[k] = place[m.Indices[k]]
	}
	n.join(ctx)
	limit := float32(-2)
	if by == ByAngle {
		limit = float32(math.Cos(float64(angle))) - 1e-6
	}
	in := make([]bool, len(n.tri)/3)
	in[from] = true
	for todo, k := []int{from}, 0; len(todo) > 0; k++ {
		parallel.Check(ctx, k)
		f := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		here := n.facing(f).Unit()
		for k := 3 * f; k < 3*f+3; k++ {
			t := n.sides[k].twin
			if t < 0 || in[t/3] || here.Dot(n.facing(int(t/3)).Unit()) < limit {
				continue
			}
			in[t/3] = true
			todo = append(todo, int(t/3))
		}
	}
	return in
}

// Parted is a mesh as two: the triangles of a set, and the others, each with the vertices
// that it needs. It gives up as parallel.Check does.
func (m *Mesh) Parted(ctx context.Context, in []bool) (set, rest Mesh) {
	for k, out := range [2]*Mesh{&set, &rest} {
		out.Name, out.Finish, out.Shaping = m.Name, m.Finish, m.Shaping
		at := make([]int32, len(m.Positions)) // one more than the vertex's place in out; 0: not there yet
		for f := range in {
			parallel.Check(ctx, f)
			if in[f] != (k == 0) {
				continue
			}
			for _, i := range m.Indices[3*f : 3*f+3] {
				if at[i] == 0 {
					out.takeVertex(m, i)
					if len(m.Normals) > 0 {
						out.Normals = append(out.Normals, m.Normals[i])
					}
					if len(m.Tangents) > 0 {
						out.Tangents = append(out.Tangents, m.Tangents[i])
					}
					at[i] = int32(len(out.Positions))
				}
				out.Indices = append(out.Indices, uint32(at[i]-1))
			}
		}
	}
	return set, rest
}

// BoxUV is the mesh with places in a picture for every face, as if it were wrapped around
// in boxes: along the axis that the face looks along most. perUnit is how many times the
// picture is repeated in a unit of the mesh. Vertices are doubled where faces of several
// axes meet. It gives up as parallel.Check does.
func (m *Mesh) BoxUV(ctx context.Context, perUnit float32) Mesh {
	out := Mesh{Name: m.Name, Finish: m.Finish, Shaping: m.Shaping, Indices: make([]uint32, len(m.Indices))}
	bare := *m
	bare.UV = [2][][2]float32{}
	at := make([][3]int32, len(m.Positions)) // one more than the vertex's place by axis
	for k := 0; k+2 < len(m.Indices); k += 3 {
		parallel.Check(ctx, k/3)
		a, b, c := m.corners(k / 3)
		n := b.Sub(a).Cross(c.Sub(a))
		axis := 0
		if geom.Abs(n.Y) > geom.Abs(n.X) {
			axis = 1
		}
		if geom.Abs(n.Z) > max(geom.Abs(n.X), geom.Abs(n.Y)) {
			axis = 2
		}
		for j := k; j < k+3; j++ {
			i := m.Indices[j]
			if at[i][axis] == 0 {
				out.takeVertex(&bare, i)
				if len(m.Normals) > 0 {
					out.Normals = append(out.Normals, m.Normals[i])
				}
				p := m.Positions[i].Scale(perUnit)
				out.UV[0] = append(out.UV[0], [3][2]float32{{-p.Z, -p.Y}, {p.X, p.Z}, {p.X, -p.Y}}[axis])
				at[i][axis] = int32(len(out.Positions))
			}
			out.Indices[j] = uint32(at[i][axis] - 1)
		}
	}
	return out
}

// Cut is a set of faces that is taken out of a mesh.
type Cut struct {
	At    geom.Vec3 // a point of the mesh's space by a face of the set
	By    Grow
	Angle float32 // radians, by that
}

type cutOf struct {
	mesh *uint32 // by its triangles
	cut  Cut
}

// CutBytes is about how much memory cutting a mesh takes, in bytes, with what it is cut into.
func CutBytes(m *Mesh) int64 { return int64(len(m.Indices))*40 + int64(len(m.Positions))*160 }

// Parts cuts a mesh in two; nil where one of them would be empty. It gives up as
// parallel.Check does.
func (c Cut) Parts(ctx context.Context, memo *Memo, m *Mesh) (set, rest *Mesh) {
	if len(m.Indices) < 6 {
		return nil, nil
	}
	two := Once(memo, cutOf{&m.Indices[0], c}, func() (two [2]*Mesh, size int64) {
		from := m.Nearest(ctx, c.At)
		if from < 0 { // the point is nowhere
			return two, 0
		}
		a, b := m.Parted(ctx, m.Grown(ctx, from, c.By, c.Angle))
		if len(a.Indices) > 0 && len(b.Indices) > 0 {
			two = [2]*Mesh{&a, &b}
		}
		return two, (&Scene{Meshes: []Mesh{a, b}}).Bytes()
	})
	return two[0], two[1]
}
