package demo

import "slices"

// Round is an approval round of the demo, with what is put up in it and what the reviewer
// answers to that.
type Round struct {
	Kind, Title string
	Days        int // it is due in
	Needs       bool
	Note        string // to the reviewer
	Proofs      []RoundProof
}

// RoundProof is the small picture of a view, finished or in clay (own or clay), with what the
// reviewer remarks on a part of it, and the verdict with its words; none while it waits.
type RoundProof struct{ View, Surface, Part, Remark, Verdict, Words string }

// PlaceInRounds orders pictures, of views finished or in clay (own or clay), by the round that
// shows them first; those of none come last.
func PlaceInRounds(view, surface string) int {
	i := slices.IndexFunc(Rounds, func(r Round) bool {
		return slices.ContainsFunc(r.Proofs, func(p RoundProof) bool { return p.View == view && p.Surface == surface })
	})
	if i < 0 {
		return len(Rounds)
	}
	return i
}

// Rounds tell how far the demo's project is: the lantern's shape is agreed on with a remark,
// its light waits, and the shop window has to change.
var Rounds = []Round{
	{"clay", "Shape of the lantern", 2, false, "", []RoundProof{
		{"Hero three-quarter", "clay", "Bail", "A touch thicker, please; change it with the light.", "approved with remarks", "Agreed, but for the bail."},
		{"Front", "clay", "", "", "approved", ""},
	}},
	{"light", "Light on the lantern", 5, true,
		"This is the light we propose for all views of the lantern. Please look at the chimney and at the shadow on the floor.\n" +
			"Colours of the finishes come in the next round.", []RoundProof{{"Hero three-quarter", "own", "", "", "", ""}}},
	{"clay", "Shape of the shop window", 4, false, "", []RoundProof{
		{"Shop window", "clay", "Price card", "It floats in front of the shelf. Stand it on the glass, please.", "changes asked", "The price card has to stand."},
	}},
}
