package demo

import (
	"context"
	"testing"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

func load(t *testing.T) *scene.Scene {
	t.Helper()
	glb, err := Scene()
	if err != nil {
		t.Fatal(err)
	}
	s, err := importer.Import(context.Background(), importer.Bundle{SceneFile: glb}, importer.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestSceneGoesThroughTheImporterWhole(t *testing.T) {
	s := load(t)
	if len(s.LeftOut) != 1 || s.LeftOut[0].Where != "Feed tube" { // which has no finish, on purpose
		t.Errorf("left out: %v", s.LeftOut)
	}
	if n := s.Triangles(); n < 100_000 || n > 310_000 {
		t.Errorf("%d triangles, want 100 to 310 thousand", n)
	}
	if len(s.Cameras) != 3 {
		t.Errorf("%d views", len(s.Cameras))
	}
	lamps := trace.LampsOf(s)
	var kinds []string
	for _, l := range lamps {
		kinds = append(kinds, l.Name+":"+l.Kind)
	}
	if len(lamps) != 3 || lamps[0].Kind != "rectangle" || lamps[1].Kind != "rectangle" || lamps[2].Kind != "sphere" {
		t.Errorf("lamps %v", kinds)
	}
	var clear, glowing int
	worn := map[string]int{}
	for i := range s.Parts {
		f := s.FinishOf(i)
		worn[f.Name]++
		if f.Clear() {
			clear++
		}
		if f.Glowing() {
			glowing++
		}
	}
	if clear != 1 || glowing != 3 || worn["Brass, satin"] < 10 {
		t.Errorf("%d clear, %d glowing, worn %v", clear, glowing, worn)
	}
	// The lantern stands on the backdrop: its lowest point is the floor.
	low := float32(1)
	for i, p := range s.Parts {
		if p.Name == "Foot ring" {
			low = s.PartBounds(i).Min.Y
		}
	}
	if low < -1e-6 || low > 1e-4 {
		t.Errorf("the foot stands at %v m", low)
	}
}

func TestNormalsFaceOutwardsWithTheWinding(t *testing.T) {
	s := load(t)
	for _, m := range s.Meshes {
		for i := 0; i < len(m.Indices); i += 3 {
			a, b, c := m.Indices[i], m.Indices[i+1], m.Indices[i+2]
			n := m.Positions[b].Sub(m.Positions[a]).Cross(m.Positions[c].Sub(m.Positions[a])).Unit()
			if d := n.Dot(m.Normals[a].Add(m.Normals[b]).Add(m.Normals[c]).Unit()); d < 0.2 && !n.IsZero() {
				t.Fatalf("mesh %q triangle %d: normals and winding at cosine %v", m.Name, i/3, d)
			}
		}
	}
}

func TestSurroundIsAPicture(t *testing.T) {
	p, err := imageio.ReadHDR(Surround(), imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if p.W != 2*p.H {
		t.Errorf("%d x %d", p.W, p.H)
	}
}
