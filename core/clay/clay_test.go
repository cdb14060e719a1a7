package clay

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

func shop() *scene.Scene {
	s := &scene.Scene{Meshes: make([]scene.Mesh, 1)}
	glass := scene.NewFinish("Chimney glass")
	glass.Metallic, glass.Transmission = 0, 1
	flame := scene.NewFinish("Flame")
	flame.Emission = geom.Splat(9)
	s.Finishes = []scene.Finish{glass, flame, scene.NewFinish("Brass, satin")}
	s.Objects = []scene.Object{{Name: "Lantern", Parent: -1}, {Name: "Rivets", Parent: 0}}
	add := func(name string, object, finish int) {
		s.Parts = append(s.Parts, scene.Part{Name: name, Object: object, Finish: finish})
	}
	add("Chimney", 0, 0)
	add("Flame", 0, 1)
	add("Rivet", 1, 2)
	add("Rivet", 1, 2)
	add("Cap", 0, 2)
	add("Key panel", 0, 1)
	add("Bare", 0, -1)
	return s
}

func TestFirstMatchingRuleDecidesAndIsKnown(t *testing.T) {
	p := &Plan{Rules: []Rule{
		{By: ByKind, Match: "clear", Do: Keep},
		{By: ByParts, Parts: []string{"Rivet #2"}, Do: Omit},
		{By: ByName, Match: "*rivets*", Do: Second},
		{By: ByKind, Match: "glowing", Do: Keep},
		{By: ByFinish, Match: "brass*", Do: Keep},
	}}
	got := Resolve(shop(), p, func(i int) bool { return i == 5 })
	want := []Decision{{Keep, 0}, {Keep, 3}, {Second, 2}, {Omit, 1}, {Keep, 4}, {Keep, -1}, {Wear, -1}}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("part %d: got %v, want %v", i, got[i], want[i])
		}
	}
}

func TestDressLeavesTheSceneAlone(t *testing.T) {
	s := sized()
	p := &Plan{Tone: 0.6, SecondTone: 0.3, Roughness: 1,
		Rules: []Rule{{By: ByKind, Match: "clear", Do: Keep}, {By: ByName, Match: "cap", Do: Second}, {By: ByName, Match: "bare", Do: Omit}}}
	worn := Dress(s, p, Resolve(s, p, func(int) bool { return false }), -1)
	f, wears := worn.Finishes, worn.Wears
	if len(s.Finishes) != 3 || s.Parts[4].Finish != 2 {
		t.Fatal("the scene was changed")
	}
	if wears[0] != 0 || f[wears[1]].Name != "clay" || f[wears[4]].Name != "second clay" || wears[6] != -1 {
		t.Errorf("wears %v", wears)
	}
	if c := f[wears[1]]; c.Base != geom.Splat(0.6) || c.Glowing() {
		t.Errorf("clay %+v", c)
	}
	for i, want := range map[int]float32{wears[1]: 0.6, wears[4]: 0.3, wears[4] + 1: 0} {
		tinted := optics.NewSurface()
		tinted.Base = geom.V(0.5, 0.1, 0.9)
		if got := worn.Overrides[i](optics.Spot{}, tinted); got.Base != geom.Splat(want) {
			t.Errorf("over a mesh with colours the clay is %v, want %v", got.Base, want)
		}
	}
	own := Dress(s, nil, nil, -1)
	w := own.Wears
	if own.Finishes[w[6]].Name != "no finish" || w[4] != 2 {
		t.Errorf("own finishes: %v", w)
	}
	// What has no finish is striped: half of it dark, and as many stripes on it however large.
	for _, size := range []float32{1, 1000} {
		v := sized()
		v.Meshes[0].Positions = []geom.Vec3{{}, geom.V(0.2*size, 0, 0), geom.V(0, 0.1*size, 0)}
		over := Dress(v, nil, nil, -1).Overrides[w[6]]
		var dark, edges int
		was := false
		for i := range 1000 {
			s := optics.NewSurface()
			s.Base = geom.Splat(0.4)
			is := over(optics.Spot{P: geom.V(0.2*size*(float32(i)+0.5)/1000, 0, 0), Part: 6}, s).Base.X < 0.2
			if is {
				dark++
			}
			if is != was {
				edges++
			}
			was = is
		}
		if dark < 480 || dark > 520 || edges != 2*stripes {
			t.Errorf("%v times as large: %d of 1000 dark, %d edges", size, dark, edges)
		}
	}
}

// sized is the shop with meshes: rivets of 4 mm, and all else of 200.
func sized() *scene.Scene {
	s := shop()
	box := func(side float32) scene.Mesh {
		return scene.Mesh{Positions: []geom.Vec3{{}, geom.V(side, side/2, 0), geom.V(0, side/3, side/4)}, Indices: []uint32{0, 1, 2}}
	}
	s.Meshes = []scene.Mesh{box(0.2), box(0.004)}
	for i := range s.Objects {
		s.Objects[i].World = geom.Identity()
	}
	s.Parts[2].Mesh, s.Parts[3].Mesh = 1, 1
	s.Parts[3].Group, s.Parts[4].Group = "Hardware, small", "hardware, large"
	s.Finishes[2].Roughness = 0.2
	s.Finishes[0].BaseTexture.Image = 0
	return s
}

func TestWhatRulesMatch(t *testing.T) {
	none := func(int) bool { return false }
	for _, c := range []struct {
		rule Rule
		want []int
	}{
		{Rule{By: ByKind, Match: "clear"}, []int{0}},
		{Rule{By: ByKind, Match: "glowing"}, []int{1, 5}},
		{Rule{By: ByKind, Match: "mirror"}, []int{2, 3, 4}},
		{Rule{By: ByKind, Match: "textured"}, []int{0}},
		{Rule{By: ByKind, Match: "nonsense"}, nil},
		{Rule{By: ByGroup, Match: "hardware*"}, []int{3, 4}},
		{Rule{By: ByGroup, Match: "*"}, []int{3, 4}}, // parts without a group are in none
		{Rule{By: BySize, Below: 0.005}, []int{2, 3}},
		{Rule{By: BySize, Below: 0.004}, nil},
		{Rule{By: ByName, Match: "*small"}, []int{3}}, // by its group
	} {
		c.rule.Do = Third
		p := &Plan{Rules: []Rule{c.rule}}
		var got []int
		for i, d := range Resolve(sized(), p, none) {
			if d.Do == Third {
				got = append(got, i)
			}
		}
		if !slices.Equal(got, c.want) || Matches(sized(), p, none)[0] != len(c.want) {
			t.Errorf("%+v matches %v, want %v", c.rule, got, c.want)
		}
	}
}

// Whatever the rules: the first that matches decides; what it decides it matches; a plan
// for only these, turned twice, is what it was, and turned once it differs in just those
// parts that keep their finish or wear the clay; a rule put last changes no part that
// another decides.
func TestPlans(t *testing.T) {
	s := sized()
	none := func(int) bool { return false }
	r := rand.New(rand.NewPCG(5, 9))
	some := func() Rule {
		all := []Rule{
			{By: ByKind, Match: "clear"}, {By: ByKind, Match: "mirror"}, {By: ByKind, Match: "glowing"}, {By: ByName, Match: "*i*"}, {By: ByName, Match: "cap"},
			{By: ByGroup, Match: "*large"}, {By: ByFinish, Match: "brass*"}, {By: BySize, Below: 0.01}, {By: ByParts, Parts: []string{"Rivet #2", "Bare"}},
		}
		out := all[r.IntN(len(all))]
		out.Do = []Do{Keep, Second, Third, Omit}[r.IntN(4)]
		return out
	}
	for range 500 {
		p := &Plan{Only: r.IntN(2) == 0}
		for range r.IntN(5) {
			p.Rules = append(p.Rules, some())
		}
		got, matches := Resolve(s, p, none), Matches(s, p, none)
		decided := make([]int, len(p.Rules))
		for i, d := range got {
			for k := range p.Rules {
				alone := *p
				alone.Rules = p.Rules[k : k+1]
				if hit := Resolve(s, &alone, none)[i].Rule == 0; hit && (d.Rule < 0 || d.Rule > k) || !hit && d.Rule == k {
					t.Fatalf("part %d is decided by rule %d of %+v", i, d.Rule, p.Rules)
				}
			}
			if d.Rule >= 0 {
				decided[d.Rule]++
			}
		}
		for k := range decided {
			if decided[k] > matches[k] {
				t.Fatalf("rule %d decides %d parts and matches %d", k, decided[k], matches[k])
			}
		}
		turned := *p
		turned.Only = !p.Only
		for i, d := range Resolve(s, &turned, none) {
			if same := d.Do == got[i].Do; same != (d.Do != Keep && d.Do != Wear) || d.Rule != got[i].Rule {
				t.Fatalf("turned, part %d is %v, was %v", i, d, got[i])
			}
		}
		longer := *p
		longer.Rules = append(slices.Clone(p.Rules), some())
		for i, d := range Resolve(s, &longer, none) {
			if got[i].Rule >= 0 && d != got[i] {
				t.Fatalf("a rule put last changes part %d from %v to %v", i, got[i], d)
			}
		}
	}
}

// The reach that is proposed is half of how thick half of the parts are, or as wide as gaps
// that are narrower than that, in sensible bounds by the product's size.
func TestReach(t *testing.T) {
	none := func(int) bool { return false }
	block := func(x, y, z float32) scene.Mesh {
		return scene.Mesh{Positions: []geom.Vec3{{}, geom.V(x, 0, 0), geom.V(0, y, 0), geom.V(0, 0, z)}, Indices: []uint32{0, 1, 2, 0, 2, 3}}
	}
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 1e-6 {
			t.Errorf("%s is %g, want %g", what, got, want)
		}
	}
	s := &scene.Scene{Objects: []scene.Object{{Parent: -1, World: geom.Identity()}}}
	for i, m := range []scene.Mesh{block(0.2, 0.1, 0.3), block(0.2, 0.02, 0.2), block(0.02, 0.01, 0.2)} {
		s.Meshes = append(s.Meshes, m)
		s.Parts = append(s.Parts, scene.Part{Mesh: i, Finish: -1})
	}
	p := Reach(s, none) // they all touch
	near("the reach", p.Reach, 0.01)
	near("the thickness", p.Thick, 0.02)
	near("the gap", p.Gap, 0)
	for gap, reach := range map[float32]float64{0.015: 0.015, 0.005: 0.01, 0.3: 0.01} { // over it, not needed, and no crevice
		apart := *s
		apart.Objects = append(slices.Clone(s.Objects), scene.Object{Parent: -1, World: geom.Translate(geom.V(0, 0, -0.2-gap))})
		apart.Parts = slices.Clone(s.Parts[1:])
		apart.Parts[0].Object = 1
		apart.Meshes = slices.Clone(s.Meshes)
		apart.Meshes[2] = block(0.2, 0.02, 0.2)
		p := Reach(&apart, none)
		near("the gap", p.Gap, float64(gap))
		near("the reach over it", p.Reach, reach)
	}
	s.Parts = s.Parts[:1]
	r := float64(s.Focus(none).Radius())
	near("the reach of one block", Reach(s, none).Reach, r/8)
	if p := Reach(&scene.Scene{}, none); p.Thick != 0 || math.IsNaN(p.Reach) {
		t.Errorf("of nothing it is %+v", p)
	}
}

// A file that is read again with some of its parts renamed on the bench has the same plan:
// rules know parts by what they were called, and by what they are.
func TestPlansAfterRenaming(t *testing.T) {
	none := func(int) bool { return false }
	r := rand.New(rand.NewPCG(8, 2))
	p := &Plan{Rules: []Rule{
		{By: ByParts, Parts: []string{"Rivet #2", "Bare"}, Do: Omit}, {By: ByKind, Match: "clear", Do: Keep}, {By: ByName, Match: "rivet*", Do: Second},
		{By: BySize, Below: 0.001, Do: Omit}, {By: ByFinish, Match: "brass*", Do: Third},
	}}
	want := Resolve(sized(), p, none)
	for range 100 {
		s := sized()
		for i := range s.Parts {
			if r.IntN(2) == 0 {
				s.Parts[i].Was, s.Parts[i].Name = s.Parts[i].Name, "Called otherwise"
			}
		}
		if got := Resolve(s, p, none); !slices.Equal(got, want) {
			t.Fatalf("renamed, it is %v, was %v", got, want)
		}
		if twice := Resolve(s, p, none); !slices.Equal(twice, want) {
			t.Fatalf("asked twice, it is %v", twice)
		}
	}
}

// Gloss is a coat over the clay; a tint keeps the clay's reflectance, as far as one of its
// hue can have that.
func TestGlossAndTint(t *testing.T) {
	s := shop()
	p := &Plan{Tone: 0.4, SecondTone: 0.2, ThirdTone: 0.9, Roughness: 1, CreviceTone: 0.1, CreviceReach: 0.01, Gloss: Gloss{Amount: 0.7, Roughness: 0.2}}
	p.Tints[0], p.Tints[2] = geom.V(0.6, 0.5, 0.2), geom.V(1, 0, 0)
	o := Dress(s, p, Resolve(s, p, func(int) bool { return false }), -1)
	first := o.Wears[0]
	for k, want := range []float32{0.4, 0.2, 0.2126 * mostReflected} {
		f := o.Finishes[first+k]
		if l := colour.Luminance(f.Base); math.Abs(float64(l-want)) > 1e-6 || f.Clearcoat != 0.7 || f.ClearcoatRoughness != 0.2 {
			t.Errorf("clay %d reflects %g, want %g; %+v", k, l, want, f.Clearcoat)
		}
	}
	if c := o.Crevices[first].Tone; math.Abs(float64(colour.Luminance(c)-0.1)) > 1e-6 || c.X <= c.Z {
		t.Errorf("its crevices are %v", c)
	}
}
