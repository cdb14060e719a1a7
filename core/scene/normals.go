package scene

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// mostAround bounds the faces that are averaged at a point; the hub of a larger
// fan keeps the normals of its faces.
const mostAround = 256

// AddNormals gives a mesh without normals smooth ones: at each corner the mean,
// by angle, of the normals of the faces around that differ from the corner's own
// by no more than crease (radians). Faces that only share positions count as
// joined. Vertices on creases are doubled. It takes some 80 bytes a triangle, and all
// cores. Once ctx has ended it panics as parallel.Check does.
func (m *Mesh) AddNormals(ctx context.Context, crease float32) {
	if len(m.Normals) > 0 || len(m.Indices) < 3 {
		return
	}
	old := *m
	normal := old.cornerNormals(ctx, crease)
	// Growing a list of millions copies it in one go, without a look at ctx.
	out := Mesh{Name: m.Name, Finish: m.Finish, Indices: make([]uint32, len(m.Indices)),
		Positions: make([]geom.Vec3, 0, len(m.Positions)), Normals: make([]geom.Vec3, 0, len(m.Positions))}
	// The vertices made of one, in a chain: one for each normal it has.
	head := make([]int32, len(old.Positions))
	for i := range head {
		head[i] = -1
	}
	then := make([]int32, 0, len(m.Positions))
	for k, i := range old.Indices {
		parallel.Check(ctx, k)
		at := head[i]
		for at >= 0 && out.Normals[at] != normal[k] {
			at = then[at]
		}
		if at < 0 {
			at = int32(len(out.Positions))
			then = append(then, head[i])
			head[i] = at
			out.takeVertex(&old, i)
			out.Normals = append(out.Normals, normal[k])
		}
		out.Indices[k] = uint32(at)
	}
	*m = out
}

// cornerNormals are the smooth normals of all corners.
func (m *Mesh) cornerNormals(ctx context.Context, crease float32) []geom.Vec3 {
	corners := len(m.Indices) / 3 * 3
	// Equal places are one, whatever the sign of their zeros.
	place, first := weld(ctx, len(m.Positions), func(i int) [3]uint32 {
		p := m.Positions[i].Add(geom.Vec3{})
		return [3]uint32{math.Float32bits(p.X), math.Float32bits(p.Y), math.Float32bits(p.Z)}
	})
	// The corners at each place, in their order, one place after the other.
	begin := make([]int32, len(first)+1)
	for k, i := range m.Indices[:corners] {
		parallel.Check(ctx, k)
		begin[place[i]+1]++
	}
	for i := range first {
		begin[i+1] += begin[i]
	}
	around, filled := make([]int32, corners), make([]int32, len(first))
	for k, i := range m.Indices[:corners] {
		parallel.Check(ctx, k)
		p := place[i]
		around[begin[p]+filled[p]] = int32(k)
		filled[p]++
	}
	flat, angle := make([]geom.Vec3, corners/3), make([]float32, corners)
	shared(ctx, len(flat), func(f int) {
		a, b, c := m.corners(f)
		flat[f] = b.Sub(a).Cross(c.Sub(a)).Unit()
		for k := 3 * f; k < 3*f+3; k++ {
			angle[k] = m.cornerAngle(k)
		}
	})
	limit := float32(math.Cos(float64(crease))) - 1e-6
	out := make([]geom.Vec3, len(m.Indices))
	shared(ctx, corners, func(k int) {
		n := flat[k/3]
		p := place[m.Indices[k]]
		if all := around[begin[p]:begin[p+1]]; len(all) <= mostAround {
			var sum geom.Vec3
			for _, c := range all {
				if g := flat[c/3]; g.Dot(n) >= limit {
					sum = sum.MulAdd(g, angle[c])
				}
			}
			if s := sum.Unit(); !s.IsZero() {
				n = s
			}
		}
		out[k] = n
	})
	return out
}

// shared calls f for 0 to n-1, on all cores.
func shared(ctx context.Context, n int, f func(i int)) {
	parallel.MustRanges(n, 1<<14, func(from, to int) {
		for i := from; i < to; i++ {
			parallel.Check(ctx, i)
			f(i)
		}
	})
}

func (m *Mesh) corners(f int) (a, b, c geom.Vec3) {
	i := m.Indices[3*f:]
	return m.Positions[i[0]], m.Positions[i[1]], m.Positions[i[2]]
}

// cornerAngle is the angle of a triangle at corner k.
func (m *Mesh) cornerAngle(k int) float32 {
	f := k / 3 * 3
	at := func(c int) geom.Vec3 { return m.Positions[m.Indices[f+(k-f+c)%3]] }
	p := at(0)
	return geom.Acos(at(1).Sub(p).Unit().Dot(at(2).Sub(p).Unit()))
}

// takeVertex appends vertex i of another mesh, but for normal and tangent.
func (m *Mesh) takeVertex(o *Mesh, i uint32) {
	m.Positions = append(m.Positions, o.Positions[i])
	for s := range o.UV {
		if len(o.UV[s]) > 0 {
			m.UV[s] = append(m.UV[s], o.UV[s][i])
		}
	}
	if len(o.Colours) > 0 {
		m.Colours = append(m.Colours, o.Colours[i])
	}
}
