package e2e

import (
	"net/http"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// send asks the server for a change, as whoever sits at this machine.
func (s *site) send(method, path, body string) {
	s.t.Helper()
	r, err := http.NewRequest(method, s.url+path, strings.NewReader(body))
	if err != nil {
		s.t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		s.t.Fatal(err)
	}
	resp.Body.Close()
	if resp.StatusCode >= 300 {
		s.t.Fatalf("%s %s: %d", method, path, resp.StatusCode)
	}
}

// benchForCora is the bench with a run that is done, and a reviewer in its project: person 2.
func benchForCora(t *testing.T) (*site, *page) {
	t.Helper()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	p.saved()
	p.run()
	p.state("done")
	s.send("POST", "/api/projects/1/people", `{"name":"Cora Pellam","role":"reviewer"}`)
	return s, p
}

// putUp puts the run on the page up in the open round.
func putUp(p *page) {
	p.t.Helper()
	p.press(p.see("button", "Put up for approval"))
	p.press(p.see(".ant-modal-footer button:not(:disabled)", "Put up")) // once the rounds are known
	p.see("figcaption", "now")
}

// A round from the board to its approval, between a lead and a reviewer in a browser of her
// own: changes are asked, a second proof is put up beside the first, and it is approved.
func TestARoundBetweenTwo(t *testing.T) {
	t.Parallel()
	s, p := benchForCora(t)

	p.press(p.see("a", "Board"))
	p.press(p.see("button", "New round"))
	who := p.find("input[aria-label='Who has to answer']").MustFocus()
	who.MustInput("Cora")
	p.press(p.see(".ant-select-item-option", "Cora Pellam, Reviewer"))
	p.press(p.see(".ant-modal-footer button", "Create round"))
	p.see("p", "will be asked")
	p.MustNavigate(s.url + "/runs/1")
	putUp(p)
	p.see("p", "has 1 to answer")

	hers := s.elsewhere("/rounds/1")
	hers.press(hers.see("button", "^Lead"))
	hers.press(hers.see("button", "Cora Pellam"))
	hers.see("table a", "Waiting")
	hers.MustNavigate(s.url + "/jobs/1") // a reviewer looks at tickets and does not change them
	hers.see("[data-testid=saved]", "view only")
	if !hers.find("[data-testid=run]").MustProperty("disabled").Bool() {
		t.Error("a reviewer can run jobs")
	}
	hers.press(hers.see("a", "Board"))
	hers.press(hers.see("table a", "Waiting"))
	if has, _, _ := hers.HasR("button", "Take down"); has {
		t.Error("a reviewer can take proofs down")
	}
	if !hers.see("button", "Ask for changes").MustProperty("disabled").Bool() {
		t.Error("changes can be asked for without words")
	}
	hers.find("textarea").MustFocus().MustInput("The box is too dark.")
	hers.press(hers.see("button", "Ask for changes"))
	hers.see("nav a", "Changes asked")
	p.see("nav a", "Changes asked") // it comes by itself
	p.see("section p", "The box is too dark.")

	p.MustNavigate(s.url + "/jobs/1")
	p.press(p.see(".Docket_head", "View"))
	p.fill("Exposure", "1")
	p.saved()
	p.run()
	p.see("main", "Three-quarter 2")
	p.MustNavigate(s.url + "/runs/2")
	putUp(p)
	p.see("figcaption", "Round 1, before")
	p.see("li", "Exposure 1 EV, was 0 EV")

	// She sees it come: what she looks at stays in front and takes no answer. She turns to it
	// and approves by keys alone.
	hers.see("figcaption", "superseded")
	hers.gone("section textarea")
	hers.press(hers.see("[aria-pressed=false]", "Waiting"))
	hers.see("button", "Approve")
	hers.see("li", "Exposure 1 EV")
	hers.see("button", "Approve").MustFocus()
	hers.Keyboard.MustType(input.Enter)
	hers.see("nav a", "Approved")
	hers.gone("section textarea")
	p.see("nav a", "Approved")

	// It stays when what it came of is gone.
	s.send("DELETE", "/api/jobs/1?delivered=true", "")
	p.MustReload()
	p.wait("the picture of the proof", func() bool {
		o, err := p.Eval(`() => [...document.querySelectorAll("figure img")].every((i) => i.naturalWidth >= 96)`)
		return err == nil && o.Value.Bool()
	})
	p.press(p.see("a", "Board"))
	p.see("table a", "Approved")
}

// A page of another project shows nothing of this one, and its people are told apart.
func TestTwoProjects(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	p.saved()
	p.press(p.find("button[aria-label='Project First campaign']"))
	p.press(p.see(".ant-dropdown-menu-item", "New project"))
	p.fill("Name", "Second campaign")
	p.press(p.see(".ant-modal-footer button", "Create project"))
	p.find("button[aria-label='Project Second campaign']")
	p.press(p.see("a", "Jobs"))
	p.see("p", "No job yet")
	p.MustNavigate(s.url + "/project")
	p.fill("Name of the new person", "Juno")
	p.press(p.see("button", "Take into the project"))
	p.see("b", "Juno")

	hers := s.elsewhere("/jobs/1")
	hers.press(hers.see("button", "^Lead"))
	hers.press(hers.see("button", "Juno"))
	hers.find("button[aria-label='Project Second campaign']")
	hers.MustNavigate(s.url + "/jobs/1")
	hers.see("div", "job 1: not found")
	hers.press(hers.see("a", "Scenes"))
	hers.see("p", "No scene yet")
}
