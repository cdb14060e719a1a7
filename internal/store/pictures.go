package store

import (
	"context"
	"database/sql"
)

// Picture is the row of a picture that finishes and backings show.
type Picture struct {
	SHA256        string
	Name          string
	Width, Height int
}

// AddPicture adds a picture; the same picture again is harmless,
// and then has the new name. kept puts the file in place, as for AddScene.
func (s *Store) AddPicture(ctx context.Context, maker int64, v Picture, kept func() error) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `INSERT INTO pictures (sha256, maker, name, width, height, created)
			VALUES (?,?,?,?,?,?) ON DUPLICATE KEY UPDATE name = VALUES(name)`,
			v.SHA256, maker, v.Name, v.Width, v.Height, now()); err != nil {
			return err
		}
		return kept()
	})
}

// Pictures lists all pictures, newest first.
func (s *Store) Pictures(ctx context.Context) ([]Picture, error) {
	return list(ctx, s.db, readPicture, `SELECT sha256, name, width, height FROM pictures ORDER BY created DESC, name`)
}

func readPicture(r rows) (v Picture, err error) {
	return v, r.Scan(&v.SHA256, &v.Name, &v.Width, &v.Height)
}
