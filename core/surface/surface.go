// Package surface keeps where the surfaces in a picture are: the part that is seen at each
// point of the frame, the place on it and its normal. By that, what was said of a spot in one
// picture finds the same place on the same part in another, after the part was moved or the
// camera turned.
package surface

import (
	"context"
	"image"
	"math"

	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// Map is what is seen in a frame, cell by cell of a grid over its window.
type Map struct {
	Camera        trace.Camera
	Width, Height int             // of the frame, pixels
	Window        image.Rectangle // of the frame that the cells cover
	W, H          int             // cells
	Parts         []Part          // set by SetParts
	Front         Layer
	// Behind is what is seen through clear parts, where that is another part; elsewhere it
	// is empty.
	Behind Layer

	places map[string]int // of parts by their keys
}

// SetParts tells the parts that the layers name by their places.
func (m *Map) SetParts(all []Part) {
	m.Parts, m.places = all, make(map[string]int, len(all))
	for i := range all {
		m.places[all[i].Key] = i
	}
}

// Part is a part of the scene as it stood in the picture.
type Part struct {
	Key    string      // its name in the file, unique
	Title  string      // its name for people
	World  geom.Affine // from its own space
	Shape  string      // tells two shapes apart
	Finish string      // its own, whatever covers it in the picture
	Out    bool        // not in the picture
	Around bool        // it stands around the product
	Box    geom.Box    // in the world; zero of a part that is out
}

// Layer is one surface for each cell, row by row from the top.
type Layer struct {
	Part   []uint32 // place in Parts plus one; 0: nothing is seen
	At     []geom.Vec3
	Normal [][3]int8 // in 127ths, on the side it is seen from
}

func newLayer(n int) Layer {
	return Layer{make([]uint32, n), make([]geom.Vec3, n), make([][3]int8, n)}
}

func (l *Layer) put(i int, s trace.Sighting) {
	l.Part[i], l.At[i] = uint32(s.Part)+1, s.At
	for k, v := range [...]float32{s.Normal.X, s.Normal.Y, s.Normal.Z} {
		l.Normal[i][k] = int8(math.Round(float64(v) * 127))
	}
}

func (l *Layer) normal(i int) geom.Vec3 {
	n := l.Normal[i]
	return geom.V(float32(n[0]), float32(n[1]), float32(n[2])).Unit()
}

// Side is how many cells the longer side of a map has at most.
const Side = 768

// Grid is how many cells cover a window.
func Grid(window image.Rectangle) (w, h int) {
	k := min(1, float64(Side)/float64(max(window.Dx(), window.Dy())))
	return max(1, int(float64(window.Dx())*k+0.5)), max(1, int(float64(window.Dy())*k+0.5))
}

// New is a map without anything in it.
func New(c trace.Camera, width, height int, window image.Rectangle) *Map {
	m := &Map{Camera: c, Width: width, Height: height, Window: window}
	m.W, m.H = Grid(window)
	m.Front, m.Behind = newLayer(m.W*m.H), newLayer(m.W*m.H)
	return m
}

// Bytes is the memory that a map of so many cells and parts takes.
func Bytes(w, h, parts int) int64 { return int64(w)*int64(h)*2*19 + int64(parts)*256 }

// Of looks at a world as its options frame it. Parts have to be told to it by the caller.
// It ends with the context's error when that is cancelled.
func Of(ctx context.Context, w *trace.World) (*Map, error) {
	o := w.Options()
	m := New(o.Camera, o.Width, o.Height, o.Window)
	err := parallel.Ranges(m.H, 8, func(from, to int) {
		t := w.NewTracer()
		for y := from; y < to; y++ {
			parallel.Check(ctx, y)
			for x := range m.W {
				m.look(t, x, y)
			}
		}
	})
	return m, err
}

// look fills a cell.
func (m *Map) look(t *trace.Tracer, x, y int) {
	i := y*m.W + x
	fx, fy := m.centre(x, y)
	front, ok := t.Sight(fx, fy, false)
	if ok {
		m.Front.put(i, front)
	}
	if behind, seen := t.Sight(fx, fy, true); seen && (!ok || behind.Part != front.Part) {
		m.Behind.put(i, behind)
	}
}

// centre is that of a cell, in pixels of the frame.
func (m *Map) centre(x, y int) (fx, fy float32) {
	return float32(m.Window.Min.X) + (float32(x)+0.5)*float32(m.Window.Dx())/float32(m.W),
		float32(m.Window.Min.Y) + (float32(y)+0.5)*float32(m.Window.Dy())/float32(m.H)
}

// cell is where a point of the frame lies in the grid.
func (m *Map) cell(fx, fy float32) (x, y float32) {
	return (fx - float32(m.Window.Min.X)) * float32(m.W) / float32(m.Window.Dx()),
		(fy - float32(m.Window.Min.Y)) * float32(m.H) / float32(m.Window.Dy())
}

// PartsOf tells the parts of a scene as they stand in it; out and around tell those that are not
// in the picture, and those that stand around the product.
func PartsOf(s *scene.Scene, out func(part int) bool, around []bool) []Part {
	keys, titles := s.Keys(), s.Titles()
	shapes := shapesOf(s)
	all := make([]Part, len(s.Parts))
	for i := range s.Parts {
		all[i] = Part{
			Key: keys[i], Title: titles[i], World: s.World(i), Shape: shapes[s.Parts[i].Mesh], Finish: s.FinishName(i),
			Out: out(i), Around: around[i],
		}
		if b := s.PartBounds(i); !all[i].Out && !b.Empty() {
			all[i].Box = b
		}
	}
	return all
}
