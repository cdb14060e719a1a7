package e2e

import (
	"strings"
	"testing"
)

// noiseMap is the noise of a run's tiles, as far as a test looks at it.
type noiseMap struct {
	Columns, Rows int
	Area          [4]int
	Samples       []int
	Left          []*float64
}

// The noise report of a run: how much there is and where, what it comes from, in all of the picture
// and in an area; it is gone on from there, in all of it and then in the area alone.
func TestTheNoiseReport(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "8")
	p.run()
	p.state("done")
	p.press(p.see("a", "Open the proof"))
	p.press(p.see("button", "Noise report"))
	p.see("h1", "^Noise$")
	p.see("[data-testid=noise-told]", "of display white")
	p.see(".NoisePage_map span", `^[0-9.]+$`)
	p.find("ol[aria-label='Noisiest places'] li")
	p.see("th", "Bounced, diffuse")
	p.press(p.see(".ant-segmented-item", "By light"))
	p.see("p", "By light it is not known here")
	p.press(p.see(".ant-segmented-item", "By part"))
	p.see("tr", "^Box")
	accessible("a noise report", axe(t), p)

	// What it is delivered as.
	if csv := string(s.bytes("/api/runs/1/noise.csv")); strings.Count(csv, "\r\n") != 1+6*5 || !strings.HasPrefix(csv, "left,top,") {
		t.Errorf("the table of noise is %q", csv)
	}
	p.MustEval(`() => { HTMLAnchorElement.prototype.click = function () { window.savedAs = this.download; }; }`)
	p.press(p.see("button", "^PNG$"))
	p.wait("the picture to be saved", func() bool { return p.MustEval(`() => window.savedAs ?? ""`).Str() == "noise-run-1.png" })

	// To twice the samples, from where it stands.
	p.see("[data-testid=further]", "8 samples more a pixel")
	p.fill("Most samples to go on to", "8")
	p.see("[role=alert]", "ask for less noise or more samples")
	p.fill("Most samples to go on to", "16")
	p.press(p.see("[data-testid=go-on]:not(:disabled)", "Make it cleaner, 16 samples, done"))
	p.see("[data-testid=slug]", " 2 ")
	p.state("done")
	p.see("[data-testid=slug]", "16 samples")
	p.find("figure [role=img], .faint")

	// Held against the one before.
	p.option("Run to hold it against", "Run 1: ")
	p.see("section[aria-label='Beside another run'] td", "^× 0.50$")
	p.see("section[aria-label='Beside another run'] p", "Most samples 8 spp, was 16 spp")
	p.see("section[aria-label='Beside another run'] a", "Look at both, wiped")

	// Only an area.
	p.press(p.see("button", "Choose an area"))
	p.dragOver("[data-testid=area]", [2]float64{0.5, 0.5}, [2]float64{0.62, 0.66})
	p.see("[data-testid=area-of]", "px")
	p.see("h2", "Where it comes from, in the area")
	p.fill("Most samples to go on to", "40")
	p.press(p.see("[data-testid=go-on]:not(:disabled)", "Make the area cleaner, 40 samples"))
	p.see("[data-testid=slug]", " 3 ")
	p.state("done")
	var m noiseMap
	s.get("/api/runs/3/noise", &m)
	many, few := 0, 0
	for i, n := range m.Samples {
		x, y := i%m.Columns*16, i/m.Columns*16
		inside := x < m.Area[2] && x+16 > m.Area[0] && y < m.Area[3] && y+16 > m.Area[1]
		switch {
		case inside && n == 40:
			many++
		case !inside && n == 16:
			few++
		default:
			t.Errorf("tile %d has %d samples; the area is %v", i, n, m.Area)
		}
	}
	if many == 0 || few == 0 {
		t.Errorf("%d tiles are cleaner, %d as they were", many, few)
	}
	var first struct{ Run struct{ Samples float64 } }
	if s.get("/api/runs/1", &first); first.Run.Samples != 8 {
		t.Errorf("the first picture has %g samples by now", first.Run.Samples)
	}
}

// A run whose most samples are too few for its target says so long before it ends.
func TestARunThatWillMissItsTarget(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "60000")
	p.fill("Noise target", "0.01")
	p.fill("Width", "480") // of which so many samples take many minutes on any machine
	p.fill("Height", "360")
	p.saved()
	p.run()
	p.see("[data-testid=misses]", `Will end at [0-9.]+ %, above its target 0.01 %: .* about [0-9]+ would do`)
}
