package importer

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"amberproof/core/importer/codec"
)

// The open extensions by which geometry is packed.
const (
	dracoExtension   = "KHR_draco_mesh_compression"
	meshoptExtension = "EXT_meshopt_compression"
)

// gltfPackedView is how a buffer view is packed; its count and stride are of what it
// unpacks to.
type gltfPackedView struct {
	Buffer, ByteOffset, ByteLength int
	ByteStride, Count              int
	Mode, Filter                   string
}

// unpackedView unpacks a buffer view, once however often it is used.
func (g *gltf) unpackedView(i int, extension json.RawMessage) ([]byte, error) {
	if b, ok := g.views[i]; ok {
		return b, nil
	}
	var p gltfPackedView
	if err := json.Unmarshal(extension, &p); err != nil {
		return nil, refuse("buffer view %d is packed in a way that cannot be read: %s", i, inWords(err))
	}
	if p.Buffer < 0 || p.Buffer >= len(g.buffers) {
		return nil, refuse("buffer %d is not there", p.Buffer)
	}
	from := g.buffers[p.Buffer]
	if p.ByteOffset < 0 || p.ByteLength < 0 || p.ByteOffset > len(from) || p.ByteLength > len(from)-p.ByteOffset {
		return nil, refuse("buffer view %d lies outside its buffer", i)
	}
	if p.Count < 0 || p.Count > 3*g.lim.Triangles || p.ByteStride < 1 || p.ByteStride > 256 {
		return nil, refuse("buffer view %d unpacks to %d elements of %d bytes, which is more than is allowed", i, p.Count, p.ByteStride)
	}
	if err := g.take(p.Count, int64(2*p.ByteStride)); err != nil { // in the sandbox, and out of it
		return nil, err
	}
	b, err := codec.Meshopt(g.ctx, from[p.ByteOffset:p.ByteOffset+p.ByteLength], p.Count, p.ByteStride, p.Mode, p.Filter)
	if err != nil {
		return nil, unpackFault(err)
	}
	g.views[i] = b
	return b, nil
}

// unpackFault is an error of a codec in the words of an import.
func unpackFault(err error) error {
	if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return refuse("%v; export the file again, or without compression", err)
}

// gltfPackedFaces is how a set of faces is packed: attributes by their number there.
type gltfPackedFaces struct {
	BufferView int
	Attributes map[string]int
}

// dracoKinds are the codec's kinds of numbers by those of accessors.
var dracoKinds = map[int]codec.Kind{5120: codec.Int8, 5121: codec.Uint8, 5122: codec.Int16, 5123: codec.Uint16, 5125: codec.Uint32, 5126: codec.Float32}

// dracoTakes is about what the codec takes for each byte that it unpacks.
const dracoTakes = 64

// unpackFaces unpacks a set of faces, so that its accessors read what was packed.
func (g *gltf) unpackFaces(p *gltfPrim, extension json.RawMessage, name string) error {
	var packed gltfPackedFaces
	if err := json.Unmarshal(extension, &packed); err != nil {
		return refuse("object %q is packed in a way that cannot be read: %s", name, inWords(err))
	}
	from, _, err := g.view(packed.BufferView)
	if err != nil {
		return err
	}
	if p.Indices == nil {
		return refuse("object %q is packed, and has no indices to be unpacked to", name)
	}
	var names []string
	for a := range packed.Attributes {
		if _, ok := p.Attributes[a]; ok {
			names = append(names, a)
		}
	}
	slices.Sort(names)
	if _, ok := g.packed[p.Attributes["POSITION"]]; ok { // faces that share what was packed
		if _, ok := g.packed[*p.Indices]; ok {
			return nil
		}
	}
	var want []codec.Attribute
	for _, a := range names {
		acc, _, width, err := g.accessor(p.Attributes[a])
		if err != nil {
			return err
		}
		want = append(want, codec.Attribute{ID: packed.Attributes[a], Kind: dracoKinds[acc.ComponentType], Width: width})
	}
	if err := g.take(len(from), dracoTakes); err != nil {
		return err
	}
	m, err := codec.Draco(g.ctx, from, want, g.lim.Triangles)
	if err != nil {
		return unpackFault(err)
	}
	if err := g.take(len(m.Corners), 8); err != nil {
		return err
	}
	for k, a := range names {
		at := p.Attributes[a]
		if acc := &g.doc.Accessors[at]; acc.Count != m.Points {
			return refuse("object %q unpacks to %d points where the file says %d", name, m.Points, acc.Count)
		}
		if err := g.take(len(m.Attributes[k]), 1); err != nil {
			return err
		}
		size := componentSize[g.doc.Accessors[at].ComponentType] * want[k].Width
		g.packed[at] = span{m.Attributes[k], size, m.Points}
	}
	if acc, _, _, err := g.accessor(*p.Indices); err != nil {
		return err
	} else if acc.Count != len(m.Corners) {
		return refuse("object %q unpacks to %d corners where the file says %d", name, len(m.Corners), acc.Count)
	}
	g.corners[*p.Indices] = m.Corners
	g.packed[*p.Indices] = span{}
	return nil
}
