package web

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

var (
	sheetImport = regexp.MustCompile(`import (\w+) from "([^"]+\.module\.css)"`)
	globalPart  = regexp.MustCompile(`:global\([^)]*\)`)
	className   = regexp.MustCompile(`\.([a-zA-Z]\w*)`)
	tone        = regexp.MustCompile(`#[0-9a-fA-F]{3,8}\b`)
)

// sources reads the front end's files of some endings, by their path within src.
func sources(t *testing.T, endings ...string) map[string]string {
	t.Helper()
	out := map[string]string{}
	err := filepath.WalkDir("src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		for _, e := range endings {
			if strings.HasSuffix(path, e) {
				raw, err := os.ReadFile(path)
				out[path] = string(raw)
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(out) == 0 {
		t.Fatalf("no files that end in %v", endings)
	}
	return out
}

// classesOf are the names that a style sheet declares for its own use.
func classesOf(sheet string) map[string]bool {
	out := map[string]bool{}
	for _, rule := range strings.Split(sheet, "}") {
		selector, _, _ := strings.Cut(rule, "{")
		if i := strings.LastIndex(selector, "*/"); i >= 0 {
			selector = selector[i:]
		}
		for _, m := range className.FindAllStringSubmatch(globalPart.ReplaceAllString(selector, ""), -1) {
			out[m[1]] = true
		}
	}
	return out
}

// Every style that a component names is in its sheet, and every one there is used;
// the compiler takes any name. Sheets are told apart by their file's name alone.
func TestStylesAreDeclaredAndUsed(t *testing.T) {
	sheets, used := map[string]map[string]bool{}, map[string]map[string]bool{}
	names := map[string]string{}
	for path, text := range sources(t, ".module.css") {
		sheets[path], used[path] = classesOf(text), map[string]bool{}
		if other, ok := names[filepath.Base(path)]; ok {
			t.Errorf("%s and %s have one name", path, other)
		}
		names[filepath.Base(path)] = path
	}
	for path, text := range sources(t, ".tsx") {
		for _, m := range sheetImport.FindAllStringSubmatch(text, -1) {
			sheet := filepath.Join(filepath.Dir(path), m[2])
			for _, use := range regexp.MustCompile(`\b`+m[1]+`\.(\w+)`).FindAllStringSubmatch(text, -1) {
				if use[1] == "module" {
					continue // of the import itself
				}
				if !sheets[sheet][use[1]] {
					t.Errorf("%s names %s, which %s lacks", path, use[1], sheet)
				} else {
					used[sheet][use[1]] = true
				}
			}
		}
	}
	for sheet, classes := range sheets {
		for c := range classes {
			if !used[sheet][c] {
				t.Errorf("nothing uses %s of %s", c, sheet)
			}
		}
	}
}

// Tones are declared once, with what the theme makes of them for the parts of our library.
func TestOnlyTheThemeHasTones(t *testing.T) {
	has := map[string]bool{"theme.ts": true, "tones.ts": true}
	for path, text := range sources(t, ".css", ".tsx", ".ts") {
		if found := tone.FindAllString(text, -1); len(found) > 0 && !has[filepath.Base(path)] {
			t.Errorf("%s has %v", path, found)
		}
	}
}
