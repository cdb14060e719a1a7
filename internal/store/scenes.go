package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"amberproof/internal/job"
)

// EnsureProject returns the project of that name, made if need be.
func (s *Store) EnsureProject(ctx context.Context, name string) (Project, error) {
	if _, err := s.db.ExecContext(ctx, `INSERT IGNORE INTO projects (name, created) VALUES (?, ?)`, name, now()); err != nil {
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
func (s *Store) Projects(ctx context.Context) ([]Project, error) {
	return list(ctx, s.db, func(r rows) (p Project, err error) { return p, r.Scan(&p.ID, &p.Name) }, `SELECT id, name FROM projects ORDER BY id`)
}

type rows interface{ Scan(...any) error }

// list runs a query and reads every row.
func list[T any](ctx context.Context, db *sql.DB, read func(rows) (T, error), query string, args ...any) ([]T, error) {
	r, err := db.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	out := []T{}
	for r.Next() {
		v, err := read(r)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, r.Err()
}

const sceneColumns = `id, project, name, file, sha256, bytes, triangles, parts, left_out, created`

func readScene(r rows) (v Scene, err error) {
	var left string
	if err = r.Scan(&v.ID, &v.Project, &v.Name, &v.File, &v.SHA256, &v.Bytes, &v.Triangles, &v.Parts, &left, &v.Created); err == nil {
		err = json.Unmarshal([]byte(left), &v.LeftOut)
	}
	return v, err
}

// AddScene adds a scene with its views, both or neither, and returns its number.
func (s *Store) AddScene(ctx context.Context, v Scene, views []job.View) (id int64, err error) {
	left, err := toJSON(v.LeftOut)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(t *sql.Tx) error {
		r, err := t.ExecContext(ctx, `INSERT INTO scenes (project, name, file, sha256, bytes, triangles, parts, left_out, created) VALUES (?,?,?,?,?,?,?,?,?)`,
			v.Project, v.Name, v.File, v.SHA256, v.Bytes, v.Triangles, v.Parts, left, now())
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		for _, w := range views {
			cam, err := toJSON(w.Camera)
			if err != nil {
				return err
			}
			// Views that come with the file are locked: they change on purpose only.
			if _, err := t.ExecContext(ctx, `INSERT INTO views (scene, name, camera, locked) VALUES (?,?,?,TRUE)`, id, w.Name, cam); err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

// Scene reads one scene.
func (s *Store) Scene(ctx context.Context, id int64) (Scene, error) {
	v, err := readScene(s.db.QueryRowContext(ctx, `SELECT `+sceneColumns+` FROM scenes WHERE id = ?`, id))
	return v, missing(err, "scene", id)
}

// Scenes lists all scenes, newest first.
func (s *Store) Scenes(ctx context.Context) ([]Scene, error) {
	return list(ctx, s.db, readScene, `SELECT `+sceneColumns+` FROM scenes ORDER BY id DESC`)
}

func readView(r rows) (v View, err error) {
	var cam string
	if err = r.Scan(&v.ID, &v.Scene, &v.Name, &cam, &v.Locked); err == nil {
		err = json.Unmarshal([]byte(cam), &v.Camera)
	}
	return v, err
}

// Views lists the views of a scene in the order they were made.
func (s *Store) Views(ctx context.Context, sceneID int64) ([]View, error) {
	return list(ctx, s.db, readView, `SELECT id, scene, name, camera, locked FROM views WHERE scene = ? ORDER BY id`, sceneID)
}

// AddView saves a new view.
func (s *Store) AddView(ctx context.Context, v View) (View, error) {
	cam, err := toJSON(v.Camera)
	if err != nil {
		return v, err
	}
	r, err := s.db.ExecContext(ctx, `INSERT INTO views (scene, name, camera, locked) VALUES (?,?,?,?)`, v.Scene, v.Name, cam, v.Locked)
	if err != nil {
		return v, taken(err)
	}
	v.ID, err = r.LastInsertId()
	return v, err
}

// ChangeView changes a view's name, camera or lock. A locked view's camera and
// name change only in the step that unlocks it.
func (s *Store) ChangeView(ctx context.Context, id int64, change func(*View) error) (View, error) {
	var v View
	err := s.tx(ctx, func(t *sql.Tx) error {
		var err error
		v, err = readView(t.QueryRowContext(ctx, `SELECT id, scene, name, camera, locked FROM views WHERE id = ? FOR UPDATE`, id))
		if err != nil {
			return missing(err, "view", id)
		}
		before := v
		if err := change(&v); err != nil {
			return err
		}
		if before.Locked && v.Locked && (v.Name != before.Name || v.Camera != before.Camera) {
			return fmt.Errorf("the view %q is locked; unlock it first: %w", before.Name, ErrState)
		}
		cam, err := toJSON(v.Camera)
		if err != nil {
			return err
		}
		_, err = t.ExecContext(ctx, `UPDATE views SET name = ?, camera = ?, locked = ? WHERE id = ?`, v.Name, cam, v.Locked, id)
		return taken(err)
	})
	return v, err
}

// RemoveView removes an unlocked view. Runs keep their own copy of it.
func (s *Store) RemoveView(ctx context.Context, id int64) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		var locked bool
		if err := t.QueryRowContext(ctx, `SELECT locked FROM views WHERE id = ? FOR UPDATE`, id).Scan(&locked); err != nil {
			return missing(err, "view", id)
		}
		if locked {
			return fmt.Errorf("the view is locked; unlock it first: %w", ErrState)
		}
		_, err := t.ExecContext(ctx, `DELETE FROM views WHERE id = ?`, id)
		return err
	})
}

// AddSurround adds an environment picture; the same picture again is harmless.
func (s *Store) AddSurround(ctx context.Context, v Surround) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO surrounds (sha256, name, width, height, created) VALUES (?,?,?,?,?) ON DUPLICATE KEY UPDATE name = VALUES(name)`,
		v.SHA256, v.Name, v.Width, v.Height, now())
	return err
}

// Surrounds lists all environment pictures, newest first.
func (s *Store) Surrounds(ctx context.Context) ([]Surround, error) {
	return list(ctx, s.db, func(r rows) (v Surround, err error) { return v, r.Scan(&v.SHA256, &v.Name, &v.Width, &v.Height) },
		`SELECT sha256, name, width, height FROM surrounds ORDER BY created DESC, name`)
}
