package e2e

import (
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"amberproof/internal/wait"
)

// The button says how long its run takes and when it is done; the target is a handle on the curve
// of noise against time: moved by keys and by the pointer, it sets the ticket's target, and the
// button's time follows. The run keeps what it was told, and the queue says when it ends.
func TestTheTargetIsAHandleOnTheCurve(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "512")
	p.fill("Noise target", "2")
	p.saved()
	done := regexp.MustCompile(`(under 1 s|\d+ (s|min)), done \d\d:\d\d`)
	told := func() string {
		return done.FindString(strings.ReplaceAll(p.find("[data-testid=run]").MustText(), "\n", " "))
	}
	wait.Until(t, "the button to say how long it takes", func() bool { return told() != "" }, func() any { return p.find("[data-testid=run]").MustText() })
	p.see("[data-testid=forecast]", "noise \\d+\\.\\d % . \\d+ samples a pixel")
	handle := p.find("[role=slider][aria-label='Noise target']")
	if at := *handle.MustAttribute("aria-valuenow"); at != "2" {
		t.Fatalf("the handle stands at %s", at)
	}

	handle.MustFocus()
	p.Keyboard.MustType(input.ArrowDown)
	p.find("[role=slider][aria-label='Noise target'][aria-valuenow='1.9']")
	p.saved()
	if v := p.find("input[aria-label='Noise target']").MustProperty("value").Str(); v != "1.9" {
		t.Errorf("the ticket's target is %s", v)
	}

	// As a table, for who does not see the curve.
	p.press(p.see("figure button", "Show as a table"))
	p.see("figure td", "%")

	// Down the curve lies less noise.
	handle = p.find("[role=slider][aria-label='Noise target']").MustScrollIntoView()
	p.still()
	box := handle.MustShape().Box()
	x, y := box.X+box.Width/2, box.Y+box.Height/2
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(x, y+30)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	p.saved()
	var target float64
	wait.Until(t, "the target to follow the pointer", func() bool {
		target = p.number("Noise target")
		return target > 0 && target < 1.9
	}, func() any { return target })
	wait.Until(t, "the button to say what that takes", func() bool { return told() != "" }, nil)
	p.run()
	p.state("done")
	var run struct {
		Run struct {
			Forecast *struct{ Mid, Low, High float64 }
		}
	}
	s.get("/api/runs/1", &run)
	if f := run.Run.Forecast; f == nil || f.Mid <= 0 || f.Low > f.Mid || f.High < f.Mid {
		t.Errorf("the run was told to take %+v", f)
	}
}

// A change of the picture drops what is being measured: nothing of it is told of the picture that
// is asked for.
func TestAForecastIsOfWhatIsOnTheScreen(t *testing.T) {
	t.Parallel()
	_, p := onBench(t, 0, 0)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "8")
	p.see("[data-testid=run] span", "done \\d\\d:\\d\\d")
	p.fill("Exposure", "1")
	p.saved()
	p.see("[data-testid=run] span", "done \\d\\d:\\d\\d")
	p.fill("Most samples", "2")
	p.fill("Least samples", "1")
	p.saved()
	p.see("[data-testid=forecast]", "2 samples a pixel")
	p.fill("Most samples", "1")
	p.saved()
	p.see("[data-testid=forecast]", "noise cannot be told . 1 sample a pixel")
}
