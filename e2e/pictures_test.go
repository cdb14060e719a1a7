package e2e

import (
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"
)

// A picture of the shelf and one that is taken in are worn by a finish, seen live, and
// rendered before a picture behind; a file that is none is refused.
func TestPicturesOnFinishes(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	bumps := image.NewGray(image.Rect(0, 0, 32, 32))
	for i := range bumps.Pix {
		bumps.SetGray(i%32, i/32, color.Gray{uint8(8 * (i % 32))})
	}
	dir := t.TempDir()
	file, broken := filepath.Join(dir, "ramp.png"), filepath.Join(dir, "broken.png")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := png.Encode(f, bumps); err != nil {
		t.Fatal(err)
	}
	if err := f.Close(); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(broken, []byte("\x89PNG\r\n\x1a\nno picture"), 0o600); err != nil {
		t.Fatal(err)
	}

	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.find("[data-testid=finish]"))
	p.press(p.see("button", "Pictures on it"))
	p.option("Colour picture", "Oak, boards")
	p.saved()
	p.find("input[aria-label='Height picture: file']").MustSetFiles(broken)
	p.see(".ant-message", "broken.png")
	p.find("input[aria-label='Height picture: file']").MustSetFiles(file)
	p.see(".ant-select-selection-item, .ant-select-content-value, .ant-select", "ramp.png")
	p.saved()
	var b struct {
		Setup struct {
			Finishes []struct {
				BaseMap, HeightMap struct {
					Picture  struct{ Name, SHA256 string }
					Strength float64
				}
			}
			Lost []any
		}
	}
	s.get("/api/scenes/1", &b)
	if f := b.Setup.Finishes; len(f) != 1 || f[0].BaseMap.Picture.Name != "Oak, boards" || f[0].HeightMap.Picture.Name != "ramp.png" ||
		len(f[0].HeightMap.Picture.SHA256) != 64 || len(b.Setup.Lost) > 0 {
		t.Errorf("the set-up is %+v", b.Setup)
	}
	p.find("canvas[data-live^='1/']")

	p.press(p.see("button", "Make a job for this scene"))
	small(p, "64", "4")
	p.press(p.see(".ant-collapse-header", "Stage"))
	p.option("Backing", "Picture")
	p.see("[role=alert]", "There is no picture behind yet")
	p.option("Picture behind", "Walnut, boards")
	p.run()
	p.state("done")
	var run struct {
		Resolved struct {
			Ticket struct {
				Stage struct {
					Plate struct{ Picture struct{ Name string } }
				}
			}
		}
	}
	s.get("/api/runs/1", &run)
	if got := run.Resolved.Ticket.Stage.Plate.Picture.Name; got != "Walnut, boards" {
		t.Errorf("behind is %q", got)
	}
}
