package importer

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"math"
	"path"
	"strconv"
	"strings"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// obj reads one file. Numbers in it refer to what came before, by order, so it is read in
// one go from its start.
type obj struct {
	reader
	bundle    Bundle
	main      string
	pos, norm []geom.Vec3
	colour    []geom.Vec3 // of the corners in pos; empty until one has a colour
	uv        [][2]float32
	finishes  map[string]int
	object    string
	finish    string
	flat      bool // smoothing is switched off
	mesh      *objMesh
	meshes    map[string]*objMesh
	order     []*objMesh
	triangles int
	cutter
}

// objMesh gathers the faces of one object in one finish.
type objMesh struct {
	scene.Mesh
	object   string
	corners  map[[3]int]uint32
	noNormal bool
	flat     bool // a face of it was not to be smoothed
	noUV     bool
	coloured bool
}

// readOBJ reads a Wavefront OBJ and its MTL files. Lengths are taken as metres.
func readOBJ(ctx context.Context, b Bundle, main string, lim Limits) (*scene.Scene, error) {
	o := &obj{reader: newReader(b, lim), bundle: b, main: main, finishes: map[string]int{}, meshes: map[string]*objMesh{},
		object: strings.TrimSuffix(path.Base(main), path.Ext(main))}
	all := bytes.Count(b[main], []byte("\n"))
	err := lines(b[main], func(n int, word string, arg []string, rest string) error {
		if n&4095 == 0 {
			tell(ctx, Shapes, n, all)
			if ctx.Err() != nil {
				return ctx.Err()
			}
		}
		return o.line(n, word, arg, rest)
	})
	if err != nil {
		return nil, err
	}
	objects := map[string]int{}
	for _, m := range o.order {
		if len(m.Indices) == 0 {
			continue
		}
		// One corner without normal, place in the picture or colour leaves the mesh without any:
		// half of a list would be worse than none, as zeros are a direction of their own.
		if m.noNormal {
			m.Normals = nil
		}
		if m.noUV {
			m.UV[0] = nil
		}
		if !m.coloured {
			m.Colours = nil
		}
		if m.noNormal && !m.flat {
			m.AddNormals(ctx, crease)
		}
		at, ok := objects[m.object]
		if !ok {
			at = len(o.s.Objects)
			objects[m.object] = at
			o.s.Objects = append(o.s.Objects, scene.Object{Name: m.object, Parent: -1, World: geom.Identity()})
		}
		o.s.Meshes = append(o.s.Meshes, m.Mesh)
		o.s.Parts = append(o.s.Parts, scene.Part{Name: m.object, Object: at, Mesh: len(o.s.Meshes) - 1, Finish: m.Finish})
		if m.Finish < 0 {
			o.note(m.object, "it has no finish and is shown in hatched grey")
		}
	}
	// Objects in several finishes have several parts: tell them apart by name.
	count := map[int]int{}
	for _, p := range o.s.Parts {
		count[p.Object]++
	}
	for i := range o.s.Parts {
		if p := &o.s.Parts[i]; count[p.Object] > 1 {
			p.Name += " / " + o.s.FinishName(i)
		}
	}
	return &o.s, nil
}

// lines calls f for each line with its number, first word, other words, and
// the text after the first word; comments and empty lines are passed over.
func lines(data []byte, f func(n int, word string, arg []string, rest string) error) error {
	if bytes.HasPrefix(data, []byte{0xff, 0xfe}) || bytes.HasPrefix(data, []byte{0xfe, 0xff}) || bytes.IndexByte(data[:min(len(data), 512)], 0) >= 0 {
		return refuse("the file is not plain text (UTF-16 or binary); save it as UTF-8 text")
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")) // a byte-order mark
	sc := bufio.NewScanner(bytes.NewReader(data))
	sc.Buffer(nil, 1<<20)
	for n := 1; sc.Scan(); n++ {
		line := strings.TrimSpace(sc.Text())
		if line == "" || line[0] == '#' {
			continue
		}
		w := strings.Fields(line)
		if err := f(n, w[0], w[1:], strings.TrimSpace(line[len(w[0]):])); err != nil {
			return err
		}
	}
	if err := sc.Err(); err != nil {
		return refuse("a line is too long to be part of a scene (%v)", err)
	}
	return nil
}

// numbers reads the first n words as finite numbers; what follows them is not looked at.
func numbers(arg []string, n int) ([]float32, bool) {
	if len(arg) < n {
		return nil, false
	}
	out := make([]float32, n)
	for i := range out {
		v, err := strconv.ParseFloat(arg[i], 32)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, false
		}
		out[i] = float32(v)
	}
	return out, true
}

// line takes one line of the file. What is damaged beyond guessing is refused with its
// number; what is merely not known is noted and left out.
func (o *obj) line(n int, word string, arg []string, rest string) error {
	bad := func() error {
		return refuse("line %d of %q is damaged: %s needs finite numbers, not %q", n, path.Base(o.main), word, rest)
	}
	switch word {
	case "v":
		v, ok := numbers(arg, 3)
		if !ok {
			return bad()
		}
		if err := o.take(1, vertexBytes); err != nil {
			return err
		}
		o.pos = append(o.pos, geom.V(v[0], v[1], v[2]))
		return o.cornerColour(arg)
	case "vn":
		v, ok := numbers(arg, 3)
		if !ok {
			return bad()
		}
		if err := o.take(1, vertexBytes); err != nil {
			return err
		}
		o.norm = append(o.norm, geom.V(v[0], v[1], v[2]))
	case "vt":
		v, ok := numbers(arg, min(2, max(1, len(arg))))
		if !ok {
			return bad()
		}
		// Texture coordinates count from the bottom here, and from the top in a scene.
		t := [2]float32{v[0], 1}
		if len(v) > 1 {
			t[1] = 1 - v[1]
		}
		if err := o.take(1, vertexBytes); err != nil {
			return err
		}
		o.uv = append(o.uv, t)
	case "o", "g":
		if rest != "" {
			o.object, o.mesh = cmp.Or(nameFrom(rest), o.object), nil
		}
	case "usemtl":
		o.finish, o.mesh = rest, nil
	case "mtllib":
		data, ok := o.bundle.find(o.main, rest)
		if !ok {
			o.note(rest, "the file of finishes is missing; upload it together with the .obj")
			return nil
		}
		return o.materials(rest, data)
	case "f":
		return o.face(n, arg)
	case "s":
		o.flat = len(arg) == 1 && (arg[0] == "off" || arg[0] == "0")
	case "p", "l":
		o.note(o.object, "points and lines are not supported and left out")
	default:
		o.note("line "+strconv.Itoa(n), "%q is not supported and left out", word)
	}
	return nil
}

// cornerColour takes the colour that may follow a corner's place: three numbers
// from 0 to 1 as a screen shows them, which is what programs that write them mean.
func (o *obj) cornerColour(arg []string) error {
	if len(arg) < 6 && len(o.colour) == 0 {
		return nil
	}
	if err := o.take(len(o.pos)-len(o.colour), 12); err != nil {
		return err
	}
	for len(o.colour) < len(o.pos) {
		o.colour = append(o.colour, geom.Splat(1))
	}
	if len(arg) < 6 {
		return nil
	}
	v, ok := numbers(arg[3:], 3)
	if !ok {
		o.note(o.object, "a colour of a corner is not three finite numbers and is left out")
		return nil
	}
	linear := func(x float32) float32 { return colour.DecodeSRGB(clamp(float64(x), 0, 1)) }
	o.colour[len(o.pos)-1] = geom.V(linear(v[0]), linear(v[1]), linear(v[2]))
	return nil
}

// corner turns a reference of one of the forms 1, 1/2, 1//3, 1/2/3 into
// indices from zero, -1 for none. Negative numbers count from the end.
func (o *obj) corner(s string) (c [3]int, ok bool) {
	c = [3]int{-1, -1, -1}
	have := [3]int{len(o.pos), len(o.uv), len(o.norm)}
	f := strings.Split(s, "/")
	if len(f) > 3 {
		return c, false
	}
	for i, w := range f {
		if w == "" {
			continue
		}
		k, err := strconv.Atoi(w)
		if err != nil {
			return c, false
		}
		if k < 0 {
			k += have[i]
		} else {
			k--
		}
		if k < 0 || k >= have[i] {
			return c, false
		}
		c[i] = k
	}
	return c, c[0] >= 0
}

// crease is the angle between faces up to which a mesh without normals is smooth.
const crease = 40 * math.Pi / 180

// face adds a polygon. Corners are shared where place, texture coordinate and normal are
// the same ones, in each object and finish by itself.
func (o *obj) face(n int, arg []string) error {
	if len(arg) < 3 {
		return refuse("line %d of %q: a face needs three corners", n, path.Base(o.main))
	}
	if o.triangles += len(arg) - 2; o.triangles > o.lim.Triangles {
		return refuse("more than %d triangles", o.lim.Triangles)
	}
	if err := o.take(len(arg)-2, vertexBytes); err != nil {
		return err
	}
	if o.mesh == nil {
		key := o.object + "\x00" + o.finish
		if o.mesh = o.meshes[key]; o.mesh == nil {
			o.mesh = &objMesh{object: o.object, corners: map[[3]int]uint32{}}
			o.mesh.Finish = -1
			if f, ok := o.finishes[o.finish]; ok {
				o.mesh.Finish = f
			} else if o.finish != "" {
				o.note(o.object, "its finish %q is not in the files", o.finish)
			}
			o.meshes[key] = o.mesh
			o.order = append(o.order, o.mesh)
			if len(o.order) > o.lim.Objects {
				return refuse("more than %d objects", o.lim.Objects)
			}
		}
	}
	m := o.mesh
	m.flat = m.flat || o.flat
	idx := make([]uint32, len(arg))
	for i, s := range arg {
		c, ok := o.corner(s)
		if !ok {
			return refuse("line %d of %q: the corner %q is not there", n, path.Base(o.main), s)
		}
		at, ok := m.corners[c]
		if !ok {
			if err := o.take(1, cornerBytes); err != nil {
				return err
			}
			at = uint32(len(m.Positions))
			m.corners[c] = at
			m.Positions = append(m.Positions, o.pos[c[0]])
			var uv [2]float32
			if c[1] >= 0 {
				uv = o.uv[c[1]]
			} else {
				m.noUV = true
			}
			m.UV[0] = append(m.UV[0], uv)
			var nrm geom.Vec3
			if c[2] >= 0 {
				nrm = o.norm[c[2]]
			} else {
				m.noNormal = true
			}
			m.Normals = append(m.Normals, nrm)
			paint := [4]float32{1, 1, 1, 1}
			if c[0] < len(o.colour) {
				p := o.colour[c[0]]
				paint, m.coloured = [4]float32{p.X, p.Y, p.Z, 1}, m.coloured || p != geom.Splat(1)
			}
			m.Colours = append(m.Colours, paint)
		}
		idx[i] = at
	}
	m.Indices = append(m.Indices, o.cut(m.Positions, idx)...)
	return nil
}

// vertexBytes is what three numbers take in a list that grows.
const vertexBytes = 24

// cornerBytes is what a corner of a mesh takes, with its place in the map.
const cornerBytes = 150

// materials reads an MTL file; its shading model is translated to ours.
func (o *obj) materials(name string, data []byte) error {
	var f *scene.Finish
	return lines(data, func(n int, word string, arg []string, rest string) error {
		if word == "newmtl" {
			if _, ok := o.finishes[rest]; ok || len(o.s.Finishes) > o.lim.Objects {
				f = nil
				return nil
			}
			nf := scene.NewFinish(cmp.Or(nameFrom(rest), "finish"))
			nf.Base, nf.Metallic, nf.Roughness = geom.Splat(0.8), 0, 0.6
			o.finishes[rest] = len(o.s.Finishes)
			o.s.Finishes = append(o.s.Finishes, nf)
			f = &o.s.Finishes[len(o.s.Finishes)-1]
			return nil
		}
		if f == nil {
			return nil
		}
		return o.property(f, name, n, word, arg)
	})
}

// property takes one line of a finish. Of the old model's words only those that have a
// physical meaning are used: ambient and specular colours have none.
func (o *obj) property(f *scene.Finish, file string, n int, word string, arg []string) error {
	num := func(k int) []float32 {
		v, ok := numbers(arg, k)
		if !ok {
			o.note(f.Name, "line %d of %s is damaged and left out", n, file)
			return nil
		}
		return v
	}
	unit := func(v float32) float32 { return clamp(float64(v), 0, 1) }
	switch word {
	case "Kd":
		if v := num(3); v != nil {
			f.Base = geom.V(unit(v[0]), unit(v[1]), unit(v[2]))
		}
	case "Ke":
		if v := num(3); v != nil {
			f.Emission = geom.V(clamp(float64(v[0]), 0, 1e9), clamp(float64(v[1]), 0, 1e9), clamp(float64(v[2]), 0, 1e9))
		}
	case "Ns":
		if v := num(1); v != nil { // Blinn-Phong exponent to GGX width (Walter et al. 2007)
			f.Roughness = unit(geom.Sqrt(geom.Sqrt(2 / (max(v[0], 0) + 2))))
		}
	case "Ni":
		if v := num(1); v != nil && v[0] >= 1 {
			f.IOR = clamp(float64(v[0]), 1, 5)
		}
	case "d", "Tr":
		if v := num(1); v != nil {
			f.Alpha = unit(v[0])
			if word == "Tr" {
				f.Alpha = 1 - f.Alpha
			}
			if f.Alpha < 1 {
				f.AlphaMode = scene.Blend
			}
		}
	case "Pr":
		if v := num(1); v != nil {
			f.Roughness = unit(v[0])
		}
	case "Pm":
		if v := num(1); v != nil {
			f.Metallic = unit(v[0])
		}
	case "Pc":
		if v := num(1); v != nil {
			f.Clearcoat = unit(v[0])
		}
	case "Pcr":
		if v := num(1); v != nil {
			f.ClearcoatRoughness = unit(v[0])
		}
	case "Ps":
		if v := num(1); v != nil {
			f.Sheen, f.SheenRoughness = geom.Splat(unit(v[0])), 0.5
		}
	case "aniso":
		if v := num(1); v != nil {
			f.Anisotropy = unit(v[0])
		}
	case "anisor":
		if v := num(1); v != nil {
			f.AnisotropyTurn = unit(v[0]) * 2 * math.Pi
		}
	case "map_Kd":
		f.BaseTexture = o.map1(f, arg)
	case "map_Ke":
		f.EmissionTexture = o.map1(f, arg)
		if f.Emission.IsZero() {
			f.Emission = geom.Splat(1)
		}
	case "norm":
		f.NormalTexture = o.map1(f, arg)
	case "Ka", "Ks", "illum", "Tf", "sharpness":
	default:
		o.note(f.Name, "%q is not supported and left out", word)
	}
	return nil
}

// map1 is the picture that a line of a finish names, loaded once however many name it.
func (o *obj) map1(f *scene.Finish, arg []string) scene.Texture {
	t := scene.NoTexture
	name := pictureName(arg)
	for i, img := range o.s.Images {
		if img.Name == name {
			t.Image = i
			return t
		}
	}
	data, ok := o.bundle.find(o.main, name)
	if !ok {
		o.note(f.Name, "the picture %q is missing; upload it together with the .obj", name)
		return t
	}
	t.Image = o.picture(name, data)
	return t
}

// pictureName is the file that a line of a finish names, which may have spaces in its
// name, behind options: each begins with a dash and has a value, or up to three numbers.
func pictureName(arg []string) string {
	for len(arg) > 2 && strings.HasPrefix(arg[0], "-") {
		arg = arg[2:]
		for len(arg) > 1 {
			if _, err := strconv.ParseFloat(arg[0], 32); err != nil {
				break
			}
			arg = arg[1:]
		}
	}
	return strings.Join(arg, " ")
}
