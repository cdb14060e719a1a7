package store

import (
	"context"
	"strings"

	"amberproof/internal/identity"
)

// Reachable is somebody with where mail reaches them and of what they want some.
type Reachable struct {
	Person
	Mail  string // empty: nowhere
	Wants []string
	Role  identity.Role // in the project that was asked about
}

// Reachable are the people of a project.
func (s *Store) Reachable(ctx context.Context, project int64) ([]Reachable, error) {
	return list(ctx, s.db, func(r rows) (v Reachable, err error) {
		var wants string
		err = r.Scan(&v.ID, &v.Name, &v.Mail, &wants, &v.Role)
		v.Wants = strings.FieldsFunc(wants, func(c rune) bool { return c == ',' })
		return v, err
	}, `SELECT p.id, p.name, p.mail, p.wants, m.role FROM members m JOIN people p ON p.id = m.person WHERE m.project = ? ORDER BY p.id`, project)
}

// Mail is where mail reaches a person, and of what they want some.
func (s *Store) Mail(ctx context.Context, person int64) (mail string, wants []string, err error) {
	var w string
	err = s.db.QueryRowContext(ctx, `SELECT mail, wants FROM people WHERE id = ?`, person).Scan(&mail, &w)
	return mail, strings.FieldsFunc(w, func(c rune) bool { return c == ',' }), missing(err, "person", person)
}

// SetMail says where mail reaches a person.
func (s *Store) SetMail(ctx context.Context, person int64, mail string) error {
	return s.change(ctx, "person", person, `UPDATE people SET mail = ? WHERE id = ?`, mail, person)
}

// SetWants says of what a person wants mail.
func (s *Store) SetWants(ctx context.Context, person int64, wants []string) error {
	return s.change(ctx, "person", person, `UPDATE people SET wants = ? WHERE id = ?`, strings.Join(wants, ","), person)
}
