package store

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"sort"

	"amberproof/core/importer"
)

func subFS() (fs.FS, error) { return fs.Sub(migrations, "migrations") }

// Files keeps big files in a folder: scenes and surrounds under their content's
// checksum, and a folder for each run.
type Files struct{ root string }

// OpenFiles makes the folders that are missing.
func OpenFiles(root string) (*Files, error) {
	for _, d := range []string{"scenes", "surrounds", "runs"} {
		if err := os.MkdirAll(filepath.Join(root, d), 0o755); err != nil {
			return nil, err
		}
	}
	return &Files{root}, nil
}

func (f *Files) scene(sum string) string    { return filepath.Join(f.root, "scenes", sum+".zip") }
func (f *Files) surround(sum string) string { return filepath.Join(f.root, "surrounds", sum+".hdr") }

// RunDir is the folder of a run.
func (f *Files) RunDir(run int64) string {
	return filepath.Join(f.root, "runs", fmt.Sprint(run))
}

// write puts a file in place whole or not at all.
func write(path string, data []byte) error {
	if _, err := os.Stat(path); err == nil {
		return nil // content-addressed: the same is there
	}
	t, err := os.CreateTemp(filepath.Dir(path), ".new-*")
	if err != nil {
		return err
	}
	_, err = t.Write(data)
	if err = errors.Join(err, t.Sync(), t.Close()); err == nil {
		err = os.Rename(t.Name(), path)
	}
	if err != nil {
		err = errors.Join(err, os.Remove(t.Name()))
	}
	return err
}

// PutScene keeps the files of a scene under their checksum.
func (f *Files) PutScene(sum string, b importer.Bundle) error {
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	names := make([]string, 0, len(b))
	for n := range b {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Store})
		if err != nil {
			return err
		}
		if _, err := w.Write(b[n]); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	return write(f.scene(sum), buf.Bytes())
}

// Scene reads the files of a scene.
func (f *Files) Scene(sum string) (importer.Bundle, error) {
	data, err := os.ReadFile(f.scene(sum))
	if err != nil {
		return nil, fmt.Errorf("the files of the scene are gone from the data folder: %w", err)
	}
	b := importer.Bundle{}
	return b, b.AddZip(data, importer.DefaultLimits)
}

// PutSurround keeps an environment picture under its checksum.
func (f *Files) PutSurround(sum string, data []byte) error { return write(f.surround(sum), data) }

// Surround reads an environment picture.
func (f *Files) Surround(sum string) ([]byte, error) {
	data, err := os.ReadFile(f.surround(sum))
	if err != nil {
		return nil, fmt.Errorf("the environment picture is gone from the data folder: %w", err)
	}
	return data, nil
}
