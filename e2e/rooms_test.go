package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"amberproof/internal/wait"
)

// benchJob uploads the bench scene and makes a small job of it; the page is the job's.
func benchJob(t *testing.T, s *site, most string) *page {
	t.Helper()
	p := s.page("/scenes")
	upload(t, p)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", most)
	return p
}

// Two windows on one ticket: what the other saved is put beside, nothing runs that
// is not on the screen, and either can be had.
func TestTwoWindowsOnOneTicket(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	mine := benchJob(t, s, "8")
	theirs := s.elsewhere("/jobs/1")
	theirs.press(theirs.see(".Docket_head", "View"))
	theirs.fill("Width", "120")
	theirs.saved()
	mine.fill("Most samples", "9")
	mine.see("[data-testid=differences]", "Most samples 9 spp, was 8 spp")
	mine.see("[data-testid=others]", "Width 120 px, was 96 px")
	if !mine.find("[data-testid=run]").MustProperty("disabled").Bool() {
		t.Error("a ticket that was changed elsewhere can be run")
	}
	mine.press(mine.see("button", "Take the saved one"))
	mine.see("[data-testid=run]", "120 × 72")
	mine.press(mine.see("button", "Undo"))
	mine.see("[data-testid=run]", "96 × 72")
	mine.saved()

	theirs.fill("Width", "140")
	theirs.see("[data-testid=differences]", "Width 140 px, was 120 px")
	theirs.press(theirs.see("button", "Save mine over it"))
	theirs.saved()
	theirs.see("[data-testid=run]", "140 × 72")
	theirs.run()
	theirs.state("done")
	var run struct{ Run struct{ Width int } }
	s.get("/api/runs/1", &run)
	if run.Run.Width != 140 {
		t.Errorf("it ran at %d", run.Run.Width)
	}
	// Leaving a page sends nothing again.
	var before, after struct{ Version int64 }
	s.get("/api/jobs/1", &before)
	theirs.press(theirs.see("a", "Jobs"))
	theirs.see("h1", "Jobs")
	theirs.frames(40)
	s.get("/api/jobs/1", &after)
	if before != after {
		t.Errorf("leaving made version %d of %d", after.Version, before.Version)
	}
}

// Who presses Run and leaves at once is not taken back by the answer; the run starts.
func TestLeavingRightAfterRun(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	p.saved()
	if err := s.cmd.Process.Signal(syscall.SIGSTOP); err != nil {
		t.Fatal(err)
	}
	p.fill("Most samples", "9")
	p.run()
	p.press(p.see("nav a", "Scenes")) // was visited, so nothing of it has to come
	p.see("h1", "Scenes")
	if err := s.cmd.Process.Signal(syscall.SIGCONT); err != nil {
		t.Fatal(err)
	}
	p.wait("the run to start", func() bool {
		var v struct{ Runs []struct{ State string } }
		s.get("/api/runs", &v)
		return len(v.Runs) == 1 && v.Runs[0].State == "done"
	})
	p.frames(40)
	if at := p.MustInfo().URL; !strings.HasSuffix(at, "/scenes") {
		t.Errorf("the page is %s", at)
	}
}

// The queue is ordered by keys, and its runs are cancelled and removed.
func TestOrderingTheQueue(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "60000")
	for n := 1; n <= 3; n++ {
		p.see("[data-testid=saved]", "^saved$")
		p.run()
		p.see(".bits_kept", fmt.Sprintf("^%d ·", n))
	}
	p.press(p.see("a", "Queue"))
	p.see(".bits_stamp", "worker 1: tile")
	p.press(p.find("[aria-label$='3 earlier']"))
	p.see(".QueuePage_waiting", " 3 ")
	var q struct {
		Runs []struct {
			Number int
			State  string
		}
	}
	wait.Until(t, "the queue to be ordered", func() bool {
		s.get("/api/queue", &q)
		return len(q.Runs) == 3 && q.Runs[1].Number == 3
	}, func() any { return q.Runs })
	p.press(p.see(".QueuePage_row:not(.QueuePage_waiting) button", "^Cancel$"))
	p.press(p.see("button", "Cancel the run"))
	p.see(".QueuePage_ended", "cancelled")
	p.press(p.find(".QueuePage_ended button[aria-label^='More for']"))
	p.press(p.see(".ant-dropdown-menu-item", "Remove"))
	p.press(p.see("button", "Remove it"))
	p.see("p", "Runs that have ended are listed here")
}

// Jobs and scenes are renamed, copied, put away and removed from their lists.
func TestListsAreKeptInOrder(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	benchJob(t, s, "4")
	p := s.page("/jobs")
	menu := func(of, item string) {
		p.press(p.find(fmt.Sprintf("button[aria-label='More for %s']", of)))
		p.press(p.see(".ant-dropdown:not(.ant-dropdown-hidden) .ant-dropdown-menu-item", item))
	}
	name := func(to, button string) {
		p.fill("Name", to)
		p.press(p.see(".ant-modal button", button))
	}
	menu("bench Three-quarter", "Rename")
	name("Erste Lampe ✓", "^Rename$")
	p.see("b", "Erste Lampe ✓")
	menu("Erste Lampe ✓", "Put away")
	p.see("p", "No job yet")
	p.press(p.see(".ant-segmented-item-label", "Put away"))
	p.see("b", "Erste Lampe ✓")
	menu("Erste Lampe ✓", "Take out again")
	p.see("p", "Nothing is put away")
	p.press(p.see(".ant-segmented-item-label", "At work"))
	menu("Erste Lampe ✓", "Copy")
	name("Zweite", "^Copy$")
	p.see(".Frame_where h1", "Zweite")
	p.press(p.see("a", "Scenes"))
	p.find("img[src*='picture.png']")
	p.press(p.find("button[aria-label='More for bench']"))
	p.find(".ant-dropdown-menu-item-disabled")
}

// What a ticket's section says can be kept and taken into another, by value.
func TestKeepingInTheLibrary(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "24")
	p.press(p.see("button", "Keep this one"))
	p.fill("Name", "Quick look")
	p.press(p.see(".ant-modal button", "^Keep$"))
	p.see(".ant-message", "Kept as Quick look, version 1")
	p.fill("Most samples", "48")
	p.saved()
	p.press(p.see("a", "Library"))
	p.see(".LibraryPage_row", "Quick look")
	p.see(".LibraryPage_row", "4 to 24 samples")

	// Of the same name for this project: another entry, which other projects do not see.
	p.MustNavigate(s.url + "/jobs/1")
	p.press(p.see(".Docket_head", "Quality"))
	p.press(p.see("button", "Keep this one"))
	p.fill("Name", "Quick look")
	p.press(p.see(".ant-radio-wrapper", "For First campaign only"))
	p.press(p.see(".ant-modal button", "^Keep$"))
	p.see(".ant-message", "Kept as Quick look, version 1")
	p.press(p.see("a", "Library"))
	p.see(".LibraryPage_row", "version 1, of this project")
	s.send("POST", "/api/projects", `{"name":"Second campaign"}`)
	p.MustReload()
	p.press(p.find("button[aria-label='Project First campaign']"))
	p.press(p.see(".ant-dropdown-menu-item", "Second campaign"))
	p.press(p.see("a", "Library"))
	p.see(".LibraryPage_row", "Quick look")
	if has, _, _ := p.HasR(".LibraryPage_row", "of this project"); has {
		t.Error("what one project keeps for itself stands in the library of another")
	}
}

// A delivered run is delivered anew under another name, without rendering.
func TestDeliveringAnewFromTheTicket(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	// A press right after the last change, while that is being saved, is not lost.
	p.find("input[aria-label=Width]").MustFocus().MustSelectAllText().MustInput("104")
	p.MustEval(`async () => {
		document.activeElement.blur();
		await new Promise((next) => setTimeout(next, 0));
		document.querySelector("[data-testid=run]").click();
	}`)
	p.state("done")
	if w := p.MustEval(`async () => (await (await fetch("/api/runs/1")).json()).run.width`).Int(); w != 104 {
		t.Errorf("the run is %d pixels wide; 104 were on the screen", w)
	}
	p.press(p.see(".Docket_head", "Output"))
	p.fill("File name", "second/{view}_{pass}")
	p.saved()
	// What a run would be is said line by line, and each opens on request.
	for line, inside := range map[string]string{
		"Since run 1, 1 change: File name": "File name second/.*, was ",
		"file.* of memory":                 "second/Three-quarter_.*exr",
	} {
		p.gone(".Fold_inside")
		p.press(p.see(".Fold_line[aria-expanded=false]", line))
		p.see(".Fold_inside", inside)
		p.press(p.see(".Fold_line[aria-expanded=true]", line))
	}
	p.gone(".Fold_inside")
	p.press(p.see("button", "Deliver run 1 anew"))
	p.see(".ant-message", "Delivered again")
	p.press(p.see("a", "Open the proof"))
	p.see(".ProofPage_delivered", "Delivery 2")
	p.see(".ProofPage_delivered", "Three-quarter_")
	p.see(".ProofPage_delivered a", "layers.exr")
}

// axe is the accessibility checker, shipped with the front end's tools.
func axe(t *testing.T) string {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("..", "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// accessible asks the accessibility checker about a page, which has nothing to say.
func accessible(what, script string, p *page) {
	p.t.Helper()
	// What is on its way from one colour to another is judged where it arrives: once nothing
	// has moved for a while, as on a busy machine it begins late.
	p.MustEval(`async () => {
		let still = 0;
		for (const end = Date.now() + 10000; still < 400 && Date.now() < end; still += 50) {
			if (document.getAnimations().some((a) => a.effect?.getComputedTiming().iterations !== Infinity)) still = 0;
			await new Promise((r) => setTimeout(r, 50));
		}
	}`)
	p.MustEval(`s => { (0, eval)(s); }`, script)
	raw := p.MustEval(`async () => JSON.stringify((await axe.run(document)).violations.map(v =>
		v.id + ": " + v.nodes.map(n => n.target.join(" ") + " " + n.html.slice(0, 160)).join(" | ")))`).Str()
	var found []string
	if err := json.Unmarshal([]byte(raw), &found); err != nil {
		p.t.Fatal(err)
	}
	for _, f := range found {
		p.t.Errorf("%s: %s", what, f)
	}
}

// No page has anything for the accessibility checker to say.
func TestEveryPageIsAccessible(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	script := axe(t)
	first := benchJob(t, s, "8")
	first.run()
	first.state("done")
	check := func(what string, p *page) { accessible(what, script, p) }
	for _, name := range []string{"View", "Stage", "Passes", "Output"} { // all open
		first.press(first.see(".Docket_head", name))
	}
	first.see(".Field_label", "File name")
	check("a job", first)
	for path, wait := range map[string][2]string{
		"/jobs": {"b", "bench"}, "/scenes": {"b", "bench"}, "/queue": {"b", "bench"}, "/library": {"b", "Proof"}, "/project": {"b", "Lead"},
		"/board":    {"p", "No round yet"},
		"/scenes/1": {"h2", "Preflight"}, "/runs/1": {".bits_stamp", "Beauty"},
	} {
		p := s.page(path)
		p.see(wait[0], wait[1])
		p.still()
		check(path, p)
	}
	// What is behind the tabs of a scene, and of a part that is picked.
	p := s.page("/scenes/1")
	p.tab("Stage")
	p.press(p.see("button", "Set up a stage"))
	p.press(p.see("[data-testid=stage-light]", "Key"))
	p.find("[data-testid=light]")
	p.find("canvas[data-live^='1/']")
	p.press(p.see(".LiveControls_controls button", "^Read-outs$"))
	p.press(p.see(".LiveControls_controls button", "Keep picture"))
	p.find(".KeptStrip_row button")
	check("the lights of a stage", p)
	for _, name := range []string{"Backdrop", "Surround", "Views", "File"} {
		p.press(p.see(".ant-segmented-item, .ant-tabs-tab", name))
		p.still()
		check(name, p)
	}
	p.press(p.see(".ant-tree-title", "Box"))
	p.press(p.see("button", "From the shelf"))
	p.press(p.find("button[aria-label='Copper, polished']"))
	p.press(p.see("[data-testid=finish]", "worn by"))
	p.still()
	check("a part and the shelf", p)
	p.saved()
}

// The first start of the demo renders pictures for its lists, and makes way at once.
func TestTheFirstHourShowsPictures(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir())
	p := s.page("/jobs")
	p.find(".JobsPage_row img[src*='/api/scenes/'], .JobsPage_row img[src*='/api/runs/']")
	p.press(p.see("a", "Queue"))
	p.see("[data-testid=run-line]", "in the background")
	var jobs struct {
		Jobs []struct {
			ID, Version int64
		}
	}
	s.get("/api/jobs", &jobs)
	r, err := http.Post(s.url+fmt.Sprintf("/api/jobs/%d/runs", jobs.Jobs[0].ID), "application/json",
		strings.NewReader(fmt.Sprintf(`{"version": %d}`, jobs.Jobs[0].Version)))
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	var q struct {
		Runs []struct {
			State      string
			Background bool
		}
	}
	if r.StatusCode != 200 {
		t.Fatalf("a run is not taken: %d", r.StatusCode)
	}
	wait.Until(t, "what is rendered for the lists to make way", func() bool {
		s.get("/api/queue", &q)
		return len(q.Runs) > 0 && q.Runs[0].State == "running" && !q.Runs[0].Background
	}, func() any { return q.Runs })
}
