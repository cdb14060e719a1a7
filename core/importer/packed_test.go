package importer

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"os"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/importer/codec"
)

func packedRing(t testing.TB, kind string) []byte {
	t.Helper()
	b, err := os.ReadFile("testdata/ring-" + kind + ".glb")
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// A ring that was packed by either codec has the points, normals and texture coordinates
// that it was made of, as far as these were rounded.
func TestPackedGeometry(t *testing.T) {
	for _, kind := range []string{"draco", "meshopt"} {
		s, err := Import(t.Context(), Bundle{"ring.glb": packedRing(t, kind)}, DefaultLimits)
		if err != nil {
			t.Errorf("%s: %v", kind, err)
			continue
		}
		m := &s.Meshes[s.Parts[0].Mesh]
		if len(s.Parts) != 1 || s.Triangles() != 2*24*12 || len(m.Normals) != len(m.Positions) || len(m.UV[0]) != len(m.Positions) || len(s.LeftOut) != 0 {
			t.Errorf("%s: %d parts, %d triangles, %d points, %v", kind, len(s.Parts), s.Triangles(), len(m.Positions), s.LeftOut)
			continue
		}
		var area float64
		for k := 0; k+2 < len(m.Indices); k += 3 {
			a, b, c := m.Positions[m.Indices[k]], m.Positions[m.Indices[k+1]], m.Positions[m.Indices[k+2]]
			n := b.Sub(a).Cross(c.Sub(a))
			area += float64(n.Len()) / 2
			if n.Dot(m.Normals[m.Indices[k]]) < 0 {
				t.Fatalf("%s: a face looks inwards", kind)
			}
		}
		if full := 4 * math.Pi * math.Pi * 0.25; area < 0.96*full || area > full {
			t.Errorf("%s: the ring has %.3f m², a round one %.3f", kind, area, full)
		}
		for i, p := range m.Positions {
			out := geom.V(p.X, p.Y, 0).Unit()
			n := p.Sub(out).Scale(4) // from the middle of the tube
			if math.Abs(float64(n.Len())-1) > 2e-3 || m.Normals[i].Unit().Dot(n) < 0.995 {
				t.Fatalf("%s: point %d is at %v with normal %v", kind, i, p, m.Normals[i])
			}
			u, v := 2*math.Pi*float64(m.UV[0][i][0]), 2*math.Pi*float64(m.UV[0][i][1])
			want := geom.V(float32(math.Cos(u)*(1+0.25*math.Cos(v))), float32(math.Sin(u)*(1+0.25*math.Cos(v))), float32(0.25*math.Sin(v)))
			if want.Sub(p).Len() > 4e-3 {
				t.Fatalf("%s: point %d at %v has the coordinates of %v", kind, i, p, want)
			}
		}
	}
}

// edited is a packed ring whose document was changed.
func edited(t *testing.T, kind string, change func(doc object)) []byte {
	t.Helper()
	b := packedRing(t, kind)
	text, bin, err := splitGLB(b)
	if err != nil {
		t.Fatal(err)
	}
	var doc object
	if err := json.Unmarshal(text, &doc); err != nil {
		t.Fatal(err)
	}
	change(doc)
	return glb(doc, bin)
}

// What is packed and makes no sense is refused, whatever it claims; nothing is taken that
// the files could not honestly ask for.
func TestPackedGeometryThatIsNone(t *testing.T) {
	view := func(doc object) object {
		return at(doc, "bufferViews", 0)["extensions"].(object)[meshoptExtension].(object)
	}
	for name, file := range map[string][]byte{
		"meshopt, too many elements":  edited(t, "meshopt", func(d object) { view(d)["count"] = 1e9 }),
		"meshopt, more than packed":   edited(t, "meshopt", func(d object) { view(d)["count"] = 5000; at(d, "accessors", 0)["count"] = 5000 }),
		"meshopt, an odd stride":      edited(t, "meshopt", func(d object) { view(d)["byteStride"] = 13 }),
		"meshopt, no such mode":       edited(t, "meshopt", func(d object) { view(d)["mode"] = "MAGIC" }),
		"meshopt, the wrong mode":     edited(t, "meshopt", func(d object) { view(d)["mode"] = "TRIANGLES" }),
		"meshopt, outside its buffer": edited(t, "meshopt", func(d object) { view(d)["byteOffset"] = 1 << 40 }),
		"meshopt, a filter for none":  edited(t, "meshopt", func(d object) { view(d)["filter"] = "QUATERNION" }),
		"draco, another count":        edited(t, "draco", func(d object) { at(d, "accessors", 0)["count"] = 7 }),
		"draco, other corners":        edited(t, "draco", func(d object) { at(d, "accessors", 3)["count"] = 3 }),
		"draco, no such view":         edited(t, "draco", func(d object) { packedFaces(d)["bufferView"] = 9 }),
		"draco, no such attribute":    edited(t, "draco", func(d object) { packedFaces(d)["attributes"] = object{"POSITION": 77} }),
		"draco, two numbers a point":  edited(t, "draco", func(d object) { at(d, "accessors", 0)["type"] = "VEC2" }),
	} {
		if _, err := Import(t.Context(), Bundle{"ring.glb": file}, DefaultLimits); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", name, err)
		}
	}
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	for _, kind := range []string{"draco", "meshopt"} {
		if _, err := Import(gone, Bundle{"ring.glb": packedRing(t, kind)}, DefaultLimits); !errors.Is(err, context.Canceled) {
			t.Errorf("%s, given up: %v", kind, err)
		}
	}
}

func packedFaces(doc object) object {
	return doc["meshes"].([]any)[0].(object)["primitives"].([]any)[0].(object)["extensions"].(object)[dracoExtension].(object)
}

// Packed bytes with every byte wrong in turn: they unpack to something or are refused.
func TestDamagedPackedBytes(t *testing.T) {
	for _, kind := range []string{"draco", "meshopt"} {
		b := packedRing(t, kind)
		_, bin, err := splitGLB(b)
		if err != nil {
			t.Fatal(err)
		}
		from := len(b) - len(bin)
		for i := 0; i < len(bin); i += 1 + len(bin)/60 {
			d := append([]byte(nil), b...)
			d[from+i] ^= 0x5a
			if _, err := Import(t.Context(), Bundle{"ring.glb": d}, DefaultLimits); err != nil && !errors.Is(err, ErrRefused) {
				t.Errorf("%s, byte %d: %v", kind, i, err)
			}
		}
	}
}

func FuzzDraco(f *testing.F) {
	_, bin, err := splitGLB(packedRing(f, "draco"))
	if err != nil {
		f.Fatal(err)
	}
	f.Add(bin)
	f.Fuzz(func(t *testing.T, packed []byte) {
		m, err := codec.Draco(t.Context(), packed, []codec.Attribute{{ID: 0, Kind: codec.Float32, Width: 3}}, 100_000)
		if err == nil && (len(m.Attributes[0]) != 12*m.Points || len(m.Corners)%3 != 0) {
			t.Errorf("%d bytes for %d points", len(m.Attributes[0]), m.Points)
		}
	})
}

func FuzzMeshopt(f *testing.F) {
	_, bin, err := splitGLB(packedRing(f, "meshopt"))
	if err != nil {
		f.Fatal(err)
	}
	f.Add(bin, 325, 12, "ATTRIBUTES", "")
	f.Add(bin, 325, 4, "ATTRIBUTES", "OCTAHEDRAL")
	f.Add(bin, 1728, 4, "TRIANGLES", "")
	f.Fuzz(func(t *testing.T, packed []byte, count, stride int, mode, filter string) {
		if count > 100_000 {
			return
		}
		b, err := codec.Meshopt(t.Context(), packed, count, stride, mode, filter)
		if err == nil && len(b) != count*stride {
			t.Errorf("%d bytes for %d x %d", len(b), count, stride)
		}
	})
}
