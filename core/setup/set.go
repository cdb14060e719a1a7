package setup

import (
	"context"
	"fmt"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// Set is a set of faces of a part that is a part of its own: it is named, moved and dressed
// like any other. It is grown from the face nearest to a point, so that it is found again
// in a newer file.
type Set struct {
	Name  string  `json:"name" maxlen:"200"`
	Part  string  `json:"part" maxlen:"4096"`
	At    Point   `json:"at"`
	By    string  `json:"by" choices:"piece,angle,island" def:"piece"`
	Angle float64 `json:"angle" unit:"deg" min:"0" max:"180" step:"1" def:"30"`
}

// Point is a place in a part's own space, millimetres as the file was read.
type Point struct {
	X float64 `json:"x" unit:"mm" min:"-1000000000000" max:"1000000000000" step:"1" def:"0"`
	Y float64 `json:"y" unit:"mm" min:"-1000000000000" max:"1000000000000" step:"1" def:"0"`
	Z float64 `json:"z" unit:"mm" min:"-1000000000000" max:"1000000000000" step:"1" def:"0"`
}

// NewSet is a set of faces of a part of a scene, grown from where a point of the world, in
// metres, lies on it. name is made one that no part has.
func NewSet(ctx context.Context, s *scene.Scene, part int, at geom.Vec3, by string, angle float64, name string) (made Set, err error) {
	defer parallel.Catch(&err)
	world := s.World(part)
	back, ok := world.Inverse()
	if !ok {
		return Set{}, fmt.Errorf("the part is flattened to nothing; its faces cannot be told apart")
	}
	p := back.Point(at)
	keys := s.Keys()
	free := name
	for n := 2; slices.Contains(keys, free); n++ {
		free = fmt.Sprintf("%s %d", name, n)
	}
	mm := func(x float32) float64 { return math.Round(float64(x)*1e7) / 1e4 }
	out := Set{Name: free, Part: keys[part], At: Point{mm(p.X), mm(p.Y), mm(p.Z)}, By: by, Angle: angle}
	if set, _ := out.cut().Parts(ctx, s.Memo, &s.Meshes[s.Parts[part].Mesh]); set == nil {
		return Set{}, fmt.Errorf("that would be all of %s; choose another way to grow the set", s.Parts[part].Name)
	}
	return out, nil
}

func (g *Set) cut() scene.Cut {
	c := scene.Cut{At: geom.V(float32(g.At.X/1000), float32(g.At.Y/1000), float32(g.At.Z/1000)), By: scene.Grow(g.By)}
	if c.By == scene.ByAngle {
		c.Angle = float32(g.Angle * math.Pi / 180)
	}
	return c
}

// parted lays the sets over a scene whose list of parts is its own; lost are those that it
// has nothing for. The new parts come after those of the scene.
func (u *Setup) parted(ctx context.Context, s *scene.Scene) (lost []Lost) {
	if len(u.Sets) == 0 {
		return nil
	}
	s.Meshes = slices.Clip(s.Meshes)
	byKey := map[string]int{}
	for i, k := range s.Keys() {
		byKey[k] = i
	}
	for i := range u.Sets {
		g := &u.Sets[i]
		at, is := byKey[g.Part]
		_, taken := byKey[g.Name]
		switch {
		case !is:
			lost = append(lost, Lost{g.Name, fmt.Sprintf("the scene has no part %q, of which it was a set of faces", g.Part)})
			continue
		case taken:
			lost = append(lost, Lost{g.Name, "the scene has a part of this name; the set of faces stays with its part"})
			continue
		}
		set, rest := g.cut().Parts(ctx, s.Memo, &s.Meshes[s.Parts[at].Mesh])
		if set == nil {
			lost = append(lost, Lost{g.Name, fmt.Sprintf("it would be all of %q now", g.Part)})
			continue
		}
		p := s.Parts[at]
		p.Name, p.Mesh, p.Set = g.Name, len(s.Meshes), true
		s.Parts[at].Mesh = len(s.Meshes) + 1
		s.Meshes = append(s.Meshes, *set, *rest)
		byKey[g.Name] = len(s.Parts)
		s.Parts = append(s.Parts, p)
	}
	return lost
}

// Parted is a scene with nothing of the set-up but its sets of faces.
func (u *Setup) Parted(ctx context.Context, s *scene.Scene) (out *scene.Scene, err error) {
	defer parallel.Catch(&err)
	v := *s
	v.Parts = slices.Clone(s.Parts)
	u.parted(ctx, &v)
	return &v, nil
}

// fault is what makes a set no proper one, or nil.
func (g *Set) fault() error {
	if g.Name == "" || g.Name == g.Part {
		return fmt.Errorf("a set of faces needs a name of its own")
	}
	for _, v := range []float64{g.At.X, g.At.Y, g.At.Z} {
		if math.IsNaN(v) || math.Abs(v) > 1e12 {
			return fmt.Errorf("the face of the set %q is nowhere", g.Name)
		}
	}
	return nil
}
