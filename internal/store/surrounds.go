package store

import (
	"context"
	"database/sql"
)

// Surround is an environment picture's row.
type Surround struct {
	SHA256        string
	Name          string
	Width, Height int
}

// AddSurround adds an environment picture; the same picture again is harmless,
// and then has the new name. kept puts the file in place, as for AddScene.
func (s *Store) AddSurround(ctx context.Context, maker int64, v Surround, kept func() error) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `INSERT INTO surrounds (sha256, maker, name, width, height, created)
			VALUES (?,?,?,?,?,?) ON DUPLICATE KEY UPDATE name = VALUES(name)`,
			v.SHA256, maker, v.Name, v.Width, v.Height, now()); err != nil {
			return err
		}
		return kept()
	})
}

// Surrounds lists all environment pictures, newest first.
func (s *Store) Surrounds(ctx context.Context) ([]Surround, error) {
	return list(ctx, s.db, readSurround, `SELECT sha256, name, width, height FROM surrounds ORDER BY created DESC, name`)
}

// SurroundsNamed lists the pictures of a name, newest first: several files may
// be called the same.
func (s *Store) SurroundsNamed(ctx context.Context, name string) ([]Surround, error) {
	return list(ctx, s.db, readSurround, `SELECT sha256, name, width, height FROM surrounds WHERE name = ? ORDER BY created DESC, sha256`, name)
}

func readSurround(r rows) (v Surround, err error) {
	return v, r.Scan(&v.SHA256, &v.Name, &v.Width, &v.Height)
}
