package importer

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"strings"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

type object = map[string]any

// square is a document with one quad: 4 positions, 4 normals, 4 texture
// coordinates and 6 indices in one buffer, everything else default.
func square() (object, []byte) {
	var bin bytes.Buffer
	put := func(v ...any) {
		for _, x := range v {
			_ = binary.Write(&bin, binary.LittleEndian, x)
		}
	}
	put([]float32{0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0})
	put([]float32{0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1})
	put([]float32{0, 1, 1, 1, 1, 0, 0, 0})
	put([]uint16{0, 1, 2, 0, 2, 3})
	view := func(off, n int) object { return object{"buffer": 0, "byteOffset": off, "byteLength": n} }
	acc := func(v, comp, n int, typ string) object {
		return object{"bufferView": v, "componentType": comp, "count": n, "type": typ}
	}
	doc := object{
		"asset":       object{"version": "2.0"},
		"scene":       0,
		"scenes":      []any{object{"nodes": []int{0}}},
		"nodes":       []any{object{"name": "plate", "mesh": 0}},
		"meshes":      []any{object{"primitives": []any{object{"attributes": object{"POSITION": 0, "NORMAL": 1, "TEXCOORD_0": 2}, "indices": 3, "material": 0}}}},
		"materials":   []any{object{"name": "enamel"}},
		"accessors":   []any{acc(0, 5126, 4, "VEC3"), acc(1, 5126, 4, "VEC3"), acc(2, 5126, 4, "VEC2"), acc(3, 5123, 6, "SCALAR")},
		"bufferViews": []any{view(0, 48), view(48, 48), view(96, 32), view(128, 12)},
		"buffers":     []any{object{"byteLength": bin.Len()}},
	}
	return doc, bin.Bytes()
}

func glb(doc object, bin []byte) []byte {
	j, _ := json.Marshal(doc)
	for len(j)%4 != 0 {
		j = append(j, ' ')
	}
	for len(bin)%4 != 0 {
		bin = append(bin, 0)
	}
	var b bytes.Buffer
	w := func(v ...uint32) { _ = binary.Write(&b, binary.LittleEndian, v) }
	w(0x46546C67, 2, uint32(12+8+len(j)+8+len(bin)), uint32(len(j)), 0x4E4F534A)
	b.Write(j)
	w(uint32(len(bin)), 0x004E4942)
	b.Write(bin)
	return b.Bytes()
}

func at(doc object, path ...any) object {
	var v any = doc
	for _, p := range path {
		switch k := p.(type) {
		case string:
			v = v.(object)[k]
		case int:
			v = v.([]any)[k]
		}
	}
	return v.(object)
}

func load(t *testing.T, doc object, bin []byte) (*scene.Scene, error) {
	t.Helper()
	return Import(context.Background(), Bundle{"a.glb": glb(doc, bin)}, DefaultLimits)
}

func TestReadsAPlateByEveryRoute(t *testing.T) {
	doc, bin := square()
	check := func(route string, b Bundle) {
		s, err := Import(context.Background(), b, DefaultLimits)
		if err != nil {
			t.Fatalf("%s: %v", route, err)
		}
		m := s.Meshes[0]
		if len(s.Parts) != 1 || s.Parts[0].Name != "plate" || s.FinishName(0) != "enamel" || m.Positions[2] != geom.V(1, 1, 0) ||
			m.UV[0][0] != [2]float32{0, 1} || len(m.Indices) != 6 {
			t.Fatalf("%s: %+v", route, s)
		}
	}
	check("glb", Bundle{"x/a.glb": glb(doc, bin)})
	at(doc, "buffers", 0)["uri"] = "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(bin)
	j, _ := json.Marshal(doc)
	check("embedded", Bundle{"a.gltf": j})
	at(doc, "buffers", 0)["uri"] = "sub%20dir/data.bin"
	j, _ = json.Marshal(doc)
	check("beside", Bundle{"a.gltf": j, "sub dir/data.bin": bin})
	check("loose", Bundle{"a.gltf": j, "data.bin": bin})
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	for n, d := range map[string][]byte{"scene/a.gltf": j, "scene/sub dir/data.bin": bin} {
		f, _ := w.Create(n)
		_, _ = f.Write(d)
	}
	_ = w.Close()
	b := Bundle{}
	if err := b.AddZip(z.Bytes(), DefaultLimits); err != nil {
		t.Fatal(err)
	}
	check("zip", b)
}

func TestTransformsInstancesAndHierarchy(t *testing.T) {
	doc, bin := square()
	doc["nodes"] = []any{
		object{"name": "top", "translation": []float64{1, 2, 3}, "children": []int{1, 2}},
		object{"name": "left", "mesh": 0, "scale": []float64{2, 2, 2}},
		object{"name": "right", "mesh": 0, "matrix": []float64{0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0, 5, 0, 0, 1}},
	}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	if len(s.Meshes) != 1 || len(s.Parts) != 2 || s.Objects[1].Parent != 0 {
		t.Fatalf("an instance shares its mesh: %d meshes, %d parts", len(s.Meshes), len(s.Parts))
	}
	if p := s.Objects[1].World.Point(geom.V(1, 1, 0)); p != geom.V(3, 4, 3) {
		t.Errorf("left corner at %v", p)
	}
	if p := s.Objects[2].World.Point(geom.V(1, 0, 0)); p != geom.V(6, 3, 3) {
		t.Errorf("right corner at %v", p)
	}
}

func TestMaterialModel(t *testing.T) {
	doc, bin := square()
	var pic bytes.Buffer
	img := image.NewNRGBA(image.Rect(0, 0, 2, 2))
	img.Set(1, 0, color.NRGBA{200, 100, 50, 255})
	_ = png.Encode(&pic, img)
	doc["images"] = []any{object{"uri": "data:image/png;base64," + base64.StdEncoding.EncodeToString(pic.Bytes())}}
	doc["samplers"] = []any{object{"wrapS": 33071, "wrapT": 33648}}
	doc["textures"] = []any{object{"source": 0, "sampler": 0}}
	doc["materials"] = []any{object{
		"name": "tinted glass", "emissiveFactor": []float64{1, 0.5, 0}, "alphaMode": "MASK", "alphaCutoff": 0.25, "doubleSided": true,
		"normalTexture": object{"index": 0, "scale": 0.5},
		"pbrMetallicRoughness": object{"baseColorFactor": []float64{0.1, 0.2, 0.3, 0.4}, "metallicFactor": 0, "roughnessFactor": 0.05,
			"baseColorTexture": object{"index": 0, "extensions": object{"KHR_texture_transform": object{"offset": []float64{0.5, 0}, "scale": []float64{2, 3}}}}},
		"extensions": object{
			"KHR_materials_emissive_strength": object{"emissiveStrength": 4},
			"KHR_materials_transmission":      object{"transmissionFactor": 0.9},
			"KHR_materials_ior":               object{"ior": 1.33},
			"KHR_materials_volume":            object{"thicknessFactor": 0.02, "attenuationDistance": 0.5, "attenuationColor": []float64{0.9, 0.8, 0.7}},
			"KHR_materials_clearcoat": object{"clearcoatFactor": 0.6, "clearcoatRoughnessFactor": 0.1,
				"clearcoatNormalTexture": object{"index": 0, "scale": 0.75}},
			"KHR_materials_nonesuch": object{},
			"KHR_materials_specular": object{"specularFactor": 0.5, "specularColorFactor": []float64{1, 0.9, 0.8}, "specularTexture": object{"index": 0}},
			"KHR_materials_sheen": object{"sheenColorFactor": []float64{0.1, 0.2, 0.3}, "sheenRoughnessFactor": 0.4,
				"sheenRoughnessTexture": object{"index": 0}},
			"KHR_materials_anisotropy":  object{"anisotropyStrength": 0.7, "anisotropyRotation": 0.25},
			"KHR_materials_dispersion":  object{"dispersion": 0.4},
			"KHR_materials_iridescence": object{"iridescenceFactor": 0.8, "iridescenceIor": 1.4, "iridescenceThicknessMaximum": 500},
		},
		"extras": object{"priority": 2, "shadows": "bent", "green": "down", "other": []int{1}},
	}}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	f := s.Finishes[0]
	want := scene.NewFinish("tinted glass")
	want.Base, want.Alpha, want.Metallic, want.Roughness = geom.V(0.1, 0.2, 0.3), 0.4, 0, 0.05
	want.Emission, want.AlphaMode, want.Cutoff, want.DoubleSided = geom.V(4, 2, 0), scene.Mask, 0.25, true
	want.Transmission, want.IOR, want.Thickness, want.AttenuationDistance, want.AttenuationColour = 0.9, 1.33, 0.02, 0.5, geom.V(0.9, 0.8, 0.7)
	want.Clearcoat, want.ClearcoatRoughness, want.NormalScale = 0.6, 0.1, 0.5
	want.BaseTexture = scene.Texture{Image: 0, WrapU: scene.Clamp, WrapV: scene.Mirror, Transform: [6]float32{2, 0, 0.5, 0, 3, 0}}
	want.NormalTexture = scene.Texture{Image: 0, WrapU: scene.Clamp, WrapV: scene.Mirror, Transform: [6]float32{1, 0, 0, 0, 1, 0}}
	want.CoatNormalTexture, want.CoatNormalScale = want.NormalTexture, 0.75
	want.Specular, want.SpecularColour, want.SpecularTexture = 0.5, geom.V(1, 0.9, 0.8), want.NormalTexture
	want.Sheen, want.SheenRoughness, want.SheenRoughTexture = geom.V(0.1, 0.2, 0.3), 0.4, want.NormalTexture
	want.Anisotropy, want.AnisotropyTurn, want.Dispersion = 0.7, 0.25, 0.4
	want.Iridescence, want.FilmIOR, want.FilmThick = 0.8, 1.4, 500
	want.Priority, want.Shadows, want.GreenDown = 2, scene.BentShadows, true
	if f != want {
		t.Errorf("got  %+v\nwant %+v", f, want)
	}
	if !f.Clear() || !f.Glowing() {
		t.Error("it is clear and it glows")
	}
	if len(s.LeftOut) != 1 || !strings.Contains(s.LeftOut[0].What, "KHR_materials_nonesuch") || s.LeftOut[0].Where != "tinted glass" {
		t.Errorf("left out: %v", s.LeftOut)
	}
}

func TestUnlitIsAnEvenGlowOfItsColour(t *testing.T) {
	doc, bin := square()
	doc["materials"] = []any{object{
		"pbrMetallicRoughness": object{"baseColorFactor": []float64{0.1, 0.2, 0.3, 1}},
		"extensions":           object{"KHR_materials_unlit": object{}},
	}}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	f := s.Finishes[0]
	if f.Emission != geom.V(0.1, 0.2, 0.3) || !f.Base.IsZero() || f.IOR != 1 || f.Metallic != 0 || len(s.LeftOut) != 0 {
		t.Errorf("%+v, left out %v", f, s.LeftOut)
	}
}

func TestLightsAndCameras(t *testing.T) {
	doc, bin := square()
	doc["extensions"] = object{"KHR_lights_punctual": object{"lights": []any{
		object{"type": "spot", "intensity": 100, "color": []float64{1, 0.5, 0.25}, "spot": object{"outerConeAngle": 0.5}, "extras": object{"radius": 0.05}},
		object{"type": "directional", "intensity": 3, "extras": object{"angle": 0.53}},
		object{"type": "tube"},
	}}}
	doc["cameras"] = []any{object{"type": "perspective", "perspective": object{"yfov": 0.4}},
		object{"type": "orthographic", "orthographic": object{"xmag": 1, "ymag": 0.5}}}
	light := func(i int) object { return object{"KHR_lights_punctual": object{"light": i}} }
	doc["nodes"] = []any{
		object{"name": "plate", "mesh": 0}, object{"name": "key", "extensions": light(0)}, object{"name": "sun", "extensions": light(1)},
		object{"name": "odd", "extensions": light(2)},
		object{"name": "hero", "camera": 0}, object{"name": "flat", "camera": 1},
	}
	at(doc, "scenes", 0)["nodes"] = []int{0, 1, 2, 3, 4, 5}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	if len(s.Lights) != 2 || s.Lights[0].Kind != scene.SpotLight || s.Lights[0].Radius != 0.05 || s.Lights[0].Intensity != 100 ||
		s.Lights[1].Kind != scene.SunLight {
		t.Errorf("lights %+v", s.Lights)
	}
	if d := s.Lights[1].Angle - 0.53*math.Pi/180; geom.Abs(d) > 1e-6 {
		t.Errorf("sun's disc %v", s.Lights[1].Angle)
	}
	if len(s.Cameras) != 2 || s.Cameras[0].YFov != 0.4 || s.Cameras[1].YMag != 0.5 || s.Cameras[0].Name != "hero" {
		t.Errorf("cameras %+v", s.Cameras)
	}
	if len(s.LeftOut) != 1 || !strings.Contains(s.LeftOut[0].What, "tube") {
		t.Errorf("left out %v", s.LeftOut)
	}
}

func TestSparseNormalisedAndStrips(t *testing.T) {
	doc, bin := square()
	idx := len(bin)
	bin = append(bin, 2, 0, 0, 0)
	val := len(bin)
	bin = binary.LittleEndian.AppendUint32(bin, math.Float32bits(7))
	bin = binary.LittleEndian.AppendUint32(bin, math.Float32bits(8))
	bin = binary.LittleEndian.AppendUint32(bin, math.Float32bits(9))
	uv := len(bin)
	bin = append(bin, 0, 255, 255, 255, 255, 0, 0, 0)
	doc["bufferViews"] = append(doc["bufferViews"].([]any), object{"buffer": 0, "byteOffset": idx, "byteLength": 4},
		object{"buffer": 0, "byteOffset": val, "byteLength": 12}, object{"buffer": 0, "byteOffset": uv, "byteLength": 8})
	at(doc, "buffers", 0)["byteLength"] = len(bin)
	at(doc, "accessors", 0)["sparse"] = object{"count": 1, "indices": object{"bufferView": 4, "componentType": 5123}, "values": object{"bufferView": 5}}
	doc["accessors"].([]any)[2] = object{"bufferView": 6, "componentType": 5121, "normalized": true, "count": 4, "type": "VEC2"}
	p := at(doc, "meshes", 0, "primitives", 0)
	p["mode"] = 5
	delete(p, "indices")
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	m := s.Meshes[0]
	if m.Positions[2] != geom.V(7, 8, 9) {
		t.Errorf("sparse value %v", m.Positions[2])
	}
	if m.UV[0][1] != [2]float32{1, 1} {
		t.Errorf("normalised coordinate %v", m.UV[0][1])
	}
	if fmt.Sprint(m.Indices) != "[0 1 2 2 1 3]" {
		t.Errorf("strip %v", m.Indices)
	}
}

// Each way of being broken is refused with words that say so.
func TestRefusesBrokenFiles(t *testing.T) {
	cases := map[string]func(doc object, bin []byte) []byte{
		"cut short": func(d object, b []byte) []byte { return glb(d, b)[:60] },
		"version":   func(d object, b []byte) []byte { at(d, "asset")["version"] = "1.0"; return glb(d, b) },
		"requires the extens": func(d object, b []byte) []byte {
			d["extensionsRequired"] = []string{"EXT_mesh_gpu_instancing"}
			return glb(d, b)
		},
		"beyond its buffer":  func(d object, b []byte) []byte { at(d, "accessors", 0)["count"] = 5; return glb(d, b) },
		"outside its buffer": func(d object, b []byte) []byte { at(d, "bufferViews", 3)["byteLength"] = 99; return glb(d, b) },
		"the document says":  func(d object, b []byte) []byte { at(d, "buffers", 0)["byteLength"] = 9999; return glb(d, b) },
		"names vertex": func(d object, b []byte) []byte {
			b[130] = 200
			return glb(d, b)
		},
		"not finite":   func(d object, b []byte) []byte { binary.LittleEndian.PutUint32(b, 0x7fc00000); return glb(d, b) },
		"own ancestor": func(d object, b []byte) []byte { at(d, "nodes", 0)["children"] = []int{0}; return glb(d, b) },
		"absurdly far": func(d object, b []byte) []byte {
			at(d, "nodes", 0)["translation"] = []float64{1e9, 0, 0}
			return glb(d, b)
		},
		"not finite ": func(d object, b []byte) []byte { at(d, "nodes", 0)["scale"] = []float64{1e39, 1, 1}; return glb(d, b) },
		"its rotation is zero": func(d object, b []byte) []byte {
			at(d, "nodes", 0)["rotation"] = []float64{0, 0, 0, 0}
			return glb(d, b)
		},
		"its matrix has":       func(d object, b []byte) []byte { at(d, "nodes", 0)["matrix"] = []float64{1}; return glb(d, b) },
		"wears material":       func(d object, b []byte) []byte { at(d, "meshes", 0, "primitives", 0)["material"] = 4; return glb(d, b) },
		"no triangles":         func(d object, b []byte) []byte { at(d, "scenes", 0)["nodes"] = []int{}; return glb(d, b) },
		"of another attribute": func(d object, b []byte) []byte { at(d, "accessors", 1)["count"] = 3; return glb(d, b) },
		"missing":              func(d object, b []byte) []byte { at(d, "buffers", 0)["uri"] = "gone.bin"; return glb(d, b) },
		"damaged": func(d object, b []byte) []byte {
			return bytes.Replace(glb(d, b), []byte(`"nodes":`), []byte(`"nodes";`), 1)
		},
		"extensionsUsed holds object": func(d object, b []byte) []byte { d["extensionsUsed"] = object{}; return glb(d, b) },
		"points and lines":            func(d object, b []byte) []byte { at(d, "meshes", 0, "primitives", 0)["mode"] = 0; return glb(d, b) },
		"glTF version \"1.1\"": func(d object, b []byte) []byte { // its lists are maps, as in that version
			at(d, "asset")["version"] = "1.1"
			d["accessors"] = object{}
			return glb(d, b)
		},
		"GLB version": func(d object, b []byte) []byte { g := glb(d, b); g[4] = 1; return g },
	}
	for want, spoil := range cases {
		doc, bin := square()
		_, err := Import(context.Background(), Bundle{"a.glb": spoil(doc, bin)}, DefaultLimits)
		if !errors.Is(err, ErrRefused) || !strings.Contains(fmt.Sprint(err), strings.TrimSpace(want)) {
			t.Errorf("%q: got %v", want, err)
		}
	}
	for want, b := range map[string]Bundle{
		"no scene of a known": {"a.xyz": nil},
		"several scene files": {"a.obj": nil, "b.glb": nil},
		"come as .glb, .gltf": {"readme.txt": nil},
		"more than the limit": {"a.obj": make([]byte, 2000)},
		"damaged: v needs":    {"a.obj": []byte("v 1 two 3")},
		"is not there":        {"a.obj": []byte("v 0 0 0\nf 1 2 3")},
		"needs three corners": {"a.obj": []byte("v 0 0 0\nf 1 1")},
		"is not a GLB":        {"a.glb": []byte("hello world, this is no scene")},
	} {
		lim := DefaultLimits
		lim.Bytes = 1000
		if _, err := Import(context.Background(), b, lim); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: got %v", want, err)
		}
	}
}

func TestZipBombIsStopped(t *testing.T) {
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	f, _ := w.Create("a.obj")
	_, _ = f.Write(make([]byte, 1<<22))
	_ = w.Close()
	lim := DefaultLimits
	lim.Bytes = 1 << 20
	if err := (Bundle{}).AddZip(z.Bytes(), lim); !errors.Is(err, ErrRefused) {
		t.Fatalf("got %v", err)
	}
}

// A shallow fold without normals is smooth, a sharp one and one with smoothing
// off are not.
func TestOBJSmoothsWhatHasNoNormals(t *testing.T) {
	fold := func(height, off string) *scene.Mesh {
		s, err := Import(context.Background(), Bundle{"a.obj": []byte("v 0 0 0\nv 0 1 0\nv 1 0 " + height + "\nv -1 0 " + height +
			"\n" + off + "f 1 3 2\nf 1 2 4\n")}, DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		return &s.Meshes[0]
	}
	if m := fold("-0.1", ""); len(m.Positions) != 4 || len(m.Normals) != 4 || m.Normals[0].Dot(geom.V(0, 0, 1)) < 0.9999 {
		t.Errorf("shallow: %d vertices, normals %v", len(m.Positions), m.Normals)
	}
	if m := fold("-2", ""); len(m.Positions) != 6 {
		t.Errorf("sharp: %d vertices", len(m.Positions))
	}
	if m := fold("-0.1", "s off\n"); len(m.Normals) != 0 {
		t.Errorf("smoothing off: %v", m.Normals)
	}
}

func TestOBJ(t *testing.T) {
	o := `# made by hand
mtllib things.mtl
o box
v 0 0 0
v 2 0 0
v 2 1 0
v 1 0.2 0
v 0 1 0
vt 0 0
vn 0 0 1
usemtl red
f 1//1 2//1 3//1 4//1 5//1
usemtl glow
f -5/1 -4/1 -3/1
o bare
usemtl
f 1 2 3
curv 1 2
`
	m := "newmtl red\nKd 0.5 0.25 0.125\nPr 0.3\nNi 1.4\nd 0.5\nmap_Kd gone.png\nnewmtl glow\nKe 3 2 1\n"
	s, err := Import(context.Background(), Bundle{"a.obj": []byte(o), "things.mtl": []byte(m)}, DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for i, p := range s.Parts {
		names = append(names, p.Name+"="+s.FinishName(i))
	}
	if fmt.Sprint(names) != "[box / red=red box / glow=glow bare=no finish]" {
		t.Errorf("parts %v", names)
	}
	red := s.Finishes[0]
	if red.Base != geom.V(0.5, 0.25, 0.125) || red.Roughness != 0.3 || red.Alpha != 0.5 || red.AlphaMode != scene.Blend ||
		s.Finishes[1].Emission != geom.V(3, 2, 1) {
		t.Errorf("finishes %+v", s.Finishes)
	}
	// The concave polygon keeps its area: 2*1 minus the dent (2*0.8/2) is 1.2.
	var area float32
	mesh := s.Meshes[0]
	for i := 0; i < len(mesh.Indices); i += 3 {
		a, b, c := mesh.Positions[mesh.Indices[i]], mesh.Positions[mesh.Indices[i+1]], mesh.Positions[mesh.Indices[i+2]]
		area += b.Sub(a).Cross(c.Sub(a)).Len() / 2
	}
	if geom.Abs(area-1.2) > 1e-5 {
		t.Errorf("area %v, want 1.2", area)
	}
	if len(s.LeftOut) != 3 { // the picture, the missing finish, the curve
		t.Errorf("left out: %v", s.LeftOut)
	}
}

// A file of over a hundred megabytes goes through.
func TestLargeFile(t *testing.T) {
	if testing.Short() {
		t.Skip("takes a second and some memory")
	}
	const n = 1800
	var bin bytes.Buffer
	pos := make([]float32, 0, n*n*3)
	for i := 0; i < n*n; i++ {
		pos = append(pos, float32(i%n), float32(i/n), 0)
	}
	idx := make([]uint32, 0, (n-1)*(n-1)*6)
	for y := 0; y < n-1; y++ {
		for x := 0; x < n-1; x++ {
			a := uint32(y*n + x)
			idx = append(idx, a, a+1, a+n+1, a, a+n+1, a+n)
		}
	}
	_ = binary.Write(&bin, binary.LittleEndian, pos)
	_ = binary.Write(&bin, binary.LittleEndian, idx)
	doc, _ := square()
	doc["bufferViews"] = []any{object{"buffer": 0, "byteLength": len(pos) * 4}, object{"buffer": 0, "byteOffset": len(pos) * 4, "byteLength": len(idx) * 4}}
	doc["accessors"] = []any{object{"bufferView": 0, "componentType": 5126, "count": n * n, "type": "VEC3"},
		object{"bufferView": 1, "componentType": 5125, "count": len(idx), "type": "SCALAR"}}
	at(doc, "meshes", 0)["primitives"] = []any{object{"attributes": object{"POSITION": 0}, "indices": 1}}
	at(doc, "buffers", 0)["byteLength"] = bin.Len()
	g := glb(doc, bin.Bytes())
	if len(g) < 100<<20 {
		t.Fatalf("only %d MB", len(g)>>20)
	}
	s, err := Import(context.Background(), Bundle{"big.glb": g}, DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if s.Triangles() != len(idx)/3 {
		t.Fatalf("%d triangles", s.Triangles())
	}
	lim := DefaultLimits
	lim.Triangles = 1000
	if _, err := Import(context.Background(), Bundle{"big.glb": g}, lim); !errors.Is(err, ErrRefused) {
		t.Fatalf("over the limit: %v", err)
	}
}

var fuzzLimits = Limits{Bytes: 1 << 20, Files: 10, Triangles: 10000, Objects: 1000, Texels: 1 << 16, Lights: 10, Depth: 32, Memory: 64 << 20}

func fuzzed(t *testing.T, b Bundle) {
	s, err := Import(context.Background(), b, fuzzLimits)
	if err != nil {
		if !errors.Is(err, ErrRefused) {
			t.Fatalf("an error of another kind: %v", err)
		}
		return
	}
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	for i := range s.Motions {
		end := s.Motions[i].Length()
		s.At(i, end/3)
		for _, way := range s.Sweep(i, 0, end) {
			if len(way) < 2 {
				t.Fatalf("a way of %d places", len(way))
			}
		}
	}
}

func FuzzGLB(f *testing.F) {
	doc, bin := square()
	f.Add(glb(doc, bin))
	doc, bin = swing()
	f.Add(glb(doc, bin))
	f.Fuzz(func(t *testing.T, b []byte) { fuzzed(t, Bundle{"a.glb": b}) })
}

func FuzzGLTF(f *testing.F) {
	doc, bin := square()
	j, _ := json.Marshal(doc)
	f.Add(j, bin)
	doc, bin = swing()
	j, _ = json.Marshal(doc)
	f.Add(j, bin)
	f.Fuzz(func(t *testing.T, j, bin []byte) { fuzzed(t, Bundle{"a.gltf": j, "data.bin": bin}) })
}

func FuzzOBJ(f *testing.F) {
	f.Add([]byte("mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl m\nf 1/1 2/1 3/1\n"), []byte("newmtl m\nKd 1 1 1\nNs 20\nmap_Kd a.png\n"))
	f.Fuzz(func(t *testing.T, o, m []byte) { fuzzed(t, Bundle{"a.obj": o, "a.mtl": m}) })
}

func FuzzZip(f *testing.F) {
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	e, _ := w.Create("a.obj")
	_, _ = e.Write([]byte("v 0 0 0\n"))
	_ = w.Close()
	f.Add(z.Bytes())
	f.Fuzz(func(t *testing.T, b []byte) {
		bundle := Bundle{}
		if err := bundle.AddZip(b, fuzzLimits); err != nil && !errors.Is(err, ErrRefused) {
			t.Fatalf("an error of another kind: %v", err)
		}
	})
}

func TestPictureNamesStandBehindTheirOptions(t *testing.T) {
	for line, want := range map[string]string{
		"wood.png": "wood.png", "my dark wood.png": "my dark wood.png", "-s 2 2 1 my wood.png": "my wood.png", "-clamp on -bm 0.5 w.png": "w.png",
		"-imfchan r -o 1 w.png": "w.png", "-s": "-s", "": "", "-mm 0 1 2": "2",
	} {
		if got := pictureName(strings.Fields(line)); got != want {
			t.Errorf("%q names %q, want %q", line, got, want)
		}
	}
}
