package e2e

import (
	"bytes"
	"compress/gzip"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// linkFor makes a link for who is asked in the round on the page, and tells its address.
func linkFor(p *page) string {
	p.t.Helper()
	p.press(p.see("button", "New link"))
	p.press(p.see(".ant-modal-footer button", "Create link"))
	link := p.see("[data-testid=link]", "/look#").MustText()
	p.press(p.see(".ant-modal-footer button", "Cancel"))
	return link
}

// asGuest opens a link in a browser of its own, at the size of a phone.
func (s *site) asGuest(link string) *page {
	s.t.Helper()
	_, path, _ := strings.Cut(link, "/look#")
	g := s.elsewhere("/look#" + path)
	g.MustSetViewport(390, 844, 1, true)
	g.see("button", "Look at the pictures")
	g.find("input").MustSelectAllText().MustInput("Cora of the client")
	g.press(g.see("button", "Look at the pictures"))
	g.see("h2", "Your answer")
	return g
}

// A client without an account looks at a round by a link, remarks on a place, asks for changes
// and approves in the next round, where the remark is still at its place. A link that was ended
// shows nothing any more.
func TestAClientByLink(t *testing.T) {
	t.Parallel()
	s, p := benchForCora(t)
	for _, title := range []string{"Shape", "Shape again"} {
		s.send("POST", "/api/projects/1/rounds", `{"kind":"clay","title":"`+title+`","due":"","needs":false,"asked":[2]}`)
	}
	p.MustNavigate(s.url + "/runs/1")
	putUp(p)
	first := linkFor(p)

	script := axe(t)
	g := s.asGuest(first)
	accessible("the page of a link", script, g)
	g.press(g.see("button", "Remark on a place"))
	accessible("the page of a link, drawing", script, g)
	g.find("[data-testid=mark-here]").MustClick()
	g.find(".fresh textarea").MustInput("Softer edges, please.")
	g.press(g.see("button", "Add remark"))
	g.see("article p", "Softer edges")
	p.see(".ant-segmented-item", "Remarks, 1 open") // it comes by itself
	p.press(p.see(".ant-segmented-item", "Remarks, 1 open"))
	p.press(p.see("article button", "Box"))
	p.find("textarea[aria-label='Answer to remark 1']").MustInput("With the next proof.")
	p.press(p.see("article button", "^Answer"))
	g.press(g.see("article button", "Box"))
	g.see("article p", "With the next proof.")
	g.find("textarea[aria-label='Words with your answer']").MustInput("But for the edges, yes.")
	g.press(g.see("button", "Ask for changes"))
	g.see("section p", "You said: changes asked")
	p.see("nav a", "Changes asked")

	// A note of the team is the team's.
	p.MustEval(`() => document.activeElement.blur()`)
	p.Keyboard.MustType('r')
	p.find("[data-testid=mark-here]").MustFocus()
	p.Keyboard.MustType(input.ArrowLeft, input.Enter)
	p.find("textarea[aria-label='Words of the remark']").MustInput("Ask for a day more.")
	p.press(p.see("button", "Add remark"))
	p.see("article p", "Ask for a day more.")
	accessible("remarks", script, p)

	s.send("POST", "/api/rounds/2/proofs", `{"run":1,"passes":["beauty.denoised"]}`)
	p.MustNavigate(s.url + "/rounds/2?side=remarks")
	p.see("figcaption", "Round 2, now")
	p.find("button[aria-label='Remark 1, open']")
	p.press(p.see(".ant-segmented-item", "^Round$"))
	second := linkFor(p)
	h := s.asGuest(second)
	h.see("article p", "Softer edges")
	h.see("article button", "from round 1")
	h.press(h.see("button", "Side by side"))
	h.see("figcaption", "Round 1, before")
	h.press(h.see("button", "Deutsch"))
	h.press(h.see("button", "Dieses Bild freigeben"))
	h.see("section p", "Sie sagten: freigegeben")
	p.see("nav a", "Approved")
	if said, err := h.Eval(`() => document.body.innerText`); err != nil || strings.Contains(said.Value.Str(), "day more") {
		t.Errorf("the team's note is seen by the client: %v", err)
	}

	p.press(p.see("button", "End link"))
	h.see("[role=alert]", "no longer good")
}

// enter types into a field until it has what was typed: a dialog that opens takes the focus away.
func (p *page) enter(selector, text string) {
	p.t.Helper()
	p.wait(selector+" to take what is typed", func() bool {
		if _, err := p.Activate(); err != nil {
			return false
		}
		e, err := p.Element(selector)
		if err != nil || e.SelectAllText() != nil || e.Input(text) != nil {
			return false
		}
		v, err := e.Property("value")
		return err == nil && v.Str() == text
	})
}

// The first password ends the open house; who is invited sets their own, and who did what is
// told.
func TestSigningIn(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	s.send("POST", "/api/projects/1/people", `{"name":"Cora Pellam","role":"reviewer"}`)
	p := s.page("/project")
	hers := s.elsewhere("/board")
	hers.see("button", "^Lead")
	p.press(p.see("button", "^Lead"))
	p.press(p.see("button", "Set the first password"))
	p.enter("input[type=password]", "short")
	p.press(p.see(".ant-modal-footer button:not(:disabled)", "Set password"))
	p.see("[role=alert]", "at least 10 letters")
	p.enter("input[type=password]", "a lamp in the window")
	p.press(p.see(".ant-modal-footer button:not(:disabled)", "Set password"))
	hers.see("h1", "Sign in") // also who was here already
	accessible("signing in", axe(t), hers)
	hers.enter("input[autocomplete=username]", "Lead")
	hers.enter("input[autocomplete=current-password]", "a lamp in the door")
	hers.press(hers.see("button", "Sign in"))
	hers.see("[role=alert]", "name or the password is wrong")

	p.press(p.see("button", "Password link"))
	link := p.see("[data-testid=link]", "/invited#").MustText()
	_, token, _ := strings.Cut(link, "#")
	hers.MustNavigate(s.url + "/invited#" + token)
	hers.see("h1", "Welcome, Cora Pellam")
	hers.enter("input[type=password]", "under the blue stair")
	hers.press(hers.see("button", "Set password and sign in"))
	hers.see("button", "^Cora Pellam")
	hers.press(hers.see("button", "^Cora Pellam"))
	hers.press(hers.see("button", "Sign out"))
	hers.see("h1", "Sign in")

	p.MustNavigate(s.url + "/project?show=audit")
	p.see("div", "accept invitation")
	p.see("div", "set password")
	accessible("the audit trail", axe(t), p)
}

var linked = regexp.MustCompile(`assets/[^"]+\.(js|css)`)

// The page of who looks by a link comes in 150 kB, packed, scripts and styles together: it is
// opened over slow lines. What its scripts import besides is linked in the page.
func TestTheGuestsPageIsSmall(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	fetch := func(path string) string {
		t.Helper()
		r, err := http.NewRequest("GET", s.url+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Accept", "text/html,*/*")
		resp, err := http.DefaultClient.Do(r)
		if err != nil || resp.StatusCode != http.StatusOK {
			t.Fatal(path, err)
		}
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	page := fetch("/look")
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	parts := linked.FindAllString(page, -1)
	if len(parts) < 3 {
		t.Fatalf("the page links %v", parts)
	}
	for _, part := range parts {
		text := fetch("/" + part)
		if strings.HasSuffix(part, ".js") {
			for _, m := range regexp.MustCompile(`from"\./([^"]+\.js)"`).FindAllStringSubmatch(text, -1) {
				if !strings.Contains(page, m[1]) {
					t.Errorf("%s imports %s, which the page does not link", part, m[1])
				}
			}
		}
		if _, err := z.Write([]byte(text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if n := packed.Len(); n > 150_000 {
		t.Errorf("the page takes %d bytes", n)
	}
}
