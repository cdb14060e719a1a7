// Package clay decides who wears clay: an ordered list of keep rules says for
// each part whether it keeps its finish. Nothing in the scene is changed.
package clay

import (
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// By says what a rule looks at.
type By string

const (
	ByKind   By = "kind"   // "clear" or "glowing"
	ByName   By = "name"   // pattern over the part's place in the tree
	ByFinish By = "finish" // pattern over the finish's name
	ByParts  By = "parts"  // picked by hand
)

// Do is what happens to the parts a rule matches.
type Do string

const (
	Keep   Do = "keep"   // keeps its own finish
	Second Do = "second" // wears the second clay
	Omit   Do = "omit"   // is left out of the picture
	Wear   Do = "wear"   // wears the clay: what happens without a rule
)

// Rule is one keep rule; the first that matches a part decides.
type Rule struct {
	By    By
	Match string
	Parts []string // keys of parts, for ByParts
	Do    Do
}

// Plan is a clay override.
type Plan struct {
	Tone, SecondTone float32 // reflectance, 0..1
	Roughness        float32 // 1 is an ideal matte; below, a plastic of that roughness
	Rules            []Rule
}

// Decision is what a part wears and which rule said so (-1: none).
type Decision struct {
	Do   Do
	Rule int
}

// Resolve decides for every part. Lamps, the parts that stand for lights of
// the stage, always keep theirs.
func Resolve(s *scene.Scene, p *Plan, lamp func(part int) bool) []Decision {
	keys, names := s.Keys(), s.Names()
	picked := make([]map[string]bool, len(p.Rules))
	for i, r := range p.Rules {
		picked[i] = map[string]bool{}
		for _, k := range r.Parts {
			picked[i][k] = true
		}
	}
	out := make([]Decision, len(s.Parts))
	for i := range s.Parts {
		out[i] = Decision{Wear, -1}
		if lamp(i) {
			out[i].Do = Keep
			continue
		}
		f := s.FinishOf(i)
		for k, r := range p.Rules {
			var hit bool
			switch r.By {
			case ByKind:
				hit = r.Match == "clear" && f.Clear() || r.Match == "glowing" && f.Glowing()
			case ByName:
				hit = names.Match(i, r.Match)
			case ByFinish:
				hit = scene.Matches(r.Match, f.Name)
			case ByParts:
				hit = picked[k][keys[i]]
			}
			if hit {
				out[i] = Decision{r.Do, k}
				break
			}
		}
	}
	return out
}

// Finish is a clay as a finish: neutral, matte or a plain plastic.
func Finish(name string, tone, roughness float32) scene.Finish {
	f := scene.NewFinish(name)
	f.Base, f.Metallic, f.Roughness = geom.Splat(tone), 0, roughness
	f.DoubleSided = true
	if roughness >= 1 {
		f.IOR = 1
	}
	return f
}

// bare is a clay's override: its tone is that of the clay wherever it lies, and
// not tinted by colours that the mesh under it has at its vertices.
func bare(tone float32) optics.Override {
	return func(_ optics.Spot, s optics.Surface) optics.Surface {
		s.Base = geom.Splat(tone)
		return s
	}
}

// Outfit is what the parts of a picture wear.
type Outfit struct {
	Finishes  []scene.Finish
	Overrides []optics.Override // per finish; nil, or missing at the end, for none
	Wears     []int             // per part: its finish, or the mark for parts left out
}

// Dress has each part of a picture wear its own finish, or what the plan's
// decisions say. left is the mark for parts left out.
func Dress(s *scene.Scene, p *Plan, decisions []Decision, left int) Outfit {
	var o Outfit
	o.Finishes = append(o.Finishes, s.Finishes...)
	missing := len(o.Finishes)
	o.Finishes = append(o.Finishes, scene.Missing())
	first := len(o.Finishes)
	if p != nil {
		o.Finishes = append(o.Finishes, Finish("clay", p.Tone, p.Roughness), Finish("second clay", p.SecondTone, p.Roughness))
		o.Overrides = make([]optics.Override, len(o.Finishes))
		o.Overrides[first], o.Overrides[first+1] = bare(p.Tone), bare(p.SecondTone)
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
		case Omit:
			o.Wears[i] = left
		}
	}
	return o
}
