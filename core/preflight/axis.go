package preflight

import (
	"fmt"

	"amberproof/core/geom"
)

// How much of a product's footprint has to be flat for it to stand on that, and how
// little of it is none, percent.
const (
	stands         = 20
	standsNot      = 3
	flatCos        = 0.996     // five degrees
	flatSlack      = 1.0 / 300 // of the product's radius
	standsSlack    = 1.0 / 5   // as it is: what sinks, or has feet, stands too
	leastThick     = 1.0 / 20
	leastFootprint = 1e-12 // square metres
)

// axis finds a product that lies on its side: it has nothing flat to stand on as it is,
// and much of that another way up.
func (b *body) axis() []Finding {
	if b.focus.Empty() {
		return nil
	}
	if b.flatShare(up, standsSlack) > standsNot {
		return nil
	}
	best, name := float64(stands), ""
	for _, w := range []struct {
		name string
		up   geom.Vec3
	}{{"z", geom.V(0, 0, 1)}, {"-z", geom.V(0, 0, -1)}, {"x", geom.V(1, 0, 0)}, {"-x", geom.V(-1, 0, 0)}} {
		// What is as thin as a poster is meant to stand upright.
		if geom.Abs(w.up.Dot(b.focus.Size())) < b.focus.Radius()*leastThick {
			continue
		}
		if share := b.flatShare(w.up, flatSlack); share > best {
			best, name = share, w.name
		}
	}
	if name == "" {
		return nil
	}
	return []Finding{{
		Check: Axis, Part: -1, Other: -1, View: -1, Value: best, Unit: "%", Sure: Perhaps, Where: b.focus,
		Says: fmt.Sprintf("The product has nothing flat to stand on; with %s upwards, %.0f %% of its footprint would be. It may lie on its side.", name, best),
		Fix:  &Fix{Says: fmt.Sprintf("Put %s upwards", name), Up: name},
	}}
}

// flatShare is how much of the product's footprint, with a direction upwards, is flat
// and lowest, to within a share of its radius, percent.
func (b *body) flatShare(up geom.Vec3, slack float32) float64 {
	size := b.focus.Size()
	flat := size.Sub(geom.V(geom.Abs(up.X)*size.X, geom.Abs(up.Y)*size.Y, geom.Abs(up.Z)*size.Z))
	footprint := float64(flat.X*flat.Y + flat.Y*flat.Z + flat.Z*flat.X)
	if !(footprint > leastFootprint) {
		return 0
	}
	floor := min(b.focus.Min.Dot(up), b.focus.Max.Dot(up))
	floor += b.focus.Radius() * slack
	var area float64
	for i, v := range b.solids {
		if v == nil || b.around[i] {
			continue
		}
		for k := range v.tris {
			t := &v.tris[k]
			if max(t.A.Dot(up), t.B.Dot(up), t.C.Dot(up)) > floor {
				continue
			}
			if n := across(t); geom.Abs(n.Dot(up)) > flatCos*n.Len() {
				area += float64(n.Len()) / 2
			}
		}
	}
	return 100 * area / footprint
}
