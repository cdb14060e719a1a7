package store

import (
	"archive/zip"
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"amberproof/core/importer"
	"amberproof/internal/whole"
)

// Files keeps big files in a folder: scenes and surrounds under their content's
// checksum, and a folder for each run:
//
//	scenes/<sha256>.zip  drawings/<sha256>-<tag>.png  surrounds/<sha256>.hdr  pictures/<sha256>  uploads/
//	proofs/<sha256>/  runs/<id>/frames/<frame>/film  runs/<id>/deliveries/<number>/
type Files struct{ root string }

// OpenFiles makes the folders that are missing, throws away what uploads left
// that were cut off, and brings the folders of runs to the present form.
func OpenFiles(root string) (*Files, error) {
	f := &Files{root}
	if err := os.RemoveAll(f.Uploads()); err != nil {
		return nil, err
	}
	for _, d := range []string{"scenes", "drawings", "surrounds", "pictures", "proofs", "runs", "uploads"} {
		if err := os.MkdirAll(filepath.Join(root, d), 0o755); err != nil {
			return nil, err
		}
	}
	if err := f.sweep(); err != nil {
		return nil, err
	}
	runs, err := os.ReadDir(filepath.Join(root, "runs"))
	if err != nil {
		return nil, err
	}
	for _, d := range runs {
		id, err := strconv.ParseInt(d.Name(), 10, 64)
		if err != nil {
			continue
		}
		if err := f.bringUp(id); err != nil {
			return nil, fmt.Errorf("the folder of run %d: %w", id, err)
		}
	}
	return f, nil
}

// sweep removes what a dead process left half written.
func (f *Files) sweep() error {
	for _, pattern := range []string{"scenes/" + staging + "*", "drawings/" + staging + "*", "surrounds/" + staging + "*",
		"pictures/" + staging + "*", "proofs/" + whole.Making + "*", "runs/*/deliveries/" + whole.Making + "*"} {
		left, err := filepath.Glob(filepath.Join(escaped(f.root), pattern))
		if err != nil {
			return err
		}
		for _, p := range left {
			if err := os.RemoveAll(p); err != nil {
				return err
			}
		}
	}
	return nil
}

// escaped is a path in which nothing has a meaning to patterns.
func escaped(path string) string {
	return strings.NewReplacer(`\`, `\\`, `*`, `\*`, `?`, `\?`, `[`, `\[`).Replace(path)
}

// bringUp moves the film and the delivery of a run that was kept when runs had
// one of each. Doing it again is harmless.
func (f *Files) bringUp(run int64) error {
	for from, to := range map[string]string{"film": f.Film(run, 0), "delivery": f.Delivery(run, 1)} {
		old := filepath.Join(f.Run(run), from)
		if _, err := os.Stat(old); errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			return err
		}
		if err := os.Rename(old, to); err != nil {
			return err
		}
	}
	return os.RemoveAll(filepath.Join(f.Run(run), "delivery.part"))
}

func (f *Files) scene(sum string) string    { return filepath.Join(f.root, "scenes", sum+".zip") }
func (f *Files) surround(sum string) string { return filepath.Join(f.root, "surrounds", sum+".hdr") }

func (f *Files) picture(sum string) string { return filepath.Join(f.root, "pictures", sum) }

// Uploads is the folder for files that are on their way in.
func (f *Files) Uploads() string { return filepath.Join(f.root, "uploads") }

// Proofs is the folder of what was put up in rounds, each in a folder under its checksum.
func (f *Files) Proofs() string { return filepath.Join(f.root, "proofs") }

// SweepProofs removes the folders of proofs that no round has: what was put up when the
// process died before it was noted, or was taken down.
func (f *Files) SweepProofs(have []string) error {
	all, err := os.ReadDir(f.Proofs())
	for _, d := range all {
		if !slices.Contains(have, d.Name()) {
			err = errors.Join(err, os.RemoveAll(filepath.Join(f.Proofs(), d.Name())))
		}
	}
	return err
}

// Run is the folder of a run.
func (f *Files) Run(run int64) string { return filepath.Join(f.root, "runs", fmt.Sprint(run)) }

// Clean is the file of a frame's film with its noise taken out.
func (f *Files) Clean(run int64, frame int) string { return f.Film(run, frame) + "-clean" }

// Film is the file of a frame's film.
func (f *Files) Film(run int64, frame int) string {
	return filepath.Join(f.Run(run), "frames", fmt.Sprintf("%04d", frame), "film")
}

// Deliveries is the folder of a run's deliveries.
func (f *Files) Deliveries(run int64) string { return filepath.Join(f.Run(run), "deliveries") }

// Delivery is the folder of one of them.
func (f *Files) Delivery(run int64, number int) string {
	return filepath.Join(f.Deliveries(run), fmt.Sprint(number))
}

// RemoveRun removes the folder of a run.
func (f *Files) RemoveRun(run int64) error { return os.RemoveAll(f.Run(run)) }

// RemoveFilms removes what a run has rendered, but not its deliveries.
func (f *Files) RemoveFilms(run int64) error {
	return os.RemoveAll(filepath.Join(f.Run(run), "frames"))
}

// RemoveScene removes the files of a scene, and the drawings of it.
func (f *Files) RemoveScene(sum string) error {
	drawings, err := filepath.Glob(escaped(f.drawing(sum, "")) + "*")
	for _, d := range drawings {
		err = errors.Join(err, os.Remove(d))
	}
	return errors.Join(err, os.Remove(f.scene(sum)))
}

func (f *Files) drawing(sum, name string) string {
	return filepath.Join(f.root, "drawings", sum+"-"+name)
}

// Drawing reads a drawing of a scene; fs.ErrNotExist where there is none.
func (f *Files) Drawing(sum, tag string) ([]byte, error) {
	return os.ReadFile(f.drawing(sum, tag+".png"))
}

// KeepDrawing keeps a drawing of a scene, so that it need not be made again.
func (f *Files) KeepDrawing(sum, tag string, png []byte) error {
	s, err := stage(f.drawing(sum, tag+".png"), func(out io.Writer) error {
		_, err := out.Write(png)
		return err
	})
	if err != nil {
		return err
	}
	return errors.Join(s.Place(), s.Drop())
}

// Staged is a file that is written, but not yet where it belongs.
type Staged struct{ from, to string }

// stage writes a file beside its place.
func stage(path string, fill func(io.Writer) error) (*Staged, error) {
	t, err := os.CreateTemp(filepath.Dir(path), staging)
	if err != nil {
		return nil, err
	}
	buf := bufio.NewWriterSize(t, 1<<20)
	if err = errors.Join(fill(buf), buf.Flush(), t.Sync(), t.Close()); err != nil {
		return nil, errors.Join(err, os.Remove(t.Name()))
	}
	return &Staged{t.Name(), path}, nil
}

// staging is what the names of staged files begin with.
const staging = ".new-"

// Place puts the file where it belongs, which takes a moment; it outlasts a
// crash of the machine. The same content being there already is harmless.
func (s *Staged) Place() error {
	if err := os.Rename(s.from, s.to); err != nil {
		return err
	}
	d, err := os.Open(filepath.Dir(s.to))
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// Drop removes the file if it was not placed.
func (s *Staged) Drop() error {
	err := os.Remove(s.from)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// StageScene writes the files of a scene, to be placed under their checksum.
func (f *Files) StageScene(sum string, b importer.Bundle) (*Staged, error) {
	return stage(f.scene(sum), func(out io.Writer) error {
		z := zip.NewWriter(out)
		for _, n := range slices.Sorted(maps.Keys(b)) {
			w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Store})
			if err != nil {
				return err
			}
			if _, err := w.Write(b[n]); err != nil {
				return err
			}
		}
		return z.Close()
	})
}

// SceneBytes is the size of a scene's files.
func (f *Files) SceneBytes(sum string) (int64, error) { return sizeOf(f.scene(sum)) }

// SurroundBytes is the size of an environment picture's file.
func (f *Files) SurroundBytes(sum string) (int64, error) { return sizeOf(f.surround(sum)) }

func sizeOf(path string) (int64, error) {
	i, err := os.Stat(path)
	if err != nil {
		return 0, fmt.Errorf("a file is gone from the data folder: %w", err)
	}
	return i.Size(), nil
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

// StageSurround writes an environment picture, to be placed under its checksum.
func (f *Files) StageSurround(sum string, data []byte) (*Staged, error) {
	return stage(f.surround(sum), func(w io.Writer) error {
		_, err := io.Copy(w, bytes.NewReader(data))
		return err
	})
}

// Surround reads an environment picture.
func (f *Files) Surround(sum string) ([]byte, error) {
	data, err := os.ReadFile(f.surround(sum))
	if err != nil {
		return nil, fmt.Errorf("the environment picture is gone from the data folder: %w", err)
	}
	return data, nil
}

// StagePicture writes a picture, to be placed under its checksum.
func (f *Files) StagePicture(sum string, data []byte) (*Staged, error) {
	return stage(f.picture(sum), func(w io.Writer) error {
		_, err := io.Copy(w, bytes.NewReader(data))
		return err
	})
}

// Picture reads a picture.
func (f *Files) Picture(sum string) ([]byte, error) {
	data, err := os.ReadFile(f.picture(sum))
	if err != nil {
		return nil, fmt.Errorf("the picture is gone from the data folder: %w", err)
	}
	return data, nil
}
