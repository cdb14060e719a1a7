// Package whole writes folders that are there whole or not at all, whatever ends the process
// or the machine meanwhile.
package whole

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"golang.org/x/sys/unix"
)

// ErrExists is returned when the folder is there already: nothing is ever overwritten.
var ErrExists = errors.New("there is one already")

// Making is what the names of folders begin with that are being written. One that a dead
// process left can be removed.
const Making = ".making-"

// Folder has fill write into a folder beside dir, flushes that to the disk, and moves it into
// place: whoever else writes the same at the same time, one of them is there in the end.
func Folder(dir string, fill func(making string) error) error {
	if _, err := os.Lstat(dir); err == nil {
		return fmt.Errorf("%w in %s", ErrExists, dir)
	}
	return Named(filepath.Dir(dir), func(making string) (string, error) { return filepath.Base(dir), fill(making) })
}

// Named is Folder in root, where the name follows from what was written.
func Named(root string, fill func(making string) (name string, err error)) (err error) {
	if err := os.MkdirAll(root, 0o755); err != nil {
		return err
	}
	making, err := os.MkdirTemp(root, Making)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.RemoveAll(making))
		}
	}()
	if err := os.Chmod(making, 0o755); err != nil { // made for its owner alone
		return err
	}
	name, err := fill(making)
	if err != nil {
		return err
	}
	return place(making, filepath.Join(root, name))
}

// place flushes a folder to the disk and moves it where nothing is yet.
func place(making, dir string) error {
	if err := syncFolders(making); err != nil {
		return err
	}
	if err := unix.Renameat2(unix.AT_FDCWD, making, unix.AT_FDCWD, dir, unix.RENAME_NOREPLACE); err != nil {
		if errors.Is(err, unix.EEXIST) {
			err = fmt.Errorf("%w in %s", ErrExists, dir)
		}
		return err
	}
	return syncFolder(filepath.Dir(dir))
}

// File writes a new file and flushes it to the disk; its folder is made if need be. It tells
// the size in bytes and the SHA-256, in hex.
func File(path string, encode func(io.Writer) error) (bytes int64, sum string, err error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return 0, "", err
	}
	out, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return 0, "", err
	}
	h := sha256.New()
	n := &counter{}
	if err := errors.Join(encode(io.MultiWriter(out, h, n)), out.Sync(), out.Close()); err != nil {
		return 0, "", err
	}
	return n.n, hex.EncodeToString(h.Sum(nil)), nil
}

type counter struct{ n int64 }

func (c *counter) Write(b []byte) (int, error) {
	c.n += int64(len(b))
	return len(b), nil
}

// syncFolders makes the names of all files in a tree outlast a crash.
func syncFolders(root string) error {
	return filepath.WalkDir(root, func(p string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		return syncFolder(p)
	})
}

func syncFolder(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}
