package setup

import (
	"maps"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// File corrects how a file's space was read: which of its axes points up, which way
// its front looks, and how large a unit of it is.
type File struct {
	Up   string  `json:"up" choices:"y,z,x,-x,-y,-z" def:"y"`
	Turn float64 `json:"turn" unit:"deg" min:"-360" max:"360" step:"90" def:"0"`
	Size float64 `json:"size" unit:"x" min:"0.000001" max:"1000000" step:"0.001" def:"1"`
}

// NewFile is a correction that changes nothing.
func NewFile() File { return File{Up: "y", Size: 1} }

// UnmarshalJSON gives what a correction leaves out its default.
func (f *File) UnmarshalJSON(b []byte) error {
	type plain File
	p := plain(NewFile())
	err := strictly(b, &p)
	if err == nil {
		*f = File(p)
	}
	return err
}

// upright turns each axis that may point up to where it belongs; what is to the right
// stays there where it can.
var upright = map[string]geom.Affine{
	"y":  geom.Identity(),
	"z":  {1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0},
	"-z": {1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0},
	"x":  {0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0},
	"-x": {0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0},
	"-y": {1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0},
}

// turned is the turn of the correction, without its size.
func (f *File) turned() geom.Affine { return around(1, f.Turn).Mul(upright[f.Up]) }

// Camera takes a camera from the file's space, as it was read, into the corrected one;
// the correction may be nil. halfHeight is that of an orthographic camera, metres.
func (f *File) Camera(world geom.Affine, halfHeight float32) (geom.Affine, float32) {
	if f == nil {
		return world, halfHeight
	}
	return moved(f.turned(), world, float32(f.Size)), halfHeight * float32(f.Size)
}

// Uncorrected is the way back of Camera.
func (f *File) Uncorrected(world geom.Affine, halfHeight float32) (geom.Affine, float32) {
	if f == nil {
		return world, halfHeight
	}
	turn := f.turned()
	back := geom.Affine{turn[0], turn[4], turn[8], 0, turn[1], turn[5], turn[9], 0, turn[2], turn[6], turn[10], 0}
	return moved(back, world, float32(1/f.Size)), halfHeight / float32(f.Size)
}

// moved turns what stands somewhere and brings it nearer or farther, leaving its own
// size: a camera is as large in any unit.
func moved(turn, world geom.Affine, size float32) geom.Affine {
	out := turn.Mul(world)
	for _, k := range []int{3, 7, 11} {
		out[k] *= size
	}
	return out
}

// onto lays the correction over a scene of which only the lists are its own. Its lights
// give what they gave: as far as everything is moved apart, so much stronger they are.
func (f *File) onto(s *scene.Scene) {
	k := float32(f.Size)
	into := f.turned().Mul(geom.Affine{k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0})
	s.Frame = &into
	s.Objects, s.Lights, s.Cameras = append([]scene.Object(nil), s.Objects...), append([]scene.Light(nil), s.Lights...), append([]scene.Camera(nil), s.Cameras...)
	for i := range s.Objects {
		s.Objects[i].World = into.Mul(s.Objects[i].World)
	}
	for i := range s.Lights {
		l := &s.Lights[i]
		l.Radius, l.Range = l.Radius*k, l.Range*k
		if l.Kind != scene.SunLight {
			l.Intensity *= k * k
		}
	}
	for i := range s.Cameras {
		s.Cameras[i].YMag *= k
	}
}

// Corrected is the set-up's correction of its file with an axis of the world, as it is
// now, pointing up instead, and everything so many times as large; empty and 0 change
// nothing.
func (u *Setup) Corrected(up string, size float64) File {
	f := NewFile()
	if u.File != nil {
		f = *u.File
	}
	if size > 0 {
		f.Size = min(max(f.Size*size, 1e-6), 1e6)
	}
	if m, ok := upright[up]; ok && up != "y" {
		// The one that leads where both turns after each other do, to within a turn about
		// the upright axis that is a multiple of a right angle, or of its own.
		want := m.Mul(f.turned())
		for _, name := range slices.Sorted(maps.Keys(upright)) {
			for _, turn := range []float64{0, 90, 180, -90} {
				g := File{name, turn, f.Size}
				if got := g.turned(); sameTurn(&got, &want) {
					return g
				}
			}
		}
		f.Up, f.Turn = up, 0
	}
	return f
}

func sameTurn(a, b *geom.Affine) bool {
	for k := range a {
		if geom.Abs(a[k]-b[k]) > 1e-3 {
			return false
		}
	}
	return true
}

// proper tells whether a correction's numbers are any.
func (f *File) proper() bool {
	_, known := upright[f.Up]
	return known && f.Size > 0 && !math.IsInf(f.Size, 0) && !math.IsNaN(f.Turn) && !math.IsInf(f.Turn, 0)
}
