package scene

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// AddTangents gives a mesh with normals and texture coordinates the tangents
// that maps baked elsewhere expect: those of the open tangent-space convention
// (Mikkelsen 2008). At each vertex the directions of u of the triangles around
// it are projected onto the normal's plane and averaged by angle; triangles
// whose coordinates are mirrored are averaged apart, for which vertices on
// mirror seams are doubled. Corners that share position, normal and coordinates
// count as one vertex. A mesh that lacks what is needed is left as it is.
// Once ctx has ended it panics as parallel.Check does.
func (m *Mesh) AddTangents(ctx context.Context, set int) {
	uv := m.UV[set]
	if len(m.Tangents) > 0 || len(m.Normals) == 0 || len(uv) == 0 {
		return
	}
	type vertex struct {
		p, n     geom.Vec3
		uv       [2]float32
		mirrored bool
	}
	weld := map[vertex]int{}
	var sums []geom.Vec3
	var signs []float32
	group := make([]int32, len(m.Indices)) // per corner; -1: its triangle has no directions
	for k := 0; k+2 < len(m.Indices); k += 3 {
		parallel.Check(ctx, k/3)
		i := m.Indices[k : k+3]
		e1, e2 := m.Positions[i[1]].Sub(m.Positions[i[0]]), m.Positions[i[2]].Sub(m.Positions[i[0]])
		u1, v1 := uv[i[1]][0]-uv[i[0]][0], uv[i[1]][1]-uv[i[0]][1]
		u2, v2 := uv[i[2]][0]-uv[i[0]][0], uv[i[2]][1]-uv[i[0]][1]
		det := u1*v2 - u2*v1
		t := e1.Scale(v2).Sub(e2.Scale(v1)).Scale(signOf(det)).Unit()
		if t.IsZero() {
			group[k], group[k+1], group[k+2] = -1, -1, -1
			continue
		}
		for c := range 3 {
			a := i[c]
			n := m.Normals[a].Unit()
			key := vertex{m.Positions[a], n, uv[a], det < 0}
			g, ok := weld[key]
			if !ok {
				g = len(sums)
				weld[key] = g
				sums = append(sums, geom.Vec3{})
				// glTF's v runs down the picture and green up it: the bitangent is against v.
				signs = append(signs, -signOf(det))
			}
			group[k+c] = int32(g)
			flat := func(v geom.Vec3) geom.Vec3 { return v.Sub(n.Scale(n.Dot(v))).Unit() }
			to := flat(m.Positions[i[(c+1)%3]].Sub(m.Positions[a]))
			from := flat(m.Positions[i[(c+2)%3]].Sub(m.Positions[a]))
			angle := float32(math.Acos(float64(min(1, max(-1, to.Dot(from))))))
			sums[g] = sums[g].Add(flat(t).Scale(angle))
		}
	}
	m.assignTangents(ctx, group, sums, signs)
}

func signOf(x float32) float32 {
	if x < 0 {
		return -1
	}
	return 1
}

// assignTangents gives every vertex the tangent of its corners; a vertex whose
// corners belong to different groups is doubled.
func (m *Mesh) assignTangents(ctx context.Context, group []int32, sums []geom.Vec3, signs []float32) {
	const unseen = math.MinInt32
	at := make([]int32, len(m.Positions)) // group of each vertex
	for i := range at {
		at[i] = unseen
	}
	double := map[[2]int32]uint32{} // vertex and group to its copy
	for k, i := range m.Indices {
		parallel.Check(ctx, k)
		g := group[k]
		switch {
		case g < 0 || at[i] == g:
		case at[i] == unseen:
			at[i] = g
		default:
			key := [2]int32{int32(i), g}
			c, ok := double[key]
			if !ok {
				c = m.copyVertex(i)
				double[key] = c
				at = append(at, g)
			}
			m.Indices[k] = c
		}
	}
	m.Tangents = make([][4]float32, len(m.Positions))
	for i, g := range at {
		t, sign := geom.Vec3{}, float32(1)
		if g != unseen {
			t, sign = sums[g].Unit(), signs[g]
		}
		if t.IsZero() {
			f := geom.NewFrame(m.Normals[i])
			t = f.S
		}
		m.Tangents[i] = [4]float32{t.X, t.Y, t.Z, sign}
	}
}

func (m *Mesh) copyVertex(i uint32) uint32 {
	m.takeVertex(m, i)
	m.Normals = append(m.Normals, m.Normals[i])
	return uint32(len(m.Positions) - 1)
}
