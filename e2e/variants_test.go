package e2e

import (
	"testing"

	"github.com/go-rod/rod"
)

// A look of the product is kept as a variant, seen live, and rendered by a job of its own;
// the bench stays as it was.
func TestVariants(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.option("Wears", "lacquer")
	p.saved()
	p.tab("Variants")
	p.press(p.see("button", "Keep what is picked as a variant"))
	p.find(".ant-modal input").MustInput("Red")
	p.press(p.see(".ant-modal button", "Keep it"))
	p.see("[data-testid=variant]", "Box 2")
	p.option("Wears", "as the file has it")
	p.see("[data-testid=finish]", "worn by 3 parts")
	p.saved()
	if err := p.Wait(rod.Eval(`() => !document.querySelector(".ant-select-dropdown:not(.ant-select-dropdown-hidden)")`)); err != nil {
		t.Fatal(err)
	}
	p.option("Another colour in Red", "paint")
	p.see("[data-testid=variant]", "paint")
	p.saved()
	p.press(p.see("[data-testid=variant] button", "Show"))
	p.see(".bits_slug", "Red . live")

	p.press(p.see("button", "Make a job for this scene"))
	small(p, "64", "4")
	p.press(p.see("button", "A job for each variant"))
	p.press(p.see("label", "Queue a run of each at once"))
	p.press(p.see(".ant-modal button", "Make 1 job"))
	p.see(".ant-message", "1 job made and queued")
	p.press(p.see("a[href^='/jobs/']", ", Red"))
	p.see("b", "Own finishes . Red")
	p.state("done")
	var run struct {
		Resolved struct {
			Ticket struct{ Surface struct{ Variant string } }
			Setup  struct {
				Parts    []struct{ Part, Finish string }
				Finishes []struct {
					Name string
					Base *struct{ R float64 }
				}
				Variants []any
			}
		}
	}
	s.get("/api/runs/1", &run)
	r := run.Resolved
	if c := r.Setup.Parts; r.Ticket.Surface.Variant != "Red" || len(c) != 1 || c[0].Part != "Box 2" || c[0].Finish != "lacquer" || len(r.Setup.Variants) > 0 {
		t.Errorf("the run has %+v", r)
	}
	if f := r.Setup.Finishes; len(f) != 1 || f[0].Name != "paint" || f[0].Base == nil {
		t.Errorf("the run has the finishes %+v", f)
	}
	if b := benchOf(s); len(b.Setup.Parts) != 0 {
		t.Errorf("the bench has %+v", b.Setup.Parts)
	}
}
