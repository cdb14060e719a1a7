package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"

	"amberproof/core/imageio"
	"amberproof/demo"
)

// The demo's lantern with its bail falling back, on a floor that catches
// shadows, with its rivets subdivided: chosen in the ticket, told beforehand, and
// in the file.
func TestAMomentOfAnAnimationOverCaughtShadows(t *testing.T) {
	t.Parallel()
	s, p := demoJob(t, demo.SceneFile, demo.Scene)
	small(p, "96", "8")
	choose := func(label, option string) {
		p.find("input[aria-label='" + label + "']").MustFocus()
		p.Keyboard.MustType(input.ArrowDown) // opens the list
		p.press(p.see(".ant-select-item-option-content", option))
	}
	choose("Animation", "Bail falls back")
	p.fill("Moment", "0.2")
	p.press(p.find("button[aria-label='Motion blur']"))
	p.fill("Shutter", "80")
	p.press(p.see(".Docket_head", "Stage"))
	p.press(p.find("button[aria-label='Catch shadows']"))
	p.see(".Docket_line", "floor catches shadows")
	floor := p.find("input[aria-label='Floor']")
	floor.MustFocus().MustInput("carpet")
	p.see(".bits_notice", "No part matches")
	floor.MustSelectAllText().MustInput("Backdrop").MustType(input.Escape)
	p.press(p.see("button", "Subdivide or smooth parts"))
	rule := p.find("input[aria-label='Shape rule 1 parts']")
	rule.MustFocus().MustSelectAllText().MustInput("*rivet*").MustType(input.Escape)
	p.see(".rules_shape .rules_hits", "12 parts")
	p.press(p.see(".Docket_head", "Passes"))
	p.press(p.find("button[aria-label='Caught shadow']"))
	p.press(p.find("button[aria-label='Motion vectors']"))
	p.saved()
	p.run()
	p.state("done")
	p.press(p.see("a", "Open the proof"))
	p.press(p.see("[role=tab]", "Caught shadow"))
	e, err := imageio.ReadEXR(s.bytes(*p.see(".ProofPage_delivered a", "layers.exr").MustAttribute("href")), imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	most := func(name string) (m float32) {
		for _, v := range e.Channel(name).Data {
			m = max(m, v, -v)
		}
		return m
	}
	// The bail's top goes about a fifth of the frame's 72 lines; the lantern's foot shades the floor.
	if up, dark := most("motion.Y"), most("shadow.Y"); up < 2 || up > 40 || dark < 0.3 || dark > 1 {
		t.Errorf("it moves by %v lines, and the darkest shadow is %v", up, dark)
	}
}
