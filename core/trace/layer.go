package trace

import (
	"cmp"
	"context"
	"slices"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// layer is a set of triangles to be traced: most laid out flat in the world,
// which is fastest, and meshes with many places held once.
type layer struct {
	flat  *accel.BVH
	prims []prim // of flat
	// Few rays hit a layer that stands aside: those that go by are found by a
	// sphere around it, whose squared radius has some slack.
	aside  bool
	middle geom.Vec3
	reach2 float32
	shared *accel.Group
	parts  []uint32 // of the instances of shared

	stands []stand                    // what it is made of, by part
	meshes map[*scene.Mesh]*accel.BVH // of those that are held once
}

// stand is how a part lies in a layer: laid out in the world or, once, as a mesh
// that is held once for many, or on its way.
type stand struct {
	part  int
	mesh  *scene.Mesh
	world geom.Affine
	once  bool
	way   []geom.Affine
}

// laidOut are the stands that are laid out flat.
func (l *layer) laidOut() (out []stand) {
	for _, s := range l.stands {
		if !s.once {
			out = append(out, s)
		}
	}
	return out
}

// build makes the layer's hierarchies of its stands, but for one that it has already;
// parts that are laid out in the world are so. Those of meshes that are held once are
// taken over from another layer, or nil, that has the same.
func (l *layer) build(ctx context.Context, parts []part, old *layer) (err error) {
	if l.flat == nil {
		if err := l.buildFlat(ctx, parts); err != nil {
			return err
		}
	}
	var instances []accel.Instance
	l.meshes = map[*scene.Mesh]*accel.BVH{}
	for _, s := range l.stands {
		if !s.once {
			continue
		}
		if l.meshes[s.mesh] == nil {
			if l.meshes[s.mesh] = old.meshOf(s); l.meshes[s.mesh] == nil {
				if l.meshes[s.mesh], err = buildMesh(ctx, s.mesh); err != nil {
					return err
				}
			}
		}
		instances = append(instances, accel.Instance{Mesh: l.meshes[s.mesh], World: s.world, Way: s.way})
		l.parts = append(l.parts, uint32(s.part))
	}
	l.shared = accel.NewGroup(instances)
	b := l.bounds()
	l.middle, l.reach2 = b.Centre(), 1.001*b.Radius()*b.Radius()
	return nil
}

// meshOf is the hierarchy of the mesh that the layer has of a part, if it is the same.
func (l *layer) meshOf(s stand) *accel.BVH {
	if l == nil {
		return nil
	}
	at, ok := slices.BinarySearchFunc(l.stands, s.part, func(o stand, part int) int { return cmp.Compare(o.part, part) })
	if !ok || !l.stands[at].once || !sameMesh(l.stands[at].mesh, s.mesh) {
		return nil
	}
	return l.meshes[l.stands[at].mesh]
}

func (l *layer) buildFlat(ctx context.Context, parts []part) (err error) {
	n := 0
	for _, s := range l.laidOut() {
		n += len(s.mesh.Indices) / 3
	}
	tris := make([]accel.Triangle, 0, n)
	l.prims = make([]prim, 0, n)
	for _, s := range l.laidOut() {
		laid, m := parts[s.part].laid, s.mesh
		if err := ctx.Err(); err != nil {
			return err
		}
		for k := 0; k+2 < len(m.Indices); k += 3 {
			v := m.Indices[k : k+3]
			tris = append(tris, accel.Triangle{A: laid[v[0]].p, B: laid[v[1]].p, C: laid[v[2]].p})
			l.prims = append(l.prims, prim{part: uint32(s.part), tri: uint32(k / 3)})
		}
	}
	l.flat, err = accel.Build(ctx, tris)
	return err
}

// passes reports whether a ray surely goes by everything in the layer. Its
// direction is of unit length.
func (l *layer) passes(r *geom.Ray) bool {
	to := l.middle.Sub(r.O)
	d2, along := to.Len2(), to.Dot(r.D)
	reach2 := l.reach2 + 1e-5*d2 // the difference below may lose that much
	return d2 > reach2 && (along < 0 || d2-along*along > reach2)
}

func (l *layer) empty() bool { return l.flat.Empty() && l.shared.Empty() }

func (l *layer) bounds() geom.Box { return l.flat.Bounds().Union(l.shared.Bounds()) }

func (l *layer) bytes() int64 {
	return int64(l.flat.Bytes()+l.shared.Bytes()) + int64(len(l.prims))*primBytes
}

// closest finds the nearest triangle of the layer.
func (l *layer) closest(s *accel.Stack, r *geom.Ray) (h accel.Hit, p prim, ok bool) {
	if l.aside && l.passes(r) {
		return h, p, false
	}
	if h, ok = l.flat.Closest(s, r); ok {
		p = l.prims[h.Prim]
	}
	if l.shared.Empty() {
		return h, p, ok
	}
	q := *r
	if ok {
		q.TMax = h.T
	}
	if h2, i, ok2 := l.shared.Closest(s, &q); ok2 {
		return h2, prim{part: l.parts[i], tri: h2.Prim}, true
	}
	return h, p, ok
}

func (l *layer) blocked(s *accel.Stack, r *geom.Ray) bool {
	return l.flat.Blocked(s, r) || l.shared.Blocked(s, r)
}

// worthSharing is how many triangles must be saved for a mesh to be held once:
// two levels trace slower than one.
const worthSharing = 50_000

// sharedMeshes tells the meshes that are held once for each layer: those whose
// places in it would repeat enough triangles, and that do not glow.
func sharedMeshes(s *scene.Scene, wears []int, passable, glowing func(finish int) bool) [2]map[int]bool {
	var uses [2]map[int]int
	var out [2]map[int]bool
	for k := range uses {
		uses[k], out[k] = map[int]int{}, map[int]bool{}
	}
	for i, p := range s.Parts {
		if f := wears[i]; f != LeftOutOfPicture && !glowing(f) {
			uses[layerOf(passable(f))][p.Mesh]++
		}
	}
	for k := range uses {
		for m, n := range uses[k] {
			out[k][m] = (n-1)*s.Meshes[m].Faces() >= worthSharing
		}
	}
	return out
}

// layerOf is the index of a layer: solid first.
func layerOf(passable bool) int {
	if passable {
		return 1
	}
	return 0
}
