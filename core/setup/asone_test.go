package setup

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

// What is done to parts as one takes every point of them where one motion of the whole
// takes it, whatever was done to each before.
func TestAsOne(t *testing.T) {
	s := lamp()
	r := rand.New(rand.NewPCG(7, 0))
	some := func(most float64) float64 { return math.Round((2*r.Float64()-1)*most*100) / 100 }
	for n := range 200 {
		begin := []Change{{Part: "Base", Scale: 1}, {Part: "Shade", Scale: 1}, {Part: "Screw #2", Scale: 1}}
		for k := range begin {
			c := &begin[k]
			c.Shift, c.Turn, c.Scale = Vector{some(500), some(500), some(500)}, Angles{some(180), some(180), some(180)}, 1+some(0.5)
			if n%5 == 0 {
				c.Turn.Y = 90 // where the angles are not of their own
			}
		}
		by := Together{Shift: Vector{some(300), some(300), some(300)}, Axis: string("xyz"[n%3]), Turn: some(180), Scale: 1 + some(0.9)}
		after, err := AsOne(s, begin, &by)
		if err != nil {
			t.Fatal(err)
		}
		was, is := apply(t, Setup{Parts: begin}, s), apply(t, Setup{Parts: after}, s)
		box := geom.EmptyBox()
		for _, i := range []int{0, 1, 3} {
			c := Setup{Parts: begin}
			place := c.Of(s.Keys()[i])
			a := place.about(s.PartBounds(i).Centre())
			for _, p := range boxCorners(s.PartBounds(i)) {
				box = box.Extend(a.Point(p))
			}
		}
		pivot, turn := box.Centre(), around(n%3, by.Turn)
		for _, i := range []int{0, 1, 3} {
			for _, v := range s.Meshes[s.Parts[i].Mesh].Positions {
				from, to := was.World(i), is.World(i)
				want := pivot.Add(turn.Vector(from.Point(v).Sub(pivot)).Scale(float32(by.Scale))).Add(by.Shift.metres())
				if got := to.Point(v); got.Sub(want).Len() > 2e-3 {
					t.Fatalf("case %d, part %d: %v went to %v, not to %v", n, i, from.Point(v), got, want)
				}
			}
		}
	}
}

func TestAsOneHasEnds(t *testing.T) {
	s := lamp()
	for _, c := range []struct {
		begin Change
		by    Together
	}{
		{Change{Part: "Nobody", Scale: 1}, Together{Axis: "x", Scale: 1}},
		{Change{Part: "Base", Scale: 500}, Together{Axis: "x", Scale: 3}},
		{Change{Part: "Base", Scale: 1}, Together{Axis: "x", Scale: 1, Shift: Vector{X: 2e6}}},
	} {
		if got, err := AsOne(s, []Change{c.begin}, &c.by); err == nil {
			t.Errorf("%+v by %+v: %+v", c.begin, c.by, got)
		}
	}
	if got, err := AsOne(s, nil, &Together{Axis: "x", Scale: 1}); err != nil || len(got) != 0 {
		t.Errorf("nothing: %v, %v", got, err)
	}
}
