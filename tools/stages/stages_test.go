package stages

import (
	"context"
	"testing"

	"amberproof/core/importer"
)

// The set-ups are what they are called: read by the importer, with nothing left out.
func TestTheScenesAreRead(t *testing.T) {
	for name, c := range map[string]struct {
		make  func() ([]byte, error)
		parts int
	}{"window": {Window, 13}, "machine": {Machine, 100}, "cloth": {Cloth, 4}} {
		raw, err := c.make()
		if err != nil {
			t.Fatal(err)
		}
		s, err := importer.Import(context.Background(), importer.Bundle{"scene.gltf": raw}, importer.DefaultLimits)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if len(s.Parts) != c.parts || len(s.LeftOut) != 0 || len(s.Cameras) != 1 {
			t.Errorf("%s has %d parts and %d cameras; left out %v", name, len(s.Parts), len(s.Cameras), s.LeftOut)
		}
	}
}
