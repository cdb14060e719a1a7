package preflight

import (
	"fmt"

	"amberproof/core/units"
)

// finishes finds parts without a finish, and clear solids that light cannot be
// followed through: refraction needs to know inside from outside.
func (b *body) finishes() (out []Finding) {
	for i, v := range b.solids {
		if v == nil {
			continue
		}
		p, f := &b.of.Scene.Parts[i], b.of.Scene.FinishOf(i)
		found := func(c Check, value float64, unit, says string) {
			out = append(out, Finding{Check: c, Part: i, Other: -1, View: -1, Value: value, Unit: unit, Sure: Certain, Where: v.box, Says: says})
		}
		switch {
		case p.Finish < 0:
			found(Bare, 1e6*v.area, "mm²", fmt.Sprintf("%s has no finish.", p.Name))
		case f.Clear() && f.Thickness > 0 && !v.closed:
			found(Open, 1000*v.borders, "mm", fmt.Sprintf("%s is a clear solid, but its mesh has %s of open borders: light will be bent wrongly.",
				p.Name, units.Length(1000*v.borders)))
		case f.Clear() && f.Thickness > 0 && v.volume < 0:
			found(Inward, 1e6*v.area, "mm²", fmt.Sprintf("The faces of %s point inwards: light will be refracted as if everything around it were glass.", p.Name))
		}
	}
	return out
}
