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
		out, lost, _ := u.Apply(t.Context(), &scene.Scene{Pictures: func(name, _ string) (*scene.Image, error) { return Picture(name) }})
		if len(lost) > 0 || len(out.Finishes) != 1 || out.Finishes[0].Base.Max() > 1 {
			t.Errorf("%q: %v", item.Finish.Name, lost)
		}
	}
	if len(seen) < 25 {
		t.Errorf("%d finishes are on the shelf", len(seen))
	}
}

// A wood goes on where its picture ends: there it changes no more than between any two of
// its pixels; it is not even, and no two are alike.
func TestWoods(t *testing.T) {
	var means []geom.Vec3
	for _, name := range Pictures {
		img, err := Picture(name)
		if err != nil || img.W != PictureWidth || img.H != PictureHeight {
			t.Fatal(name, err)
		}
		change := func(x0, y0, x1, y1, dx, dy, n int) (sum float64) {
			for i := range n {
				p, q := img.Pix[4*((y0+dy*i)*img.W+x0+dx*i)], img.Pix[4*((y1+dy*i)*img.W+x1+dx*i)]
				sum += math.Abs(float64(p) - float64(q))
			}
			return sum / float64(n)
		}
		if seam, within := change(img.W-1, 0, 0, 0, 0, 1, img.H), change(500, 0, 501, 0, 0, 1, img.H); seam > 2*within+1 {
			t.Errorf("%s: from the right to the left it changes by %.2f, within by %.2f", name, seam, within)
		}
		if seam, within := change(0, img.H-1, 0, 0, 1, 0, img.W), change(0, 200, 0, 201, 1, 0, img.W); seam > 2*within+4 {
			t.Errorf("%s: from the foot to the top it changes by %.2f, within by %.2f", name, seam, within)
		}
		least, most := byte(255), byte(0)
		for i := 0; i < len(img.Pix); i += 4 {
			least, most = min(least, img.Pix[i]), max(most, img.Pix[i])
		}
		if most-least < 40 {
			t.Errorf("%s goes from %d to %d only", name, least, most)
		}
		means = append(means, img.Mean())
	}
	for i := range means {
		for k := range i {
			if means[i].Sub(means[k]).Len() < 0.02 {
				t.Errorf("%s looks like %s", Pictures[i], Pictures[k])
			}
		}
	}
	if _, err := Picture("Concrete"); err == nil {
		t.Error("a picture that is not there")
	}
}
