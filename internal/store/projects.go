package store

import "context"

// Project is one campaign.
type Project struct {
	ID   int64
	Name string
}

// EnsureProject returns the project of that name, made if need be.
func (s *Store) EnsureProject(ctx context.Context, maker int64, name string) (Project, error) {
	if _, err := s.db.ExecContext(ctx, `INSERT IGNORE INTO projects (name, maker, created) VALUES (?, ?, ?)`, name, maker, now()); err != nil {
		return Project{}, err
	}
	p := Project{Name: name}
	return p, s.db.QueryRowContext(ctx, `SELECT id FROM projects WHERE name = ?`, name).Scan(&p.ID)
}

// Project reads one project.
func (s *Store) Project(ctx context.Context, id int64) (p Project, err error) {
	p.ID = id
	err = s.db.QueryRowContext(ctx, `SELECT name FROM projects WHERE id = ?`, id).Scan(&p.Name)
	return p, missing(err, "project", id)
}

// Projects lists all projects.
func (s *Store) Projects(ctx context.Context, of Within) ([]Project, error) {
	in, args := of.in(`id`)
	return list(ctx, s.db, func(r rows) (p Project, err error) { return p, r.Scan(&p.ID, &p.Name) },
		`SELECT id, name FROM projects WHERE `+in+` ORDER BY id`, args...)
}
