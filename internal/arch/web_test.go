package arch

import (
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// What each folder of the front end may import, itself aside. Features know each other by
// routes only.
var webLayers = map[string][]string{
	"api":     nil,
	"shared":  {"api"},
	"door":    {"api", "shared"},
	"guest":   {"api", "shared"}, // of api the types only, see TestTheGuestsPageIsSmall
	"jobs":    {"api", "shared"},
	"library": {"api", "shared"},
	"noise":   {"api", "shared"},
	"proof":   {"api", "shared"},
	"project": {"api", "shared"},
	"queue":   {"api", "shared"},
	"rounds":  {"api", "shared"},
	"scenes":  {"api", "shared"},
	"app":     {"api", "shared", "door", "jobs", "library", "noise", "project", "proof", "queue", "rounds", "scenes"},
}

var webImport = regexp.MustCompile(`(?:from |import |import\()"(\.[^"]+)"`)

func TestTheFrontEndPointsDownwardsOnly(t *testing.T) {
	src := filepath.Join("..", "..", "web", "src")
	imports := map[string][]string{} // of each module, modules
	err := filepath.WalkDir(src, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(p, ".ts") && !strings.HasSuffix(p, ".tsx") {
			return err
		}
		b, err := os.ReadFile(p)
		if err != nil {
			return err
		}
		rel := filepath.ToSlash(strings.TrimPrefix(p, src+string(filepath.Separator)))
		module := strings.TrimSuffix(strings.TrimSuffix(rel, ".tsx"), ".ts")
		for _, m := range webImport.FindAllStringSubmatch(string(b), -1) {
			imports[module] = append(imports[module], path.Join(path.Dir(module), m[1]))
		}
		layer, _, inside := strings.Cut(module, "/")
		may, known := webLayers[layer]
		if !inside {
			return nil // main puts all together
		}
		if !known {
			t.Errorf("%s lies in no known layer", rel)
		}
		for _, to := range imports[module] {
			other, _, _ := strings.Cut(to, "/")
			if other != layer && !slices.Contains(may, other) {
				t.Errorf("%s imports %s: %s may know %v", rel, to, layer, may)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(imports) < 80 {
		t.Fatalf("only %d modules were read", len(imports))
	}
	for _, c := range circles(imports) {
		t.Errorf("modules import each other in a circle: %s", strings.Join(c, " > "))
	}
}

// circles are the ways that lead back to where they began, found depth first.
func circles(of map[string][]string) (found [][]string) {
	const (
		open = 1
		done = 2
	)
	state := map[string]int{}
	var way []string
	var visit func(string)
	visit = func(m string) {
		switch state[m] {
		case done:
			return
		case open:
			for i, w := range way {
				if w == m {
					found = append(found, append(append([]string{}, way[i:]...), m))
				}
			}
			return
		}
		state[m] = open
		way = append(way, m)
		for _, to := range of[m] {
			visit(to)
		}
		way = way[:len(way)-1]
		state[m] = done
	}
	for m := range of {
		visit(m)
	}
	return found
}

func TestCirclesAreFound(t *testing.T) {
	if c := circles(map[string][]string{"a": {"b"}, "b": {"c"}, "c": {"b"}}); len(c) != 1 {
		t.Errorf("found %v", c)
	}
	if c := circles(map[string][]string{"a": {"b", "c"}, "b": {"c"}}); len(c) != 0 {
		t.Errorf("found %v", c)
	}
}
