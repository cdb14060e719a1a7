package ticket

import (
	"image"
	"testing"

	"amberproof/core/passes"
)

// A crop is the largest of its shape, or a part of that, within the frame wherever it is.
func TestCrops(t *testing.T) {
	frame := image.Pt(1600, 1000)
	for _, c := range []struct {
		crop Crop
		want image.Rectangle
	}{
		{Crop{Wide: 1, High: 1, Size: 100, X: 50, Y: 50}, image.Rect(300, 0, 1300, 1000)},
		{Crop{Wide: 1080, High: 1350, Size: 100, X: 0, Y: 50}, image.Rect(0, 0, 800, 1000)},
		{Crop{Wide: 2, High: 1, Size: 100, X: 50, Y: 100}, image.Rect(0, 200, 1600, 1000)},
		{Crop{Wide: 2, High: 1, Size: 50, X: 100, Y: 0}, image.Rect(800, 0, 1600, 400)},
		{Crop{Wide: 100000, High: 0.01, Size: 1, X: 50, Y: 50}, image.Rect(792, 500, 808, 501)},
	} {
		if got := c.crop.In(frame); got != c.want || !got.In(image.Rectangle{Max: frame}) {
			t.Errorf("%+v: %v, want %v", c.crop, got, c.want)
		}
	}
	if got := (&Crop{Wide: 16, High: 9, Size: 1, X: 50, Y: 50}).In(image.Pt(1, 1)); got != image.Rect(0, 0, 1, 1) {
		t.Errorf("of a pixel: %v", got)
	}
}

// Crops are files of their own, of pictures only; of a region, and without PNG, there are none.
func TestFilesOfCrops(t *testing.T) {
	list := []passes.Pass{{Key: "beauty"}, {Key: "beauty.denoised"}, {Key: "depth"}}
	files := func(change func(*Ticket)) (paths []string) {
		ticket := New()
		ticket.Output.Crops = []Crop{{Name: "Post 4:5", Wide: 4, High: 5, Size: 100}, {Name: "Banner", Wide: 3, High: 1, Size: 100}}
		change(&ticket)
		all, faults := Files(&ticket, Words{Project: "P", Scene: "S", View: "V", Run: 1}, list)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		for _, f := range all {
			if f.Crop != "" {
				paths = append(paths, f.Path)
			}
		}
		return paths
	}
	got := files(func(*Ticket) {})
	if len(got) != 4 || got[0] == got[1] || got[0] == got[2] {
		t.Errorf("files %q", got)
	}
	if got := files(func(t *Ticket) { t.Output.PNG = "none" }); len(got) > 0 {
		t.Errorf("without PNG %q", got)
	}
	if got := files(func(t *Ticket) { t.View.Region.On = true }); len(got) > 0 {
		t.Errorf("of a region %q", got)
	}
	alike := New()
	alike.Output.Crops = []Crop{{Name: "a", Wide: 1, High: 1, Size: 100}, {Name: "A", Wide: 1, High: 1, Size: 100}}
	if _, faults := Files(&alike, Words{Project: "P", Scene: "S", View: "V", Run: 1}, list); len(faults) != 1 || faults[0].Path != "output.crops" {
		t.Errorf("names that differ by case: %v", faults)
	}
	twice := New()
	twice.Output.Crops = []Crop{{Name: "a", Wide: 1, High: 1, Size: 100}, {Name: "a", Wide: 1, High: 1, Size: 100}}
	if len(Check(&twice)) == 0 {
		t.Error("two crops of a name")
	}
}
