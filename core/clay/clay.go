// Package clay decides who wears clay: an ordered list of keep rules says for
// each part whether it keeps its finish. Nothing in the scene is changed.
package clay

import (
	"math"
	"sync"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// By says what a rule looks at.
type By string

const (
	ByKind   By = "kind"   // one of Kinds
	ByName   By = "name"   // pattern over the part's name, its group or its place in the tree
	ByGroup  By = "group"  // pattern over the group it was put into
	ByFinish By = "finish" // pattern over the finish's name
	BySize   By = "size"   // smaller than a length
	ByParts  By = "parts"  // picked by hand
)

// Kinds are what parts can be by what they wear.
var Kinds = map[string]func(f *scene.Finish) bool{
	"clear":    func(f *scene.Finish) bool { return f.Clear() },
	"glowing":  func(f *scene.Finish) bool { return f.Glowing() },
	"mirror":   func(f *scene.Finish) bool { return f.MirrorLike() },
	"textured": func(f *scene.Finish) bool { return f.BaseTexture.Image >= 0 },
}

// Do is what happens to the parts a rule matches.
type Do string

const (
	Keep   Do = "keep"   // keeps its own finish
	Second Do = "second" // wears the second clay
	Third  Do = "third"  // wears the third clay
	Omit   Do = "omit"   // is left out of the picture
	Shadow Do = "shadow" // is left out, but for the shadow that its own finish throws
	Wear   Do = "wear"   // wears the clay: what happens without a rule
)

// Rule is one keep rule; the first that matches a part decides.
type Rule struct {
	By    By
	Match string
	Parts []string // keys of parts, for ByParts
	Below float64  // metres, for BySize: the longest side of the part's box
	Do    Do
}

// Plan is a clay override.
type Plan struct {
	Tone, SecondTone, ThirdTone float32 // reflectance, 0..1
	Roughness                   float32 // 1 is an ideal matte; below, a plastic of that roughness
	// CreviceTone is the reflectance of the first clay where it is closed in within
	// CreviceReach, metres; the others are darkened by as much. A reach of 0: none is.
	CreviceTone, CreviceReach float32
	// Tints are what the clays have in common with a colour, by clay: its hue, at the clay's
	// own reflectance. Zero: none, neutral.
	Tints [3]geom.Vec3
	Gloss Gloss
	// Only has the clay worn by those parts only that a rule would have keep their finish,
	// instead of by all but those.
	Only  bool
	Rules []Rule
}

// Gloss is a clear coat over the clays.
type Gloss struct {
	Amount    float32 // 0: none, to 1
	Roughness float32
}

// Decision is what a part wears and which rule said so (-1: none).
type Decision struct {
	Do   Do
	Rule int
}

// Resolve decides for every part. Lamps, the parts that stand for lights of
// the stage, always keep theirs.
func Resolve(s *scene.Scene, p *Plan, lamp func(part int) bool) []Decision {
	out := make([]Decision, len(s.Parts))
	hit := p.matcher(s)
	for i := range s.Parts {
		if lamp(i) {
			out[i] = Decision{Keep, -1}
			continue
		}
		out[i] = Decision{p.turned(Wear), -1}
		for k := range p.Rules {
			if hit(i, k) {
				out[i] = Decision{p.turned(p.Rules[k].Do), k}
				break
			}
		}
	}
	return out
}

// Uncovered are decisions by which parts that would wear clay keep their own finishes;
// covered tells which those are.
func Uncovered(decisions []Decision) (own []Decision, covered []bool) {
	own, covered = make([]Decision, len(decisions)), make([]bool, len(decisions))
	for i, d := range decisions {
		own[i] = d
		if d.Do == Wear || d.Do == Second || d.Do == Third {
			own[i].Do, covered[i] = Keep, true
		}
	}
	return own, covered
}

// turned is what a rule says, or no rule, in a plan that may be for only these.
func (p *Plan) turned(d Do) Do {
	switch {
	case p.Only && d == Keep:
		return Wear
	case p.Only && d == Wear:
		return Keep
	}
	return d
}

// Matches counts for each rule the parts that it matches, whether or not an earlier one
// decides them; lamps aside.
func Matches(s *scene.Scene, p *Plan, lamp func(part int) bool) []int {
	out := make([]int, len(p.Rules))
	hit := p.matcher(s)
	for i := range s.Parts {
		for k := range p.Rules {
			if !lamp(i) && hit(i, k) {
				out[k]++
			}
		}
	}
	return out
}

// matcher tells whether a rule matches a part of a scene.
func (p *Plan) matcher(s *scene.Scene) func(part, rule int) bool {
	keys, names := s.Keys(), s.Names()
	picked := make([]map[string]bool, len(p.Rules))
	for i, r := range p.Rules {
		picked[i] = map[string]bool{}
		for _, k := range r.Parts {
			picked[i][k] = true
		}
	}
	return func(part, rule int) bool {
		r := &p.Rules[rule]
		f := s.FinishOf(part)
		switch r.By {
		case ByKind:
			is := Kinds[r.Match]
			return is != nil && is(&f)
		case ByName:
			return names.Match(part, r.Match)
		case ByGroup:
			g := s.Parts[part].Group
			return g != "" && scene.Matches(r.Match, g)
		case ByFinish:
			return scene.Matches(r.Match, f.Name)
		case BySize:
			return float64(s.PartBounds(part).Size().Max()) < r.Below
		case ByParts:
			return picked[rule][keys[part]]
		}
		return false
	}
}

// Finish is a clay as a finish, matte or a plain plastic, under its gloss.
func (p *Plan) Finish(name string, base geom.Vec3) scene.Finish {
	f := scene.NewFinish(name)
	f.Base, f.Metallic, f.Roughness = base, 0, p.Roughness
	f.DoubleSided = true
	if p.Roughness >= 1 {
		f.IOR = 1
	}
	f.Clearcoat, f.ClearcoatRoughness = p.Gloss.Amount, p.Gloss.Roughness
	return f
}

// mostReflected is what no channel of a clay goes beyond: one that is of a hue cannot be
// as light as a neutral one.
const mostReflected = 0.98

// Base is the colour of a clay of a tone with a tint, or none.
func Base(tone float32, tint geom.Vec3) geom.Vec3 {
	l := colour.Luminance(tint)
	if l <= 0 {
		return geom.Splat(tone)
	}
	c := tint.Scale(tone / l)
	return geom.V(min(c.X, mostReflected), min(c.Y, mostReflected), min(c.Z, mostReflected))
}

// bare is a clay's override: its tone is that of the clay wherever it lies, and
// not tinted by colours that the mesh under it has at its vertices.
func bare(base geom.Vec3) optics.Override {
	return func(_ optics.Spot, s optics.Surface) optics.Surface {
		s.Base = base
		return s
	}
}

// hatched draws stripes across the parts that have no finish, as many over the length of each.
func hatched(s *scene.Scene) optics.Override {
	// Metres, by part. Parts are measured when the first is rendered: many pictures are only planned.
	pitch := sync.OnceValue(func() map[int]float32 {
		out := map[int]float32{}
		for i, p := range s.Parts {
			if p.Finish < 0 {
				out[i] = max(s.PartBounds(i).Size().Max()/stripes, 1e-6)
			}
		}
		return out
	})
	return func(at optics.Spot, f optics.Surface) optics.Surface {
		across := float64((at.P.X + at.P.Y + at.P.Z) / pitch()[at.Part])
		if across-math.Floor(across) < 0.5 {
			f.Base = f.Base.Scale(stripeTone)
		}
		return f
	}
}

const (
	stripes    = 12   // over the length of a part
	stripeTone = 0.25 // of what is between them
)

// crevice is how a clay of a colour is darkened where it is closed in, nil where it is not.
func (p *Plan) crevice(base geom.Vec3) *optics.Crevice {
	if p.CreviceReach <= 0 || p.Tone <= 0 {
		return nil
	}
	return &optics.Crevice{Tone: base.Scale(p.CreviceTone / p.Tone), Reach: p.CreviceReach}
}

// Outfit is what the parts of a picture wear.
type Outfit struct {
	Finishes  []scene.Finish
	Overrides []optics.Override // per finish; nil, or missing at the end, for none
	Crevices  []*optics.Crevice // per finish, as the overrides
	Wears     []int             // per part: its finish, or the mark for parts left out
	Absent    []bool            // per part: only its shadow is there; nil: of none
}

// Dress has each part of a picture wear its own finish, or what the plan's
// decisions say. left is the mark for parts left out.
func Dress(s *scene.Scene, p *Plan, decisions []Decision, left int) Outfit {
	var o Outfit
	o.Finishes = append(o.Finishes, s.Finishes...)
	missing := len(o.Finishes)
	o.Finishes = append(o.Finishes, scene.Missing())
	first := len(o.Finishes)
	o.Overrides = append(make([]optics.Override, missing), hatched(s))
	if p != nil {
		for k, tone := range []float32{p.Tone, p.SecondTone, p.ThirdTone} {
			c := Base(tone, p.Tints[k])
			o.Finishes = append(o.Finishes, p.Finish([]string{"clay", "second clay", "third clay"}[k], c))
			o.Overrides = append(o.Overrides, bare(c))
			o.Crevices = append(o.Crevices, p.crevice(c))
		}
		o.Crevices = append(make([]*optics.Crevice, first), o.Crevices...)
	}
	o.Wears = make([]int, len(s.Parts))
	for i, part := range s.Parts {
		own := part.Finish
		if own < 0 {
			own = missing
		}
		o.Wears[i] = own
		if p == nil {
			continue
		}
		switch decisions[i].Do {
		case Wear:
			o.Wears[i] = first
		case Second:
			o.Wears[i] = first + 1
		case Third:
			o.Wears[i] = first + 2
		case Omit:
			o.Wears[i] = left
		case Shadow:
			if o.Absent == nil {
				o.Absent = make([]bool, len(s.Parts))
			}
			o.Absent[i] = true
		}
	}
	return o
}
