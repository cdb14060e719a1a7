package preflight

import (
	"fmt"

	"amberproof/core/geom"
	"amberproof/core/units"
)

// together finds parts that are in each other's way: that run through each other,
// are there twice, or have faces in the same place.
func (b *body) together(pairs []pair) (out []Finding) {
	gone := map[int]bool{} // told of as doubles already
	for _, p := range pairs {
		if p.doubled && !gone[p.a] {
			gone[p.b] = true
			out = append(out, b.doubled(&p))
		}
	}
	told := b.told(pairs)
	for i, p := range pairs {
		if p.doubled || gone[p.a] || gone[p.b] {
			continue
		}
		if told[i] {
			out = append(out, b.through(&p))
		}
		if least := min(b.solids[p.a].area, b.solids[p.b].area); p.spots >= fewestSpots && p.coincide > coincideShare*least {
			out = append(out, b.coincident(&p))
		}
	}
	return out
}

// Faces that lie in each other are told of from a share of the smaller part's area
// on, found at a few points of it: where faces cross at a flat angle, one may.
const (
	coincideShare = 1e-3
	fewestSpots   = 4
)

// mostJoints is how many pairs of a product's parts may reach into each other, for
// each part, before that is held to be how the product is put together.
const mostJoints = 0.1

// deepShare is how much of a part lies within another where they are told of even
// in a product whose parts are set into each other.
const deepShare = 0.35

// told chooses the pairs that cross and are worth a word. Parts of one product that
// is put together by setting parts into each other are told of only where a good
// part of one lies within the other; parts of different products, and parts that
// were put where they are on the bench, always.
func (b *body) told(pairs []pair) []bool {
	product := b.products()
	out := make([]bool, len(pairs))
	joints, parts := map[int]int{}, map[int]int{}
	for i, v := range b.solids {
		if v != nil && !b.around[i] {
			parts[product[i]]++
		}
	}
	for i := range pairs {
		if p := &pairs[i]; b.reaches(p) && product[p.a] == product[p.b] {
			joints[product[p.a]]++
		}
	}
	for i := range pairs {
		p := &pairs[i]
		if !b.reaches(p) {
			continue
		}
		k := product[p.a]
		habit := k == product[p.b] && float64(joints[k]) > max(2, mostJoints*float64(parts[k]))
		moved := b.of.Scene.Parts[p.a].Place != nil || b.of.Scene.Parts[p.b].Place != nil
		out[i] = moved || !habit || p.within > deepShare
	}
	return out
}

// reaches tells whether two parts of the product reach into each other at all: not
// solids of glass and what fills them, which are made to, and not parts that lie
// within each other all the way.
func (b *body) reaches(p *pair) bool {
	fa, fb := b.of.Scene.FinishOf(p.a), b.of.Scene.FinishOf(p.b)
	return p.crosses && !p.doubled && !b.around[p.a] && !b.around[p.b] && !(fa.Clear() && fb.Clear()) && p.depth > b.near && p.within < 0.9
}

// products tells which parts belong to one thing: those below the same root of the
// file's tree; where each root is a part by itself, all are one.
func (b *body) products() []int {
	s := b.of.Scene
	out := make([]int, len(s.Parts))
	count := map[int]int{}
	for i, p := range s.Parts {
		o := p.Object
		for s.Objects[o].Parent >= 0 {
			o = s.Objects[o].Parent
		}
		out[i] = o
		count[o]++
	}
	for _, n := range count {
		if n > 1 {
			return out
		}
	}
	return make([]int, len(s.Parts))
}

func (b *body) names(p *pair) (string, string) {
	return b.of.Scene.Parts[p.a].Name, b.of.Scene.Parts[p.b].Name
}

func (b *body) through(p *pair) Finding {
	x, y := b.names(p)
	mm := 1000 * float64(p.depth)
	sure := Perhaps
	if p.depth > 4*b.near {
		sure = Likely
	}
	return Finding{
		Check: Through, Part: p.a, Other: p.b, View: -1, Value: mm, Unit: "mm", Sure: sure, Where: p.where,
		Says: fmt.Sprintf("%s and %s intersect, %s deep.", x, y, units.Length(mm)),
	}
}

func (b *body) doubled(p *pair) Finding {
	x, y := b.names(p)
	return Finding{
		Check: Doubled, Part: p.b, Other: p.a, View: -1, Value: 2, Unit: "parts", Sure: Certain, Where: b.solids[p.b].box,
		Says: fmt.Sprintf("%s duplicates %s in the same place.", y, x),
		Fix:  &Fix{Says: "Leave it out", Parts: []int{p.b}, Out: true},
	}
}

func (b *body) coincident(p *pair) Finding {
	x, y := b.names(p)
	where := p.where
	if p.crosses || where.Empty() {
		where = geom.Box{Min: geom.Max3(b.solids[p.a].box.Min, b.solids[p.b].box.Min), Max: geom.Min3(b.solids[p.a].box.Max, b.solids[p.b].box.Max)}
	}
	mm2 := 1e6 * p.coincide
	return Finding{
		Check: Coincident, Part: p.a, Other: p.b, View: -1, Value: mm2, Unit: "mm²", Sure: Certain, Where: where,
		Says: fmt.Sprintf("%.3g mm² of %s and %s lie in the same place and look the same way: which of them is seen is chance.", mm2, x, y),
	}
}
