package scene

import (
	"math"
	"sync"

	"amberproof/core/geom"
)

// Grow says how far a set of faces reaches from one of them.
type Grow string

const (
	ByPiece  Grow = "piece"  // all that hangs together
	ByAngle  Grow = "angle"  // over edges whose faces meet at no more than an angle
	ByIsland Grow = "island" // all that hangs together in the picture drawn on it
)

// Nearest is the triangle of a mesh that comes nearest to a point of its space, -1 of a
// mesh without any.
func (m *Mesh) Nearest(p geom.Vec3) int {
	best, away := -1, float32(math.MaxFloat32)
	for f := range len(m.Indices) / 3 {
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
// is grown by that, radians.
func (m *Mesh) Grown(from int, by Grow, angle float32) []bool {
	place, first := weld(len(m.Positions), func(i int) geom.Vec3 { return m.Positions[i].Add(geom.Vec3{}) })
	if by == ByIsland && len(m.UV[0]) > 0 {
		type spot struct {
			p  geom.Vec3
			uv [2]float32
		}
		place, first = weld(len(m.Positions), func(i int) spot { return spot{m.Positions[i].Add(geom.Vec3{}), m.UV[0][i]} })
	}
	n := &net{points: make([][8]float32, len(first)), tri: make([]uint32, len(m.Indices)/3*3)}
	for i, v := range first {
		p := m.Positions[v]
		n.points[i] = [8]float32{p.X, p.Y, p.Z}
	}
	for k := range n.tri {
		n.tri[k] = place[m.Indices[k]]
	}
	n.join()
	limit := float32(-2)
	if by == ByAngle {
		limit = float32(math.Cos(float64(angle))) - 1e-6
	}
	in := make([]bool, len(n.tri)/3)
	in[from] = true
	for todo := []int{from}; len(todo) > 0; {
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
// that it needs.
func (m *Mesh) Parted(in []bool) (set, rest Mesh) {
	for k, out := range [2]*Mesh{&set, &rest} {
		out.Name, out.Finish, out.Shaping = m.Name, m.Finish, m.Shaping
		at := make([]int32, len(m.Positions)) // one more than the vertex's place in out; 0: not there yet
		for f := range in {
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

// Cut is a set of faces that is taken out of a mesh.
type Cut struct {
	At    geom.Vec3 // a point of the mesh's space by a face of the set
	By    Grow
	Angle float32 // radians, by that
}

// mostCut is how many bytes of meshes that were cut are remembered of a scene.
const mostCut = 512 << 20

// Cuts remembers what cuts made of meshes, so that one that is made again gives the same
// meshes: what was prepared of them is still good then. It is safe for concurrent use.
type Cuts struct {
	mu    sync.Mutex
	made  map[cutOf][2]*Mesh
	bytes int64
}

type cutOf struct {
	mesh *uint32 // by its triangles
	cut  Cut
}

// Make cuts a mesh in two; nil where one of them would be empty.
func (c *Cuts) Make(m *Mesh, cut Cut) (set, rest *Mesh) {
	if len(m.Indices) < 6 {
		return nil, nil
	}
	key := cutOf{&m.Indices[0], cut}
	if two, ok := c.find(key); ok {
		return two[0], two[1]
	}
	var two [2]*Mesh
	if from := m.Nearest(cut.At); from >= 0 { // -1 where the point is nowhere
		if a, b := m.Parted(m.Grown(from, cut.By, cut.Angle)); len(a.Indices) > 0 && len(b.Indices) > 0 {
			two = [2]*Mesh{&a, &b}
		}
	}
	two = c.keep(key, two)
	return two[0], two[1]
}

func (c *Cuts) find(key cutOf) (two [2]*Mesh, ok bool) {
	if c == nil {
		return two, false
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	two, ok = c.made[key]
	return two, ok
}

// keep remembers a cut; where somebody else made it meanwhile, theirs is the one.
func (c *Cuts) keep(key cutOf, two [2]*Mesh) [2]*Mesh {
	if c == nil {
		return two
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if theirs, ok := c.made[key]; ok {
		return theirs
	}
	var size int64
	for _, m := range two {
		if m != nil {
			size += (&Scene{Meshes: []Mesh{*m}}).Bytes()
		}
	}
	if c.made == nil || c.bytes+size > mostCut {
		c.made, c.bytes = map[cutOf][2]*Mesh{}, 0
	}
	c.made[key] = two
	c.bytes += size + 256
	return two
}
