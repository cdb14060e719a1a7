package e2e

import "testing"

// What can be had by a time is told and taken: another target, or another size; what is no time is
// said, and one that is past is tomorrow's.
func TestWhatCanBeHadByATime(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "64")
	p.fill("Noise target", "1")
	p.saved()
	p.find("[role=slider][aria-label='Noise target']")
	p.fill("To be done by", "soon")
	p.see("[role=alert]", "Write a time as 18:00")
	p.fill("To be done by", "2 h")
	p.see("[data-testid=within]", "% at this size")
	p.see("[data-testid=within]", `384 × 288 px at 1 %`) // four times as large is the most
	p.press(p.see("[data-testid=within] button:not(:disabled)", "Set 400 %"))
	p.saved()
	p.see("[data-testid=run]", "384 × 288")
	p.fill("Noise target", "0")
	p.saved()
	p.fill("To be done by", "23:59")
	p.see("[data-testid=within]", "samples a pixel at this size")
}
