package ticket

import (
	"strings"
	"testing"
)

func TestRulesThatDoNothingAreTold(t *testing.T) {
	s := lantern()
	d := New()
	d.Surface.Mode = "clay"
	d.Surface.Shapes = []ShapeRule{{Match: "cap*"}, {Match: "globe*"}}
	d.Surface.Clay.Rules = []KeepRule{
		{By: "name", Match: "Cap"}, {By: "name", Match: "Chimney"}, {By: "finish", Match: "bras?"}, {By: "finish", Match: "Key light"},
		{By: "parts", Parts: []string{"Cap", "Gone"}},
	}
	var got []string
	for _, f := range d.Idle(s) {
		got = append(got, f.Path)
	}
	// The third and the fifth match the cap, which the first decides.
	want := "surface.shapes[1].match surface.clay.rules[1].match surface.clay.rules[2] surface.clay.rules[3].match " +
		"surface.clay.rules[4] surface.clay.rules[4].parts"
	if g := strings.Join(got, " "); g != want {
		t.Errorf("got  %s\nwant %s", g, want)
	}
	d.Surface.Mode = "own"
	if n := len(d.Idle(s)); n != 1 {
		t.Errorf("%d of a clay plan that is off", n-1)
	}
}
