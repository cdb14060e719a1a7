package e2e

import (
	"regexp"
	"testing"
)

var lookAddress = regexp.MustCompile(`http://\S+/look#\S+`)

// A webhook to the stand-in is told that a proof was put up, refused twice and tried again; who
// has to answer gets mail, which stands in the outbox; a link is sent by mail and opened.
func TestWhatGoesOut(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo", "--gather", "0s")
	p := benchJob(t, s, "8")
	p.saved()
	p.run()
	p.state("done")
	s.send("POST", "/api/projects/1/people", `{"name":"Cora Pellam","role":"reviewer"}`)
	s.send("POST", "/api/projects/1/rounds", `{"kind":"clay","title":"Shape","due":"","needs":false,"asked":[2]}`)

	p.MustNavigate(s.url + "/project")
	p.fill("Mail address of Cora Pellam", "cora at client")
	p.see(".ant-message", "An address is written as")
	p.fill("Mail address of Cora Pellam", "cora@client.example")
	p.press(p.see(".ant-segmented-item-label", "Webhooks"))
	p.press(p.see("button", "New webhook"))
	p.press(p.see("button", "Use the stand-in"))
	p.press(p.see(".ant-modal-footer button:not(:disabled)", "Create webhook"))
	p.see("[data-testid=secret]", "^whsec_")
	p.press(p.find(".ant-modal-close"))
	p.press(p.see("button", "Refuse the next 2"))
	p.see("section", "refuses 2 more")

	p.MustNavigate(s.url + "/runs/1")
	putUp(p)
	p.MustNavigate(s.url + "/project?show=webhooks")
	p.see("article", "signature matches, answered 503")
	p.press(p.see("button", "Requests"))
	for range 2 { // each refusal is a wait that a press ends
		p.press(p.see("article button", "Try now"))
	}
	p.see("article", "signature matches, answered 204")
	p.press(p.see("section article button", "proof put up"))
	p.see("section pre", `"view": "Three-quarter"`)
	accessible("webhooks", axe(t), p)

	p.press(p.see(".ant-segmented-item-label", "Outbox"))
	p.see("p", "mail goes no further than this page")
	p.press(p.see("article button", "a picture waits for your answer"))
	p.see("article pre", "Lead put up Three-quarter, proof 1")
	accessible("the outbox", axe(t), p)

	s.send("POST", "/api/rounds/1/links", `{"person":2,"days":7,"originals":"none","mail":"en"}`)
	p.press(p.see("article button", "pictures to look at"))
	link := p.see("article pre", "/look#").MustText()
	hers := s.elsewhere("/")
	hers.MustNavigate(lookAddress.FindString(link))
	hers.see("button", "Look at the pictures")
}
