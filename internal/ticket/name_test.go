package ticket

import (
	"strings"
	"testing"

	"amberproof/core/passes"
)

// What could only fail when the files are written is a fault before the run.
func TestNamesThatCannotBeWrittenAreFaults(t *testing.T) {
	s := lantern()
	list := passes.List(passes.Wanted{Kinds: []passes.Kind{passes.PartMask}}, nil, s, IsLamp(s))
	for name, want := range map[string]string{
		"{pass}":                    "",
		"MANIFEST.json/{pass}":      "in the way",
		"Manifest.JSON/a/{pass}":    "in the way",
		"{project}{project}-{pass}": "too long",
		"a/{project}/{project}/{project}/{project}/{project}/{project}/{project}/{pass}": "too long",
		"{view}": "Two files",
	} {
		d := New()
		d.Output.Name, d.Output.PNG = name, "8"
		w := Words{Project: strings.Repeat("é", 70), View: "v"}
		_, faults := Files(&d, w, list)
		switch {
		case want == "" && len(faults) > 0:
			t.Errorf("%s: %v", name, faults)
		case want != "" && (len(faults) == 0 || !strings.Contains(faults[0].Message, want)):
			t.Errorf("%s: %v, want %q", name, faults, want)
		}
	}
	// A file and a folder of one name, told apart by case only.
	if f := checkPaths([]Planned{{Path: "cap.exr"}, {Path: "Cap.EXR/beauty.exr"}}); len(f) != 1 {
		t.Errorf("a file in the way of a folder: %v", f)
	}
	if f := checkPaths([]Planned{{Path: "caf\u00e9.exr"}, {Path: "CAFE\u0301.exr"}}); len(f) != 1 {
		t.Errorf("one name in two ways of writing: %v", f)
	}
}

func TestPassesOfEveryScriptHaveAFileOfTheirOwn(t *testing.T) {
	s := lantern()
	for i, n := range []string{"A!", "A?", "灯"} {
		s.Parts[i].Name = n
		s.Parts[i].Finish = 0
	}
	s.Finishes[0].Name = "A_2"
	list := passes.List(passes.Wanted{Kinds: []passes.Kind{passes.PartMask, passes.FinishMask}}, nil, s, func(int) bool { return false })
	d := New()
	d.Output.Layers = "each"
	files, faults := Files(&d, Words{Project: "P"}, list)
	if len(faults) > 0 || len(files) != 2*5 {
		t.Fatalf("%d files, %v", len(files), faults)
	}
	all := ""
	for _, f := range files {
		all += f.Path + " "
	}
	if !strings.Contains(all, "part.灯") {
		t.Errorf("the script is lost: %s", all)
	}
}

func TestFramesAreInNames(t *testing.T) {
	d := New()
	d.Output.Name = "{view}.{frame}.{pass}"
	if got := FileName(&d, Words{View: "Hero", Frame: 12}, "beauty", "exr"); got != "Hero.0012.beauty.exr" {
		t.Error(got)
	}
}
