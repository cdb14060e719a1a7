package ticket

import (
	"fmt"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/internal/fault"
)

// laidFloor names the mesh of a floor that is not in the scene's file.
const laidFloor = "floor laid for shadows"

// laid is the scene with an endless floor under the product, to catch shadows.
// It is its last part.
func laid(s *scene.Scene) *scene.Scene {
	out := *s
	focus := s.Focus(IsLamp(s))
	// A hair below what stands on it, whose underside would else be in its plane.
	y, mid, far := focus.Min.Y-2e-5*focus.Radius(), focus.Centre(), 300*focus.Radius()
	corner := func(x, z float32) geom.Vec3 { return geom.V(mid.X+x*far, y, mid.Z+z*far) }
	f := scene.NewFinish("Floor")
	f.Base, f.Metallic, f.Roughness, f.IOR, f.DoubleSided = geom.Splat(0.5), 0, 1, 1, true
	out.Finishes = append(slices.Clip(s.Finishes), f)
	out.Objects = append(slices.Clip(s.Objects), scene.Object{Name: "Floor", Parent: -1, Local: geom.Identity(), World: geom.Identity()})
	out.Meshes = append(slices.Clip(s.Meshes), scene.Mesh{
		Name: laidFloor, Finish: len(s.Finishes), Indices: []uint32{0, 1, 2, 0, 2, 3},
		Positions: []geom.Vec3{corner(-1, 1), corner(1, 1), corner(1, -1), corner(-1, -1)},
	})
	out.Parts = append(slices.Clip(s.Parts), scene.Part{Name: "Floor", Object: len(s.Objects), Mesh: len(s.Meshes), Finish: len(s.Finishes)})
	return &out
}

// catching tells the parts that show nothing but the shadows on them.
func (t *Ticket) catching(s *scene.Scene) func(part int) bool {
	c := &t.Stage.Catcher
	switch {
	case !c.On:
		return func(int) bool { return false }
	case c.Parts == "":
		return func(i int) bool { return s.Meshes[s.Parts[i].Mesh].Name == laidFloor }
	}
	names, lamp := s.Names(), IsLamp(s)
	return func(i int) bool { return !lamp(i) && names.Match(i, c.Parts) }
}

// noFloor is the fault of a ticket whose floor is not in the scene, or none.
func (t *Ticket) noFloor(s *scene.Scene) []fault.Fault {
	if !t.Stage.Catcher.On || t.Stage.Catcher.Parts == "" {
		return nil
	}
	is := t.catching(s)
	for i := range s.Parts {
		if is(i) {
			return nil
		}
	}
	return []fault.Fault{fault.At("stage.catcher.parts",
		fmt.Sprintf("No part matches %q, which is to catch shadows; leave it empty for a floor of its own", t.Stage.Catcher.Parts))}
}
