package demo_test

import (
	"encoding/json"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/demo"
	"amberproof/internal/ticket"
)

// What the demo's library opens with is in order, and its names differ.
func TestTheLibraryOfTheDemo(t *testing.T) {
	eye := scene.View{Aspect: 1, YFov: 0.3, Camera: geom.LookAt(geom.V(0, 0.3, 2), geom.V(0, 0.15, 0), geom.V(0, 1, 0))}
	stage, _ := setup.NewStage(geom.Box{Min: geom.V(-0.1, 0, -0.1), Max: geom.V(0.1, 0.3, 0.1)}, []scene.View{eye})
	kinds, names := map[string]int{}, map[string]bool{}
	for _, k := range demo.Library(stage) {
		kinds[k.Kind]++
		if names[k.Name] {
			t.Errorf("%s is there twice", k.Name)
		}
		names[k.Name] = true
		doc := ticket.New()
		switch v := k.Body.(type) {
		case ticket.QualitySection:
			doc.Quality = v
		case ticket.ClayPlan:
			doc.Surface.Mode, doc.Surface.Clay = "clay", v
		case setup.Stage:
			body, err := json.Marshal(v)
			if err != nil {
				t.Fatal(err)
			}
			if _, faults := ticket.DecodeStage(body); len(faults) > 0 {
				t.Errorf("%s: %v", k.Name, faults)
			}
			continue
		}
		doc.Tidy()
		if faults := ticket.Check(&doc); len(faults) > 0 {
			t.Errorf("%s: %v", k.Name, faults)
		}
	}
	if kinds["quality"] != 1 || kinds["clay"] != 2 || kinds["stage"] != 2 {
		t.Errorf("it has %v", kinds)
	}
}
