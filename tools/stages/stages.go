// Package stages makes scenes, as glTF, that pictures are measured with: each has one thing that
// makes pictures noisy.
package stages

import (
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"

	"amberproof/core/geom"
)

type object = map[string]any

// stage builds a glTF document of simple shapes.
type stage struct {
	data                                       []byte
	views, accessors, meshes, materials, nodes []any
}

func (s *stage) accessor(v any, kind int, shape string, n int, more object) int {
	for len(s.data)%4 != 0 {
		s.data = append(s.data, 0)
	}
	from := len(s.data)
	s.data, _ = binary.Append(s.data, binary.LittleEndian, v) // of slices of numbers it never fails
	s.views = append(s.views, object{"buffer": 0, "byteOffset": from, "byteLength": len(s.data) - from})
	a := object{"bufferView": len(s.views) - 1, "componentType": kind, "count": n, "type": shape}
	for k, x := range more {
		a[k] = x
	}
	s.accessors = append(s.accessors, a)
	return len(s.accessors) - 1
}

// finish adds a material and returns it.
func (s *stage) finish(name string, colour geom.Vec3, metallic, roughness float64, more object) int {
	m := object{"name": name, "pbrMetallicRoughness": object{"baseColorFactor": []float32{colour.X, colour.Y, colour.Z, 1},
		"metallicFactor": metallic, "roughnessFactor": roughness}}
	for k, x := range more {
		m[k] = x
	}
	s.materials = append(s.materials, m)
	return len(s.materials) - 1
}

// glow is a finish that gives light.
func (s *stage) glow(name string, nits float64) int {
	return s.finish(name, geom.Vec3{}, 0, 1, object{
		"emissiveFactor": []float64{1, 1, 1}, "doubleSided": true, "extensions": object{"KHR_materials_emissive_strength": object{"emissiveStrength": nits}},
	})
}

// glass is a clear finish, a pane or a body.
func (s *stage) glass(name string, thick float64) int {
	return s.finish(name, geom.Splat(1), 0, 0, object{"extensions": object{
		"KHR_materials_transmission": object{"transmissionFactor": 1}, "KHR_materials_volume": object{"thicknessFactor": thick},
	}})
}

// shape is a mesh; without normals its faces are flat.
type shape struct {
	pos, nrm []geom.Vec3
	idx      []uint32
}

func (s *stage) part(name string, m shape, finish int) {
	box := geom.EmptyBox()
	for _, p := range m.pos {
		box = box.Extend(p)
	}
	v3 := func(v geom.Vec3) []float32 { return []float32{v.X, v.Y, v.Z} }
	at := object{"POSITION": s.accessor(m.pos, 5126, "VEC3", len(m.pos), object{"min": v3(box.Min), "max": v3(box.Max)})}
	if m.nrm != nil {
		at["NORMAL"] = s.accessor(m.nrm, 5126, "VEC3", len(m.nrm), nil)
	}
	idx := s.accessor(m.idx, 5125, "SCALAR", len(m.idx), nil)
	s.meshes = append(s.meshes, object{"name": name, "primitives": []any{object{"attributes": at, "indices": idx, "material": finish}}})
	s.nodes = append(s.nodes, object{"name": name, "mesh": len(s.meshes) - 1})
}

// camera adds the one view, "View".
func (s *stage) camera(eye, target geom.Vec3) {
	m := geom.LookAt(eye, target, geom.V(0, 1, 0))
	s.nodes = append(s.nodes, object{"name": "View", "camera": 0,
		"matrix": []float32{m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1}})
}

func (s *stage) bytes() ([]byte, error) {
	roots := make([]int, len(s.nodes))
	for i := range roots {
		roots[i] = i
	}
	return json.Marshal(object{
		"asset": object{"version": "2.0"}, "scene": 0, "scenes": []any{object{"nodes": roots}}, "nodes": s.nodes, "meshes": s.meshes, "materials": s.materials,
		"accessors": s.accessors, "bufferViews": s.views, "cameras": []any{object{"type": "perspective", "perspective": object{"yfov": 0.5, "znear": 0.01}}},
		"buffers": []any{object{"byteLength": len(s.data), "uri": "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(s.data)}},
		"extensionsUsed": []string{"KHR_materials_emissive_strength", "KHR_materials_transmission", "KHR_materials_volume",
			"KHR_materials_sheen", "KHR_materials_anisotropy"},
	})
}

// quad is a rectangle from a corner along two edges.
func quad(o, e, f geom.Vec3) shape {
	return shape{pos: []geom.Vec3{o, o.Add(e), o.Add(e).Add(f), o.Add(f)}, idx: []uint32{0, 1, 2, 0, 2, 3}}
}

// box is a block from its least corner, with flat sides that look out.
func box(low, size geom.Vec3) shape {
	var m shape
	x, y, z := geom.V(size.X, 0, 0), geom.V(0, size.Y, 0), geom.V(0, 0, size.Z)
	far := low.Add(size)
	for _, s := range [][3]geom.Vec3{{low, x, z}, {low, y, x}, {low, z, y}, {far, z.Neg(), x.Neg()}, {far, x.Neg(), y.Neg()}, {far, y.Neg(), z.Neg()}} {
		m = m.and(quad(s[0], s[1], s[2]))
	}
	return m
}

func (m shape) and(o shape) shape {
	n := uint32(len(m.pos))
	m.pos, m.nrm = append(m.pos, o.pos...), append(m.nrm, o.nrm...)
	for _, i := range o.idx {
		m.idx = append(m.idx, n+i)
	}
	return m
}

// turned is a smooth shape turned about an axis through c along y: radius and height
// by the place along its outline, 0 to 1.
func turned(c geom.Vec3, outline func(t float64) (r, y float64), steps, segments int) shape {
	var m shape
	for j := range steps + 1 {
		t := float64(j) / float64(steps)
		r, y := outline(t)
		r1, y1 := outline(t - 1e-4)
		r2, y2 := outline(t + 1e-4)
		for i := range segments + 1 {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(segments))
			m.pos = append(m.pos, c.Add(geom.V(float32(r*cos), float32(y), float32(r*sin))))
			m.nrm = append(m.nrm, geom.V(float32((y2-y1)*cos), float32(r1-r2), float32((y2-y1)*sin)).Unit())
		}
	}
	row := uint32(segments + 1)
	for j := range uint32(steps) {
		for i := range uint32(segments) {
			a := j*row + i
			m.idx = append(m.idx, a, a+row, a+1, a+1, a+row, a+row+1)
		}
	}
	return m
}

// ring is a doughnut; ball a ball.
func ring(c geom.Vec3, big, small float64) shape {
	return turned(c, func(t float64) (float64, float64) {
		sin, cos := math.Sincos(2 * math.Pi * t)
		return big + small*cos, small * sin
	}, 24, 64)
}

func ball(c geom.Vec3, r float64) shape {
	return turned(c, func(t float64) (float64, float64) {
		sin, cos := math.Sincos(math.Pi * (t - 0.5))
		return r * cos, r * sin
	}, 32, 64)
}

// Window is a closed box that gets its light through a pane of glass.
func Window() ([]byte, error) {
	s := &stage{}
	wall := s.finish("wall", geom.V(0.72, 0.7, 0.66), 0, 1, object{"doubleSided": true})
	red := s.finish("red wall", geom.V(0.6, 0.14, 0.1), 0, 1, object{"doubleSided": true})
	v := geom.V
	s.part("floor", quad(v(-1, 0, 1), v(2, 0, 0), v(0, 0, -2)), wall)
	s.part("ceiling", quad(v(-1, 2, -1), v(2, 0, 0), v(0, 0, 2)), wall)
	s.part("back", quad(v(-1, 0, -1), v(2, 0, 0), v(0, 2, 0)), wall)
	s.part("right", quad(v(1, 0, 1), v(0, 0, -2), v(0, 2, 0)), red)
	s.part("front", quad(v(1, 0, 1), v(-2, 0, 0), v(0, 2, 0)), wall)
	// The left wall leaves a window open.
	s.part("sill", quad(v(-1, 0, -1), v(0, 0, 2), v(0, 0.7, 0)), wall)
	s.part("lintel", quad(v(-1, 1.5, -1), v(0, 0, 2), v(0, 0.5, 0)), wall)
	s.part("jamb 1", quad(v(-1, 0.7, -1), v(0, 0, 0.5), v(0, 0.8, 0)), wall)
	s.part("jamb 2", quad(v(-1, 0.7, 0.3), v(0, 0, 0.7), v(0, 0.8, 0)), wall)
	s.part("pane", box(v(-1.004, 0.7, -0.5), v(0.004, 0.8, 0.8)), s.glass("pane", 0.004))
	s.part("sky", quad(v(-2.5, -0.5, -2), v(0, 0, 3), v(0, 3.5, 0)), s.glow("sky", 30))
	s.part("block", box(v(-0.2, 0, -0.6), v(0.45, 0.9, 0.4)), wall)
	s.part("ball", ball(v(0.45, 0.3, 0.1), 0.3), s.finish("glazed", geom.V(0.1, 0.25, 0.35), 0, 0.15, nil))
	s.camera(v(0.4, 1.15, 0.97), v(-0.1, 0.75, -0.6))
	return s.bytes()
}

// Machine is a machine of a hundred parts: rings, rods, knobs and blocks in five
// finishes, lit by the studio picture alone.
func Machine() ([]byte, error) {
	s := &stage{}
	finishes := []int{
		s.finish("steel", geom.V(0.6, 0.6, 0.62), 1, 0.25, nil), s.finish("brass", geom.V(0.9, 0.66, 0.3), 1, 0.35, nil),
		s.finish("enamel", geom.V(0.05, 0.2, 0.22), 0, 0.2, nil), s.finish("rubber", geom.V(0.04, 0.04, 0.045), 0, 0.8, nil),
		s.finish("plastic", geom.V(0.75, 0.72, 0.65), 0, 0.45, nil),
	}
	floor := s.finish("table", geom.V(0.5, 0.48, 0.45), 0, 0.9, nil)
	s.part("table", quad(geom.V(-4, 0, 4), geom.V(8, 0, 0), geom.V(0, 0, -8)), floor)
	for i := range 99 {
		col, row, level := i%5, i/5%4, i/20
		x, y, z := float32(col)*0.24-0.48, float32(level)*0.2+0.1, float32(row)*0.24-0.36
		c := geom.V(x, y, z)
		f := finishes[(i*7+level)%len(finishes)]
		name := fmt.Sprintf("part %d", i+1)
		switch i % 4 {
		case 0:
			s.part(name, ring(c, 0.085, 0.022), f)
		case 1:
			s.part(name, ball(c, 0.08), f)
		case 2:
			s.part(name, turned(c, func(t float64) (float64, float64) { return 0.05 + 0.015*math.Cos(12*math.Pi*t), 0.18*t - 0.09 }, 40, 48), f)
		default:
			s.part(name, box(c.Sub(geom.Splat(0.07)), geom.Splat(0.14)), f)
		}
	}
	s.camera(geom.V(1.7, 1.5, 2.3), geom.V(0, 0.45, 0))
	return s.bytes()
}

// Cloth is a still of cloth and brushed metal under one panel.
func Cloth() ([]byte, error) {
	s := &stage{}
	cloth := s.finish("cloth", geom.V(0.25, 0.06, 0.09), 0, 0.9, object{"doubleSided": true, "extensions": object{
		"KHR_materials_sheen": object{"sheenColorFactor": []float64{0.6, 0.35, 0.35}, "sheenRoughnessFactor": 0.35},
	}})
	brushed := s.finish("brushed", geom.V(0.75, 0.75, 0.77), 1, 0.35, object{"extensions": object{"KHR_materials_anisotropy": object{"anisotropyStrength": 0.7}}})
	// Folds that run across the table.
	const n = 160
	var m shape
	height := func(x, z float64) float64 { return 0.05*math.Sin(9*x+2*math.Sin(3*z)) + 0.02*math.Sin(23*z+4*x) + 0.06 }
	for j := range n + 1 {
		for i := range n + 1 {
			x, z := 3*float64(i)/n-1.5, 3*float64(j)/n-1.5
			const d = 1e-3
			m.pos = append(m.pos, geom.V(float32(x), float32(height(x, z)), float32(z)))
			m.nrm = append(m.nrm, geom.V(float32(height(x-d, z)-height(x+d, z)), 2*d, float32(height(x, z-d)-height(x, z+d))).Unit())
		}
	}
	for j := range uint32(n) {
		for i := range uint32(n) {
			a := j*(n+1) + i
			m.idx = append(m.idx, a, a+n+1, a+1, a+1, a+n+1, a+n+2)
		}
	}
	s.part("cloth", m, cloth)
	s.part("vase", turned(geom.V(-0.1, 0.1, -0.1), func(t float64) (float64, float64) { return 0.16 + 0.09*math.Sin(5*t), 0.8 * t }, 60, 96), brushed)
	s.part("cup", turned(geom.V(0.5, 0.1, 0.25), func(t float64) (float64, float64) { return 0.12 + 0.03*t*t, 0.24 * t }, 30, 96), brushed)
	s.part("panel", quad(geom.V(-1.6, 2.2, 1), geom.V(1, 0.5, 0), geom.V(0, 0.3, -1.4)), s.glow("panel", 9))
	s.camera(geom.V(0.9, 1.25, 2.2), geom.V(0.1, 0.35, 0))
	return s.bytes()
}

// Lattice is forty thin rods, black, white and gold, with a clear ball before and a
// bright panel behind them.
func Lattice() ([]byte, error) {
	s := &stage{}
	v := geom.V
	black, white := s.finish("black", geom.Splat(0.03), 0, 0.3, nil), s.finish("white", geom.Splat(0.8), 0, 0.6, nil)
	gold := s.finish("gold", v(0.9, 0.7, 0.3), 1, 0.12, nil)
	s.part("floor", quad(v(-3, 0, 3), v(6, 0, 0), v(0, 0, -6)), white)
	for i := range 40 {
		x := float32(i)*0.05 - 1
		rod := turned(v(x, 0.5, float32(i%3)*0.1-0.4), func(t float64) (float64, float64) { return 0.006, t - 0.5 }, 2, 16)
		s.part("rod", rod, []int{black, gold, white}[i%3])
	}
	s.part("ball", ball(v(0, 0.35, 0.4), 0.2), s.glass("body", 0.2))
	s.part("panel", quad(v(-1.2, 0.2, -1.5), v(2.4, 0, 0), v(0, 1.6, 0)), s.glow("panel", 4))
	s.camera(v(0.5, 0.8, 2.6), v(0, 0.45, 0))
	return s.bytes()
}

// Caustics is a chrome ring, a metal dish and a glass flask under one small bulb.
func Caustics() ([]byte, error) {
	s := &stage{}
	v := geom.V
	s.part("table", quad(v(-3, 0, 3), v(6, 0, 0), v(0, 0, -6)), s.finish("wood", v(0.35, 0.2, 0.1), 0, 0.4, nil))
	s.part("ring", ring(v(0, 0.12, 0), 0.4, 0.1), s.finish("chrome", v(0.8, 0.8, 0.8), 1, 0.05, nil))
	dish := turned(v(0.8, 0.02, -0.3), func(t float64) (float64, float64) { return 0.35 * t, 0.25 * t * t }, 30, 96)
	s.part("dish", dish, s.finish("dish", v(0.9, 0.6, 0.5), 1, 0.2, nil))
	s.part("flask", ball(v(-0.7, 0.3, -0.3), 0.28), s.glass("flask", 0.3))
	s.part("lamp", ball(v(0.9, 1.4, 0.8), 0.06), s.glow("bulb", 400))
	s.camera(v(0.3, 1.3, 2.4), v(0, 0.2, 0))
	return s.bytes()
}
