package importer

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"net/url"
	"path"
	"slices"
	"strings"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// bytesAnObject is about what an object of a document takes when it is read.
const bytesAnObject = 400

// The parts of a glTF 2.0 document that are read.
type gltfDoc struct {
	Asset              struct{ Version, MinVersion string }
	ExtensionsRequired []string
	ExtensionsUsed     []string
	Scene              *int
	Scenes             []struct{ Nodes []int }
	Nodes              []gltfNode
	Meshes             []struct {
		Name       string
		Primitives []gltfPrim
	}
	Accessors   []gltfAccessor
	BufferViews []struct {
		Buffer, ByteOffset, ByteLength, ByteStride int
		Extensions                                 map[string]json.RawMessage
	}
	Buffers []struct {
		URI        *string
		ByteLength int
		Extensions map[string]json.RawMessage
	}
	Materials []gltfMaterial
	Textures  []struct {
		Sampler    *int
		Source     *int
		Extensions map[string]json.RawMessage
	}
	Images []struct {
		Name, URI, MimeType string
		BufferView          *int
	}
	Samplers []struct{ WrapS, WrapT int }
	Cameras  []struct {
		Name, Type   string
		Perspective  *struct{ YFov float64 }
		Orthographic *struct{ XMag, YMag float64 }
		// Extras may shift the frame against the lens to the right and up, in shares of it.
		Extras json.RawMessage
	}
	Animations []gltfAnimation
	Skins      []struct{ Name string }
	Extensions struct {
		Lights *struct {
			Lights []gltfLight
		} `json:"KHR_lights_punctual"`
		Variants *gltfVariants `json:"KHR_materials_variants"`
	}
}

// gltfNode is an object: it stands where its matrix says or, without one, its shift, turn
// and scale.
type gltfNode struct {
	Name        string
	Children    []int
	Mesh        *int
	Camera      *int
	Skin        *int
	Matrix      []float64
	Translation []float64
	Rotation    []float64
	Scale       []float64
	Extensions  map[string]json.RawMessage
}

// gltfPrim is a set of faces in one finish.
type gltfPrim struct {
	Attributes map[string]int
	Indices    *int
	Material   *int
	Mode       *int
	Targets    []json.RawMessage
	Extensions map[string]json.RawMessage
}

// gltfLight is a punctual light. Radius and angle, which the format lacks, are extras of
// our own: a light without a size throws shadows without a soft edge.
type gltfLight struct {
	Name, Type string
	Color      []float64
	Intensity  *float64
	Range      float64
	Spot       *struct {
		InnerConeAngle float64
		OuterConeAngle *float64
	}
	// Extras may give a light a size: radius in metres, angle in degrees.
	Extras struct{ Radius, Angle float64 }
}

// What an extension that is merely used, not required, means when left out.
var knownExtensions = map[string]bool{
	"KHR_lights_punctual": true, "KHR_materials_emissive_strength": true, "KHR_materials_transmission": true,
	"KHR_materials_ior": true, "KHR_materials_volume": true, "KHR_materials_clearcoat": true,
	"KHR_materials_specular": true, "KHR_materials_sheen": true, "KHR_materials_anisotropy": true,
	"KHR_materials_dispersion": true, "KHR_materials_iridescence": true, "KHR_materials_unlit": true,
	"KHR_texture_transform": true, "KHR_mesh_quantization": true, dracoExtension: true, meshoptExtension: true, webpExtension: true,
	variantsExtension: true,
}

// gltf reads one document.
type gltf struct {
	reader
	ctx     context.Context // of the one call that reads the file
	doc     gltfDoc
	bundle  Bundle
	main    string
	bin     []byte
	buffers [][]byte
	images  map[int]int // glTF image to scene image
	meshes  map[int][]int
	worn    map[int][]look // by scene mesh, what it wears in variants
	objects []int          // glTF node to object, -1 for none
	keys    int            // of all animations
	motions []string
	// What accessors hold, read once however many primitives use them; nothing
	// that is made of it changes it.
	numbers map[[2]int][]float32 // by accessor and width
	corners map[int][]uint32     // indices, by accessor
	// What was packed: views, and what accessors read.
	views  map[int][]byte
	packed map[int]span
}

// readGLTF reads a glTF 2.0 document (Khronos 2021) or a GLB around one. Memory is
// budgeted before it is taken, since counts in the document are only claims.
func readGLTF(ctx context.Context, b Bundle, main string, lim Limits) (*scene.Scene, error) {
	g := &gltf{ctx: ctx, reader: newReader(b, lim), bundle: b, main: main, images: map[int]int{}, meshes: map[int][]int{},
		worn: map[int][]look{}, numbers: map[[2]int][]float32{}, corners: map[int][]uint32{}, views: map[int][]byte{}, packed: map[int]span{}}
	if err := g.open(b[main]); err != nil {
		return nil, err
	}
	if err := g.readBuffers(); err != nil {
		return nil, err
	}
	if len(g.doc.Nodes) > lim.Objects {
		return nil, refuse("%d objects are more than the limit of %d", len(g.doc.Nodes), lim.Objects)
	}
	if err := g.take(len(g.doc.Nodes), 512); err != nil { // with the part that each may become
		return nil, err
	}
	for i := range g.doc.Materials {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		tell(ctx, Finishes, i, len(g.doc.Materials))
		g.material(i)
	}
	if err := g.variants(); err != nil {
		return nil, err
	}
	g.objects = slices.Repeat([]int{-1}, len(g.doc.Nodes))
	for _, n := range g.roots() {
		if err := g.node(n, -1, geom.Identity(), 0); err != nil {
			return nil, err
		}
	}
	for i := range g.doc.Animations {
		if err := g.motion(i); err != nil {
			return nil, err
		}
	}
	return &g.s, nil
}

// open reads the document of a file, and refuses what cannot be read.
func (g *gltf) open(doc []byte) error {
	if len(doc) >= 4 && string(doc[:4]) == "glTF" {
		var err error
		if doc, g.bin, err = splitGLB(doc); err != nil {
			return err
		}
	} else if strings.ToLower(path.Ext(g.main)) == ".glb" {
		return refuse("%q is not a GLB file", g.main)
	}
	// What the document says in words is held in structures, a few hundred bytes for
	// each that is opened, before any of its counts can be looked at.
	if err := g.take(bytes.Count(doc, []byte("{")), bytesAnObject); err != nil {
		return err
	}
	// The version comes first: an older document has other shapes throughout.
	var head struct{ Asset struct{ Version string } }
	if err := json.Unmarshal(doc, &head); err != nil {
		return refuse("the document of %q is damaged: %s", g.main, inWords(err))
	}
	if !strings.HasPrefix(head.Asset.Version, "2.") {
		return refuse("glTF version %q is not supported; export version 2.0", head.Asset.Version)
	}
	if err := json.Unmarshal(doc, &g.doc); err != nil {
		return refuse("the document of %q is damaged: %s", g.main, inWords(err))
	}
	for _, e := range g.doc.ExtensionsRequired {
		if !knownExtensions[e] {
			return refuse("the file requires the extension %s, which is not supported; export it without", e)
		}
	}
	for _, e := range g.doc.ExtensionsUsed {
		if !knownExtensions[e] {
			g.note("the file", "the extension %s is not supported; what it says is left out", e)
		}
	}
	return nil
}

// roots are the nodes of the scene that is shown; of a file without one, those that are in no
// other.
func (g *gltf) roots() (roots []int) {
	switch {
	case g.doc.Scene != nil && *g.doc.Scene >= 0 && *g.doc.Scene < len(g.doc.Scenes):
		roots = g.doc.Scenes[*g.doc.Scene].Nodes
	case len(g.doc.Scenes) > 0:
		roots = g.doc.Scenes[0].Nodes
	default:
		child := make([]bool, len(g.doc.Nodes))
		for _, n := range g.doc.Nodes {
			for _, c := range n.Children {
				if c >= 0 && c < len(child) {
					child[c] = true
				}
			}
		}
		for i, c := range child {
			if !c {
				roots = append(roots, i)
			}
		}
	}
	return roots
}

// inWords says what is wrong with a document without the reader's own type names.
func inWords(err error) string {
	var kind *json.UnmarshalTypeError
	if errors.As(err, &kind) {
		path := strings.Split(kind.Field, ".")
		for i, p := range path { // the format's names begin in lower case
			path[i] = strings.ToLower(p[:min(1, len(p))]) + p[min(1, len(p)):]
		}
		return fmt.Sprintf("%s holds %s where something else is needed (byte %d)", strings.Join(path, "."), kind.Value, kind.Offset)
	}
	return err.Error()
}

// splitGLB takes the first document and the first binary chunk; the format has others
// passed over.
func splitGLB(b []byte) (doc, bin []byte, err error) {
	if len(b) < 20 {
		return nil, nil, refuse("the GLB file is cut short")
	}
	if v := binary.LittleEndian.Uint32(b[4:]); v != 2 {
		return nil, nil, refuse("GLB version %d is not supported; export version 2", v)
	}
	if n := binary.LittleEndian.Uint32(b[8:]); int64(n) > int64(len(b)) {
		return nil, nil, refuse("the GLB file is cut short: it says %d bytes and has %d", n, len(b))
	}
	for p := 12; p+8 <= len(b); {
		n := int(binary.LittleEndian.Uint32(b[p:]))
		kind := binary.LittleEndian.Uint32(b[p+4:])
		if n < 0 || n > len(b)-p-8 {
			return nil, nil, refuse("a chunk of the GLB file is cut short")
		}
		data := b[p+8 : p+8+n]
		switch {
		case kind == 0x4E4F534A && doc == nil:
			doc = data
		case kind == 0x004E4942 && bin == nil:
			bin = data
		}
		// Chunks begin at multiples of four.
		p += 8 + (n+3)&^3
	}
	if doc == nil {
		return nil, nil, refuse("the GLB file has no document chunk")
	}
	return doc, bin, nil
}

// resource reads a data URI or a file beside the document.
func (g *gltf) resource(uri string) ([]byte, error) {
	if rest, ok := strings.CutPrefix(uri, "data:"); ok {
		_, data, ok := strings.Cut(rest, ";base64,")
		if !ok {
			return nil, refuse("an embedded resource is not base64")
		}
		b, err := base64.StdEncoding.DecodeString(data)
		if err != nil {
			return nil, refuse("an embedded resource is damaged: %v", err)
		}
		return b, nil
	}
	name, err := url.PathUnescape(uri)
	if err != nil {
		name = uri
	}
	if b, ok := g.bundle.find(g.main, name); ok {
		return b, nil
	}
	return nil, refuse("the file %q is missing; upload it together with %q, or pack both in a zip", name, path.Base(g.main))
}

// readBuffers finds the bytes of every buffer. Only the first may have none of its own:
// those of the GLB.
func (g *gltf) readBuffers() error {
	for i, b := range g.doc.Buffers {
		data := g.bin
		if b.URI != nil {
			var err error
			if data, err = g.resource(*b.URI); err != nil {
				return err
			}
		} else if _, ok := b.Extensions[meshoptExtension]; ok && i > 0 {
			g.buffers = append(g.buffers, nil) // stands for what others unpack to
			continue
		} else if i != 0 || g.bin == nil {
			return refuse("buffer %d has no data", i)
		}
		if b.ByteLength < 0 || b.ByteLength > len(data) {
			return refuse("buffer %d has %d bytes, the document says %d", i, len(data), b.ByteLength)
		}
		g.buffers = append(g.buffers, data[:b.ByteLength])
	}
	return nil
}

// view returns the bytes of a buffer view.
func (g *gltf) view(i int) ([]byte, int, error) {
	if i < 0 || i >= len(g.doc.BufferViews) {
		return nil, 0, refuse("buffer view %d is not there", i)
	}
	v := g.doc.BufferViews[i]
	if packed, ok := v.Extensions[meshoptExtension]; ok {
		b, err := g.unpackedView(i, packed)
		return b, v.ByteStride, err
	}
	// The bytes would be read as what they are not: geometry is refused, not guessed.
	for _, e := range slices.Sorted(maps.Keys(v.Extensions)) {
		return nil, 0, refuse("buffer view %d is packed with %s, which is not supported; export without compression", i, e)
	}
	if v.Buffer < 0 || v.Buffer >= len(g.buffers) {
		return nil, 0, refuse("buffer %d is not there", v.Buffer)
	}
	b := g.buffers[v.Buffer]
	if v.ByteOffset < 0 || v.ByteLength < 0 || v.ByteOffset > len(b) || v.ByteLength > len(b)-v.ByteOffset || v.ByteStride < 0 || v.ByteStride > 252 {
		return nil, 0, refuse("buffer view %d lies outside its buffer", i)
	}
	return b[v.ByteOffset : v.ByteOffset+v.ByteLength], v.ByteStride, nil
}

// nameOf is a node's name, or one made from its place.
func (g *gltf) nameOf(i int) string {
	if n := nameFrom(g.doc.Nodes[i].Name); n != "" {
		return n
	}
	return fmt.Sprintf("object %d", i+1)
}

// node reads a node and its children.
func (g *gltf) node(i, parent int, above geom.Affine, depth int) error {
	if i < 0 || i >= len(g.doc.Nodes) {
		return refuse("object %d is not there", i)
	}
	if g.ctx.Err() != nil {
		return g.ctx.Err()
	}
	// What is reached twice is a knot or a second parent; either would be drawn without end, or
	// in two places under one name.
	if g.objects[i] >= 0 {
		return refuse("%s is its own ancestor or has two parents", g.nameOf(i))
	}
	g.objects[i] = len(g.s.Objects)
	tell(g.ctx, Shapes, len(g.s.Objects), len(g.doc.Nodes))
	if depth > g.lim.Depth {
		return refuse("the object tree is deeper than %d", g.lim.Depth)
	}
	n := &g.doc.Nodes[i]
	name := g.nameOf(i)
	local, err := transformOf(n)
	if err != nil {
		return refuse("object %q: %v", name, err)
	}
	world := above.Mul(local)
	if !world.Finite() {
		return refuse("object %q has a transform that is not finite", name)
	}
	at := len(g.s.Objects)
	g.s.Objects = append(g.s.Objects, scene.Object{Name: name, Parent: parent, Local: local, World: world})
	if n.Skin != nil {
		g.note(name, "its skin is left out; it stands in its bind pose")
	}
	if n.Mesh != nil {
		if err := g.mesh(*n.Mesh, at, name); err != nil {
			return err
		}
	}
	if n.Camera != nil {
		g.camera(*n.Camera, at, name)
	}
	for _, ext := range slices.Sorted(maps.Keys(n.Extensions)) {
		switch ext {
		case "KHR_lights_punctual":
			var ref struct{ Light int }
			if json.Unmarshal(n.Extensions[ext], &ref) == nil {
				g.light(ref.Light, at, name)
			}
		default:
			g.note(name, "%s is not supported and is left out", ext)
		}
	}
	for _, c := range n.Children {
		if err := g.node(c, at, world, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// listed narrows a list that must have a certain length.
func listed(v []float64, n int, what string) ([]float32, error) {
	if len(v) != n {
		return nil, fmt.Errorf("its %s has %d numbers, not %d", what, len(v), n)
	}
	out := make([]float32, n)
	for i, x := range v {
		out[i] = float32(x)
	}
	return out, nil
}

// transformOf is where a node stands over its parent. Matrices are stored by columns.
func transformOf(n *gltfNode) (geom.Affine, error) {
	if n.Matrix != nil {
		m, err := listed(n.Matrix, 16, "matrix")
		if err != nil {
			return geom.Affine{}, err
		}
		return geom.Affine{m[0], m[4], m[8], m[12], m[1], m[5], m[9], m[13], m[2], m[6], m[10], m[14]}, nil
	}
	p, err := placeOf(n)
	return p.Affine(), err
}

// placeOf is where a node without a matrix stands.
func placeOf(n *gltfNode) (scene.Place, error) {
	t, q, s := []float32{0, 0, 0}, []float32{0, 0, 0, 1}, []float32{1, 1, 1}
	var err error
	if n.Translation != nil {
		if t, err = listed(n.Translation, 3, "translation"); err != nil {
			return scene.Place{}, err
		}
	}
	if n.Rotation != nil {
		if q, err = listed(n.Rotation, 4, "rotation"); err != nil {
			return scene.Place{}, err
		}
		l := geom.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
		if !(l > 0) {
			return scene.Place{}, fmt.Errorf("its rotation is zero")
		}
		for i := range q {
			q[i] /= l
		}
	}
	if n.Scale != nil {
		if s, err = listed(n.Scale, 3, "scale"); err != nil {
			return scene.Place{}, err
		}
	}
	return scene.Place{Shift: geom.V(t[0], t[1], t[2]), Turn: [4]float32(q), Scale: geom.V(s[0], s[1], s[2])}, nil
}

// camera adds a camera that an object carries. Its aspect is left to the ticket.
func (g *gltf) camera(i, object int, name string) {
	if i < 0 || i >= len(g.doc.Cameras) {
		g.note(name, "camera %d is not there", i)
		return
	}
	c := g.doc.Cameras[i]
	cam := scene.Camera{Name: name, Object: object}
	if n := nameFrom(c.Name); n != "" && strings.HasPrefix(name, "object ") {
		cam.Name = n
	}
	switch {
	case c.Perspective != nil && c.Perspective.YFov > 0 && c.Perspective.YFov < math.Pi:
		cam.YFov = float32(c.Perspective.YFov)
	case c.Orthographic != nil && c.Orthographic.YMag > 0:
		cam.YMag = float32(c.Orthographic.YMag)
	default:
		g.note(name, "its camera has no proper field of view and is left out")
		return
	}
	var extras struct{ Shift [2]float64 }
	if json.Unmarshal(c.Extras, &extras) == nil { // those of other programs may be anything
		for k, v := range extras.Shift {
			cam.Shift[k] = float32(min(max(v, -5), 5))
		}
	}
	g.s.Cameras = append(g.s.Cameras, cam)
}

// light adds a light that an object carries, in candela, or in lux for suns.
func (g *gltf) light(i, object int, name string) {
	if g.doc.Extensions.Lights == nil || i < 0 || i >= len(g.doc.Extensions.Lights.Lights) {
		g.note(name, "light %d is not there", i)
		return
	}
	if len(g.s.Lights) >= g.lim.Lights {
		g.note("the file", "there are more than %d lights; those after them are left out", g.lim.Lights)
		return
	}
	src := g.doc.Extensions.Lights.Lights[i]
	l := scene.Light{Name: name, Object: object, Colour: vec(src.Color, geom.Splat(1)), Intensity: 1, OutCone: math.Pi / 4}
	if src.Intensity != nil {
		l.Intensity = float32(*src.Intensity)
	}
	l.Range = float32(max(0, src.Range))
	l.Radius = float32(max(0, src.Extras.Radius))
	l.Angle = float32(min(max(0, src.Extras.Angle), 90) * math.Pi / 180)
	switch src.Type {
	case "point":
	case "directional":
		l.Kind = scene.SunLight
	case "spot":
		l.Kind = scene.SpotLight
		if src.Spot != nil {
			l.InnerCone = float32(min(max(0, src.Spot.InnerConeAngle), math.Pi/2))
			if src.Spot.OuterConeAngle != nil {
				l.OutCone = float32(min(max(0, *src.Spot.OuterConeAngle), math.Pi/2))
			}
		}
	default:
		g.note(name, "lights of type %q are not supported", src.Type)
		return
	}
	if !(l.Intensity >= 0) || !l.Colour.Finite() || l.Intensity > math.MaxFloat32/4 {
		g.note(name, "its strength is not a proper number; the light is left out")
		return
	}
	g.s.Lights = append(g.s.Lights, l)
}

// vec is a list of three numbers, or def where there are not so many.
func vec(v []float64, def geom.Vec3) geom.Vec3 {
	if len(v) < 3 {
		return def
	}
	return geom.V(float32(v[0]), float32(v[1]), float32(v[2]))
}
