package scene

import (
	"cmp"
	"context"
	"maps"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/parallel"
)

// Normals says how a mesh is shaded.
type Normals int

const (
	AsSaved Normals = iota
	Smoothed
	Faceted
)

// Shaping is what is done to a mesh before it is rendered.
type Shaping struct {
	Levels  int     // of subdivision; each makes four triangles of one
	Normals Normals // of meshes that are not subdivided; those are smooth
	Crease  float32 // radians: edges whose faces meet at more stay sharp
}

// Faces is the number of triangles, once the mesh is shaped.
func (m *Mesh) Faces() int { return len(m.Indices) / 3 << (2 * m.Shaping.Levels) }

// Shaped is the mesh as it is rendered. The vertices of one that stays as saved
// are shared with it. Once ctx has ended it panics as parallel.Check does.
func (m *Mesh) Shaped(ctx context.Context) Mesh {
	out := *m
	out.Shaping = Shaping{}
	switch s := m.Shaping; {
	case s.Levels > 0 && len(m.Indices) > 2:
		out = m.subdivided(ctx, s.Levels, s.Crease)
	case s.Normals == Faceted:
		out.Normals, out.Tangents = nil, nil
	case s.Normals == Smoothed:
		out.Normals, out.Tangents = nil, nil
		out.AddNormals(ctx, s.Crease)
	}
	return out
}

// weld numbers equal vertices alike.
func weld[K comparable](ctx context.Context, n int, key func(i int) K) (of []uint32, first []int) {
	of = make([]uint32, n)
	seen := make(map[K]uint32, n)
	for i := range of {
		parallel.Check(ctx, i)
		k := key(i)
		at, ok := seen[k]
		if !ok {
			at = uint32(len(first))
			seen[k] = at
			first = append(first, i)
		}
		of[i] = at
	}
	return of, first
}

// subdivided refines the mesh towards its smooth limit. Faces join where they
// share positions; what is drawn on them is refined by the same rules, with
// seams as borders.
func (m *Mesh) subdivided(ctx context.Context, levels int, crease float32) Mesh {
	place, firstPlace := weld(ctx, len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i] })
	drawn := func(i int) (v [8]float32) {
		for s := range m.UV {
			if len(m.UV[s]) > 0 {
				copy(v[2*s:], m.UV[s][i][:])
			}
		}
		if len(m.Colours) > 0 {
			copy(v[4:], m.Colours[i][:])
		}
		return v
	}
	type spot struct {
		place uint32
		drawn [8]float32
	}
	skin, firstSkin := weld(ctx, len(m.Positions), func(i int) spot { return spot{place[i], drawn(i)} })
	bare := len(m.UV[0])+len(m.UV[1])+len(m.Colours) == 0
	body, cover := &net{corner: make([]bool, len(firstPlace))}, &net{corner: make([]bool, len(firstSkin))}
	for _, i := range firstPlace {
		p := m.Positions[i]
		body.points = append(body.points, [8]float32{p.X, p.Y, p.Z})
	}
	for _, i := range firstSkin {
		cover.points = append(cover.points, drawn(i))
	}
	for f := 0; f+2 < len(m.Indices); f += 3 {
		parallel.Check(ctx, f/3)
		a, b, c := m.Indices[f], m.Indices[f+1], m.Indices[f+2]
		if place[a] == place[b] || place[b] == place[c] || place[c] == place[a] {
			continue // flattened to nothing: it would part its neighbours
		}
		body.tri = append(body.tri, place[a], place[b], place[c])
		cover.tri = append(cover.tri, skin[a], skin[b], skin[c])
	}
	body.join(ctx)
	body.sharp = body.creases(ctx, crease)
	body.mark(ctx, crease)
	if bare {
		for range levels {
			body = body.refine(ctx)
		}
		body.settle(ctx)
		return m.from(ctx, body, body)
	}
	cover.join(ctx)
	cover.sharp = make([]bool, len(cover.tri))
	for k := range cover.sharp {
		cover.sharp[k] = body.sharp[k] || cover.sides[k].twin < 0
		cover.corner[cover.tri[k]] = body.corner[body.tri[k]]
	}
	cover.mark(ctx, crease)
	for range levels {
		body, cover = body.refine(ctx), cover.refine(ctx)
	}
	body.settle(ctx)
	cover.settle(ctx)
	return m.from(ctx, body, cover)
}

// creases tells the sides that are borders or whose faces meet at more than an angle.
func (n *net) creases(ctx context.Context, crease float32) []bool {
	cos := float32(math.Cos(float64(crease)))
	face := make([]geom.Vec3, len(n.tri)/3)
	for f := range face {
		parallel.Check(ctx, f)
		face[f] = n.facing(f).Unit()
	}
	sharp := make([]bool, len(n.tri))
	for k := range sharp {
		parallel.Check(ctx, k)
		t := n.sides[k].twin
		sharp[k] = t < 0 || face[k/3].Dot(face[t/3]) < cos
	}
	return sharp
}

func (n *net) place(i uint32) geom.Vec3 {
	p := &n.points[i]
	return geom.V(p[0], p[1], p[2])
}

// facing is the normal of a face, as long as twice its area.
func (n *net) facing(f int) geom.Vec3 {
	a := n.place(n.tri[3*f])
	return n.place(n.tri[3*f+1]).Sub(a).Cross(n.place(n.tri[3*f+2]).Sub(a))
}

// from makes the mesh of refined nets: a vertex for each spot of the cover and
// each side of a crease that it lies on, with the mean normal, by angle, of the
// faces on that side.
func (m *Mesh) from(ctx context.Context, body, cover *net) Mesh {
	group := body.grouped(ctx)
	normal := body.normals(ctx, group)
	// The vertices made of a spot, in a chain, each with a corner that it is at. They are
	// counted before they are filled in: long lists that grow by copying would not look at ctx.
	type vertex struct{ root, then, corner int32 }
	spots := len(cover.points)
	head := make([]int32, spots)
	for i := range head {
		head[i] = -1
	}
	made := make([]vertex, 0, spots)
	out := Mesh{Name: m.Name, Finish: m.Finish, Indices: make([]uint32, len(body.tri))}
	for k := range body.tri {
		parallel.Check(ctx, k)
		r, spot := rootOf(group, int32(k)), cover.tri[k]
		v := head[spot]
		for v >= 0 && made[v].root != r {
			v = made[v].then
		}
		if v < 0 {
			v = int32(len(made))
			made = append(made, vertex{r, head[spot], int32(k)})
			head[spot] = v
		}
		out.Indices[k] = uint32(v)
	}
	out.Positions, out.Normals = make([]geom.Vec3, len(made)), make([]geom.Vec3, len(made))
	for s := range m.UV {
		if len(m.UV[s]) > 0 {
			out.UV[s] = make([][2]float32, len(made))
		}
	}
	if len(m.Colours) > 0 {
		out.Colours = make([][4]float32, len(made))
	}
	for v, from := range made {
		parallel.Check(ctx, v)
		out.Positions[v], out.Normals[v] = body.place(body.tri[from.corner]), normal[from.root].Unit()
		d := &cover.points[cover.tri[from.corner]]
		for s := range out.UV {
			if len(out.UV[s]) > 0 {
				out.UV[s][v] = [2]float32{d[2*s], d[2*s+1]}
			}
		}
		if len(out.Colours) > 0 {
			out.Colours[v] = [4]float32(d[4:8])
		}
	}
	return out
}

// grouped tells of each corner which it belongs with: corners of faces at a point do unless a
// sharp side parts them. Corners of one group have one root.
func (n *net) grouped(ctx context.Context) (group []int32) {
	group = make([]int32, len(n.tri))
	for k := range group {
		parallel.Check(ctx, k)
		group[k] = int32(k)
	}
	for k := range n.tri {
		parallel.Check(ctx, k)
		t := int(n.sides[k].twin)
		if t < k || n.sharp[k] {
			continue
		}
		for _, e := range [2][2]int{{k, next(t)}, {next(k), t}} {
			group[rootOf(group, int32(e[0]))] = rootOf(group, int32(e[1]))
		}
	}
	return group
}

// rootOf is the root of a corner's group. The way there is shortened.
func rootOf(group []int32, k int32) int32 {
	for group[k] != k {
		group[k] = group[group[k]]
		k = group[k]
	}
	return k
}

// normals are the mean normals of groups of corners, by angle, at their roots.
func (n *net) normals(ctx context.Context, group []int32) []geom.Vec3 {
	normal := make([]geom.Vec3, len(n.tri))
	for f := range len(n.tri) / 3 {
		parallel.Check(ctx, f)
		up := n.facing(f).Unit()
		for k := 3 * f; k < 3*f+3; k++ {
			p := n.place(n.tri[k])
			to := func(c int) geom.Vec3 { return n.place(n.tri[c]).Sub(p).Unit() }
			r := rootOf(group, int32(k))
			normal[r] = normal[r].MulAdd(up, geom.Acos(to(next(k)).Dot(to(next(next(k))))))
		}
	}
	return normal
}

// MostTriangles bounds a scene, as it is read and as it is rendered.
const MostTriangles = 20_000_000

// Reshaped is the scene with its parts to be shaped as told, one by one; the
// zero Shaping leaves a part as saved. Nothing is computed yet.
func (s *Scene) Reshaped(parts []Shaping) *Scene {
	out := *s
	out.Meshes, out.Parts = slices.Clip(s.Meshes), slices.Clone(s.Parts)
	type shape struct {
		mesh int
		how  Shaping
	}
	made := map[shape]int{}
	for i := range out.Parts {
		k := shape{out.Parts[i].Mesh, parts[i]}
		if k.how == s.Meshes[k.mesh].Shaping {
			continue
		}
		at, ok := made[k]
		if !ok {
			m := s.Meshes[k.mesh]
			m.Shaping = k.how
			at = len(out.Meshes)
			made[k] = at
			out.Meshes = append(out.Meshes, m)
		}
		out.Parts[i].Mesh = at
	}
	return &out
}

// Made is the scene with every mesh shaped that a part for which want is true
// wears, on all cores. It gives up with the context's error, amid a mesh, too.
func (s *Scene) Made(ctx context.Context, want func(part int) bool) (*Scene, error) {
	due := map[int]bool{}
	for i, p := range s.Parts {
		if s.Meshes[p.Mesh].Shaping != (Shaping{}) && want(i) {
			due[p.Mesh] = true
		}
	}
	if len(due) == 0 {
		return s, nil
	}
	out := *s
	out.Meshes = slices.Clone(s.Meshes)
	meshes := slices.Sorted(maps.Keys(due))
	err := parallel.Ranges(len(meshes), 1, func(k, _ int) {
		if ctx.Err() != nil {
			return
		}
		i := meshes[k]
		m := s.Meshes[i].Shaped(ctx)
		if len(s.Meshes[i].Tangents) > 0 && m.Finish >= 0 {
			set, _ := s.Finishes[m.Finish].TangentSet()
			m.AddTangents(ctx, set)
		}
		out.Meshes[i] = m
	})
	return &out, cmp.Or(err, ctx.Err())
}
