package importer

import (
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// gltfAccessor says where an array of numbers lies among the bytes, and of what kind they
// are.
type gltfAccessor struct {
	BufferView    *int
	ByteOffset    int
	ComponentType int
	Normalized    bool
	Count         int
	Type          string
	Sparse        *struct {
		Count   int
		Indices struct{ BufferView, ByteOffset, ComponentType int }
		Values  struct{ BufferView, ByteOffset int }
	}
}

// Component types, in bytes, by the numbers that the format has for them; 5125 and 5126
// are uint32 and float32, those before them bytes and shorts.
var componentSize = map[int]int{5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
var typeWidth = map[string]int{"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}

// component reads one number.
func component(b []byte, kind int, normalised bool) float32 {
	switch kind {
	case 5120:
		v := float32(int8(b[0]))
		if normalised {
			return max(v/127, -1)
		}
		return v
	case 5121:
		if normalised {
			return float32(b[0]) / 255
		}
		return float32(b[0])
	case 5122:
		v := float32(int16(binary.LittleEndian.Uint16(b)))
		if normalised {
			return max(v/32767, -1)
		}
		return v
	case 5123:
		v := float32(binary.LittleEndian.Uint16(b))
		if normalised {
			return v / 65535
		}
		return v
	case 5125:
		return float32(binary.LittleEndian.Uint32(b))
	}
	return math.Float32frombits(binary.LittleEndian.Uint32(b))
}

// index reads one index, of one of the three kinds that may be.
func index(b []byte, kind int) uint32 {
	switch kind {
	case 5121:
		return uint32(b[0])
	case 5123:
		return uint32(binary.LittleEndian.Uint16(b))
	}
	return binary.LittleEndian.Uint32(b)
}

// span is a bounds-checked run of elements.
type span struct {
	b           []byte
	stride, els int
}

// at is the bytes from element i on.
func (s *span) at(i int) []byte { return s.b[i*s.stride:] }

// span checks that count elements of size bytes lie within a view, so that nothing that
// reads them has to. It divides where a product might overflow.
func (g *gltf) span(view, offset, count, size int) (span, error) {
	b, stride, err := g.view(view)
	if err != nil {
		return span{}, err
	}
	if stride == 0 {
		stride = size
	}
	if stride < size || offset < 0 || count < 0 || offset > len(b) || count > 0 && (count-1) > (len(b)-offset-size)/stride || count > 0 && len(b)-offset < size {
		return span{}, refuse("an accessor reaches beyond its buffer view")
	}
	return span{b[offset:], stride, count}, nil
}

// accessor returns accessor i, with the bytes of a component and the components of an
// element. Its count is bounded by what any scene may have.
func (g *gltf) accessor(i int) (*gltfAccessor, int, int, error) {
	if i < 0 || i >= len(g.doc.Accessors) {
		return nil, 0, 0, refuse("accessor %d is not there", i)
	}
	a := &g.doc.Accessors[i]
	size, ok1 := componentSize[a.ComponentType]
	width, ok2 := typeWidth[a.Type]
	if !ok1 || !ok2 || a.Count < 0 || a.Count > 3*g.lim.Triangles {
		return nil, 0, 0, refuse("accessor %d has a type or length that is not allowed", i)
	}
	return a, size, width, nil
}

// floats reads an accessor of the wanted width, count numbers each. What it
// returns is shared and must not be changed.
func (g *gltf) floats(i, width int) ([]float32, error) {
	key := [2]int{i, width}
	if have, ok := g.numbers[key]; ok {
		return have, nil
	}
	out, err := g.readFloats(i, width)
	if err == nil {
		g.numbers[key] = out
	}
	return out, err
}

// readFloats is floats, the first time. An accessor without a view is all zeros but for
// its sparse part, as the format has it.
func (g *gltf) readFloats(i, width int) ([]float32, error) {
	a, size, w, err := g.accessor(i)
	if err != nil {
		return nil, err
	}
	if w != width {
		return nil, refuse("accessor %d is %s where %d numbers are needed", i, a.Type, width)
	}
	if err := g.take(a.Count, int64(4*w)); err != nil {
		return nil, err
	}
	var out []float32
	if _, ok := g.corners[i]; ok {
		return nil, refuse("accessor %d holds the corners of packed faces and is read as other numbers", i)
	}
	s, packed := g.packed[i]
	if a.BufferView != nil || packed {
		if !packed {
			if s, err = g.span(*a.BufferView, a.ByteOffset, a.Count, size*w); err != nil {
				return nil, err
			}
		}
		out = make([]float32, a.Count*w)
		for k := 0; k < a.Count; k++ {
			e := s.at(k)
			for c := 0; c < w; c++ {
				out[k*w+c] = component(e[c*size:], a.ComponentType, a.Normalized)
			}
		}
	} else {
		out = make([]float32, a.Count*w)
	}
	if sp := a.Sparse; sp != nil {
		isize := componentSize[sp.Indices.ComponentType]
		if isize == 0 || sp.Count < 0 || sp.Count > a.Count {
			return nil, refuse("accessor %d has a broken sparse part", i)
		}
		idx, err := g.span(sp.Indices.BufferView, sp.Indices.ByteOffset, sp.Count, isize)
		if err != nil {
			return nil, err
		}
		val, err := g.span(sp.Values.BufferView, sp.Values.ByteOffset, sp.Count, size*w)
		if err != nil {
			return nil, err
		}
		for k := 0; k < sp.Count; k++ {
			at := index(idx.at(k), sp.Indices.ComponentType)
			if int(at) >= a.Count {
				return nil, refuse("accessor %d has a sparse index out of range", i)
			}
			e := val.at(k)
			for c := 0; c < w; c++ {
				out[int(at)*w+c] = component(e[c*size:], a.ComponentType, a.Normalized)
			}
		}
	}
	// The difference of infinity or not-a-number with itself is none.
	for _, v := range out {
		if v-v != 0 {
			return nil, refuse("accessor %d holds a number that is not finite", i)
		}
	}
	return out, nil
}

// vectors reads an accessor of three numbers each, for the caller to keep.
func (g *gltf) vectors(i int) ([]geom.Vec3, error) {
	f, err := g.floats(i, 3)
	if err != nil {
		return nil, err
	}
	if err := g.take(len(f)/3, 12); err != nil {
		return nil, err
	}
	out := make([]geom.Vec3, len(f)/3)
	for k := range out {
		out[k] = geom.V(f[k*3], f[k*3+1], f[k*3+2])
	}
	return out, nil
}

// indices reads an accessor of indices; it is shared and must not be changed.
func (g *gltf) indices(i int) ([]uint32, error) {
	if have, ok := g.corners[i]; ok {
		return have, nil
	}
	a, size, w, err := g.accessor(i)
	if err != nil {
		return nil, err
	}
	if w != 1 || a.ComponentType == 5126 || a.BufferView == nil || a.Sparse != nil {
		return nil, refuse("accessor %d does not hold indices", i)
	}
	s, err := g.span(*a.BufferView, a.ByteOffset, a.Count, size)
	if err != nil {
		return nil, err
	}
	if err := g.take(a.Count, 4); err != nil {
		return nil, err
	}
	out := make([]uint32, a.Count)
	for k := range out {
		out[k] = index(s.at(k), a.ComponentType)
	}
	g.corners[i] = out
	return out, nil
}

// mesh adds the parts of a mesh worn by an object; meshes are shared by their instances.
func (g *gltf) mesh(i, object int, name string) error {
	if i < 0 || i >= len(g.doc.Meshes) {
		return refuse("object %q wears mesh %d, which is not there", name, i)
	}
	if _, ok := g.meshes[i]; !ok {
		list := []int{}
		for k := range g.doc.Meshes[i].Primitives {
			at, err := g.primitive(i, k, name)
			if err != nil {
				return err
			}
			if at >= 0 {
				list = append(list, at)
			}
		}
		g.meshes[i] = list
	}
	for _, at := range g.meshes[i] {
		p := scene.Part{Name: name, Object: object, Mesh: at, Finish: g.s.Meshes[at].Finish}
		if len(g.meshes[i]) > 1 {
			fin := "no finish"
			if p.Finish >= 0 {
				fin = g.s.Finishes[p.Finish].Name
			}
			p.Name = name + " / " + fin
		}
		g.s.Parts = append(g.s.Parts, p)
		if err := g.dress(len(g.s.Parts)-1, at); err != nil {
			return err
		}
	}
	return nil
}

// primitive reads a set of faces and returns its mesh, -1 where there is nothing to be
// seen of it. Sets that share accessors have copies of their own only of what is kept.
func (g *gltf) primitive(mesh, k int, name string) (int, error) {
	p := &g.doc.Meshes[mesh].Primitives[k]
	mode := 4
	if p.Mode != nil {
		mode = *p.Mode
	}
	if mode < 4 || mode > 6 {
		g.note(name, "points and lines are not supported; this set of them is left out")
		return -1, nil
	}
	if len(p.Targets) > 0 {
		g.note(name, "its morph targets are left out; it has its base shape")
	}
	worn, err := g.primitiveExtensions(p, name)
	if err != nil {
		return 0, err
	}
	pos, ok := p.Attributes["POSITION"]
	if !ok {
		g.note(name, "a set of faces has no positions and is left out")
		return -1, nil
	}
	m := scene.Mesh{Name: nameFrom(g.doc.Meshes[mesh].Name), Finish: -1}
	if err := g.attributes(&m, p.Attributes, pos, name); err != nil {
		return 0, err
	}
	idx, err := g.primitiveIndices(p.Indices, len(m.Positions), name)
	if err != nil {
		return 0, err
	}
	if mode != 4 {
		if err := g.take(len(idx), 12); err != nil {
			return 0, err
		}
	}
	m.Indices = triangles(idx, mode)
	// Normals, tangents and the like may be made for it.
	if err := g.take(len(m.Indices), 16); err != nil {
		return 0, err
	}
	if p.Material != nil {
		if *p.Material < 0 || *p.Material >= len(g.s.Finishes) {
			return 0, refuse("object %q wears material %d, which is not there", name, *p.Material)
		}
		m.Finish = *p.Material
	} else {
		g.note(name, "it has no finish and is shown in hatched grey")
	}
	g.s.Meshes = append(g.s.Meshes, m)
	if len(worn) > 0 {
		g.worn[len(g.s.Meshes)-1] = worn
	}
	return len(g.s.Meshes) - 1, nil
}

// primitiveExtensions reads what extensions say of a primitive: its packed faces, and what it
// wears in variants.
func (g *gltf) primitiveExtensions(p *gltfPrim, name string) (worn []look, err error) {
	for _, e := range slices.Sorted(maps.Keys(p.Extensions)) {
		switch e {
		case dracoExtension:
			err = g.unpackFaces(p, p.Extensions[e], name)
		case variantsExtension:
			worn, err = g.looks(p.Extensions[e], name)
		}
		if err != nil {
			return nil, err
		}
		if e == dracoExtension || e == variantsExtension {
			continue
		}
		if strings.Contains(e, "compression") {
			return nil, refuse("object %q is packed with %s, which is not supported; export without compression", name, e)
		}
		g.note(name, "%s is not supported and is left out", e)
	}
	return worn, nil
}

// attributes reads what a primitive says of its vertices into m; pos is where their positions
// are.
func (g *gltf) attributes(m *scene.Mesh, in map[string]int, pos int, name string) (err error) {
	if m.Positions, err = g.vectors(pos); err != nil {
		return err
	}
	n := len(m.Positions)
	if a, ok := in["NORMAL"]; ok {
		if m.Normals, err = g.vectors(a); err != nil {
			return err
		}
	}
	if a, ok := in["TANGENT"]; ok && len(m.Normals) > 0 {
		f, err := g.floats(a, 4)
		if err != nil {
			return err
		}
		if m.Tangents, err = g.fours(f); err != nil {
			return err
		}
	}
	for s := range m.UV {
		if a, ok := in[fmt.Sprintf("TEXCOORD_%d", s)]; ok {
			f, err := g.floats(a, 2)
			if err != nil {
				return err
			}
			if err := g.take(len(f)/2, 8); err != nil {
				return err
			}
			m.UV[s] = make([][2]float32, len(f)/2)
			for i := range m.UV[s] {
				m.UV[s][i] = [2]float32{f[i*2], f[i*2+1]}
			}
		}
	}
	if a, ok := in["COLOR_0"]; ok {
		if m.Colours, err = g.colours(a); err != nil {
			return err
		}
	}
	for _, have := range []int{len(m.Normals), len(m.Tangents), len(m.UV[0]), len(m.UV[1]), len(m.Colours)} {
		if have != 0 && have != n {
			return refuse("object %q has %d positions but %d of another attribute", name, n, have)
		}
	}
	return nil
}

// primitiveIndices reads the corners of a primitive of n vertices; without any the vertices are
// corners in their order.
func (g *gltf) primitiveIndices(at *int, n int, name string) (idx []uint32, err error) {
	if at != nil {
		if idx, err = g.indices(*at); err != nil {
			return nil, err
		}
	} else {
		if err := g.take(n, 4); err != nil {
			return nil, err
		}
		idx = make([]uint32, n)
		for i := range idx {
			idx[i] = uint32(i)
		}
	}
	for _, v := range idx {
		if int(v) >= n {
			return nil, refuse("object %q names vertex %d of %d", name, v, n)
		}
	}
	return idx, nil
}

// colours reads colours of vertices, which are linear; without alpha they are opaque.
func (g *gltf) colours(a int) ([][4]float32, error) {
	if a >= 0 && a < len(g.doc.Accessors) && g.doc.Accessors[a].Type == "VEC3" {
		v, err := g.vectors(a)
		if err == nil {
			err = g.take(len(v), 16)
		}
		if err != nil {
			return nil, err
		}
		out := make([][4]float32, len(v))
		for i, c := range v {
			out[i] = [4]float32{c.X, c.Y, c.Z, 1}
		}
		return out, nil
	}
	f, err := g.floats(a, 4)
	if err != nil {
		return nil, err
	}
	return g.fours(f)
}

// fours cuts a list of numbers into fours, as a copy.
func (g *gltf) fours(f []float32) ([][4]float32, error) {
	if err := g.take(len(f)/4, 16); err != nil {
		return nil, err
	}
	out := make([][4]float32, len(f)/4)
	for i := range out {
		out[i] = [4]float32(f[i*4 : i*4+4])
	}
	return out, nil
}

// triangles turns strips and fans into single triangles.
func triangles(idx []uint32, mode int) []uint32 {
	switch mode {
	case 5:
		var out []uint32
		for i := 2; i < len(idx); i++ {
			a, b := idx[i-2], idx[i-1]
			if i&1 == 1 {
				a, b = b, a
			}
			out = append(out, a, b, idx[i])
		}
		return out
	case 6:
		var out []uint32
		for i := 2; i < len(idx); i++ {
			out = append(out, idx[0], idx[i-1], idx[i])
		}
		return out
	}
	return idx[:len(idx)/3*3]
}
