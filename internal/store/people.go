package store

import (
	"context"
	"database/sql"

	"github.com/alexedwards/scs/mysqlstore"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// Person is somebody who works here, or answers.
type Person struct {
	ID   int64
	Name string
}

// Member is what a person is in a project.
type Member struct {
	Person
	Role identity.Role
}

func readPerson(r rows) (p Person, err error) { return p, r.Scan(&p.ID, &p.Name) }

// Sessions keeps who is signed in where; expired ones are not found.
func (s *Store) Sessions() *mysqlstore.MySQLStore {
	return mysqlstore.NewWithCleanupInterval(s.db, 0) // its goroutine would outlive the store
}

// SweepSessions throws away sessions that have expired.
func (s *Store) SweepSessions(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)`)
	return err
}

// EnsurePerson returns the person of that name, made if need be.
func (s *Store) EnsurePerson(ctx context.Context, name string) (Person, error) {
	if _, err := s.db.ExecContext(ctx, `INSERT IGNORE INTO people (name, folded, created) VALUES (?,?,?)`, name, names.Fold(name), now()); err != nil {
		return Person{}, err
	}
	return readPerson(s.db.QueryRowContext(ctx, `SELECT id, name FROM people WHERE folded = ?`, names.Fold(name)))
}

// RenamePerson gives a person another name; fault.ErrTaken if another has it.
func (s *Store) RenamePerson(ctx context.Context, id int64, name string) error {
	return taken(s.change(ctx, "person", id, `UPDATE people SET name = ?, folded = ? WHERE id = ?`, name, names.Fold(name), id))
}

// People are all, in the order they came.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return list(ctx, s.db, readPerson, `SELECT id, name FROM people ORDER BY id`)
}

// Actors are people with what they are in projects, in the order they came: all, or one.
func (s *Store) Actors(ctx context.Context, one int64) ([]identity.Actor, error) {
	rows, err := s.db.QueryContext(ctx, `SELECT p.id, p.name, COALESCE(m.project, 0), COALESCE(m.role, '')
		FROM people p LEFT JOIN members m ON m.person = p.id WHERE ? IN (0, p.id) ORDER BY p.id, m.project`, one)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []identity.Actor{}
	for rows.Next() {
		var id, project int64
		var name string
		var role identity.Role
		if err := rows.Scan(&id, &name, &project, &role); err != nil {
			return nil, err
		}
		if n := len(out); n == 0 || out[n-1].ID != id {
			out = append(out, identity.Actor{ID: id, Name: name, Roles: map[int64]identity.Role{}})
		}
		if project != 0 {
			out[len(out)-1].Roles[project] = role
		}
	}
	return out, rows.Err()
}

// Actor is a person with what they are in projects; fault.ErrNotFound where there is none.
func (s *Store) Actor(ctx context.Context, id int64) (identity.Actor, error) {
	all, err := s.Actors(ctx, id)
	if err == nil && (id == 0 || len(all) == 0) {
		err = missing(sql.ErrNoRows, "person", id)
	}
	if err != nil {
		return identity.Actor{}, err
	}
	return all[0], nil
}

// Members are the people of a project, in the order of their roles.
func (s *Store) Members(ctx context.Context, project int64) ([]Member, error) {
	read := func(r rows) (m Member, err error) { return m, r.Scan(&m.ID, &m.Name, &m.Role) }
	return list(ctx, s.db, read, `SELECT p.id, p.name, m.role FROM members m JOIN people p ON p.id = m.person WHERE m.project = ?
		ORDER BY FIELD(m.role, 'lead', 'td', 'artist', 'reviewer'), p.id`, project)
}

// SetMember gives a person a role in a project, another one or none with an empty role. A
// project keeps a lead: fault.Input otherwise.
func (s *Store) SetMember(ctx context.Context, project, person int64, role identity.Role) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		// The row of the project is held, so that two leads cannot leave at once.
		var id int64
		if err := t.QueryRowContext(ctx, `SELECT id FROM projects WHERE id = ? FOR UPDATE`, project).Scan(&id); err != nil {
			return missing(err, "project", project)
		}
		var err error
		if role == "" {
			_, err = t.ExecContext(ctx, `DELETE FROM members WHERE project = ? AND person = ?`, project, person)
		} else {
			_, err = t.ExecContext(ctx, `INSERT INTO members (project, person, role) VALUES (?,?,?) ON DUPLICATE KEY UPDATE role = VALUES(role)`, project, person, role)
		}
		if err != nil {
			return err
		}
		var leads int
		if err := t.QueryRowContext(ctx, `SELECT COUNT(*) FROM members WHERE project = ? AND role = 'lead'`, project).Scan(&leads); err != nil {
			return err
		}
		if leads == 0 {
			return fault.Bad("A project needs a lead: make somebody else its lead first")
		}
		return nil
	})
}

// MemberOf reads what a person is in a project; fault.ErrNotFound if nothing.
func (s *Store) MemberOf(ctx context.Context, project, person int64) (m Member, err error) {
	err = s.db.QueryRowContext(ctx, `SELECT p.id, p.name, m.role FROM members m JOIN people p ON p.id = m.person WHERE m.project = ? AND m.person = ?`,
		project, person).Scan(&m.ID, &m.Name, &m.Role)
	return m, missing(err, "person", person)
}
