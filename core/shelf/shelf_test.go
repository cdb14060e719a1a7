package shelf

import (
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
)

// Reflectances of the noble metals in Rec.709, as they are published for rendering.
func TestMetalsHaveTheirPublishedColours(t *testing.T) {
	for _, c := range []struct {
		name string
		of   constants
		want geom.Vec3
	}{{"gold", gold, geom.V(1.000, 0.766, 0.336)}, {"copper", copper, geom.V(0.955, 0.638, 0.538)}, {"silver", silver, geom.V(0.972, 0.960, 0.915)}} {
		got := c.of.base()
		for k := range 3 {
			if math.Abs(float64(got.At(k)-c.want.At(k))) > 0.07 { // films that were measured differ by as much
				t.Errorf("%s is %v, published is %v", c.name, got, c.want)
				break
			}
		}
	}
	if n, k := gold.at(voltNanometres / 2.01); math.Abs(n-0.21) > 1e-9 || math.Abs(k-3.272) > 1e-9 {
		t.Errorf("at an energy that was measured it is %g, %g", n, k)
	}
}

// Every finish of the shelf has a name of its own and a source, and makes that finish.
func TestTheShelf(t *testing.T) {
	seen := map[string]bool{}
	for _, item := range Items() {
		if seen[item.Finish.Name] || item.Source == "" || item.Group == "" {
			t.Errorf("%q is there twice, or comes from nowhere", item.Finish.Name)
		}
		seen[item.Finish.Name] = true
		u := setup.Setup{Finishes: []setup.Finish{item.Finish}}
		out, lost := u.Apply(&scene.Scene{})
		if len(lost) > 0 || len(out.Finishes) != 1 || out.Finishes[0].Base.Max() > 1 {
			t.Errorf("%q: %v", item.Finish.Name, lost)
		}
	}
	if len(seen) < 25 {
		t.Errorf("%d finishes are on the shelf", len(seen))
	}
}
