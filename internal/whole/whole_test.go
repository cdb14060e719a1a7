package whole

import (
	"errors"
	"io"
	"os"
	"path/filepath"
	"sync"
	"testing"
)

func write(path, text string) error {
	_, _, err := File(path, func(w io.Writer) error {
		_, err := io.WriteString(w, text)
		return err
	})
	return err
}

// Of ten that write one folder at once one comes first, and nothing of the others stays.
func TestOneOfManyComesFirst(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "deep", "made")
	var wg sync.WaitGroup
	errs := make([]error, 10)
	for i := range errs {
		wg.Go(func() {
			errs[i] = Folder(dir, func(at string) error { return write(filepath.Join(at, "sub", "file"), "words") })
		})
	}
	wg.Wait()
	made := 0
	for _, err := range errs {
		if err == nil {
			made++
		} else if !errors.Is(err, ErrExists) {
			t.Error(err)
		}
	}
	left, err := os.ReadDir(filepath.Dir(dir))
	if made != 1 || err != nil || len(left) != 1 {
		t.Errorf("%d made it, left are %v, %v", made, left, err)
	}
	if b, err := os.ReadFile(filepath.Join(dir, "sub", "file")); err != nil || string(b) != "words" {
		t.Errorf("%q %v", b, err)
	}
}

// What fails leaves nothing.
func TestWhatFailsLeavesNothing(t *testing.T) {
	root, fault := t.TempDir(), errors.New("no more ink")
	err := Folder(filepath.Join(root, "made"), func(at string) error {
		return errors.Join(write(filepath.Join(at, "file"), "half"), fault)
	})
	if left, _ := os.ReadDir(root); !errors.Is(err, fault) || len(left) != 0 {
		t.Errorf("%v, left are %v", err, left)
	}
}

// A file tells its size and its checksum, and is not written over another.
func TestFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "file")
	n, sum, err := File(path, func(w io.Writer) error { _, err := io.WriteString(w, "abc"); return err })
	// The published SHA-256 of "abc" (FIPS 180-2, appendix B.1).
	if n != 3 || sum != "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad" || err != nil {
		t.Errorf("%d %s %v", n, sum, err)
	}
	if err := write(path, "x"); !errors.Is(err, os.ErrExist) {
		t.Errorf("written over another: %v", err)
	}
}
