package store

import (
	"context"
	"database/sql"
	"errors"
)

// Project is one campaign.
type Project struct {
	ID      int64
	Name    string
	PutAway bool
}

const projectColumns = `id, name, put_away`

func readProject(r rows) (p Project, err error) { return p, r.Scan(&p.ID, &p.Name, &p.PutAway) }

// AddProject makes a project, with its maker as its lead; fault.ErrTaken if there is one of
// the name.
func (s *Store) AddProject(ctx context.Context, maker int64, name string) (p Project, err error) {
	p.Name = name
	err = s.tx(ctx, func(t *sql.Tx) error {
		r, err := t.ExecContext(ctx, `INSERT INTO projects (name, maker, created) VALUES (?,?,?)`, name, maker, now())
		if err != nil {
			return taken(err)
		}
		if p.ID, err = r.LastInsertId(); err != nil {
			return err
		}
		_, err = t.ExecContext(ctx, `INSERT INTO members (project, person, role) VALUES (?,?,'lead')`, p.ID, maker)
		return err
	})
	return p, err
}

// EnsureProject returns the project of that name, made if need be.
func (s *Store) EnsureProject(ctx context.Context, maker int64, name string) (Project, error) {
	p, err := readProject(s.db.QueryRowContext(ctx, `SELECT `+projectColumns+` FROM projects WHERE name = ?`, name))
	if errors.Is(err, sql.ErrNoRows) {
		return s.AddProject(ctx, maker, name)
	}
	return p, err
}

// Project reads one project.
func (s *Store) Project(ctx context.Context, id int64) (Project, error) {
	p, err := readProject(s.db.QueryRowContext(ctx, `SELECT `+projectColumns+` FROM projects WHERE id = ?`, id))
	return p, missing(err, "project", id)
}

// Projects lists projects, those that are put away last.
func (s *Store) Projects(ctx context.Context, of Within) ([]Project, error) {
	in, args := of.in(`id`)
	return list(ctx, s.db, readProject, `SELECT `+projectColumns+` FROM projects WHERE `+in+` ORDER BY put_away, id`, args...)
}

// RenameProject gives a project another name; fault.ErrTaken if another has it.
func (s *Store) RenameProject(ctx context.Context, id int64, name string) error {
	return taken(s.change(ctx, "project", id, `UPDATE projects SET name = ? WHERE id = ?`, name, id))
}

// PutProjectAway takes a project out of sight, or brings it back.
func (s *Store) PutProjectAway(ctx context.Context, id int64, away bool) error {
	return s.change(ctx, "project", id, `UPDATE projects SET put_away = ? WHERE id = ?`, away, id)
}
