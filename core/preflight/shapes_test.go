package preflight_test

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/scene"
)

// set builds a scene of parts, each an object of its own.
type set struct {
	scene.Scene
	views []scene.View
}

// finish adds a finish and returns its index.
func (s *set) finish(f scene.Finish) int {
	s.Finishes = append(s.Finishes, f)
	return len(s.Finishes) - 1
}

// under adds an object without parts and returns its index.
func (s *set) under(name string, parent int) int {
	s.Objects = append(s.Objects, scene.Object{Name: name, Parent: parent, Local: geom.Identity(), World: geom.Identity()})
	return len(s.Objects) - 1
}

// put adds a part at a place, under an object or -1, and returns its index.
func (s *set) put(name string, m scene.Mesh, at geom.Vec3, finish, parent int) int {
	m.Finish = finish
	s.Meshes = append(s.Meshes, m)
	o := s.under(name, parent)
	s.Objects[o].World = geom.Translate(at)
	s.Parts = append(s.Parts, scene.Part{Name: name, Object: o, Mesh: len(s.Meshes) - 1, Finish: finish})
	return len(s.Parts) - 1
}

func (s *set) subject() preflight.Subject {
	return preflight.Subject{Scene: &s.Scene, Lamp: func(int) bool { return false }, Views: s.views}
}

// plain is a set with one finish, its first.
func plain() *set {
	s := &set{}
	s.finish(scene.NewFinish("plain"))
	return s
}

// cuboid is a closed box around the origin with faces that look outwards.
func cuboid(w, h, d float32) (m scene.Mesh) {
	x, y, z := w/2, h/2, d/2
	face := func(a, b, c, e geom.Vec3) {
		n := uint32(len(m.Positions))
		m.Positions = append(m.Positions, a, b, c, e)
		m.Indices = append(m.Indices, n, n+1, n+2, n, n+2, n+3)
	}
	v := geom.V
	face(v(-x, -y, z), v(x, -y, z), v(x, y, z), v(-x, y, z))
	face(v(x, -y, -z), v(-x, -y, -z), v(-x, y, -z), v(x, y, -z))
	face(v(x, -y, z), v(x, -y, -z), v(x, y, -z), v(x, y, z))
	face(v(-x, -y, -z), v(-x, -y, z), v(-x, y, z), v(-x, y, -z))
	face(v(-x, y, z), v(x, y, z), v(x, y, -z), v(-x, y, -z))
	face(v(-x, -y, -z), v(x, -y, -z), v(x, -y, z), v(-x, -y, z))
	return m
}

// sheet is a level square around the origin that looks up.
func sheet(side float32) scene.Mesh {
	h := side / 2
	return scene.Mesh{
		Positions: []geom.Vec3{geom.V(-h, 0, h), geom.V(h, 0, h), geom.V(h, 0, -h), geom.V(-h, 0, -h)},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
}

// ball is a closed sphere of rings of facets.
func ball(r float32) (m scene.Mesh) {
	const rings, around = 24, 48
	for i := 0; i <= rings; i++ {
		for k := range around {
			st, ct := math.Sincos(math.Pi * float64(i) / rings)
			sp, cp := math.Sincos(2 * math.Pi * float64(k) / around)
			if i == 0 || i == rings {
				st, sp, cp = 0, 0, 1
			}
			m.Positions = append(m.Positions, geom.V(r*float32(st*sp), r*float32(ct), r*float32(st*cp)))
		}
	}
	for i := range rings {
		for k := range around {
			a, b := uint32(i*around+k), uint32(i*around+(k+1)%around)
			c, d := a+around, b+around
			m.Indices = append(m.Indices, a, c, b, b, c, d)
		}
	}
	return m
}

// turnedOver is a mesh whose faces look the other way.
func turnedOver(m scene.Mesh) scene.Mesh {
	m.Indices = append([]uint32{}, m.Indices...)
	for k := 0; k < len(m.Indices); k += 3 {
		m.Indices[k+1], m.Indices[k+2] = m.Indices[k+2], m.Indices[k+1]
	}
	return m
}

// glass is a clear finish that fills its mesh.
func glass() scene.Finish {
	f := scene.NewFinish("glass")
	f.Transmission, f.Metallic, f.Roughness, f.Thickness = 1, 0, 0, 0.01
	return f
}
