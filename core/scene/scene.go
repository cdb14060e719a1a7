// Package scene is the product scene as a value: meshes, objects, parts,
// finishes, lights and cameras, as the importer read them. It is not changed
// after import; overriding (clay) is resolving, not editing.
package scene

import (
	"cmp"
	"fmt"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// Scene is everything a file held. Indices are positions in the slices; -1 is none.
type Scene struct {
	Objects  []Object
	Meshes   []Mesh
	Parts    []Part
	Finishes []Finish
	Images   []Image
	Lights   []Light
	Cameras  []Camera
	Motions  []Motion
	Variants []Variant
	// Frame is where the file's space, in which its motions are, lies in the world;
	// nil: it is the world.
	Frame *geom.Affine
	// Memo remembers what set-ups made of its meshes and pictures; nil: nothing.
	Memo *Memo
	// Pictures finds pictures that are not in the file, by name and checksum; nil: there
	// are none.
	Pictures func(name, sha256 string) (*Image, error)
	// LeftOut lists, part by part, what the file asked for and the importer
	// could not take.
	LeftOut []Note
}

// Note is one thing left out of an import.
type Note struct {
	Where string `json:"where" doc:"Which object, finish or file"`
	What  string `json:"what" doc:"What was left out, and what happens instead"`
}

// Object is a node of the file's tree. Its parent comes before it.
type Object struct {
	Name   string
	Parent int
	Local  geom.Affine // to the parent; counts where a motion moves that
	World  geom.Affine
}

// Mesh is one set of faces with one finish. Normals, Tangents, UV and Colours
// are per vertex and may be empty; Indices are three per triangle.
type Mesh struct {
	Name      string
	Positions []geom.Vec3
	Normals   []geom.Vec3
	Tangents  [][4]float32
	UV        [2][][2]float32
	Colours   [][4]float32
	Indices   []uint32
	Finish    int
	Shaping   Shaping // still to be done before it is rendered
}

// Part is an object, or a set of faces of an object, that wears one finish.
type Part struct {
	Name   string
	Was    string // its name in the file, where it was given another
	Set    bool   // a set of faces that was taken out of another part
	Group  string // of parts that belong together; empty: none
	Object int
	Mesh   int
	Finish int // -1: the file gave none
	// Place is where it was put in its object; nil: as the file has it.
	Place *geom.Affine
	Out   bool // left out: neither rendered nor in the product's bounds
	// Staged says that it was put around the product on the bench.
	Staged bool
	Shine  Shine // of one that is a lamp
}

// Variant is another look that the file has for its parts: what some of them wear in it.
type Variant struct {
	Name  string
	Wears []Wear
}

// Wear says which finish a part wears.
type Wear struct{ Part, Finish int }

// Shine is what a lamp does not do. The zero value does all that lamps do.
type Shine struct {
	Off       bool
	Hidden    bool // the camera does not see it
	NoMirror  bool // reflections do not show it
	NoShadows bool // nothing is in its way
}

// World is where a part is: from its mesh to the world.
func (s *Scene) World(part int) geom.Affine {
	p := &s.Parts[part]
	w := s.Objects[p.Object].World
	if p.Place != nil {
		w = w.Mul(*p.Place)
	}
	return w
}

// Image is a picture used by textures: RGBA, eight bits a channel, row by row from the top.
type Image struct {
	Name string
	W, H int
	Pix  []byte
}

// Bytes is the memory that the scene takes, as far as it grows with its size.
// What meshes share of each other is counted each time.
func (s *Scene) Bytes() (n int64) {
	for i := range s.Meshes {
		m := &s.Meshes[i]
		n += int64(len(m.Positions)+len(m.Normals))*12 + int64(len(m.UV[0])+len(m.UV[1]))*8 + int64(len(m.Tangents)+len(m.Colours))*16 + int64(len(m.Indices))*4
	}
	for i := range s.Images {
		n += int64(len(s.Images[i].Pix))
	}
	return n + int64(len(s.Objects)+len(s.Parts)+len(s.Finishes))*256
}

// mostMean is how many texels a mean colour is taken of.
const mostMean = 1 << 14

// Mean is the mean colour of an image that holds sRGB colour, scene-linear; of large
// ones, that of texels spread over it.
func (img *Image) Mean() geom.Vec3 {
	var sum [3]float64
	all := len(img.Pix) / 4
	step := max(1, all/mostMean) | 1 // odd, so that it does not go down a column
	n := 0
	for i := 0; i < all; i += step {
		for k := range sum {
			sum[k] += float64(colour.SRGB8[img.Pix[i*4+k]])
		}
		n++
	}
	d := float64(max(n, 1))
	return geom.V(float32(sum[0]/d), float32(sum[1]/d), float32(sum[2]/d))
}

// LightKind names a punctual light of a file. Radius or Angle above zero give it a size.
type LightKind int

const (
	PointLight LightKind = iota
	SpotLight
	SunLight
)

// Light is a light of the file, standing at its object and shining along -Z.
type Light struct {
	Name               string
	Object             int
	Kind               LightKind
	Colour             geom.Vec3
	Intensity          float32 // candela for point and spot, lux for sun
	Radius             float32 // metres; 0 is a point
	Angle              float32 // radians, full width of a sun's disc; 0 is infinitely sharp
	InnerCone, OutCone float32 // radians, half angles
	Range              float32 // metres; 0 is without end
	Staged             bool    // was put around the product on the bench
	Shine              Shine
}

// Camera is a camera of the file.
type Camera struct {
	Name   string
	Object int
	YFov   float32    // radians, full height; 0 for an orthographic camera
	YMag   float32    // metres, half height of an orthographic camera
	Shift  [2]float32 // of the frame to the right and up, shares of its width and height
}

// FinishOf returns the finish of a part, the Missing one where there is none.
func (s *Scene) FinishOf(part int) Finish {
	if f := s.Parts[part].Finish; f >= 0 {
		return s.Finishes[f]
	}
	return Missing()
}

// FinishName is the name shown and matched for a part's finish.
func (s *Scene) FinishName(part int) string {
	if f := s.Parts[part].Finish; f >= 0 {
		return s.Finishes[f].Name
	}
	return NoFinish
}

// Triangles counts the triangles of all parts as they are rendered, instances
// counted each time.
func (s *Scene) Triangles() int {
	n := 0
	for _, p := range s.Parts {
		if !p.Out {
			n += s.Meshes[p.Mesh].Faces()
		}
	}
	return n
}

// PartBounds is the box around a part in world space.
func (s *Scene) PartBounds(i int) geom.Box {
	w := s.World(i)
	b := geom.EmptyBox()
	for _, v := range s.Meshes[s.Parts[i].Mesh].Positions {
		b = b.Extend(w.Point(v))
	}
	return b
}

// Bounds is the box around all parts in world space that are not left out.
func (s *Scene) Bounds() geom.Box {
	b := geom.EmptyBox()
	for i := range s.Parts {
		if !s.Parts[i].Out {
			b = b.Union(s.PartBounds(i))
		}
	}
	return b
}

// Reach is how far out parts may lie, metres: beyond, single precision cannot tell
// a product's details apart.
const Reach = 1e6

// FarOut is the first part that lies or reaches beyond Reach, or -1.
func (s *Scene) FarOut() int {
	for i := range s.Parts {
		if s.Parts[i].Out {
			continue
		}
		box := s.PartBounds(i)
		if !box.Empty() && !(box.Min.Finite() && box.Max.Finite() && box.Size().Max() < Reach && geom.Max3(box.Max, box.Min.Neg()).Max() < Reach) {
			return i
		}
	}
	return -1
}

// Check reports the first inconsistency of the value: what a reader of files
// must never let through.
func (s *Scene) Check() error {
	in := func(i, n int) bool { return i >= 0 && i < n }
	for _, v := range s.Variants {
		for _, w := range v.Wears {
			if !in(w.Part, len(s.Parts)) || !in(w.Finish, len(s.Finishes)) {
				return fmt.Errorf("the variant %s names a part or a finish that is not there", v.Name)
			}
		}
	}
	for i, o := range s.Objects {
		if o.Parent >= i || !o.World.Finite() {
			return fmt.Errorf("object %d (%s) has no proper place", i, o.Name)
		}
	}
	for i := range s.Meshes {
		m := &s.Meshes[i]
		n := len(m.Positions)
		fits := func(k int) bool { return k == 0 || k == n }
		if len(m.Indices)%3 != 0 || !fits(len(m.Normals)) || !fits(len(m.Tangents)) || !fits(len(m.UV[0])) || !fits(len(m.UV[1])) || !fits(len(m.Colours)) {
			return fmt.Errorf("mesh %d (%s) has attributes of different lengths", i, m.Name)
		}
		for _, k := range m.Indices {
			if int(k) >= n {
				return fmt.Errorf("mesh %d (%s) names a vertex that is not there", i, m.Name)
			}
		}
	}
	for i, p := range s.Parts {
		if !in(p.Object, len(s.Objects)) || !in(p.Mesh, len(s.Meshes)) || p.Finish >= len(s.Finishes) {
			return fmt.Errorf("part %d (%s) refers to something that is not there", i, p.Name)
		}
	}
	for i := range s.Finishes {
		f := &s.Finishes[i]
		for _, t := range f.Textures() {
			if t.Image >= len(s.Images) || t.Set < 0 || t.Set > 1 {
				return fmt.Errorf("finish %d (%s) refers to a picture that is not there", i, f.Name)
			}
		}
	}
	return s.checkMotions()
}

// backdropTimes is how many times larger than all the rest together a part
// must be to count as standing around the product, not belonging to it.
const backdropTimes = 3

// Around tells the parts that stand around the product and do not belong to it:
// lamps, what was put there on the bench, and what is far larger than all others
// together, as backdrops and floors are.
// Of several sizes to part them at, it is where the next larger is largest by comparison.
func (s *Scene) Around(lamp func(part int) bool) []bool {
	around := make([]bool, len(s.Parts))
	var order []int
	boxes := make([]geom.Box, len(s.Parts))
	for i := range s.Parts {
		if around[i] = lamp(i) || s.Parts[i].Staged; !around[i] && !s.Parts[i].Out {
			boxes[i] = s.PartBounds(i)
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(boxes[a].Radius(), boxes[b].Radius()) })
	// rest[k] is the box around the k smallest parts.
	rest := []geom.Box{geom.EmptyBox()}
	for _, i := range order {
		rest = append(rest, rest[len(rest)-1].Union(boxes[i]))
	}
	cut, most := len(order), float32(backdropTimes)
	for k := 1; k < len(order); k++ {
		if r := rest[k].Radius(); r > 0 && boxes[order[k]].Radius() > most*r {
			cut, most = k, boxes[order[k]].Radius()/r
		}
	}
	for _, i := range order[cut:] {
		around[i] = true
	}
	return around
}

// Focus is the box around the product: around all parts that neither are left
// out nor stand around it. Where nothing else is there, it is around everything.
func (s *Scene) Focus(lamp func(part int) bool) geom.Box {
	b := geom.EmptyBox()
	for i, around := range s.Around(lamp) {
		if !around && !s.Parts[i].Out {
			b = b.Union(s.PartBounds(i))
		}
	}
	if b.Empty() {
		return s.Bounds()
	}
	return b
}
