package store

import (
	"context"
	"database/sql"
)

// PictureKind is what pictures that were taken in are for.
type PictureKind string

// Environment pictures, and those that finishes and backings show.
const (
	ForSurrounds PictureKind = "surround"
	ForFinishes  PictureKind = "finish"
)

// Picture is the row of a picture that was taken in; the same file may be several projects'.
type Picture struct {
	Kind          PictureKind
	SHA256        string
	Project       int64 // 0: the whole studio
	Name          string
	Width, Height int
}

// AddPicture adds a picture to a project or the studio; the same picture again is harmless,
// and then has the new name there. kept puts the file in place, as for AddScene.
func (s *Store) AddPicture(ctx context.Context, maker int64, v Picture, kept func() error) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `INSERT INTO pictures (kind, sha256, project, maker, name, width, height, created)
			VALUES (?,?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE name = VALUES(name)`,
			v.Kind, v.SHA256, v.Project, maker, v.Name, v.Width, v.Height, now()); err != nil {
			return err
		}
		return kept()
	})
}

// Pictures lists pictures of the studio and of some projects, newest first.
func (s *Store) Pictures(ctx context.Context, of Within, kind PictureKind) ([]Picture, error) {
	return s.pictures(ctx, of, kind, `TRUE`)
}

// PicturesNamed lists those of a name, newest first: several files may be called the same.
func (s *Store) PicturesNamed(ctx context.Context, of Within, kind PictureKind, name string) ([]Picture, error) {
	return s.pictures(ctx, of, kind, `name = ?`, name)
}

// PicturesSummed lists those of a checksum: one that the studio or some of the projects have.
func (s *Store) PicturesSummed(ctx context.Context, of Within, kind PictureKind, sha256 string) ([]Picture, error) {
	return s.pictures(ctx, of, kind, `sha256 = ?`, sha256)
}

func (s *Store) pictures(ctx context.Context, of Within, kind PictureKind, where string, args ...any) ([]Picture, error) {
	in, projects := of.in(`project`)
	args = append(append([]any{kind}, projects...), args...)
	return list(ctx, s.db, readPicture, `SELECT kind, sha256, project, name, width, height FROM pictures
		WHERE kind = ? AND (project = 0 OR `+in+`) AND `+where+` ORDER BY created DESC, name, sha256, project`, args...)
}

func readPicture(r rows) (v Picture, err error) {
	return v, r.Scan(&v.Kind, &v.SHA256, &v.Project, &v.Name, &v.Width, &v.Height)
}
