package e2e

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"amberproof/demo"
)

// dragOver drags over an element, in shares of its width and height.
func (p *page) dragOver(selector string, from, to [2]float64) {
	p.t.Helper()
	if _, err := p.Activate(); err != nil {
		p.fail(selector, err)
	}
	b := p.find(selector).MustShape().Box()
	at := func(q [2]float64) proto.Point {
		return proto.Point{X: b.X + q[0]*b.Width, Y: b.Y + q[1]*b.Height}
	}
	if err := p.Mouse.MoveTo(at(from)); err != nil {
		p.fail("drag", err)
	}
	p.Mouse.MustDown(proto.InputMouseButtonLeft)
	for i := range 4 {
		s := float64(i+1) / 4
		if err := p.Mouse.MoveTo(at([2]float64{from[0] + (to[0]-from[0])*s, from[1] + (to[1]-from[1])*s})); err != nil {
			p.fail("drag", err)
		}
	}
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
}

// A plan is made of what an area of the picture shows, its rules are put in order by
// dragging, it is kept, and taken for another scene with a list of what it matched.
func TestAPlanForAnotherScene(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0, 0)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "4")
	p.press(p.see(".ant-segmented-item", "^Clay$"))
	p.tab("Live")
	p.find("canvas[data-live^='1/']")
	p.press(p.see(".LiveControls_controls button", "^Read-outs$"))
	p.dragOver("canvas[data-live^='1/']", [2]float64{0.02, 0.02}, [2]float64{0.98, 0.98})
	rule := p.see("[data-testid=readouts] button", "A rule for the [2-4] parts in it")
	shown := strings.Split(*rule.MustAttribute("title"), "\n") // not all boxes are seen
	if !strings.HasPrefix(shown[len(shown)-1], "Box ") {
		t.Fatalf("the area shows %q", shown)
	}
	box := shown[len(shown)-1]
	p.press(rule)
	p.see("button.rules_hits", fmt.Sprintf("%d parts", len(shown))) // the first now, by hand
	p.press(p.see("button", "Add a rule"))
	p.fill("Rule 3 pattern", strings.ToLower(box))
	p.see(".rules_hits", "hidden")
	p.option("Rule 3 then", "second clay")
	from := p.find("button[aria-label^='Move rule 3']").MustShape().Box()
	to := p.find("button[aria-label^='Move rule 1']").MustShape().Box()
	if err := p.Mouse.MoveTo(proto.Point{X: from.X + 5, Y: from.Y + 5}); err != nil {
		t.Fatal(err)
	}
	p.Mouse.MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(to.X+5, to.Y+12)
	p.Mouse.MustMoveTo(to.X+5, to.Y+5)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	p.see("button.rules_hits", "1 part")
	p.see("button.rules_hits", fmt.Sprintf("%d part", len(shown)-1))
	p.find("button[aria-label='Rule 1: show its 1 part']")
	p.saved()
	p.press(p.see("button", "Keep this one"))
	p.fill("Name", "Round one")
	p.press(p.see(".ant-modal button", "^Keep$"))
	p.see(".ant-message", "Kept as Round one")

	q := s.page("/scenes")
	file := boxes(t, 0)
	q.find("[data-testid=files]").MustSetFiles(file, filepath.Join(filepath.Dir(file), "boxes.mtl"))
	q.press(q.see("button", "Make a job for this scene"))
	q.press(q.see(".ant-segmented-item", "^Clay$"))
	q.option("Take a kept clay plan", "Round one, version 1")
	q.see("[aria-label='What the plan matched'] li", "1, name "+strings.ToLower(box))
	if box != "Box 1" { // the only one that is there
		q.see("[aria-label='What the plan matched'] li", "1, name .*: nothing here")
		q.see("[aria-label='What the plan matched'] li", "2, by hand: .*; not here: .*"+box)
	}
	q.saved()
}

// The light that clay would take is told before a run; a part that takes it is kept by one
// press, and then there is nothing more to tell.
func TestBlockedLightIsForetold(t *testing.T) {
	t.Parallel()
	s, p := demoJob(t, demo.VitrineFile, demo.Vitrine)
	small(p, "96", "4")
	p.press(p.see(".ant-segmented-item", "^Clay$"))
	p.saved()
	p.press(p.find("button[aria-label='Remove rule 1']"))
	p.see("[aria-label='Light that clay would block']", "Pane: .* of Sun on")
	p.press(p.find("button[aria-label='Keep Pane']"))
	p.wait("all that blocks light to be kept", func() bool { // some takes too little to be told
		if has, e, _ := p.Has("button[aria-label^='Keep ']"); has {
			p.press(e)
		}
		has, _, err := p.Has("[aria-label='Light that clay would block']")
		return err == nil && !has
	})
	p.saved()
	p.gone("[aria-label='Light that clay would block']")
	var job struct {
		Ticket struct {
			Surface struct {
				Clay struct{ Rules []struct{ Parts []string } }
			}
		}
	}
	s.get("/api/jobs/1", &job)
	if r := job.Ticket.Surface.Clay.Rules; len(r) != 1 || len(r[0].Parts) < 1 || r[0].Parts[0] != "Pane" {
		t.Errorf("rules %+v", r)
	}
}

// Finished and in clay in one run, with lines and the light without its colour: both are
// passes of it, compared by one press, and switched by a key.
func TestFinishedAndInClayInOneRun(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	upload(t, p)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "8")
	p.press(p.see(".ant-segmented-item", "^Both$"))
	p.press(p.see(".Docket_head", "Passes")) // with much to share
	p.press(p.find("button[aria-label='Ambient occlusion']"))
	p.fill("Samples", "32")
	p.press(p.find("button[aria-label='Edge lines']"))
	p.find("input[aria-label='Weight']")
	p.option("Light of the round", "^Without colour$")
	p.see(".Docket_head", "Finished and clay")
	p.press(p.see("button", "Glossy"))
	p.find("input[aria-label='Of roughness']")
	p.saved()
	p.see("[data-testid=run]", "finished and in clay")
	if over := p.MustEval(`() => {
		const run = document.querySelector("[data-testid=run]");
		const long = run.cloneNode(true);
		long.textContent = "Run Left side of the base from above finished and in clay at 1600 × 1600";
		run.after(long);
		const over = long.getBoundingClientRect().right - long.closest("section").getBoundingClientRect().right;
		long.remove();
		return over;
	}`).Num(); over > 0 {
		t.Errorf("the button of a long sentence stands %.0f pixels out of the ticket", over)
	}
	p.run()
	p.state("done")
	p.see("[data-testid=cast]", "cast 0.0 of 255, 0 at worst")
	p.see("[aria-label='Kept proofs of this job'] button", "1 · finished")
	p.press(p.see("[aria-label='Kept proofs of this job'] button", "1 · clay"))
	p.find("[data-testid=picture][src*='/clay']")
	p.press(p.see("button", "^In own finishes$"))
	p.find("[data-testid=picture][src*='/beauty']")
	p.press(p.see("a", "Open the proof"))
	p.see("[data-testid=both-saved]", "less than a run of each")
	p.press(p.see("button", "Finished against clay"))
	p.find("[data-testid=over] img[src*='/clay']")
	p.see(".bits_stamp", "^Beauty")
	p.find("[data-testid=over]").MustEval(`() => document.activeElement.blur()`)
	if err := p.Keyboard.Type(input.KeyC); err != nil {
		t.Fatal(err)
	}
	p.see(".bits_stamp", "^Clay")
	p.find("[data-testid=over] img[src*='/beauty']")
	var run struct {
		Passes []struct{ Key string }
		Saved  *struct{ Percent float64 }
	}
	s.get("/api/runs/1", &run)
	keys := map[string]bool{}
	for _, k := range run.Passes {
		keys[k.Key] = true
	}
	if !keys["beauty"] || !keys["clay"] || !keys["clay.denoised"] || run.Saved == nil || run.Saved.Percent <= 0 || run.Saved.Percent > 60 {
		t.Errorf("passes %v, saved %+v", keys, run.Saved)
	}
}
