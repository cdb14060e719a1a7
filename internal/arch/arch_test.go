// Package arch holds the layers of docs/architecture.md by a test.
package arch

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// Each place may import, of our own packages, only those listed; the first
// matching prefix decides. Tests may reach across.
var layers = []struct {
	place string
	may   []string
}{
	// The core, along the way that data takes.
	{"core/geom", nil},
	{"core/names", nil},
	{"core/parallel", nil},
	{"core/units", nil},
	{"core/colour", []string{"core/geom"}},
	{"core/sampling", []string{"core/geom"}},
	{"core/imageio", []string{"core/parallel", "core/colour", "core/geom"}},
	{"core/finish", []string{"core/colour", "core/geom", "core/parallel"}},
	{"core/accel", []string{"core/parallel", "core/geom"}},
	{"core/optics", []string{"core/parallel", "core/colour", "core/geom", "core/sampling"}},
	{"core/scene", []string{"core/parallel", "core/colour", "core/geom", "core/names"}},
	{"core/importer/codec", nil},
	{"core/importer", []string{"core/importer/codec", "core/colour", "core/geom", "core/names", "core/parallel", "core/scene"}},
	{"core/clay", []string{"core/colour", "core/film", "core/geom", "core/optics", "core/scene"}},
	{"core/shelf", []string{"core/colour", "core/geom", "core/scene", "core/setup"}},
	{"core/setup", []string{"core/colour", "core/geom", "core/names", "core/parallel", "core/scene"}},
	{"core/lights", []string{"core/colour", "core/geom", "core/parallel", "core/sampling"}},
	{"core/film", []string{"core/parallel", "core/colour", "core/geom"}},
	{"core/trace", []string{"core/parallel", "core/accel", "core/colour", "core/film", "core/finish", "core/geom", "core/imageio",
		"core/lights", "core/names", "core/optics", "core/sampling", "core/scene"}},
	{"core/surface", []string{"core/geom", "core/imageio", "core/parallel", "core/scene", "core/trace"}},
	{"core/preflight", []string{"core/parallel", "core/accel", "core/colour", "core/film", "core/geom", "core/scene", "core/trace",
		"core/units"}},
	{"core/noise", []string{"core/colour", "core/film", "core/geom"}},
	{"core/render", []string{"core/film", "core/noise", "core/trace"}},
	{"core/denoise", []string{"core/parallel", "core/colour", "core/film", "core/geom"}},
	{"core/forecast", []string{"core/parallel", "core/colour", "core/denoise", "core/film", "core/noise", "core/render", "core/trace"}},
	{"core/live", []string{"core/denoise", "core/film", "core/trace"}},
	{"core/passes", []string{"core/denoise", "core/film", "core/finish", "core/geom", "core/noise", "core/names", "core/scene"}},
	{"internal/fault", nil},
	{"internal/ticket", []string{"core", "internal/fault"}},
	{"internal/identity", []string{"internal/fault"}},
	{"internal/round", nil},
	{"internal/cache", []string{"core/parallel"}},
	{"internal/budget", []string{"internal/fault"}},
	{"internal/farm", []string{"core", "internal/ticket"}},
	{"internal/pipeline", []string{"core", "internal/ticket", "internal/fault", "internal/farm"}},
	{"internal/whole", nil},
	{"internal/deliver", []string{"core", "internal/ticket", "internal/whole"}},
	{"internal/frozen", []string{"core", "internal/fault", "internal/ticket", "internal/whole"}},
	{"internal/mariadb", nil},
	{"internal/store", []string{"core", "internal/round", "internal/whole", "internal/ticket", "internal/fault", "internal/identity"}},
	// Use cases, from those that know least of others to those that know most.
	{"internal/scenes", []string{"core", "internal/pipeline", "internal/ticket", "internal/fault", "internal/identity",
		"internal/cache", "internal/budget", "internal/store"}},
	{"internal/projects", []string{"internal/ticket", "internal/fault", "internal/identity", "internal/store"}},
	{"internal/secrets", []string{"internal/fault"}},
	{"internal/accounts", []string{"internal/secrets", "core/names", "internal/ticket", "internal/fault", "internal/identity", "internal/store"}},
	{"internal/library", []string{"core/names", "core/setup", "internal/ticket", "internal/fault", "internal/identity", "internal/store", "internal/scenes"}},
	{"internal/jobs", []string{"core", "internal/ticket", "internal/fault", "internal/identity", "internal/pipeline", "internal/store", "internal/scenes"}},
	{"internal/proofs", []string{"core", "internal/budget", "internal/ticket", "internal/fault", "internal/identity",
		"internal/cache", "internal/pipeline", "internal/deliver", "internal/store", "internal/scenes"}},
	{"internal/live", []string{"core", "internal/ticket", "internal/fault", "internal/identity", "internal/budget", "internal/cache", "internal/scenes"}},
	{"internal/forecasts", []string{"core", "internal/budget", "internal/cache", "internal/identity", "internal/jobs", "internal/pipeline",
		"internal/scenes", "internal/store", "internal/ticket"}},
	{"internal/runs", []string{"core", "internal/forecasts", "internal/whole", "internal/ticket", "internal/fault", "internal/identity", "internal/farm",
		"internal/hub",
		"internal/pipeline", "internal/deliver", "internal/store", "internal/scenes", "internal/jobs", "internal/proofs"}},
	{"internal/sheet", []string{"core/imageio"}},
	{"internal/review", []string{"internal/sheet", "core", "internal/cache", "internal/ticket", "internal/fault", "internal/frozen", "internal/identity",
		"internal/round", "internal/store",
		"internal/jobs", "internal/proofs", "internal/runs"}},
	{"internal/guests", []string{"core/names", "internal/fault", "internal/identity", "internal/review", "internal/round", "internal/secrets", "internal/store"}},
	{"internal/hub", nil},
	{"internal/outbox", []string{"core/names", "core/parallel", "internal/fault", "internal/identity", "internal/store"}},
	{"internal/notify", []string{"core/names", "core/parallel", "internal/fault", "internal/hub", "internal/identity", "internal/review", "internal/round",
		"internal/store", "internal/ticket"}},
	{"internal/app", []string{"internal"}},
	{"internal/server", []string{"core", "internal/ticket", "internal/fault", "internal/identity", "internal/farm", "internal/app",
		"internal/store",
		"internal/accounts", "internal/guests", "internal/hub", "internal/notify", "internal/outbox", "internal/sheet",
		"internal/projects",
		"internal/review", "internal/round", "internal/scenes", "internal/jobs", "internal/proofs", "internal/runs",
		"internal/forecasts", "internal/library", "internal/live", "web"}},
	{"internal/wait", nil},
	{"internal/testkit", []string{"core", "internal"}},
	{"internal/arch", nil},
	{"demo", []string{"core", "internal/ticket"}},
	{"cmd", []string{"core", "internal", "demo", "web"}},
	{"tools/stages", []string{"core"}},
	{"tools", []string{"core", "demo", "internal", "tools/stages"}},
	{"web", nil},
	{"e2e", []string{"core", "internal", "demo"}},
}

// What the core must never know, and what only one place may use.
var coreForbids = []string{"net", "net/http", "database/sql", "os", "log", "log/slog", "os/exec"}

// The film's keeper is a file format of the core and gets its path handed in.
var coreMayUseOS = map[string]bool{"core/film": true}

const onlyStore = "database/sql"

func TestImportsPointDownwardsOnly(t *testing.T) {
	root := filepath.Join("..", "..")
	files := 0
	err := filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel := filepath.ToSlash(strings.TrimPrefix(p, root+string(filepath.Separator)))
		if d.IsDir() {
			if d.Name() == "node_modules" || strings.HasPrefix(rel, ".") && rel != "." && p != root || strings.HasPrefix(rel, "zz_") {
				return filepath.SkipDir
			}
			return nil
		}
		if !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return nil
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), p, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		dir := filepath.ToSlash(filepath.Dir(rel))
		var may []string
		known := false
		for _, l := range layers {
			if dir == l.place || strings.HasPrefix(dir, l.place+"/") {
				may, known = l.may, true
				break
			}
		}
		if !known {
			t.Errorf("%s lies in no layer", rel)
		}
		for _, im := range f.Imports {
			path, err := strconv.Unquote(im.Path.Value)
			if err != nil {
				return err
			}
			checkImport(t, rel, dir, path, may)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if files < 50 {
		t.Fatalf("only %d files were looked at", files)
	}
}

func checkImport(t *testing.T, file, dir, path string, may []string) {
	t.Helper()
	if own, ok := strings.CutPrefix(path, "amberproof/"); ok {
		for _, m := range may {
			if own == m || strings.HasPrefix(own, m+"/") {
				return
			}
		}
		t.Errorf("%s must not import %s", file, own)
		return
	}
	if strings.HasPrefix(dir, "core") {
		for _, f := range coreForbids {
			if path == f && !(path == "os" && coreMayUseOS[dir]) {
				t.Errorf("%s: the core must not import %s", file, path)
			}
		}
	}
	if path == onlyStore && dir != "internal/store" && dir != "internal/testkit" {
		t.Errorf("%s: only internal/store may speak SQL", file)
	}
}

// The test itself must catch what it is for.
func TestABrokenLayerIsCaught(t *testing.T) {
	for _, c := range []struct{ dir, path string }{
		{"core/trace", "amberproof/internal/store"}, {"core/film", "amberproof/core/trace"}, {"core/trace", "amberproof/core/passes"},
		{"core/trace", "net/http"}, {"internal/ticket", "amberproof/internal/app"}, {"internal/server", "database/sql"},
		{"internal/scenes", "amberproof/internal/jobs"}, {"internal/proofs", "amberproof/internal/runs"},
	} {
		var may []string
		for _, l := range layers {
			if c.dir == l.place || strings.HasPrefix(c.dir, l.place+"/") {
				may = l.may
				break
			}
		}
		probe := &testing.T{}
		checkImport(probe, "probe.go", c.dir, c.path, may)
		if !probe.Failed() {
			t.Errorf("%s importing %s was not caught", c.dir, c.path)
		}
	}
}
