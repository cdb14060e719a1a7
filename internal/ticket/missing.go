package ticket

import (
	"fmt"
	"slices"

	"amberproof/core/clay"
	"amberproof/core/scene"
	"amberproof/internal/fault"
)

// Idle lists what a ticket says of parts and finishes that the scene has not:
// nothing that keeps it from being run, but what somebody meant to happen and
// will not. A ticket kept for several scenes may well have some.
func (t *Ticket) Idle(s *scene.Scene) []fault.Fault {
	out := []fault.Fault{}
	add := func(path, format string, a ...any) { out = append(out, fault.At(path, fmt.Sprintf(format, a...))) }
	lamp, names, keys := IsLamp(s), s.Names(), s.Keys()
	product := func(f func(part int) bool) bool {
		for i := range s.Parts {
			if !lamp(i) && f(i) {
				return true
			}
		}
		return false
	}
	for k, r := range t.Surface.Shapes {
		if !product(func(i int) bool { return names.Match(i, r.Match) }) {
			add(fmt.Sprintf("surface.shapes[%d].match", k), "No part of the scene matches %q; the rule does nothing", r.Match)
		}
	}
	p := t.Plan()
	if p == nil {
		return out
	}
	matches := clay.Matches(s, p, lamp)
	decides := make([]int, len(p.Rules))
	for _, d := range clay.Resolve(s, p, lamp) {
		if d.Rule >= 0 {
			decides[d.Rule]++
		}
	}
	for k, r := range p.Rules {
		at := fmt.Sprintf("surface.clay.rules[%d]", k)
		if matches[k] > 0 && decides[k] == 0 {
			add(at, "Rule %d decides nothing: all that it matches is decided by rules above it", k+1)
		}
		switch r.By {
		case clay.ByParts:
			for _, part := range r.Parts {
				if !slices.Contains(keys, part) {
					add(at+".parts", "The scene has no part %q", part)
				}
			}
		case clay.ByName:
			if !product(func(i int) bool { return names.Match(i, r.Match) }) {
				add(at+".match", "No part of the scene matches %q; the rule does nothing", r.Match)
			}
		case clay.ByGroup, clay.BySize: // of kinds, a plan for many scenes says what it has to
			if matches[k] == 0 {
				add(at+".match", "No part of the scene is what rule %d looks for; it does nothing", k+1)
			}
		case clay.ByFinish:
			if !product(func(i int) bool { return scene.Matches(r.Match, s.FinishName(i)) }) {
				add(at+".match", "No finish of the scene matches %q; the rule does nothing", r.Match)
			}
		}
	}
	return out
}
