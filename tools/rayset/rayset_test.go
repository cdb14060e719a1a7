package main

import (
	"os"
	"path/filepath"
	"testing"
)

func TestSetsAreMadeAndTheSameEachTime(t *testing.T) {
	a, b := t.TempDir(), t.TempDir()
	for _, d := range []string{a, b} {
		if err := run(3000, d); err != nil {
			t.Fatal(err)
		}
	}
	for name, record := range map[string]int{"triangles": 36, "primary": 32, "bounce1": 32, "bounce2": 32, "short": 32} {
		x, err := os.ReadFile(filepath.Join(a, name+".f32"))
		if err != nil {
			t.Fatal(err)
		}
		y, err := os.ReadFile(filepath.Join(b, name+".f32"))
		if err != nil {
			t.Fatal(err)
		}
		if len(x) < 1000*record || len(x)%record != 0 || string(x) != string(y) {
			t.Errorf("%s: %d and %d bytes, or different ones", name, len(x), len(y))
		}
	}
	if run(10, a) == nil {
		t.Error("ten triangles were taken")
	}
}
