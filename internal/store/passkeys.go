package store

import (
	"context"
	"database/sql"
	"time"
)

// Passkey is a passkey of a person.
type Passkey struct {
	ID, Person int64
	Handle     []byte // the authenticator's identity of it
	Name, Site string // Site is where it is good
	Credential []byte // JSON
	Created    time.Time
	Used       *time.Time
}

// Passkeys are those of a person, in the order they came.
func (s *Store) Passkeys(ctx context.Context, person int64) ([]Passkey, error) {
	return list(ctx, s.db, func(r rows) (v Passkey, err error) {
		var used sql.NullTime
		err = r.Scan(&v.ID, &v.Person, &v.Handle, &v.Name, &v.Site, &v.Credential, &v.Created, &used)
		if used.Valid {
			v.Used = &used.Time
		}
		return v, err
	}, `SELECT id, person, handle, name, site, credential, created, used FROM passkeys WHERE person = ? ORDER BY id`, person)
}

// AddPasskey adds one; fault.ErrTaken if it is there already.
func (s *Store) AddPasskey(ctx context.Context, v Passkey) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO passkeys (person, handle, name, site, credential, created) VALUES (?,?,?,?,?,?)`,
		v.Person, v.Handle, v.Name, v.Site, v.Credential, now())
	return taken(err)
}

// UsedPasskey records that somebody signed in by one, with what it has counted.
func (s *Store) UsedPasskey(ctx context.Context, handle, credential []byte) error {
	_, err := s.db.ExecContext(ctx, `UPDATE passkeys SET credential = ?, used = ? WHERE handle = ?`, credential, now(), handle)
	return err
}

// RemovePasskey removes one of a person.
func (s *Store) RemovePasskey(ctx context.Context, person, id int64) error {
	return s.change(ctx, "passkey", id, `DELETE FROM passkeys WHERE id = ? AND person = ?`, id, person)
}
