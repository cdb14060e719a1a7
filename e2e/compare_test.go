package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// shown waits until all tiles of the pictures are there.
func (p *page) shown(n int) {
	p.t.Helper()
	p.wait("tiles of the pictures", func() bool {
		o, err := p.Eval(`(n) => {
			const all = [...document.querySelectorAll("figure [role=img]")];
			return all.length === n && all.every((l) => l.querySelector("img") &&
				[...l.querySelectorAll("img")].every((i) => i.complete && i.naturalWidth > 0));
		}`, n)
		return err == nil && o.Value.Bool()
	})
}

// Proofs of different sizes are laid over each other by keys alone: side by side, wiped at an
// angle, flipped, taken off each other, in another exposure.
func TestComparing(t *testing.T) {
	t.Parallel()
	s, p := benchForCora(t)
	s.send("POST", "/api/projects/1/rounds", `{"kind":"clay","title":"Shape","due":"","needs":false,"asked":[]}`)
	p.MustNavigate(s.url + "/runs/1")
	putUp(p)
	p.shown(1)
	p.MustNavigate(s.url + "/jobs/1")
	p.press(p.see(".Docket_head", "View"))
	p.fill("Width", "300")
	p.saved()
	p.run()
	p.see("main", "Three-quarter 2")
	p.MustNavigate(s.url + "/runs/2")
	putUp(p)

	p.see("figcaption", "Round 1, before")
	p.shown(2)
	p.wait("both pictures, whatever is said under them, to lie beside the panel", func() bool {
		return p.MustEval(`() => {
			for (const e of document.querySelectorAll("figure .mono div")) e.textContent = e.textContent.padEnd(400, "_");
			const edge = document.querySelector("section[aria-label='About this round']").getBoundingClientRect().left;
			return [...document.querySelectorAll("figure")].every((f) => f.getBoundingClientRect().right <= edge + 1);
		}`).Bool()
	})
	p.Keyboard.MustType('w')
	p.find("[data-testid=over]")
	p.shown(2)
	p.find("[role=slider][aria-label=Wipe]").MustFocus()
	p.Keyboard.MustType(input.ArrowRight)
	p.Keyboard.MustType(input.ArrowDown)
	p.find("[aria-valuetext='51 %, turned by 5°']")
	p.find("[data-testid=over][style*=polygon]")
	p.Keyboard.MustType('f')
	p.see("figcaption", "Round 1, before")
	p.shown(1)
	p.Keyboard.MustType('f')
	p.see("figcaption", "Round 1, now")
	p.Keyboard.MustType('x')
	p.find("figure [role=img][aria-label^='Difference of'] img[src*='less=1'][src*='gain=4']")
	p.press(p.see("[aria-label='Gain of the difference'] .ant-segmented-item-label", "× 16"))
	p.find("figure img[src*='gain=16']")
	p.shown(1)
	p.press(p.find("[aria-label='Exposure, lighter']"))
	p.find("figure img[src*='ev=0.5']")
	p.shown(1)

	// A third: of any round, each in an exposure of its own.
	with := p.find("input[aria-label='Compare with']").MustFocus()
	with.MustInput("proof 1")
	p.press(p.see(".ant-select-item-option", "proof 1"))
	p.Keyboard.MustType(input.Escape)
	p.press(p.see(".ant-segmented-item-label", "Side by side"))
	p.see("figcaption", "Round 1, Three-quarter, proof 1")
	p.press(p.see("label", "each its own"))
	p.press(p.find("figure [aria-label$=', lighter']"))
	p.find("figure img[src*='ev=1&']")
	p.find("figure img[src*='ev=0.5&']")
	p.shown(2)
	accessible("comparing", axe(t), p)
	p.press(p.see("button", "Hide the panel"))
	p.wait("the panel to be hidden", func() bool {
		seen, err := p.find("section[aria-label='About this round']").Visible()
		return err == nil && !seen
	})
}

// A remark about a setting is offered on the page of the job once that setting is changed, and
// settled there.
func TestARemarkAboutASetting(t *testing.T) {
	t.Parallel()
	s, p := benchForCora(t)
	s.send("POST", "/api/projects/1/rounds", `{"kind":"light","title":"Light","due":"","needs":false,"asked":[2]}`)
	p.MustNavigate(s.url + "/rounds/1")
	p.press(p.see("button", "Put up pictures"))
	p.press(p.see(".ant-modal-footer button:not(:disabled)", "Put up 1 picture"))
	p.see("figcaption", "now")
	p.press(p.see("button", "^Remark$"))
	p.find("[data-testid=mark-here]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	topic := p.find("input[aria-label='Setting it is about']").MustFocus()
	topic.MustInput("exposure")
	p.press(p.see(".ant-select-item-option", "^Exposure$"))
	p.find("textarea[aria-label='Words of the remark']").MustFocus().MustInput("Half a stop lighter.")
	p.press(p.see("button", "Add remark"))
	p.see("article", "Half a stop lighter.")

	p.MustNavigate(s.url + "/jobs/1")
	p.press(p.see("[data-testid=wanted] button", "1 open remark on settings"))
	p.see("[data-testid=wanted]", "Half a stop lighter.")
	p.press(p.see(".Docket_head", "View"))
	p.fill("Exposure", "0.5")
	p.saved()
	p.see("[data-testid=wanted]", "Exposure 0.5 EV, was 0 EV")
	accessible("a remark about a setting", axe(t), p)
	p.press(p.see("[data-testid=wanted] button", "^Done$"))
	p.gone("[data-testid=wanted] p")
}
