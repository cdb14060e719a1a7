package store

import (
	"context"
	"database/sql"
	"time"
)

// Link lets somebody without an account into one round, as one of those who are asked.
type Link struct {
	ID, Round, Person int64
	Phrase            string // argon2id in PHC form; empty: none is asked for
	Originals         string
	Maker             int64
	Created, Until    time.Time
	Revoked           *time.Time
}

// Visit is a link's being opened.
type Visit struct {
	Link    int64
	Name    string // that was given
	Created time.Time
}

const linkColumns = `l.id, l.round, l.person, l.phrase, l.originals, l.maker, l.created, l.until, l.revoked`

func readLink(r rows) (v Link, err error) {
	var revoked sql.NullTime
	err = r.Scan(&v.ID, &v.Round, &v.Person, &v.Phrase, &v.Originals, &v.Maker, &v.Created, &v.Until, &revoked)
	if revoked.Valid {
		v.Revoked = &revoked.Time
	}
	return v, err
}

// AddLink keeps a link under the SHA-256 of its token.
func (s *Store) AddLink(ctx context.Context, token string, v Link) (id int64, err error) {
	r, err := s.db.ExecContext(ctx, `INSERT INTO links (round, person, token, phrase, originals, maker, created, until) VALUES (?,?,?,?,?,?,?,?)`,
		v.Round, v.Person, token, v.Phrase, v.Originals, v.Maker, now(), v.Until)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// LinkOf is the link of a token's SHA-256 that is neither revoked nor expired;
// fault.ErrNotFound otherwise.
func (s *Store) LinkOf(ctx context.Context, token string, at time.Time) (Link, error) {
	v, err := readLink(s.db.QueryRowContext(ctx, `SELECT `+linkColumns+` FROM links l WHERE l.token = ? AND l.revoked IS NULL AND l.until > ?`, token, at))
	return v, missing(err, "link", "")
}

// Links are those of a round, the newest first.
func (s *Store) Links(ctx context.Context, round int64) ([]Link, error) {
	return list(ctx, s.db, readLink, `SELECT `+linkColumns+` FROM links l WHERE l.round = ? ORDER BY l.id DESC`, round)
}

// RevokeLink ends a link, and whoever looks by it.
func (s *Store) RevokeLink(ctx context.Context, id int64) error {
	return s.change(ctx, "link", id, `UPDATE links SET revoked = COALESCE(revoked, ?) WHERE id = ?`, now(), id)
}

// AddVisit keeps that a link was opened, under the SHA-256 of what its page keeps.
func (s *Store) AddVisit(ctx context.Context, session string, v Visit, until time.Time) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO visits (link, name, session, created, until) VALUES (?,?,?,?,?)`, v.Link, v.Name, session, now(), until)
	return err
}

// VisitOf is the visit of a session's SHA-256, with its link, while both last;
// fault.ErrNotFound otherwise.
func (s *Store) VisitOf(ctx context.Context, session string, at time.Time) (l Link, name string, err error) {
	l, err = readLink(&also{s.db.QueryRowContext(ctx, `SELECT `+linkColumns+`, v.name FROM visits v JOIN links l ON l.id = v.link
		WHERE v.session = ? AND v.until > ? AND l.revoked IS NULL AND l.until > ?`, session, at, at), []any{&name}})
	return l, name, missing(err, "visit", "")
}

// also reads more columns of a row behind those that are asked for.
type also struct {
	r    rows
	more []any
}

func (a *also) Scan(to ...any) error { return a.r.Scan(append(to, a.more...)...) }

// Visits are those of a round's links, the newest first.
func (s *Store) Visits(ctx context.Context, round int64) ([]Visit, error) {
	return list(ctx, s.db, func(r rows) (v Visit, err error) { return v, r.Scan(&v.Link, &v.Name, &v.Created) },
		`SELECT v.link, v.name, v.created FROM visits v JOIN links l ON l.id = v.link WHERE l.round = ? ORDER BY v.id DESC LIMIT 1000`, round)
}
