package importer

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"path"
	"strconv"
	"strings"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// plyProperty is one number, or a list of them, of each thing of an element.
type plyProperty struct {
	name  string
	kind  string // of its numbers
	count string // kind of the length of a list; empty for a single number
}

// plyElement is a run of things of one kind: points, faces and others.
type plyElement struct {
	name       string
	n          int
	properties []plyProperty
}

// plySizes are the bytes of a number by both names that its kinds have.
var plySizes = map[string]int{
	"char": 1, "int8": 1, "uchar": 1, "uint8": 1, "short": 2, "int16": 2, "ushort": 2, "uint16": 2,
	"int": 4, "int32": 4, "uint": 4, "uint32": 4, "float": 4, "float32": 4, "double": 8, "float64": 8,
}

const (
	// mostPlyHeader bounds the text before the numbers, in bytes.
	mostPlyHeader = 1 << 16
	// plyTakes is about what a point or a corner takes, in bytes.
	plyTakes = 64
	// mostFaceCorners bounds the corners of a face.
	mostFaceCorners = 1000
)

// readPLY reads a polygon file (PLY 1.0, the Stanford triangle format), as text or
// binary in either order of bytes: points with normals, texture coordinates and colours,
// and faces. Lengths are taken as metres, and y as up.
func readPLY(ctx context.Context, b Bundle, main string, lim Limits) (*scene.Scene, error) {
	p := &ply{reader: newReader(b, lim), ctx: ctx}
	rest, err := p.header(b[main])
	if err != nil {
		return nil, err
	}
	p.data = rest
	for i := range p.elements {
		if err := p.element(&p.elements[i]); err != nil {
			return nil, err
		}
	}
	if err := p.faces(); err != nil {
		return nil, err
	}
	p.note("the file", "it has neither units nor an up axis: it is read as metres with y up; turn and scale the part if that is wrong")
	p.single(ctx, strings.TrimSuffix(path.Base(main), path.Ext(main)), p.mesh)
	return &p.s, nil
}

// ply reads one file.
type ply struct {
	reader
	ctx      context.Context // of the one call that reads the file
	format   string
	elements []plyElement
	data     []byte // what is still to be read
	mesh     scene.Mesh
	sizes    []int32  // corners of each face
	rims     []uint32 // and its points, face after face
	cutter
}

// faces cuts the faces into triangles, once all points are there.
func (p *ply) faces() error {
	for _, v := range p.rims {
		if int(v) >= len(p.mesh.Positions) {
			return refuse("a face names point %d of %d", v, len(p.mesh.Positions))
		}
	}
	at := 0
	for i, n := range p.sizes {
		if i&0xffff == 0 && p.ctx.Err() != nil {
			return p.ctx.Err()
		}
		rim := p.rims[at : at+int(n)]
		at += int(n)
		p.mesh.Indices = append(p.mesh.Indices, p.cut(p.mesh.Positions, rim)...)
	}
	return nil
}

// header reads what the file says of itself and returns what follows.
func (p *ply) header(b []byte) ([]byte, error) {
	head := b[:min(len(b), mostPlyHeader)]
	end := bytes.Index(head, []byte("end_header"))
	if !bytes.HasPrefix(head, []byte("ply")) || end < 0 {
		return nil, refuse("the PLY file has no proper header")
	}
	rest := b[end+len("end_header"):]
	nl := bytes.IndexByte(rest, '\n')
	if nl < 0 || nl > 1 {
		return nil, refuse("the header of the PLY file has no proper end")
	}
	for _, line := range strings.Split(string(head[:end]), "\n") {
		w := strings.Fields(line)
		switch {
		case len(w) == 3 && w[0] == "format":
			p.format = w[1]
		case len(w) == 3 && w[0] == "element":
			n, err := strconv.Atoi(w[2])
			if err != nil || n < 0 || n > 3*p.lim.Triangles {
				return nil, refuse("the PLY file has an element of %q things, which is more than is allowed", w[2])
			}
			p.elements = append(p.elements, plyElement{name: w[1], n: n})
		case len(w) > 0 && w[0] == "property":
			if len(p.elements) == 0 || len(w) != 3 && len(w) != 5 {
				return nil, refuse("the PLY file has the property %q of nothing", line)
			}
			q := plyProperty{name: w[len(w)-1], kind: w[len(w)-2]}
			if len(w) == 5 {
				q.count = w[2]
			}
			if plySizes[q.kind] == 0 || q.count != "" && plySizes[q.count] == 0 {
				return nil, refuse("the PLY file has numbers of an unknown kind: %q", line)
			}
			e := &p.elements[len(p.elements)-1]
			e.properties = append(e.properties, q)
		}
	}
	switch p.format {
	case "ascii", "binary_little_endian", "binary_big_endian":
		return rest[nl+1:], nil
	}
	return nil, refuse("the PLY file is of the format %q, which is not known", p.format)
}

// number reads the next number.
func (p *ply) number(kind string) (float64, error) {
	if p.format == "ascii" {
		p.data = bytes.TrimLeft(p.data, " \t\r\n")
		end := bytes.IndexAny(p.data[:min(len(p.data), 64)], " \t\r\n")
		if end < 0 {
			end = min(len(p.data), 64)
		}
		v, err := strconv.ParseFloat(string(p.data[:end]), 64)
		if err != nil {
			return 0, refuse("the PLY file has %q where a number is needed, or ends too early", string(p.data[:min(end, 20)]))
		}
		p.data = p.data[end:]
		return v, nil
	}
	n := plySizes[kind]
	if len(p.data) < n {
		return 0, refuse("the PLY file ends too early")
	}
	var order binary.ByteOrder = binary.LittleEndian
	if p.format == "binary_big_endian" {
		order = binary.BigEndian
	}
	b := p.data[:n]
	p.data = p.data[n:]
	switch kind {
	case "char", "int8":
		return float64(int8(b[0])), nil
	case "uchar", "uint8":
		return float64(b[0]), nil
	case "short", "int16":
		return float64(int16(order.Uint16(b))), nil
	case "ushort", "uint16":
		return float64(order.Uint16(b)), nil
	case "int", "int32":
		return float64(int32(order.Uint32(b))), nil
	case "uint", "uint32":
		return float64(order.Uint32(b)), nil
	case "float", "float32":
		return float64(math.Float32frombits(order.Uint32(b))), nil
	}
	return math.Float64frombits(order.Uint64(b)), nil
}

// plyPoint says where the numbers of a point are among its properties; -1: it has none.
type plyPoint struct {
	place, normal, uv, colour []int
	tint                      func(v float64) float32 // a channel of a colour, scene-linear
}

func pointOf(e *plyElement) (q plyPoint) {
	find := func(names ...string) (at []int) {
		for _, n := range names {
			for i, p := range e.properties {
				if p.name == n && p.count == "" {
					at = append(at, i)
					break
				}
			}
		}
		if len(at) < len(names) {
			return nil
		}
		return at
	}
	q.place, q.normal, q.colour = find("x", "y", "z"), find("nx", "ny", "nz"), find("red", "green", "blue")
	if q.colour != nil {
		q.tint = tintOf(e.properties[q.colour[0]].kind)
	}
	for _, names := range [][]string{{"s", "t"}, {"u", "v"}, {"texture_u", "texture_v"}} {
		if q.uv == nil {
			q.uv = find(names...)
		}
	}
	return q
}

// element reads a run of things.
func (p *ply) element(e *plyElement) error {
	points := e.name == "vertex"
	of := pointOf(e)
	if points && of.place == nil {
		return refuse("the points of the PLY file have no place")
	}
	if len(e.properties) == 0 { // nothing stands for it in the file, however many there are said to be
		return nil
	}
	if points {
		if err := p.take(e.n, plyTakes); err != nil {
			return err
		}
	}
	values := make([]float64, len(e.properties))
	for i := range e.n {
		if i&0xffff == 0 {
			tell(p.ctx, Shapes, i, e.n)
			if p.ctx.Err() != nil {
				return p.ctx.Err()
			}
		}
		for k, q := range e.properties {
			if q.count != "" {
				if err := p.list(&q, e.name == "face"); err != nil {
					return err
				}
				continue
			}
			v, err := p.number(q.kind)
			if err != nil {
				return err
			}
			values[k] = v
		}
		if points {
			if err := p.point(&of, values); err != nil {
				return err
			}
		}
	}
	return nil
}

// list reads a list: of a face, the corners.
func (p *ply) list(q *plyProperty, ofFace bool) error {
	n, err := p.number(q.count)
	if err != nil {
		return err
	}
	if !(n >= 0 && n <= mostFaceCorners) {
		return refuse("a face of the PLY file has %g corners", n)
	}
	return p.corners(int(n), q.kind, ofFace && (q.name == "vertex_indices" || q.name == "vertex_index"))
}

// point adds a point to the mesh.
func (p *ply) point(of *plyPoint, values []float64) error {
	vec := func(at []int) geom.Vec3 {
		return geom.V(float32(values[at[0]]), float32(values[at[1]]), float32(values[at[2]]))
	}
	m := &p.mesh
	pos := vec(of.place)
	if !pos.Finite() {
		return refuse("a point of the PLY file is no number")
	}
	m.Positions = append(m.Positions, pos)
	if of.normal != nil {
		n := vec(of.normal)
		if !n.Finite() {
			n = geom.Vec3{}
		}
		m.Normals = append(m.Normals, n.Unit())
	}
	if of.uv != nil {
		u, v := float32(values[of.uv[0]]), float32(values[of.uv[1]])
		if u-u != 0 || v-v != 0 {
			u, v = 0, 0
		}
		m.UV[0] = append(m.UV[0], [2]float32{u, 1 - v})
	}
	if c := of.colour; c != nil {
		m.Colours = append(m.Colours, [4]float32{of.tint(values[c[0]]), of.tint(values[c[1]]), of.tint(values[c[2]]), 1})
	}
	return nil
}

// tintOf is how numbers of a kind are read as channels of a colour: all of them are sRGB,
// whole numbers up to the greatest of their kind, and others up to 1.
func tintOf(kind string) func(v float64) float32 {
	full := map[string]float64{"uchar": 255, "uint8": 255, "char": 127, "int8": 127, "ushort": 65535, "uint16": 65535, "short": 32767, "int16": 32767,
		"uint": math.MaxUint32, "uint32": math.MaxUint32, "int": math.MaxInt32, "int32": math.MaxInt32, "float": 1, "float32": 1, "double": 1, "float64": 1}[kind]
	if full == 255 {
		return func(v float64) float32 { return colour.SRGB8[uint8(max(0, min(255, v)))] }
	}
	return func(v float64) float32 {
		if !(v > 0) { // not-a-number, too
			return 0
		}
		return colour.DecodeSRGB(float32(min(1, v/full)))
	}
}

// corners reads a list of numbers, and of a face keeps them as its rim.
func (p *ply) corners(n int, kind string, face bool) error {
	face = face && n > 2
	if face {
		if err := p.take(n-2, plyTakes); err != nil {
			return err
		}
		p.sizes = append(p.sizes, int32(n))
	}
	for range n {
		v, err := p.number(kind)
		if err != nil {
			return err
		}
		if !face {
			continue
		}
		if !(v >= 0 && v < math.MaxUint32) {
			return refuse("a face names point %g", v)
		}
		p.rims = append(p.rims, uint32(v))
	}
	return nil
}
