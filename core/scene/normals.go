package scene

import (
	"math"

	"amberproof/core/geom"
)

// mostAround bounds the faces that are averaged at a point; the hub of a larger
// fan keeps the normals of its faces.
const mostAround = 256

// AddNormals gives a mesh without normals smooth ones: at each corner the mean,
// by angle, of the normals of the faces around that differ from the corner's own
// by no more than crease (radians). Faces that only share positions count as
// joined. Vertices on creases are doubled.
func (m *Mesh) AddNormals(crease float32) {
	if len(m.Normals) > 0 || len(m.Indices) < 3 {
		return
	}
	faces := len(m.Indices) / 3
	normal := make([]geom.Vec3, faces)
	around := map[geom.Vec3][]int32{} // corners at a point
	for k := range m.Indices[:3*faces] {
		p := m.Positions[m.Indices[k]]
		around[p] = append(around[p], int32(k))
	}
	for f := range normal {
		a, b, c := m.corners(f)
		normal[f] = b.Sub(a).Cross(c.Sub(a)).Unit()
	}
	limit := float32(math.Cos(float64(crease))) - 1e-6
	type key struct {
		vertex uint32
		n      geom.Vec3
	}
	old := *m
	out := Mesh{Name: m.Name, Finish: m.Finish, Indices: make([]uint32, len(m.Indices))}
	made := map[key]uint32{}
	for k, i := range old.Indices {
		f := k / 3
		n := normal[f]
		if all := around[old.Positions[i]]; len(all) <= mostAround {
			var sum geom.Vec3
			for _, c := range all {
				if g := normal[c/3]; g.Dot(n) >= limit {
					sum = sum.MulAdd(g, old.cornerAngle(int(c)))
				}
			}
			if s := sum.Unit(); !s.IsZero() {
				n = s
			}
		}
		at, ok := made[key{i, n}]
		if !ok {
			at = uint32(len(out.Positions))
			made[key{i, n}] = at
			out.takeVertex(&old, i)
			out.Normals = append(out.Normals, n)
		}
		out.Indices[k] = at
	}
	*m = out
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
