package e2e

import (
	"sync/atomic"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// A proof is shown denoised, held against itself by wipe, and at less by a slider; the
// ticket switches it off.
func TestADenoisedProof(t *testing.T) {
	t.Parallel()
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
	p.see(".ant-select-content", "itself, plain")
	p.find("[role=slider][aria-label='Noise taken out']").MustFocus()
	p.Keyboard.MustType(input.ArrowLeft)
	p.find(".Desk_frame img[src*='beauty.denoised.png'][src*='amount=95']")
	p.press(p.see("button", "As the ticket says: 100 %"))
	p.find(".Desk_frame img[src*='beauty.denoised.png'][src*='amount=100']")
	// What takes long, or cannot be had, is told meanwhile.
	answer := make(chan struct{})
	var asked atomic.Int32
	hold := p.HijackRequests()
	hold.MustAdd("*side=0&*", func(h *rod.Hijack) {
		if asked.Add(1) == 1 {
			<-answer
			h.Response.Fail(proto.NetworkErrorReasonConnectionReset)
			return
		}
		h.ContinueRequest(&proto.FetchContinueRequest{})
	})
	go hold.Run()
	p.press(p.see(".ant-segmented-item", "Changed"))
	p.see(".Sheet_note", "Noise is being taken out")
	close(answer)
	p.see(".Sheet_note", "could not be had")
	p.press(p.see(".ant-segmented-item", "Denoised"))
	p.see(".bits_stamp", "Beauty denoised")
	p.press(p.see(".ant-segmented-item", "Changed"))
	p.find(".Desk_frame img[src*='beauty.doubt.png']")
	hold.MustStop()
	if p.MustHas(".Sheet_note") {
		t.Error("the picture is there, and words for its want still are")
	}
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
