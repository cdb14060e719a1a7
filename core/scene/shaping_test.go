package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

func near32(a, b geom.Vec3) bool { return a.Sub(b).Len() < 2e-6 }

// icosahedron has its corners at distance one.
func icosahedron() Mesh {
	phi := float32((1 + math.Sqrt(5)) / 2)
	var m Mesh
	for _, a := range []float32{-1, 1} {
		for _, b := range []float32{-phi, phi} {
			for _, p := range []geom.Vec3{{Y: a, Z: b}, {X: a, Y: b}, {X: b, Z: a}} {
				m.Positions = append(m.Positions, p.Unit())
			}
		}
	}
	side := float32(1e9)
	for _, p := range m.Positions[1:] {
		side = min(side, p.Sub(m.Positions[0]).Len())
	}
	beside := func(a, b int) bool { return m.Positions[a].Sub(m.Positions[b]).Len() < 1.1*side }
	for a := range m.Positions {
		for b := a + 1; b < len(m.Positions); b++ {
			for c := b + 1; c < len(m.Positions); c++ {
				if !beside(a, b) || !beside(b, c) || !beside(c, a) {
					continue
				}
				p := m.Positions
				if p[b].Sub(p[a]).Cross(p[c].Sub(p[a])).Dot(p[a]) > 0 {
					m.Indices = append(m.Indices, uint32(a), uint32(b), uint32(c))
				} else {
					m.Indices = append(m.Indices, uint32(a), uint32(c), uint32(b))
				}
			}
		}
	}
	return m
}

// prism is one of n sides, radius and height one, closed, with vertices of its own
// for each face as in files with hard edges.
func prism(n int) (m Mesh) {
	face := func(p ...geom.Vec3) {
		at := uint32(len(m.Positions))
		m.Positions = append(m.Positions, p...)
		for k := 2; k < len(p); k++ {
			m.Indices = append(m.Indices, at, at+uint32(k)-1, at+uint32(k))
		}
	}
	rim := func(k int, z float32) geom.Vec3 {
		s, c := math.Sincos(2 * math.Pi * float64(k%n) / float64(n))
		return geom.V(float32(c), float32(s), z)
	}
	for k := range n {
		face(rim(k, 0), rim(k+1, 0), rim(k+1, 1), rim(k, 1))
		face(rim(k, 1), rim(k+1, 1), geom.V(0, 0, 1))
		face(rim(k+1, 0), rim(k, 0), geom.V(0, 0, 0))
	}
	return m
}

// closed reports whether every edge has one neighbour that runs against it.
func closed(m *Mesh) bool {
	type edge struct{ a, b geom.Vec3 }
	seen := map[edge]int{}
	for k := range m.Indices {
		seen[edge{m.Positions[m.Indices[k]], m.Positions[m.Indices[next(k)]]}]++
	}
	for e, n := range seen {
		if n != 1 || seen[edge{e.b, e.a}] != 1 {
			return false
		}
	}
	return true
}

func radians(degrees float64) float32 { return float32(degrees * math.Pi / 180) }

// However often it is refined first, a corner of an icosahedron settles at
// (1 + 1/sqrt 5)/2 of its distance: half its own and a tenth of each of its five
// neighbours, whose sum is sqrt 5 times it.
func TestSubdivisionSettlesOnTheLimitOfLoop(t *testing.T) {
	ico := icosahedron()
	if len(ico.Indices) != 60 {
		t.Fatalf("%d faces", len(ico.Indices)/3)
	}
	want := float32((1 + 1/math.Sqrt(5)) / 2)
	for levels := 1; levels <= 4; levels++ {
		ico.Shaping = Shaping{Levels: levels, Crease: radians(60)}
		m := ico.Shaped(t.Context())
		if len(m.Indices)/3 != ico.Faces() || !closed(&m) {
			t.Fatalf("%d levels: %d faces of %d, closed %v", levels, len(m.Indices)/3, ico.Faces(), closed(&m))
		}
		for _, p := range ico.Positions {
			found := false
			for i, q := range m.Positions {
				if near32(q, p.Scale(want)) {
					found = true
					if d := m.Normals[i].Dot(p); d < 0.99999 {
						t.Errorf("the normal there is off by %v", geom.Acos(d))
					}
				}
			}
			if !found {
				t.Fatalf("%d levels: no point at %v of a corner's distance", levels, want)
			}
		}
		if levels == 4 {
			for i, q := range m.Positions {
				if d := m.Normals[i].Dot(q.Unit()); d < 0.995 {
					t.Fatalf("a normal is %v rad off the radius of a nearly round body", geom.Acos(d))
				}
			}
		}
	}
}

// A box with sharp edges stays that box; the rims of a prism become the curves of
// the cubic B-spline through their corners, and stay sharp.
func TestSubdivisionKeepsCreasesAndCorners(t *testing.T) {
	box := prism(4)
	box.Shaping = Shaping{Levels: 3, Crease: radians(50)}
	m := box.Shaped(t.Context())
	var area float64
	for f := 0; f < len(m.Indices); f += 3 {
		a, b, c := m.corners(f / 3)
		n := b.Sub(a).Cross(c.Sub(a))
		area += float64(n.Len() / 2)
		for k := f; k < f+3; k++ {
			if d := m.Normals[m.Indices[k]].Dot(n.Unit()); d < 0.99999 {
				t.Fatalf("a face of the box is shaded as if bent by %v", geom.Acos(d))
			}
		}
	}
	if want := 4 + 4*math.Sqrt2; math.Abs(area-want) > 1e-4 || !closed(&m) {
		t.Errorf("the box has a surface of %v, want %v", area, want)
	}

	tube := prism(12)
	tube.Shaping = Shaping{Levels: 3, Crease: radians(50)}
	m = tube.Shaped(t.Context())
	if !closed(&m) {
		t.Error("the tube has gaps")
	}
	corner := float32((4 + 2*math.Cos(math.Pi/6)) / 6)
	between := float32((23*2*math.Cos(math.Pi/12) + 2*math.Cos(3*math.Pi/12)) / 48)
	sharp, found := 0, 0
	for i, p := range m.Positions {
		if p.Z != 1 {
			continue
		}
		r := geom.Sqrt(p.X*p.X + p.Y*p.Y)
		if near32(p, geom.V(corner, 0, 1)) || near32(p, geom.V(between*float32(math.Cos(math.Pi/12)), between*float32(math.Sin(math.Pi/12)), 1)) {
			found++
		}
		if r < between-1e-5 {
			continue
		}
		if z := m.Normals[i].Z; geom.Abs(z) > 1e-5 && z < 0.99999 {
			t.Fatalf("a normal on the rim is neither the lid's nor the side's: %v", m.Normals[i])
		}
		sharp++
	}
	if found != 4 || sharp != 2*12*8 {
		t.Errorf("%d points where the spline has them, %d on the rim", found, sharp)
	}
}

// What is drawn on a body goes with it: a picture that lies as a plane laid
// through space still does, and one with a seam keeps its borders.
func TestSubdivisionCarriesWhatIsDrawnOn(t *testing.T) {
	ico := icosahedron()
	for _, p := range ico.Positions {
		ico.UV[0] = append(ico.UV[0], [2]float32{3*p.X - p.Y + 1, 2 * p.Z})
		ico.Colours = append(ico.Colours, [4]float32{p.X, p.Y, p.Z, 1})
	}
	ico.Shaping = Shaping{Levels: 3, Crease: math.Pi}
	m := ico.Shaped(t.Context())
	for i, p := range m.Positions {
		u, c := m.UV[0][i], m.Colours[i]
		if !near32(geom.V(u[0], u[1], c[1]), geom.V(3*p.X-p.Y+1, 2*p.Z, p.Y)) {
			t.Fatalf("at %v the picture is at %v", p, u)
		}
	}
	// Each face of the box has the whole picture.
	box := prism(4)
	for k := range box.Positions {
		p := box.Positions[k]
		box.UV[0] = append(box.UV[0], [2]float32{p.X - p.Y, p.Z})
	}
	box.Shaping = Shaping{Levels: 2, Crease: radians(50)}
	m = box.Shaped(t.Context())
	for i, u := range m.UV[0] {
		if p := m.Positions[i]; !near32(geom.V(u[0], u[1], 0), geom.V(p.X-p.Y, p.Z, 0)) {
			t.Fatalf("at %v the picture of the box is at %v", p, u)
		}
	}
}

func TestSmoothingAndFacetingWithoutSubdivision(t *testing.T) {
	tube := prism(12)
	tube.Shaping = Shaping{Normals: Smoothed, Crease: radians(50)}
	m := tube.Shaped(t.Context())
	for i, p := range m.Positions {
		n := m.Normals[i]
		if n.Z == 0 && n.Dot(geom.V(p.X, p.Y, 0)) < 0.9999 {
			t.Errorf("the side at %v is shaded towards %v", p, n)
		}
	}
	m.Shaping = Shaping{Normals: Faceted}
	if f := m.Shaped(t.Context()); len(f.Normals) != 0 || len(m.Normals) == 0 {
		t.Error("a faceted mesh has no normals of its own, and the saved one keeps them")
	}
}

// Meshes that no smooth body has come out whole: fins, flattened faces, sides
// wound against each other.
func TestSubdivisionTakesWhatFilesHold(t *testing.T) {
	p := []geom.Vec3{{}, {X: 1}, {Y: 1}, {Z: 1}, {Y: -1}}
	for name, tri := range map[string][]uint32{
		"three faces on an edge": {0, 1, 2, 1, 0, 3, 0, 1, 4},
		"wound against":          {0, 1, 2, 0, 1, 4},
		"flattened":              {0, 0, 1, 0, 1, 2},
		"twice":                  {0, 1, 2, 0, 1, 2},
	} {
		m := Mesh{Positions: p, Indices: tri, Shaping: Shaping{Levels: 3, Crease: 1}}
		s := m.Shaped(t.Context())
		box := geom.Box{Min: geom.V(0, -1, 0), Max: geom.Splat(1)}
		for i, q := range s.Positions {
			if d := geom.Max3(box.Min.Sub(q), q.Sub(box.Max)).Max(); !(d < 1e-6) || !s.Normals[i].Finite() {
				t.Errorf("%s: a point at %v, normal %v", name, q, s.Normals[i])
			}
		}
		if name == "flattened" && len(s.Indices) != 3*64 {
			t.Errorf("%s: %d faces", name, len(s.Indices)/3)
		}
		if name == "three faces on an edge" && len(s.Indices) != 3*3*64 {
			t.Errorf("%s: %d faces", name, len(s.Indices)/3)
		}
	}
}

func BenchmarkSubdivision(b *testing.B) {
	ico := icosahedron()
	ico.Shaping = Shaping{Levels: 7, Crease: 1}
	for b.Loop() {
		ico.Shaped(b.Context())
	}
	b.ReportMetric(float64(ico.Faces())*float64(b.N)/b.Elapsed().Seconds()/1e6, "Mtriangles/s")
}
