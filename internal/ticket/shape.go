package ticket

import (
	"fmt"
	"math"

	"amberproof/core/scene"
	"amberproof/internal/fault"
)

// UnmarshalJSON gives what a rule leaves out its default, as a whole ticket does.
func (r *ShapeRule) UnmarshalJSON(b []byte) error {
	type plain ShapeRule
	return overDefaults(b, (*plain)(r))
}

func (r *ShapeRule) shaping() scene.Shaping {
	s := scene.Shaping{Levels: r.Levels, Crease: float32(r.Crease * math.Pi / 180)}
	if r.Levels == 0 {
		s.Normals = map[string]scene.Normals{"smooth": scene.Smoothed, "faceted": scene.Faceted}[r.Shading]
	}
	if s.Levels == 0 && s.Normals != scene.Smoothed {
		s.Crease = 0
	}
	return s
}

// Shapes decides for every part how it is shaped, and by which rule (-1: none).
// Lamps, which are recognised by their shape, and what stands on the stage keep theirs.
func (t *Ticket) Shapes(s *scene.Scene) (how []scene.Shaping, by []int) {
	names, lamp := s.Names(), IsLamp(s)
	how, by = make([]scene.Shaping, len(s.Parts)), make([]int, len(s.Parts))
	for i := range s.Parts {
		how[i], by[i] = s.Meshes[s.Parts[i].Mesh].Shaping, -1
		for k := range t.Surface.Shapes {
			if r := &t.Surface.Shapes[k]; !lamp(i) && !s.Parts[i].Staged && names.Match(i, r.Match) {
				how[i], by[i] = r.shaping(), k
				break
			}
		}
	}
	return how, by
}

// tooMany is the fault of a ticket whose subdivision makes too many triangles, or none.
func tooMany(staged *scene.Scene) []fault.Fault {
	if n := staged.Triangles(); n > scene.MostTriangles {
		return []fault.Fault{fault.At("surface.shapes",
			fmt.Sprintf("Subdividing makes %d triangles, more than the limit of %d; subdivide less often or fewer parts", n, scene.MostTriangles))}
	}
	return nil
}
