package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A proof is shown denoised, held against itself by wipe, and at less by a slider; the
// ticket switches it off.
func TestADenoisedProof(t *testing.T) {
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	p.run()
	p.state("done")
	p.see("[data-testid=slug]", "denoised 100 % to")
	p.press(p.see("a", "Open the proof"))
	p.find("[role=tab][aria-selected=true] img[src*='beauty.denoised']")
	p.see("[data-testid=denoised]", "Delivered at 100 %")
	p.see(".ProofPage_delivered a", "beauty.denoised.png")
	p.press(p.see(".ant-segmented-item-label", "Wipe"))
	p.find("[data-testid=over] img[src*='/beauty.png']")
	p.see(".ant-select-content", "itself, not denoised")
	p.find("[role=slider][aria-label='Noise taken out']").MustFocus()
	p.Keyboard.MustType(input.ArrowLeft)
	p.find(".Desk_frame img[src*='beauty.denoised.png'][src*='amount=95']")
	p.press(p.see("button", "As the ticket says: 100 %"))
	p.find(".Desk_frame img[src*='beauty.denoised.png'][src*='amount=100']")
	p.press(p.see("[role=tab]", "Beyond noise"))
	p.find(".Desk_frame img[src*='beauty.doubt.png']")
	p.press(p.see("a", "bench"))
	p.press(p.see(".Docket_head", "Quality"))
	p.press(p.find("button[aria-label='Denoise']"))
	p.saved()
	p.see(".JobPage_changed", "Denoise off, was on")
	p.run()
	p.see("[data-testid=slug]", "Three-quarter 2 ")
	p.state("done")
	p.press(p.see("a", "Open the proof"))
	p.see("h1", "Proof 2")
	p.find("[role=tab][aria-selected=true] img[src*='/beauty.png']")
}
