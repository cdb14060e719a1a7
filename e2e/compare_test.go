package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// On a job's page a live picture is kept and compared with a proof; crops are drawn over
// both and delivered.
func TestALivePictureBesideAProof(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "64", "4")
	p.press(p.see(".ant-collapse-header", "Output"))
	p.option("Add a crop", "Banner 3:1")
	p.see("[data-testid=crop]", "64 × 21 px")
	p.run()
	p.state("done")
	p.see("[data-testid=crops]", "Banner 3:1")
	p.tab("Live")
	p.see("[data-testid=crops]", "Banner 3:1")
	p.find("canvas[data-live^='1/']")
	p.press(p.see("button", "Keep picture"))
	p.press(p.see("[aria-label='Kept live pictures'] button", "^1 "))
	p.see(".bits_slug", "a picture, not live")
	if err := p.Keyboard.Press(input.ShiftLeft); err != nil {
		t.Fatal(err)
	}
	p.see("[aria-label='Kept live pictures'] button", "run 1").MustClick()
	if err := p.Keyboard.Release(input.ShiftLeft); err != nil {
		t.Fatal(err)
	}
	p.see(".bits_slug", "two pictures, compared, not live")
	p.press(p.see("button", "Back to the live picture"))
	p.see(".bits_slug", "live")
	var outlook struct {
		Files []struct{ Path, Crop string }
	}
	s.get("/api/jobs/1/outlook", &outlook)
	cut := 0
	for _, f := range outlook.Files {
		if f.Crop == "Banner 3:1" {
			cut++
		}
	}
	if cut != 2 { // plain and denoised
		t.Errorf("files %+v", outlook.Files)
	}
}
