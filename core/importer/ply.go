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
	for _, v := range p.mesh.Indices {
		if int(v) >= len(p.mesh.Positions) {
			return nil, refuse("a face names point %d of %d", v, len(p.mesh.Positions))
		}
	}
	p.note("the file", "it has neither units nor an up axis: it is read as metres with y up; turn and scale the part if that is wrong")
	p.single(strings.TrimSuffix(path.Base(main), path.Ext(main)), p.mesh)
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
type plyPoint struct{ place, normal, uv, colour []int }

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
		m.Colours = append(m.Colours, [4]float32{tint(values[c[0]]), tint(values[c[1]]), tint(values[c[2]]), 1})
	}
	return nil
}

// tint is a channel of a colour of eight bits, scene-linear.
func tint(v float64) float32 { return colour.SRGB8[uint8(max(0, min(255, v)))] }

// corners reads a list of numbers, and of a face the triangles from its first corner.
func (p *ply) corners(n int, kind string, face bool) error {
	var first, last uint32
	for c := range n {
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
		i := uint32(v)
		switch {
		case c == 0:
			first = i
		case c > 1:
			if err := p.take(1, plyTakes); err != nil {
				return err
			}
			p.mesh.Indices = append(p.mesh.Indices, first, last, i)
		}
		last = i
	}
	return nil
}
