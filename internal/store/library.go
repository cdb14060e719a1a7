package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"amberproof/internal/fault"
)

// Entry is one version of something in the library.
type Entry struct {
	ID      int64
	Kind    string // "quality", "clay", "stage"
	Key     string // the same for all versions
	Version int    // from 1
	Name    string
	Body    json.RawMessage
	Project *int64 // nil: for all
	Created time.Time
	Shown   bool // a picture was kept with it
}

const entryColumns = `id, kind, slug, version, name, body, project, created, picture IS NOT NULL`

func readEntry(r rows) (e Entry, err error) {
	var body string
	err = r.Scan(&e.ID, &e.Kind, &e.Key, &e.Version, &e.Name, &body, &e.Project, &e.Created, &e.Shown)
	e.Body = json.RawMessage(body)
	return e, err
}

// Entries lists the newest version of everything of a kind that is not put away, by name:
// what is for all, and what some projects have.
func (s *Store) Entries(ctx context.Context, of Within, kind string) ([]Entry, error) {
	in, args := of.in(`project`)
	return list(ctx, s.db, readEntry, `SELECT `+entryColumns+` FROM library l WHERE kind = ? AND NOT put_away AND (project IS NULL OR `+in+`)
		AND version = (SELECT MAX(version) FROM library m WHERE m.kind = l.kind AND m.slug = l.slug) ORDER BY name, id LIMIT 1000`, append([]any{kind}, args...)...)
}

// Entry reads a version of something; 0 is the newest.
func (s *Store) Entry(ctx context.Context, kind, key string, version int) (Entry, error) {
	e, err := readEntry(s.db.QueryRowContext(ctx,
		`SELECT `+entryColumns+` FROM library WHERE kind = ? AND slug = ? AND (? = 0 OR version = ?) ORDER BY version DESC LIMIT 1`, kind, key, version, version))
	return e, missing(err, kind, key)
}

// AddEntry keeps the next version of something and returns it. Of several that are kept
// at once each gets a version of its own: nothing is locked to find the next, one that
// somebody else took meanwhile is passed over.
func (s *Store) AddEntry(ctx context.Context, maker int64, e Entry) (Entry, error) {
	for {
		err := s.db.QueryRowContext(ctx, `SELECT COALESCE(MAX(version), 0) + 1 FROM library WHERE kind = ? AND slug = ?`, e.Kind, e.Key).Scan(&e.Version)
		if err != nil {
			return e, err
		}
		e.Created = now()
		var r sql.Result
		err = s.tx(ctx, func(t *sql.Tx) (err error) {
			r, err = t.ExecContext(ctx, `INSERT INTO library (kind, slug, version, name, body, project, maker, created) VALUES (?,?,?,?,?,?,?,?)`,
				e.Kind, e.Key, e.Version, e.Name, string(e.Body), e.Project, maker, e.Created)
			return taken(err)
		})
		if errors.Is(err, fault.ErrTaken) {
			continue
		}
		if err != nil {
			return e, err
		}
		e.ID, err = r.LastInsertId()
		return e, err
	}
}

// EntryPicture is what a version of something looks like, a PNG.
func (s *Store) EntryPicture(ctx context.Context, kind, key string, version int) (png []byte, err error) {
	err = s.db.QueryRowContext(ctx, `SELECT picture FROM library WHERE kind = ? AND slug = ? AND version = ? AND picture IS NOT NULL`,
		kind, key, version).Scan(&png)
	return png, missing(err, "picture", key)
}

// PutEntryAway takes all versions of something out of the lists; tickets that
// were made with it hold their own copy.
func (s *Store) PutEntryAway(ctx context.Context, kind, key string) error {
	r, err := s.db.ExecContext(ctx, `UPDATE library SET put_away = TRUE WHERE kind = ? AND slug = ?`, kind, key)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return missing(sql.ErrNoRows, kind, key)
}
