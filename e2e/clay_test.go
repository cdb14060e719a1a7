package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A plan by size and group is made, a rule that another hides is told, its parts are lit
// up and say who decided them; only these, with crevices, it is rendered.
func TestAClayPlan(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 1"))
	p.fill("Group", "Small things")
	p.saved()
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "64", "4")
	p.press(p.see(".ant-segmented-item", "Clay"))
	p.see(".rules_hits", "0 parts") // nothing is clear
	p.press(p.see("button", "Add a rule"))
	p.option("Rule 2 matches by", "^size$")
	p.fill("Rule 2 smaller than", "200")
	p.see(".rules_hits", "2 parts")
	p.press(p.see("button", "Add a rule"))
	p.option("Rule 3 matches by", "^group$")
	p.fill("Rule 3 pattern", "small*")
	p.see(".rules_hits", "hidden")
	p.find("button[aria-label^='Move rule 3']").MustFocus()
	p.Keyboard.MustType(input.ArrowUp)
	p.see("button.rules_hits", "1 part")
	p.press(p.find("button[aria-label='Rule 2: show its 1 part']"))
	p.see(".bits_slug", "Box 1 keeps its finish: rule 2, group small")
	p.press(p.see(".ant-segmented-item", "Only these"))
	p.see(".bits_slug", "Box 1 wears the clay: rule 2")
	// Its own finishes for a moment, by a key; the ticket stays as it is.
	p.find("canvas[data-live^='1/']").MustEval(`() => document.activeElement.blur()`)
	if err := p.Keyboard.Type(input.KeyC); err != nil {
		t.Fatal(err)
	}
	p.see(".bits_slug", "in own finishes . live")
	p.press(p.see(".LiveControls_controls button[aria-pressed=true]", "Own finishes"))
	p.find(".LiveControls_controls button[aria-pressed=false]")
	// Keys are told, and single letters can be switched off.
	p.press(p.see("button", "^Keys$"))
	p.see(".Frame_keys", "Own finishes or clay")
	letters := p.find("[aria-label='Single-letter keys']")
	p.press(letters)
	p.find("[aria-label='Single-letter keys'][aria-checked=false]")
	if err := p.Keyboard.Type(input.KeyC); err != nil {
		t.Fatal(err)
	}
	p.frames(3)
	if p.MustHas(".LiveControls_controls button[aria-pressed=true]") {
		t.Error("a letter that is switched off acts")
	}
	p.press(letters)
	p.find("[aria-label='Single-letter keys'][aria-checked=true]")
	// While a dialog asks for something, letters rest.
	p.press(p.see("button", "Keep this one"))
	p.find(".ant-modal [role=dialog], [role=dialog].ant-modal")
	p.find(".ant-modal").MustEval(`() => document.activeElement.blur()`)
	if err := p.Keyboard.Type(input.KeyC); err != nil {
		t.Fatal(err)
	}
	p.frames(3)
	if p.MustHas(".LiveControls_controls button[aria-pressed=true]") {
		t.Error("a letter acts behind a dialog")
	}
	p.press(p.see(".ant-modal button", "Cancel|Leave it|^No"))
	p.press(p.find("button[aria-label=Crevices]"))
	p.find("input[aria-label=Reach]")
	p.run()
	p.state("done")
	var run struct {
		Resolved struct {
			Ticket struct {
				Surface struct {
					Clay struct {
						Only     bool
						Crevices struct{ Tone, Reach float64 }
						Rules    []struct {
							By, Match string
							Below     float64
						}
					}
				}
			}
		}
	}
	s.get("/api/runs/1", &run)
	c := run.Resolved.Ticket.Surface.Clay
	if len(c.Rules) != 3 || c.Rules[1].By != "group" || c.Rules[2].Below != 200 || !c.Only || c.Crevices.Tone != 0.2 || c.Crevices.Reach <= 0 {
		t.Errorf("the plan is %+v", c)
	}
}
