package demo

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"math"

	"amberproof/core/geom"
)

type obj = map[string]any

// builder gathers a glTF 2.0 document.
type builder struct {
	title                                             string // of the scene
	bin                                               bytes.Buffer
	views, accessors, meshes, materials, nodes, roots []any
	images, textures, lights, cameras, animations     []any
	material                                          map[string]int
}

func (b *builder) view(data []byte, target int) int {
	for b.bin.Len()%4 != 0 {
		b.bin.WriteByte(0)
	}
	v := obj{"buffer": 0, "byteOffset": b.bin.Len(), "byteLength": len(data)}
	if target != 0 {
		v["target"] = target
	}
	b.bin.Write(data)
	b.views = append(b.views, v)
	return len(b.views) - 1
}

func (b *builder) accessor(a obj) int {
	b.accessors = append(b.accessors, a)
	return len(b.accessors) - 1
}

func le(v any) []byte {
	var w bytes.Buffer
	_ = binary.Write(&w, binary.LittleEndian, v) // a Buffer never fails
	return w.Bytes()
}

// mesh adds shapes as the primitives of one mesh, each in a finish.
func (b *builder) mesh(name string, prims ...prim) int {
	var list []any
	for _, p := range prims {
		s := p.shape.faceOut()
		box := geom.EmptyBox()
		for _, q := range s.pos {
			box = box.Extend(q)
		}
		v3 := func(v geom.Vec3) []float32 { return []float32{v.X, v.Y, v.Z} }
		const array, element = 34962, 34963
		pos := b.accessor(obj{"bufferView": b.view(le(s.pos), array), "componentType": 5126, "count": len(s.pos), "type": "VEC3",
			"min": v3(box.Min), "max": v3(box.Max)})
		nrm := b.accessor(obj{"bufferView": b.view(le(s.nrm), array), "componentType": 5126, "count": len(s.nrm), "type": "VEC3"})
		uv := b.accessor(obj{"bufferView": b.view(le(s.uv), array), "componentType": 5126, "count": len(s.uv), "type": "VEC2"})
		idx := b.accessor(obj{"bufferView": b.view(le(s.idx), element), "componentType": 5125, "count": len(s.idx), "type": "SCALAR"})
		one := obj{"attributes": obj{"POSITION": pos, "NORMAL": nrm, "TEXCOORD_0": uv}, "indices": idx}
		if p.finish != "" {
			one["material"] = b.material[p.finish]
		}
		list = append(list, one)
	}
	b.meshes = append(b.meshes, obj{"name": name, "primitives": list})
	return len(b.meshes) - 1
}

type prim struct {
	shape  *shape
	finish string
}

func (b *builder) finish(name string, m obj) {
	if b.material == nil {
		b.material = map[string]int{}
	}
	m["name"] = name
	b.material[name] = len(b.materials)
	b.materials = append(b.materials, m)
}

// texture adds a picture and returns the reference a material needs.
func (b *builder) texture(name string, img image.Image) obj {
	var w bytes.Buffer
	_ = png.Encode(&w, img) // a Buffer never fails, and the picture has a size
	b.images = append(b.images, obj{"name": name, "mimeType": "image/png", "bufferView": b.view(w.Bytes(), 0)})
	b.textures = append(b.textures, obj{"source": len(b.images) - 1})
	return obj{"index": len(b.textures) - 1}
}

// node adds an object and returns its index.
func (b *builder) node(n obj) int {
	b.nodes = append(b.nodes, n)
	return len(b.nodes) - 1
}

func (b *builder) part(name string, prims ...prim) int {
	return b.node(obj{"name": name, "mesh": b.mesh(name, prims...)})
}

func (b *builder) group(name string, kids ...int) int {
	return b.node(obj{"name": name, "children": kids})
}

// camera makes one of a focal length in millimetres.
func (b *builder) camera(name string, focal float64, eye, target geom.Vec3) int {
	b.cameras = append(b.cameras, obj{"name": name, "type": "perspective", "perspective": obj{"yfov": lensFov(focal), "znear": 0.01}})
	n := placed(name, eye, target)
	n["camera"] = len(b.cameras) - 1
	return b.node(n)
}

// animation turns a node through the given quaternions, at even paces within
// so many seconds.
func (b *builder) animation(name string, node int, seconds float64, turns ...[4]float64) {
	var times, values []float32
	for i, q := range turns {
		times = append(times, float32(seconds*float64(i)/float64(len(turns)-1)))
		for _, v := range q {
			values = append(values, float32(v))
		}
	}
	in := b.accessor(obj{"bufferView": b.view(le(times), 0), "componentType": 5126, "count": len(times), "type": "SCALAR",
		"min": []float32{0}, "max": []float32{float32(seconds)}})
	out := b.accessor(obj{"bufferView": b.view(le(values), 0), "componentType": 5126, "count": len(turns), "type": "VEC4"})
	b.animations = append(b.animations, obj{
		"name":     name,
		"samplers": []any{obj{"input": in, "output": out, "interpolation": "LINEAR"}},
		"channels": []any{obj{"sampler": 0, "target": obj{"node": node, "path": "rotation"}}},
	})
}

// turnAbout is the quaternion of a turn about axis 0 (x), 1 (y) or 2 (z), radians.
func turnAbout(axis int, angle float64) (q [4]float64) {
	q[axis], q[3] = math.Sincos(angle / 2)
	return q
}

// placed is a node with a transform that looks from eye to target along -Z.
func placed(name string, eye, target geom.Vec3) obj {
	m := geom.LookAt(eye, target, geom.V(0, 1, 0))
	return obj{"name": name, "matrix": []float32{m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1}}
}

// lensFov is the vertical field of view of a lens on a sensor 24 mm high.
func lensFov(focal float64) float64 { return 2 * math.Atan(12/focal) }

func (b *builder) bytes() ([]byte, error) {
	doc := obj{
		"asset": obj{"version": "2.0", "generator": "Amber Proof demo"}, "scene": 0, "scenes": []any{obj{"name": b.title, "nodes": b.roots}},
		"animations": b.animations, "nodes": b.nodes, "meshes": b.meshes, "materials": b.materials, "accessors": b.accessors, "bufferViews": b.views,
		"buffers": []any{obj{"byteLength": b.bin.Len()}}, "images": b.images, "textures": b.textures, "cameras": b.cameras,
		"extensionsUsed": []string{"KHR_lights_punctual", "KHR_materials_clearcoat", "KHR_materials_emissive_strength",
			"KHR_materials_ior", "KHR_materials_transmission", "KHR_materials_volume"},
		"extensions": obj{"KHR_lights_punctual": obj{"lights": b.lights}},
	}
	j, err := json.Marshal(doc)
	if err != nil {
		return nil, fmt.Errorf("the demo scene: %w", err)
	}
	for len(j)%4 != 0 {
		j = append(j, ' ')
	}
	bin := b.bin.Bytes()
	for len(bin)%4 != 0 {
		bin = append(bin, 0)
	}
	var w bytes.Buffer
	put := func(v ...uint32) { w.Write(le(v)) }
	put(0x46546C67, 2, uint32(12+8+len(j)+8+len(bin)), uint32(len(j)), 0x4E4F534A)
	w.Write(j)
	put(uint32(len(bin)), 0x004E4942)
	w.Write(bin)
	return w.Bytes(), nil
}
