package importer

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// block are the corners of the triangles of a box of 20 x 30 x 40 with a corner at the
// origin, by the places of their corners; bit 0 is x.
var block = [][3]int{{0, 2, 3}, {0, 3, 1}, {4, 5, 7}, {4, 7, 6}, {0, 1, 5}, {0, 5, 4}, {2, 6, 7}, {2, 7, 3}, {0, 4, 6}, {0, 6, 2}, {1, 3, 7}, {1, 7, 5}}

func blockCorner(i int) [3]float32 {
	return [3]float32{20 * float32(i&1), 30 * float32(i>>1&1), 40 * float32(i>>2&1)}
}

func stlText() []byte {
	var b strings.Builder
	b.WriteString("solid block\n")
	for _, t := range block {
		b.WriteString(" facet normal 0 0 0\n  outer loop\n")
		for _, k := range t {
			c := blockCorner(k)
			fmt.Fprintf(&b, "   vertex %e %e %e\n", c[0], c[1], c[2])
		}
		b.WriteString("  endloop\n endfacet\n")
	}
	return []byte(b.String() + "endsolid block\n")
}

func stlBinary() []byte {
	var b bytes.Buffer
	b.Write(make([]byte, 80))
	put := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) } // a Buffer never fails
	put(uint32(len(block)))
	for _, t := range block {
		put([3]float32{})
		for _, k := range t {
			put(blockCorner(k))
		}
		put(uint16(0))
	}
	return b.Bytes()
}

// ply writes the box in metres, as one of the three formats: its sides as polygons, with
// a colour and a number that nobody asks for.
func plyFile(format string) []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, "ply\nformat %s 1.0\ncomment made here\nelement vertex 8\nproperty float x\nproperty double y\nproperty float "+
		"z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nproperty int id\nelement face 6\nproperty list uchar int "+
		"vertex_indices\nelement edge 1\nproperty int vertex1\nproperty list uchar short others\nend_header\n", format)
	var order binary.ByteOrder = binary.LittleEndian
	if format == "binary_big_endian" {
		order = binary.BigEndian
	}
	put := func(vs ...any) {
		for _, v := range vs {
			if format == "ascii" {
				fmt.Fprintln(&b, v)
			} else {
				_ = binary.Write(&b, order, v) // a Buffer never fails
			}
		}
	}
	for i := range 8 {
		c := blockCorner(i)
		put(c[0]/1000, float64(c[1])/1000, c[2]/1000, uint8(255), uint8(188), uint8(0), int32(i))
	}
	for _, f := range [][4]int32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		put(uint8(4), f[0], f[1], f[2], f[3])
	}
	put(int32(0), uint8(2), int16(5), int16(6))
	return b.Bytes()
}

// A box comes out of each of the formats of single parts with its size, its volume and
// corners that are joined.
func TestSingleParts(t *testing.T) {
	for name, c := range map[string]struct {
		data   []byte
		points int
	}{
		"text.stl": {stlText(), 8}, "binary.stl": {stlBinary(), 8},
		"text.ply": {plyFile("ascii"), 8}, "little.ply": {plyFile("binary_little_endian"), 8}, "big.PLY": {plyFile("binary_big_endian"), 8},
	} {
		s, err := Import(t.Context(), Bundle{name: c.data}, DefaultLimits)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		m := &s.Meshes[0]
		var volume float64
		for k := 0; k+2 < len(m.Indices); k += 3 {
			a, b, c := m.Positions[m.Indices[k]], m.Positions[m.Indices[k+1]], m.Positions[m.Indices[k+2]]
			volume += float64(a.Dot(b.Cross(c))) / 6
		}
		size := s.Bounds().Size()
		want := geom.V(0.02, 0.03, 0.04)
		if strings.HasSuffix(name, ".stl") {
			want = geom.V(0.02, 0.04, 0.03) // z is up
		}
		if s.Triangles() != 12 || size.Sub(want).Len() > 1e-6 || math.Abs(volume-2.4e-5) > 1e-9 {
			t.Errorf("%s: %d triangles, %v large, %g m³", name, s.Triangles(), size, volume)
		}
		if len(s.LeftOut) == 0 {
			t.Errorf("%s: nobody is told what was taken for its units", name)
		}
		if strings.EqualFold(name[len(name)-4:], ".ply") {
			if got, want := m.Colours[0], (geom.V(1, colour.SRGB8[188], 0)); got[0] != want.X || got[1] != want.Y || got[2] != 0 || s.Parts[0].Finish != 0 {
				t.Errorf("%s: its colour is %v", name, got)
			}
		} else if s.Parts[0].Finish != -1 {
			t.Errorf("%s has a finish", name)
		}
	}
}

func TestSinglePartsThatAreNone(t *testing.T) {
	text, bin := string(stlText()), stlBinary()
	p := string(plyFile("ascii"))
	swap := func(s, a, b string) []byte { return []byte(strings.Replace(s, a, b, 1)) }
	for name, data := range map[string][]byte{
		"empty.stl": nil, "short.stl": bin[:200], "lies.stl": append(bin[:80:80], 0xff, 0xff, 0xff, 0x7f),
		"words.stl": swap(text, "vertex 2.0", "vertex two"), "half.stl": []byte(text[:len(text)/2-40] + "\nvertex 0 0 0\nvertex 1 0 0\n"),
		"infinite.stl": swap(text, "vertex 2.000000e+01", "vertex 1e39"),
		"headless.ply": []byte("ply\nformat ascii 1.0\n"), "format.ply": swap(p, "ascii", "utf"), "many.ply": swap(p, "vertex 8", "vertex 999999999999"),
		"few.ply": swap(p, "vertex 8", "vertex 9"), "kind.ply": swap(p, "float x", "quad x"), "placeless.ply": swap(p, "float x", "float w"),
		"corner.ply": swap(p, "\n7\n6\n", "\n77\n6\n"), "face.ply": swap(p, "face 6", "face 60000000"),
	} {
		if _, err := Import(t.Context(), Bundle{name: data}, DefaultLimits); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzSingleParts(f *testing.F) {
	f.Add("a.stl", stlText())
	f.Add("a.stl", stlBinary())
	for _, k := range []string{"ascii", "binary_little_endian", "binary_big_endian"} {
		f.Add("a.ply", plyFile(k))
	}
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		if name != "a.stl" && name != "a.ply" {
			return
		}
		fuzzed(t, Bundle{name: data})
	})
}

// A texture in WebP is read; a known file of one pixel, without loss.
func TestTexturesInWebP(t *testing.T) {
	const webp = "RIFF\x1a\x00\x00\x00WEBPVP8L\x0d\x00\x00\x00\x2f\x00\x00\x00\x10\x07\x10\x11\x11\x88\x88\xfe\x07\x00"
	r := newReader(Bundle{}, DefaultLimits)
	if i := r.picture("tile", []byte(webp)); i != 0 || r.s.Images[0].W != 1 || len(r.s.Images[0].Pix) != 4 {
		t.Errorf("picture %d, %v", i, r.s.LeftOut)
	}
}

// Colours of a point cloud come out the same as bytes, as 16 bit numbers and as floats.
func TestColoursOfEveryKind(t *testing.T) {
	for kind, values := range map[string]string{"uchar": "255 188 0", "ushort": "65535 48316 0", "float": "1 0.737255 0", "double": "1 0.737255 0"} {
		file := fmt.Sprintf("ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty %s "+
			"red\nproperty %s green\nproperty %s blue\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 "+
			"0 %s\n1 0 0 %s\n0 1 0 %s\n3 0 1 2\n", kind, kind, kind, values, values, values)
		s, err := Import(t.Context(), Bundle{"a.ply": []byte(file)}, DefaultLimits)
		if err != nil {
			t.Errorf("%s: %v", kind, err)
			continue
		}
		if c := s.Meshes[0].Colours[0]; c[0] != 1 || math.Abs(float64(c[1]-colour.SRGB8[188])) > 1e-4 || c[2] != 0 {
			t.Errorf("%s: %v", kind, c)
		}
	}
}

// A face that is no convex one is cut along its inside: an arrow of a metre keeps its area.
func TestConcaveFacesOfPLY(t *testing.T) {
	file := "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty " +
		"list uchar int vertex_indices\nend_header\n0 0 0\n0.5 0.2 0\n1 0 0\n0.5 1 0\n4 2 3 0 1\n"
	for range 4 { // whichever corner comes first
		s, err := Import(t.Context(), Bundle{"a.ply": []byte(file)}, DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		m, area := &s.Meshes[0], 0.0
		for k := 0; k+2 < len(m.Indices); k += 3 {
			a, b, c := m.Positions[m.Indices[k]], m.Positions[m.Indices[k+1]], m.Positions[m.Indices[k+2]]
			area += float64(b.Sub(a).Cross(c.Sub(a)).Len()) / 2
		}
		if math.Abs(area-0.4) > 1e-6 {
			t.Errorf("its triangles have %.3f m², want 0.4", area)
		}
		var w [4]int
		at := strings.LastIndex(file, "\n4 ")
		if _, err := fmt.Sscanf(file[at:], "\n4 %d %d %d %d", &w[0], &w[1], &w[2], &w[3]); err != nil {
			t.Fatal(err)
		}
		file = file[:at] + fmt.Sprintf("\n4 %d %d %d %d\n", w[1], w[2], w[3], w[0])
	}
}

// Elements without properties take no time, however many there are said to be.
func TestElementsOfNothing(t *testing.T) {
	var b strings.Builder
	b.WriteString("ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n")
	for range 1000 {
		fmt.Fprintf(&b, "element nothing %d\n", 3*DefaultLimits.Triangles)
	}
	b.WriteString("element face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n")
	s, err := Import(t.Context(), Bundle{"a.ply": []byte(b.String())}, DefaultLimits)
	if err != nil || s.Triangles() != 1 {
		t.Fatal(err)
	}
}

// STL files in capitals, and binary ones with bytes behind their triangles, are read.
func TestUnusualSTL(t *testing.T) {
	capitals := []byte(strings.ToUpper(string(stlText())))
	behind := append(stlBinary(), "made by nobody"...)
	named := append([]byte("solid of a binary file"), behind[22:]...)
	for name, data := range map[string][]byte{"capitals": capitals, "behind": behind, "named": named} {
		s, err := Import(t.Context(), Bundle{"a.stl": data}, DefaultLimits)
		if err != nil || s.Triangles() != 12 {
			t.Errorf("%s: %v", name, err)
		} else if told := fmt.Sprint(s.LeftOut); name != "capitals" && !strings.Contains(told, "14 bytes behind") {
			t.Errorf("%s: it tells %s", name, told)
		}
	}
}
