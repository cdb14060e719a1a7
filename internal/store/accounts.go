package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"amberproof/core/names"
	"amberproof/internal/fault"
)

// Credentials are what somebody signs in by.
type Credentials struct {
	Person   int64
	Password string // argon2id in PHC form; empty for none
	Stamp    int64  // grows with each new password
}

func (s *Store) credentials(ctx context.Context, where string, arg any) (c Credentials, err error) {
	var password sql.NullString
	err = s.db.QueryRowContext(ctx, `SELECT id, password, stamp FROM people WHERE `+where, arg).Scan(&c.Person, &password, &c.Stamp)
	c.Password = password.String
	return c, missing(err, "person", arg)
}

// CredentialsOf are those of a person.
func (s *Store) CredentialsOf(ctx context.Context, person int64) (Credentials, error) {
	return s.credentials(ctx, `id = ?`, person)
}

// CredentialsNamed are those of the person of a name, however it is written.
func (s *Store) CredentialsNamed(ctx context.Context, name string) (Credentials, error) {
	return s.credentials(ctx, `folded = ?`, names.Fold(name))
}

// AnyPassword tells whether anybody has a password.
func (s *Store) AnyPassword(ctx context.Context) (any bool, err error) {
	err = s.db.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM people WHERE password IS NOT NULL)`).Scan(&any)
	return any, err
}

// SetPassword gives a person a password, over the stamp that was seen: fault.ErrChanged if
// another one was set meanwhile. It tells the new stamp.
func (s *Store) SetPassword(ctx context.Context, person, seen int64, password string) (stamp int64, err error) {
	err = s.change(ctx, "person", person, `UPDATE people SET password = ?, stamp = stamp + 1 WHERE id = ? AND stamp = ?`, password, person, seen)
	if errors.Is(err, fault.ErrNotFound) {
		err = fault.ErrChanged
	}
	return seen + 1, err
}

// AddInvitation keeps the SHA-256 of a link's token by which a person sets a password; earlier
// ones that were not used end.
func (s *Store) AddInvitation(ctx context.Context, token string, person, maker int64, until time.Time) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `DELETE FROM invitations WHERE person = ? AND used IS NULL`, person); err != nil {
			return err
		}
		_, err := t.ExecContext(ctx, `INSERT INTO invitations (token, person, maker, until) VALUES (?,?,?,?)`, token, person, maker, until)
		return err
	})
}

// Invited is the person whom a link invites that was not used and has not expired;
// fault.ErrNotFound otherwise.
func (s *Store) Invited(ctx context.Context, token string, at time.Time) (p Person, err error) {
	p, err = readPerson(s.db.QueryRowContext(ctx, `SELECT p.id, p.name FROM invitations i JOIN people p ON p.id = i.person
		WHERE i.token = ? AND i.used IS NULL AND i.until > ?`, token, at))
	return p, missing(err, "invitation", "")
}

// TakeInvitation uses a link to set its person's password, once. Their passkeys end: the link may
// be the way back in after somebody else had them.
func (s *Store) TakeInvitation(ctx context.Context, token, password string, at time.Time) (c Credentials, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		err := t.QueryRowContext(ctx, `SELECT person FROM invitations WHERE token = ? AND used IS NULL AND until > ? FOR UPDATE`, token, at).Scan(&c.Person)
		if err != nil {
			return missing(err, "invitation", "")
		}
		if _, err := t.ExecContext(ctx, `UPDATE invitations SET used = ? WHERE token = ?`, at, token); err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `DELETE FROM passkeys WHERE person = ?`, c.Person); err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `UPDATE people SET password = ?, stamp = stamp + 1 WHERE id = ?`, password, c.Person); err != nil {
			return err
		}
		return t.QueryRowContext(ctx, `SELECT stamp FROM people WHERE id = ?`, c.Person).Scan(&c.Stamp)
	})
	return c, err
}

// Deed is a line of the audit trail.
type Deed struct {
	ID      int64
	At      time.Time
	Person  int64  // 0: nobody was signed in
	Name    string // as it was then
	Did     string // operation of the interface
	Kind    string // of the thing it was done to
	Thing   int64  // 0: none
	Project int64  // 0: the studio's
	Status  int    // of the answer, as HTTP
	Address string
}

// AddDeed adds a line to the audit trail.
func (s *Store) AddDeed(ctx context.Context, d Deed) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO audit (created, person, name, did, kind, thing, project, status, address) VALUES (?,?,?,?,?,?,?,?,?)`,
		now(), d.Person, d.Name, d.Did, d.Kind, d.Thing, d.Project, d.Status, d.Address)
	return err
}

// DeedsWanted chooses lines of the audit trail; what is zero does not choose.
type DeedsWanted struct {
	Within Within // projects; the studio's own deeds are always among them
	Person int64
	Did    string
	From   time.Time
	To     time.Time // exclusive
	Before int64     // number of a line; only earlier ones
	Most   int
}

// Deeds are lines of the audit trail, the newest first.
func (s *Store) Deeds(ctx context.Context, w DeedsWanted) ([]Deed, error) {
	in, args := w.Within.in("project")
	where := `(project = 0 OR ` + in + `)`
	and := func(cond string, v any) { where, args = where+` AND `+cond, append(args, v) }
	if w.Person != 0 {
		and(`person = ?`, w.Person)
	}
	if w.Did != "" {
		and(`did = ?`, w.Did)
	}
	if !w.From.IsZero() {
		and(`created >= ?`, w.From)
	}
	if !w.To.IsZero() {
		and(`created < ?`, w.To)
	}
	if w.Before != 0 {
		and(`id < ?`, w.Before)
	}
	return list(ctx, s.db, func(r rows) (d Deed, err error) {
		return d, r.Scan(&d.ID, &d.At, &d.Person, &d.Name, &d.Did, &d.Kind, &d.Thing, &d.Project, &d.Status, &d.Address)
	}, `SELECT id, created, person, name, did, kind, thing, project, status, address FROM audit WHERE `+where+` ORDER BY id DESC LIMIT ?`,
		append(args, w.Most)...)
}
