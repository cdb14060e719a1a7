package demo_test

import (
	"testing"

	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/internal/job"
)

// The demo has the four faults that were planted in it, and no other is found.
func TestPlantedFaults(t *testing.T) {
	s, _ := lantern(t)
	found, err := preflight.Run(t.Context(), checked(s), nil)
	if err != nil {
		t.Fatal(err)
	}
	want := []struct {
		check preflight.Check
		part  string
		value float64
	}{{preflight.Floats, "Match", 3}, {preflight.Sinks, "Flint", 1.7}, {preflight.Doubled, "Vent gasket copy", 2}, {preflight.Bare, "Feed tube", 1630}}
	for i, f := range found {
		if i >= len(want) || f.Check != want[i].check || s.Parts[f.Part].Name != want[i].part || f.Value < 0.99*want[i].value || f.Value > 1.01*want[i].value {
			t.Errorf("found %q, %v %s", f.Says, f.Value, f.Unit)
		}
	}
	if len(found) != len(want) {
		t.Errorf("%d found, %d planted", len(found), len(want))
	}
}

// BenchmarkPreflight is all checks of the demo, of 303 000 triangles.
func BenchmarkPreflight(b *testing.B) {
	s, _ := lantern(b)
	for b.Loop() {
		if _, err := preflight.Run(b.Context(), checked(s), nil); err != nil {
			b.Fatal(err)
		}
	}
}

func checked(s *scene.Scene) preflight.Subject {
	of := preflight.Subject{Scene: s, Lamp: job.IsLamp(s)}
	for _, v := range job.ViewsOf(s) {
		of.Views = append(of.Views, scene.View{Name: v.Name, Camera: geom.Affine(v.Camera.Matrix), YFov: v.Camera.YFov, YMag: v.Camera.YMag, Aspect: 1})
	}
	return of
}
