package arch

import (
	"bytes"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"unicode/utf8"
)

// widest is how many letters a line of code has at most. What describes a setting stands in
// the tag of its field, which cannot be broken; what is generated is not read.
const widest = 160

var (
	tagged    = regexp.MustCompile("`\\w+:\".*`")
	generated = "schema.d.ts"
)

func TestLinesAreNotTooWide(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && (d.Name() == "node_modules" || d.Name() == "dist" || strings.HasPrefix(d.Name(), ".") && path != "../.."):
			return fs.SkipDir
		case d.IsDir() || d.Name() == generated || !strings.Contains(" .go .ts .tsx .css ", " "+filepath.Ext(path)+" "):
			return nil
		}
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		seen++
		for i, l := range bytes.Split(b, []byte("\n")) {
			if n := utf8.RuneCount(l); n > widest && !tagged.Match(l) {
				t.Errorf("%s:%d has %d letters, more than %d", path, i+1, n, widest)
			}
		}
		return nil
	})
	if err != nil || seen < 500 {
		t.Fatalf("%d files were read: %v", seen, err)
	}
}
