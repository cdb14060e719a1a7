package e2e

import (
	"fmt"
	"math"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// staged is a scene as far as its stage goes.
type staged struct {
	Setup struct {
		Stage *struct {
			Radius   float64
			Card     bool
			Backdrop struct{ Kind string }
			Lights   []struct {
				Name, Held                            string
				Direction, Height, Distance, Strength float64
				Aim                                   struct{ X, Y, Z float64 }
			}
			Begins struct{ Exposure float64 }
		}
		Parts []struct {
			Part string
			Out  bool
		}
	}
	Lit []struct {
		Name    string
		At, Aim [3]float64
		Lux, EV float64
	}
}

func apart(a, b [3]float64) float64 {
	return math.Hypot(math.Hypot(a[0]-b[0], a[1]-b[1]), a[2]-b[2])
}

// option takes a choice of a drop-down list.
func (p *page) option(label, text string) {
	p.t.Helper()
	p.find(fmt.Sprintf("input[aria-label=%q]:not([disabled])",
		label)).MustEval(`() => this.closest(".ant-select")
		.querySelector(".ant-select-selector, .ant-select-content, input")
		.dispatchEvent(new MouseEvent("mousedown", { bubbles: true }))`)
	p.press(p.see(".ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option", text))
}

// onStage is a bench with a stage set up around its product, and the scene as it is saved.
func onStage(t *testing.T) (s *site, p *page, now func() staged) {
	t.Helper()
	s, p = onBench(t, 0, 0)
	now = func() (v staged) {
		p.saved()
		s.get("/api/scenes/1", &v)
		return v
	}
	p.tab("Stage")
	p.press(p.see("button", "Set up a stage"))
	p.see("[data-testid=stage-light]", "Key")
	v := now()
	if g := v.Setup.Stage; g == nil || g.Backdrop.Kind != "curved" || len(g.Lights) != 3 || len(v.Setup.Parts) != 1 ||
		v.Setup.Parts[0].Part != "Floor" || !v.Setup.Parts[0].Out {
		t.Fatalf("the set-up is %+v", v.Setup)
	}
	p.find("canvas[data-live^='1/']")
	return s, p, now
}

// A light of a stage is dragged and aimed, and stays aimed when it is moved; said in another
// unit it gives the same; three are changed at once; one is added and taken away again.
func TestLightsOfAStage(t *testing.T) {
	t.Parallel()
	_, p, now := onStage(t)
	v := now()

	// Dragged by its handle it goes around the product, and shines where it did.
	handle := p.see("button[title$='around the product']", "Key").MustShape().Box()
	x, y := handle.X+handle.Width/2, handle.Y+handle.Height/2
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	for k := range 6 {
		p.Mouse.MustMoveTo(x+20*float64(k+1), y+10*float64(k+1))
	}
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	w := now()
	a, b := v.Setup.Stage.Lights[0], w.Setup.Stage.Lights[0]
	if a.Direction == b.Direction && a.Height == b.Height || a.Distance != b.Distance || v.Lit[0].Aim != w.Lit[0].Aim || apart(v.Lit[0].At, w.Lit[0].At) < 0.01 {
		t.Errorf("dragged, it stood at %+v and stands at %+v", a, b)
	}

	// Aimed at what was clicked it stays where it is; moved it stays aimed.
	p.press(p.see("button", "Aim in the picture"))
	view := p.find("[data-testid=asking]").MustShape().Box()
	p.Mouse.MustMoveTo(view.X+view.Width*0.42, view.Y+view.Height*0.55).MustClick(proto.InputMouseButtonLeft)
	p.find("[data-testid=light]")
	aimed := now()
	if d := aimed.Lit[0]; apart(d.At, w.Lit[0].At) > 1e-6 || apart(d.Aim, w.Lit[0].Aim) < 1e-3 {
		t.Errorf("aimed, it is %+v, was %+v", d, w.Lit[0])
	}
	p.fill("Direction", "75")
	moved := now()
	if moved.Lit[0].Aim != aimed.Lit[0].Aim || apart(moved.Lit[0].At, aimed.Lit[0].At) < 0.01 || math.Abs(moved.Lit[0].Lux-3.4) > 1e-6 {
		t.Errorf("moved, it is %+v, was %+v", moved.Lit[0], aimed.Lit[0])
	}

	// Said in lumen it gives what it gave in lux.
	p.option("Strength is", "Power")
	power := now()
	if l := power.Setup.Stage.Lights[0]; l.Held != "power" || l.Strength == 3.4 || math.Abs(power.Lit[0].Lux-3.4) > 1e-3 {
		t.Errorf("in lumen it is %+v and gives %g lux", l, power.Lit[0].Lux)
	}
	p.option("Strength is", "Lux")

	// All three at once, which differ.
	if err := p.Keyboard.Press(input.ControlLeft); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"Fill", "Rim"} {
		p.see("[data-testid=stage-light]", name).MustClick()
	}
	if err := p.Keyboard.Release(input.ControlLeft); err != nil {
		t.Fatal(err)
	}
	if hint := p.find("input[aria-label=Strength]").MustAttribute("placeholder"); hint == nil || *hint != "mixed" {
		t.Errorf("where they differ the field says %v", hint)
	}
	p.fill("Strength", "1.5")
	for _, l := range now().Lit {
		if math.Abs(l.Lux-1.5) > 1e-6 || math.Abs(l.EV) > 1e-6 {
			t.Errorf("%s gives %g lux, %g EV", l.Name, l.Lux, l.EV)
		}
	}

	// One more, made here, and taken away again.
	p.option("Add a light", "^spot$")
	p.see("[data-testid=stage-light]", "Light")
	if l := now().Lit; len(l) != 4 || l[3].Name != "Light" || math.Abs(l[3].Lux-2) > 1e-6 {
		t.Errorf("with a spot more the lights are %+v", l)
	}
	p.press(p.see("button", "^Remove$"))
	if l := now().Lit; len(l) != 3 {
		t.Errorf("without it there are %d", len(l))
	}
}

// Lights shine alone, in live pictures only, by buttons and by keys.
func TestLightsAlone(t *testing.T) {
	t.Parallel()
	_, p, _ := onStage(t)
	// The fill alone, and all again.
	p.press(p.find("button[aria-label='Fill alone']"))
	p.find("button[aria-label='Fill alone'][aria-pressed=true]")
	p.find("button[aria-label='Key alone'][aria-pressed=false]")
	p.press(p.see("button", "All lights again"))
	// The same by keys: without what is picked, only that, and every light.
	p.see("[data-testid=stage-light]", "Fill").MustClick() // which takes the focus out of fields
	for _, c := range []struct {
		key        input.Key
		fill, main string
	}{{input.KeyW, "false", "true"}, {input.KeyO, "true", "false"}} {
		if err := p.Keyboard.Type(c.key); err != nil {
			t.Fatal(err)
		}
		p.find("button[aria-label='Fill alone'][aria-pressed=" + c.fill + "]")
		p.find("button[aria-label='Key alone'][aria-pressed=" + c.main + "]")
	}
	if err := p.Keyboard.Type(input.KeyE); err != nil {
		t.Fatal(err)
	}
	p.find("button[aria-label='Fill alone'][aria-pressed=false]")
}

// A stage that is removed while its exposure is still being measured stays removed.
func TestAStageRemovedAmidMeasuring(t *testing.T) {
	t.Parallel()
	s, p, now := onStage(t)
	p.press(p.see(".ant-segmented-item", "Surround"))
	p.press(p.see("button", "Measure exposure from a grey"))
	view := p.find("[data-testid=asking]").MustShape().Box()
	if err := s.cmd.Process.Signal(syscall.SIGSTOP); err != nil {
		t.Fatal(err)
	}
	p.Mouse.MustMoveTo(view.X+view.Width*0.5, view.Y+view.Height*0.6).MustClick(proto.InputMouseButtonLeft)
	p.press(p.see("button", "Remove the stage"))
	if err := s.cmd.Process.Signal(syscall.SIGCONT); err != nil {
		t.Fatal(err)
	}
	if g := now().Setup.Stage; g != nil {
		t.Errorf("the stage is back: %+v", g)
	}
}

// A stage's exposure is measured, and it is kept: it stands around another product at that
// one's size, and a run has it.
func TestAStage(t *testing.T) {
	t.Parallel()
	s, p, now := onStage(t)
	// Exposure by the grey card: it is shown mid grey then, wherever it stood, even if another
	// picture is asked for while what was clicked is still being measured.
	p.press(p.find("button[aria-label='Grey card']"))
	p.press(p.see(".ant-segmented-item", "Surround"))
	p.saved()
	p.find("canvas[data-live^='1/']")
	p.press(p.see("button", "Measure exposure from a grey"))
	view := p.find("[data-testid=asking]").MustShape().Box()
	if err := s.cmd.Process.Signal(syscall.SIGSTOP); err != nil {
		t.Fatal(err)
	}
	p.Mouse.MustMoveTo(view.X+view.Width*0.5, view.Y+view.Height*0.6).MustClick(proto.InputMouseButtonLeft)
	p.Mouse.MustScroll(0, 20)
	if err := s.cmd.Process.Signal(syscall.SIGCONT); err != nil {
		t.Fatal(err)
	}
	p.wait("the exposure by the card", func() bool {
		g := now().Setup.Stage
		return g.Card && g.Begins.Exposure != 0
	})

	p.press(p.see("button", "Keep this stage"))
	p.fill("Name", "Three panels")
	p.press(p.see(".ant-modal button", "^Keep$"))
	p.see(".ant-message", "Kept as Three panels, version 1")
	if png := s.bytes("/api/library/stage/three_panels/1/picture.png"); len(png) < 1000 || string(png[1:4]) != "PNG" {
		t.Errorf("its picture has %d bytes", len(png))
	}

	// A second product, lower and wider.
	q := s.page("/scenes")
	file := boxes(t, 0, 0, 0, 0)
	q.find("[data-testid=files]").MustSetFiles(file, filepath.Join(filepath.Dir(file), "boxes.mtl"))
	q.tab("Stage")
	q.option("Take a kept stage", "Three panels")
	q.see("[data-testid=stage-light]", "Rim")
	q.saved()
	var second staged
	s.get("/api/scenes/2", &second)
	g, h := now().Setup.Stage, second.Setup.Stage
	if h == nil || h.Radius <= g.Radius*1.2 || math.Abs(h.Lights[1].Distance/g.Lights[1].Distance-h.Radius/g.Radius) > 1e-6 ||
		math.Abs(second.Lit[1].Lux-now().Lit[1].Lux) > 1e-6 {
		t.Errorf("around the second product the stage is %+v, was %+v", h, g)
	}
	if len(second.Setup.Parts) != 1 || !second.Setup.Parts[0].Out {
		t.Errorf("the floor of its file is still there: %+v", second.Setup.Parts)
	}

	// A job begins with the exposure; its run has the lights by value, and no card.
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "8")
	p.saved()
	p.run()
	p.state("done")
	var run struct {
		Resolved struct {
			Setup  struct{ Stage map[string]any }
			Ticket struct{ View struct{ Exposure float64 } }
		}
	}
	s.get("/api/runs/1", &run)
	if st := run.Resolved.Setup.Stage; st["card"] != false || st["begins"] != nil || len(st["lights"].([]any)) != 3 || run.Resolved.Ticket.View.Exposure == 0 {
		t.Errorf("the run has the stage %v at %g EV", st, run.Resolved.Ticket.View.Exposure)
	}
}

// A live picture is kept and shown again, compared with another, and its set-up taken
// again, which can be taken back.
func TestKeptLivePictures(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	keep := func(n int) {
		t.Helper()
		p.press(p.see(".LiveControls_controls button", "Keep picture"))
		p.find(fmt.Sprintf(".KeptStrip_row button:nth-child(%d)", n))
	}
	keep(1)
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.see("button", "Leave out"))
	p.see(".PartTree_mark", "left out")
	p.saved()
	keep(2)
	p.press(p.find(".KeptStrip_row button:nth-child(1)"))
	p.find("[data-testid=held] img")
	p.see(".bits_slug", "kept picture, not live")
	p.find(".KeptStrip_row button:nth-child(2)").MustEval(`() => this.dispatchEvent(new MouseEvent("click", { bubbles: true, shiftKey: true }))`)
	p.find("[data-testid=held] [aria-label=Wipe]")
	p.press(p.see("button", "Back to the live picture"))
	p.press(p.find(".KeptStrip_row button:nth-child(1)"))
	p.press(p.see("button", "Restore this set-up"))
	p.gone(".PartTree_mark")
	p.saved()
	parts := func() int {
		var v staged
		s.get("/api/scenes/1", &v)
		return len(v.Setup.Parts)
	}
	if n := parts(); n != 0 {
		t.Errorf("the set-up of before has %d parts", n)
	}
	p.press(p.see("button", "Undo"))
	p.see(".PartTree_mark", "left out")
	p.saved()
	if n := parts(); n != 1 {
		t.Errorf("taken back, the set-up has %d parts", n)
	}
}

// A view is fitted and levelled before it is saved.
func TestFramingAView(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.tab("Views")
	p.fill("Focal length", "100")
	p.see(".bits_slug", "turned · 100 mm")
	p.fill("Roll", "15")
	p.press(p.see("button", "Fit the product"))
	p.press(p.see("button", "Level the horizon"))
	p.see(".bits_slug", "turned · 100 mm")
	p.wait("a level horizon", func() bool { return p.number("Roll") == 0 })
	p.press(p.see("button", "Keep verticals upright"))
	p.wait("the frame to be shifted", func() bool { return p.number("Lens shift up") < -1 })
	p.fill("Lens shift to the right", "3")
	p.fill("Focal length", "100") // it grew a little, to keep what is in the middle as large
	p.see(".bits_slug", "turned · 100 mm")
	p.press(p.see("button", "Save this as a new view"))
	p.fill("Name", "Long lens")
	p.press(p.see(".ant-modal button", "Save view"))
	p.see(".bits_slug", "Long lens · 100 mm")
	var v struct {
		Views []struct {
			Name   string
			Camera struct{ YFov, ShiftX, ShiftY float64 }
		}
	}
	s.get("/api/scenes/1", &v)
	if w := v.Views[len(v.Views)-1]; w.Name != "Long lens" || math.Abs(w.Camera.YFov-2*math.Atan(0.12)) > 1e-4 || w.Camera.ShiftX != 3 || w.Camera.ShiftY > -1 {
		t.Errorf("saved as %+v", w)
	}
}

// A part wears a finish of the shelf, and another takes it over by a click in the picture.
func TestFinishesFromTheShelf(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	worn := func() (out []string) {
		var v struct{ Parts []struct{ Finish string } }
		p.saved()
		s.get("/api/scenes/1", &v)
		for _, x := range v.Parts {
			out = append(out, x.Finish)
		}
		return out
	}
	p.press(p.see(".ant-tree-title", "Box 1"))
	p.press(p.see("button", "From the shelf"))
	p.press(p.find("button[aria-label='Copper, polished']"))
	p.see("[data-testid=finish]", "worn by 1 part")
	if w := worn(); w[1] != "Copper, polished" || w[2] != "paint" {
		t.Fatalf("parts wear %q", w)
	}
	if png := s.bytes("/api/shelf/Copper,%20polished/ball.png"); len(png) < 500 {
		t.Errorf("its ball has %d bytes", len(png))
	}
	p.press(p.see("button", "Close the shelf"))
	p.press(p.see(".ant-tree-title", "Floor"))
	p.see("[data-testid=picked]", "Floor")
	p.press(p.see("button", "Same as another part"))
	view := p.find("[data-testid=asking]").MustShape().Box()
	p.Mouse.MustMoveTo(view.X+view.Width*0.42, view.Y+view.Height*0.52).MustClick(proto.InputMouseButtonLeft)
	p.see("[data-testid=finish]", "worn by 2 parts")
	if w := worn(); w[0] != "Copper, polished" {
		t.Errorf("parts wear %q", w)
	}
	p.press(p.see("button", "Undo"))
	if w := worn(); w[0] != "paint" {
		t.Errorf("taken back, parts wear %q", w)
	}
}
