package importer

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"path"
	"strconv"
	"strings"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// What a binary STL file has: a header, a count, and so many bytes for each triangle.
const (
	stlHeader   = 84
	stlTriangle = 50
)

// stlTakes is about what a triangle takes while its corners are joined, in bytes.
const stlTakes = 240

// readSTL reads a stereolithography file, binary or as text: triangles without units, up
// axis or finish. By the custom of what exports it, lengths are millimetres and z is up.
func readSTL(ctx context.Context, b Bundle, main string, lim Limits) (*scene.Scene, error) {
	r := newReader(b, lim)
	data := b[main]
	w := &welder{at: map[geom.Vec3]uint32{}}
	binaryCount, behind := stlCount(data)
	var err error
	switch {
	case binaryCount >= 0:
		if behind > 0 {
			r.note("the file", "%d bytes behind its triangles are left out", behind)
		}
		if err = r.take(binaryCount, stlTakes); err == nil {
			err = w.binary(ctx, data[stlHeader:], binaryCount)
		}
	case stlIsText(data):
		// A triangle has some 200 letters as text; one of fewer than 60 is none.
		if err = r.take(len(data)/60, stlTakes); err == nil {
			err = w.text(ctx, data, len(data)/60)
		}
	default:
		err = refuse("%q is neither a binary STL file of the length that it says nor one as text", main)
	}
	if err != nil {
		return nil, err
	}
	r.note("the file", "it has neither units nor an up axis: it is read as millimetres with z up; turn and scale the part if that is wrong")
	r.single(ctx, strings.TrimSuffix(path.Base(main), path.Ext(main)), w.mesh)
	return &r.s, nil
}

// stlIsText reports whether a file begins as one as text does; binary ones may begin with
// the same word, but not go on as text.
func stlIsText(data []byte) bool {
	head := bytes.TrimSpace(data[:min(len(data), 1000)])
	return len(head) >= 5 && bytes.EqualFold(head[:5], []byte("solid")) && bytes.IndexByte(head, 0) < 0
}

// stlCount is how many triangles a binary file says that it has, and how many bytes lie
// behind them; -1 for one that is as text or too short for them.
func stlCount(data []byte) (n int, behind int64) {
	if len(data) < stlHeader {
		return -1, 0
	}
	says := int64(binary.LittleEndian.Uint32(data[80:]))
	behind = int64(len(data)) - stlHeader - stlTriangle*says
	if behind < 0 || behind > 0 && (says == 0 || stlIsText(data)) {
		return -1, 0
	}
	return int(says), behind
}

// single makes a scene of one part of a mesh, without a finish if it has none.
func (r *reader) single(ctx context.Context, name string, m scene.Mesh) {
	name = nameFrom(name)
	if len(m.Normals) == 0 {
		m.AddNormals(ctx, crease)
	}
	m.Name = name
	if len(m.Colours) > 0 {
		f := scene.NewFinish("Colours of the file")
		f.Metallic, f.Roughness = 0, 0.6
		r.s.Finishes = []scene.Finish{f}
	} else {
		m.Finish = -1
		r.note(name, "it has no finish and is shown in hatched grey")
	}
	r.s.Meshes = []scene.Mesh{m}
	r.s.Objects = []scene.Object{{Name: name, Parent: -1, Local: geom.Identity(), World: geom.Identity()}}
	r.s.Parts = []scene.Part{{Name: name, Finish: m.Finish}}
}

// welder joins the corners of triangles that lie in one place.
type welder struct {
	mesh scene.Mesh
	at   map[geom.Vec3]uint32
}

// corner adds a corner in millimetres with z up.
func (w *welder) corner(x, y, z float32) error {
	p := geom.V(x/1000, z/1000, -y/1000)
	if !p.Finite() {
		return refuse("a corner of the file is no number")
	}
	i, ok := w.at[p]
	if !ok {
		i = uint32(len(w.mesh.Positions))
		w.at[p] = i
		w.mesh.Positions = append(w.mesh.Positions, p)
	}
	w.mesh.Indices = append(w.mesh.Indices, i)
	return nil
}

func (w *welder) binary(ctx context.Context, b []byte, n int) error {
	for i := range n {
		if i&0xffff == 0 {
			tell(ctx, Shapes, i, n)
			if ctx.Err() != nil {
				return ctx.Err()
			}
		}
		t := b[i*stlTriangle+12:] // after its normal, which its corners tell better
		for k := range 3 {
			at := func(c int) float32 { return math.Float32frombits(binary.LittleEndian.Uint32(t[12*k+4*c:])) }
			if err := w.corner(at(0), at(1), at(2)); err != nil {
				return err
			}
		}
	}
	return nil
}

func (w *welder) text(ctx context.Context, b []byte, most int) error {
	err := lines(b, func(n int, word string, arg []string, _ string) error {
		if n&0xffff == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if strings.ToLower(word) != "vertex" {
			return nil
		}
		if len(arg) < 3 || len(w.mesh.Indices) >= 3*most {
			return refuse("line %d is no corner of a triangle", n)
		}
		var v [3]float32
		for k := range v {
			f, err := strconv.ParseFloat(arg[k], 32)
			if err != nil {
				return refuse("line %d: %q is no number", n, arg[k])
			}
			v[k] = float32(f)
		}
		return w.corner(v[0], v[1], v[2])
	})
	if err == nil && len(w.mesh.Indices)%3 != 0 {
		err = refuse("the file ends within a triangle")
	}
	return err
}
