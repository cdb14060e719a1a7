package preflight

import (
	"fmt"

	"amberproof/core/geom"
	"amberproof/core/units"
)

// contact finds what floats above, or sinks into, what should carry it.
func (b *body) contact(groups []*group) (out []Finding) {
	for _, g := range groups {
		switch {
		case g.into >= 0 && g.depth > b.near:
			out = append(out, b.sinks(g))
		case !g.carried && g.onto >= 0 && g.gap > b.near && !b.glows(g.parts):
			out = append(out, b.floats(g))
		}
	}
	return out
}

// glows tells whether parts are all flames and the like, which stand in the air.
func (b *body) glows(parts []int) bool {
	for _, i := range parts {
		if f := b.of.Scene.FinishOf(i); !f.Glowing() {
			return false
		}
	}
	return true
}

// called is a group in words, by the largest of its parts.
func (b *body) called(g *group) (largest int, said string) {
	largest = g.parts[0]
	for _, i := range g.parts {
		if b.solids[i].box.Radius() > b.solids[largest].box.Radius() {
			largest = i
		}
	}
	switch name := b.of.Scene.Parts[largest].Name; len(g.parts) {
	case 1:
		return largest, name
	case 2:
		return largest, name + ", with the part that holds to it,"
	default:
		return largest, fmt.Sprintf("%s, with %d parts that hold to it,", name, len(g.parts)-1)
	}
}

func (b *body) floats(g *group) Finding {
	return b.stands(g, Floats, g.gap, g.onto, "%s floats %s above %s.", &Fix{Says: "Lower onto " + b.of.Scene.Parts[g.onto].Name, Shift: geom.V(0, -g.gap, 0)})
}

func (b *body) sinks(g *group) Finding {
	return b.stands(g, Sinks, g.depth, g.into, "%s sinks %s into %s.", &Fix{Says: "Raise out of " + b.of.Scene.Parts[g.into].Name, Shift: geom.V(0, g.depth, 0)})
}

// stands is a finding of how a group stands: so far from, or within, another part.
func (b *body) stands(g *group, c Check, distance float32, other int, says string, fix *Fix) Finding {
	largest, called := b.called(g)
	mm := 1000 * float64(distance)
	fix.Parts = g.parts
	return Finding{
		Check: c, Part: largest, Other: other, View: -1, Value: mm, Unit: "mm", Sure: b.meant(distance), Where: g.box,
		Says: fmt.Sprintf(says, called, units.Length(mm), b.of.Scene.Parts[other].Name), Fix: fix,
	}
}

// meant is how sure it is that a distance is a fault: what hangs high, or is stuck
// deep into the ground, may be meant to.
func (b *body) meant(distance float32) Sure {
	if distance > b.focus.Radius()/5 {
		return Perhaps
	}
	return Likely
}

// size finds a product of absurd size: most likely its file is in another unit.
func (b *body) size() []Finding {
	const least, most, sensible = 0.003, 30, 0.02 // metres
	m := float64(b.focus.Size().Max())
	if b.focus.Empty() || m == 0 || m >= least && m <= most {
		return nil
	}
	// The first unit that may have been taken for another and leads to a product's size.
	by := 0.0
	for _, k := range []float64{0.001, 0.01, 0.1, 10, 100, 1000} {
		if m*k >= sensible && by == 0 && (k < 1) == (m > most) {
			by = k
		}
	}
	f := Finding{Check: Size, Part: -1, Other: -1, View: -1, Value: 1000 * m, Unit: "mm", Sure: Likely, Where: b.focus}
	if m > most {
		f.Says = fmt.Sprintf("The product is %.4g m across; its file may be in millimetres or centimetres.", m)
	} else {
		f.Says = fmt.Sprintf("The product is %.3g mm across; its file may be in metres read as millimetres.", 1000*m)
	}
	if by > 0 {
		f.Fix = &Fix{Says: fmt.Sprintf("Make it %.3g m", m*by), Size: by}
	}
	return []Finding{f}
}
