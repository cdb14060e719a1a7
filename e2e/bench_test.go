package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// boxes is an object file of a floor and boxes that stand on it at heights of so
// many millimetres, a box each, named Box 1 and so on.
func boxes(t *testing.T, heights ...float64) string {
	t.Helper()
	var b strings.Builder
	b.WriteString("mtllib boxes.mtl\no Floor\nv -40 0 40\nv 40 0 40\nv 40 0 -40\nv -40 0 -40\nusemtl paint\nf 1 2 3 4\n")
	n := 4
	for i, h := range heights {
		fmt.Fprintf(&b, "o Box %d\n", i+1)
		x := 0.15 * float64(i)
		for k := range 8 {
			fmt.Fprintf(&b, "v %g %g %g\n", x+0.1*float64(k&1), h/1000+0.1*float64(k>>1&1), 0.1*float64(k>>2))
		}
		b.WriteString("usemtl paint\n")
		for _, f := range [][4]int{{5, 6, 8, 7}, {2, 1, 3, 4}, {6, 2, 4, 8}, {1, 5, 7, 3}, {7, 8, 4, 3}, {1, 2, 6, 5}} {
			fmt.Fprintf(&b, "f %d %d %d %d\n", n+f[0], n+f[1], n+f[2], n+f[3])
		}
		n += 8
	}
	dir := t.TempDir()
	file := filepath.Join(dir, "boxes.obj")
	for path, text := range map[string]string{file: b.String(),
		filepath.Join(dir, "boxes.mtl"): "newmtl paint\nKd 0.6 0.5 0.4\nnewmtl lacquer\nKd 0.5 0.02 0.02\n"} {
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	return file
}

// onBench is a server whose first scene are such boxes, and its page.
func onBench(t *testing.T, heights ...float64) (*site, *page) {
	t.Helper()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	file := boxes(t, heights...)
	p.find("[data-testid=files]").MustSetFiles(file, filepath.Join(filepath.Dir(file), "boxes.mtl"))
	return s, p
}

// A part that floats is found and put down with one press; two parts are changed at
// once; all of it can be taken back, outlives a reload, and is in what is rendered.
func TestTheBench(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 4)
	p.see("[data-check=floats]", "Box 2 floats 4.00 mm above Floor")
	p.press(p.see("button", "^Intended$"))
	p.see("h2", "nothing found")
	p.press(p.see("button", "1 put aside"))
	p.press(p.see("button", "Not intended"))
	p.see("h2", "1 found")
	p.saved()
	p.press(p.see("button", "Lower onto Floor"))
	p.see("h2", "nothing found")
	p.saved()
	p.press(p.see("button", "Undo"))
	p.see("[data-check=floats]", "4.00 mm")
	p.press(p.see("button", "Show me"))
	p.see("[data-testid=picked]", "Box 2")
	p.find(".Viewer_live[data-live=none]") // what is shown lies under a veil
	p.press(p.see("button", "Redo"))
	p.see("h2", "nothing found")

	// Both boxes, of which one was moved by 4 mm.
	p.press(p.see(".ant-tree-title", "Box 1"))
	p.see("[data-testid=picked]", "Box 1")
	box := p.see(".ant-tree-title", "Box 2")
	if err := p.Keyboard.Press(input.ControlLeft); err != nil {
		t.Fatal(err)
	}
	box.MustClick()
	if err := p.Keyboard.Release(input.ControlLeft); err != nil {
		t.Fatal(err)
	}
	p.see("[data-testid=picked]", "2 parts")
	if hint := p.find("input[aria-label='Move y']").MustAttribute("placeholder"); hint == nil || *hint != "mixed" {
		t.Errorf("where they differ the field says %v", hint)
	}
	p.fill("Move x", "25")
	p.saved()
	var scene struct {
		Setup struct {
			Version int
			Parts   []struct {
				Part  string
				Shift struct{ X, Y float64 }
			}
		}
	}
	s.get("/api/scenes/1", &scene)
	if c := scene.Setup.Parts; len(c) != 2 || c[0].Shift.X != 25 || c[1].Shift.X != 25 || c[0].Shift.Y != 0 || c[1].Shift.Y != -4 {
		t.Fatalf("the set-up is %+v", c)
	}

	// Lifted, and put down again by hand.
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.see("[data-testid=picked]", "Box 2")
	p.fill("Move y", "30")
	p.see("[data-check=floats]", "34.0 mm above Floor")
	p.press(p.see("button", "Lower onto what is below"))
	p.see("h2", "nothing found")

	p.MustReload()
	p.see("h2", "nothing found")
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.see("button", "Leave out"))
	p.see(".PartTree_mark", "left out")
	p.saved()

	// What runs has the set-up by value.
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "8")
	p.run()
	p.state("done")
	var run struct {
		Resolved struct {
			Setup struct {
				Parts []struct {
					Part string
					Out  bool
				}
			}
		}
	}
	s.get("/api/runs/1", &run)
	if c := run.Resolved.Setup.Parts; len(c) != 2 || c[0].Out || !c[1].Out {
		t.Errorf("the run has the set-up %+v", c)
	}
}

// A finish is changed on all that wear it; set loose, a part's own copy changes alone,
// and its link is gone.
func TestFinishesOnTheBench(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 1"))
	p.press(p.see("[data-testid=finish]", "worn by 3 parts"))
	p.fill("Roughness", "0.25")
	p.saved()
	p.press(p.see("button", "Set loose"))
	p.press(p.see("[data-testid=finish]", "a copy of paint, worn by 1 part"))
	p.fill("Metal", "1")
	p.saved()
	var scene struct {
		Parts    []struct{ Key, Finish string }
		Finishes []struct {
			Name             string
			Roughness, Metal float64
		}
	}
	s.get("/api/scenes/1", &scene)
	if f := scene.Finishes; len(f) < 3 || f[0].Roughness != 0.25 || f[0].Metal != 0 {
		t.Errorf("finishes %+v", f)
	}
	worn := scene.Parts[1].Finish
	for _, f := range scene.Finishes {
		if f.Name == worn && (f.Metal != 1 || f.Roughness != 0.25) {
			t.Errorf("the copy is %+v", f)
		}
	}
	if worn == "paint" || scene.Parts[2].Finish != "paint" {
		t.Errorf("parts wear %+v", scene.Parts)
	}
	p.press(p.find("button[aria-label='Metal as the file has it']"))
	p.press(p.see("button", "Undo"))
	p.find("button[aria-label='Metal as the file has it']")
}

// The live picture answers what is changed, also while a run goes on, and says what
// it is; picking, turning and the ticket change it.
func TestTheLivePicture(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.see(".bits_slug", "live · .* sample")
	p.find("canvas[data-live^='1/']")
	// The middle of the picture, as it is drawn.
	middle := func() int {
		v := p.find("canvas[data-live^='1/']").MustEval(`() => {
			const d = this.getContext("2d").getImageData(this.width / 2 - 4, this.height / 2 - 4, 8, 8).data;
			return d.reduce((a, b) => a + b, 0);
		}`).Int()
		if v == 8*8*255 {
			t.Fatal("the picture is black")
		}
		return v
	}
	p.see(".bits_slug", "% clipped")
	at := p.find("canvas[data-live^='1/']").MustShape().Box()
	p.Mouse.MustMoveTo(at.X+at.Width/2, at.Y+at.Height/2)
	p.see(".bits_slug", "live · (Box [12]|Floor) · .* shown")
	// What can be told of all of it, and of an area.
	p.press(p.see(".LiveControls_controls button", "^Read-outs$"))
	p.find("[data-testid=readouts] svg[role=img]")
	p.Mouse.MustMoveTo(at.X+at.Width*0.55, at.Y+at.Height*0.3).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(at.X+at.Width*0.7, at.Y+at.Height*0.4).MustMoveTo(at.X+at.Width*0.75, at.Y+at.Height*0.45).MustUp(proto.InputMouseButtonLeft)
	p.see("[data-testid=readouts]", "area: .* EV against mid grey")
	p.press(p.see(".LiveControls_controls button", "Read-outs"))
	p.Mouse.MustMoveTo(2, 2)
	before := middle()
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.see("button", "Leave out"))
	p.wait("the picture without a part", func() bool { return middle() != before })
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "400", "4096")
	p.run()
	p.see("[data-testid=slug]", "samples")
	p.tab("Live")
	p.see(".bits_slug", "live · .* at 1/[0-9]|live · .* sample")
	whole := middle()
	p.fill("Exposure", "2")
	p.wait("the picture two stops brighter", func() bool { return middle() > whole })
	// Ten stops more, and nothing is left but white; marked, half of it is black.
	p.fill("Exposure", "14")
	p.see(".bits_slug", "100\\.0.% clipped")
	white := middle()
	p.press(p.see(".LiveControls_controls button", "Clipping"))
	if striped := middle(); striped > white*3/4 {
		t.Errorf("marked, the middle of %d is %d", white, striped)
	}
	p.saved() // a page with something unsaved does not let itself be closed
	var run struct{ Run struct{ State string } }
	if s.get("/api/runs/1", &run); run.Run.State != "running" {
		t.Errorf("meanwhile the run is %s", run.Run.State)
	}
}

// Two windows: what one of them saved is not overwritten by the other, which is told.
func TestTheBenchInTwoWindows(t *testing.T) {
	t.Parallel()
	s, a := onBench(t, 3, 4)
	a.see("[data-check=floats]", "Box 2")
	b := s.elsewhere("/scenes/1")
	b.see("[data-check=floats]", "Box 2")
	version := func() (v int) {
		var scene struct{ Setup struct{ Version int } }
		s.get("/api/scenes/1", &scene)
		return scene.Setup.Version
	}
	a.press(a.see("button", "Lower onto Floor"))
	a.saved()
	b.press(b.see("button", "Lower onto Floor"))
	b.see("[data-testid=differences]", "set-up of Box [12]")
	b.see("[data-testid=others]", "set-up of Box [12]")
	b.press(b.see("button", "Take the saved one"))
	b.see("[data-testid=saved]", "^saved$")
	if v := version(); v != 1 {
		t.Errorf("the set-up has version %d", v)
	}
	// What was given up can be taken back, and is then a step over what was saved elsewhere.
	b.press(b.see("button", "Undo"))
	b.saved()
	if v := version(); v != 2 {
		t.Errorf("the set-up has version %d", v)
	}
	// A window that has nothing unsaved takes over what another one saves, and cannot undo
	// it: its own steps know nothing of it.
	a.press(a.see(".ant-tree-title", "Box 2"))
	c := s.page("/scenes/1")
	c.see("[data-testid=saved]", "^saved$")
	c.press(c.see(".ant-tree-title", "Box 2"))
	c.fill("Scale", "3")
	c.saved()
	a.wait("another window's change", func() bool { return a.number("Scale") == 3 })
	if off := a.see("button", "Undo").MustAttribute("disabled"); off == nil {
		t.Error("steps of before can be taken back, over what was saved elsewhere")
	}
}

// A server that cannot answer for a moment loses nothing of what is typed: it is kept, told,
// and saved once it can be.
func TestWhatCannotBeSavedAtTheMoment(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 2"))
	router := p.HijackRequests()
	var refused atomic.Int32
	router.MustAdd("*/setup", func(h *rod.Hijack) {
		if refused.Add(1) <= 2 {
			h.Response.SetHeader("Content-Type", "application/problem+json").SetBody(`{"status": 503, "detail": "Not at the moment."}`)
			h.Response.Payload().ResponseCode = 503
			return
		}
		h.ContinueRequest(&proto.FetchContinueRequest{})
	})
	go router.Run()
	defer router.MustStop()
	p.fill("Scale", "2")
	p.see("[data-testid=saved]", "not saved yet")
	if got := p.number("Scale"); got != 2 {
		t.Errorf("the field has %v", got)
	}
	p.see("[data-testid=saved]", "^saved$")
	var scene struct {
		Setup struct{ Parts []struct{ Scale float64 } }
	}
	s.get("/api/scenes/1", &scene)
	if c := scene.Setup.Parts; len(c) != 1 || c[0].Scale != 2 || refused.Load() < 3 {
		t.Errorf("saved %+v after %d tries", c, refused.Load())
	}
}
