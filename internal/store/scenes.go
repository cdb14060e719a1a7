package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"amberproof/core/scene"
	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// Scene is an imported scene's row.
type Scene struct {
	ID, Project     int64
	Name            string
	File            string // name of the main file
	SHA256          string // of its files, see importer.Bundle.Checksum
	Bytes           int64
	Triangles       int
	Parts           int
	LeftOut         []scene.Note
	Created         time.Time
	PutAway         bool
	Jobs, Delivered int // jobs on it, and runs of those that have delivered
}

// What hangs on a scene is counted in the one query of a list.
const sceneColumns = `s.id, s.project, s.name, s.file, s.sha256, s.bytes, s.triangles, s.parts, s.left_out, s.created, s.put_away,
	(SELECT COUNT(*) FROM jobs j WHERE j.scene = s.id),
	(SELECT COUNT(DISTINCT d.run) FROM deliveries d JOIN runs r ON r.id = d.run JOIN jobs j ON j.id = r.job WHERE j.scene = s.id AND NOT r.background)`

func readScene(r rows) (v Scene, err error) {
	var left string
	if err = r.Scan(&v.ID, &v.Project, &v.Name, &v.File, &v.SHA256, &v.Bytes, &v.Triangles, &v.Parts, &left, &v.Created,
		&v.PutAway, &v.Jobs, &v.Delivered); err == nil {
		err = json.Unmarshal([]byte(left), &v.LeftOut)
	}
	return v, err
}

// AddScene adds a scene with its views, both or neither, and returns its number.
// kept is called when all rows could be written and before anybody sees them, to
// put the scene's files in place: no row is ever without its files, and none are
// kept of a scene whose rows cannot be.
func (s *Store) AddScene(ctx context.Context, maker int64, v Scene, views []ticket.View, kept func() error) (id int64, err error) {
	left, err := toJSON(v.LeftOut)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(t *sql.Tx) error {
		r, err := t.ExecContext(ctx, `INSERT INTO scenes (project, maker, name, file,
			sha256, bytes, triangles, parts, left_out, created) VALUES (?,?,?,?,?,?,?,?,?,?)`,
			v.Project, maker, v.Name, v.File, v.SHA256, v.Bytes, v.Triangles, v.Parts, left, now())
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
			if _, err := t.ExecContext(ctx, `INSERT INTO views (scene, maker, name, camera, locked) VALUES (?,?,?,?,TRUE)`, id, maker, w.Name, cam); err != nil {
				return err
			}
		}
		return kept()
	})
	return id, err
}

// Scene reads one scene.
func (s *Store) Scene(ctx context.Context, id int64) (Scene, error) {
	v, err := readScene(s.db.QueryRowContext(ctx, `SELECT `+sceneColumns+` FROM scenes s WHERE s.id = ?`, id))
	return v, missing(err, "scene", id)
}

// Scenes lists scenes of some projects, newest first: those put away, or those that are not.
func (s *Store) Scenes(ctx context.Context, of Within, putAway bool) ([]Scene, error) {
	in, args := of.in(`s.project`)
	return list(ctx, s.db, readScene, `SELECT `+sceneColumns+` FROM scenes s WHERE s.put_away = ? AND `+in+` ORDER BY s.id DESC LIMIT 1000`,
		append([]any{putAway}, args...)...)
}

// RenameScene gives a scene another name.
func (s *Store) RenameScene(ctx context.Context, id int64, name string) error {
	return s.change(ctx, "scene", id, `UPDATE scenes SET name = ? WHERE id = ?`, name, id)
}

// PutSceneAway takes a scene out of the lists, or back into them.
func (s *Store) PutSceneAway(ctx context.Context, id int64, away bool) error {
	return s.change(ctx, "scene", id, `UPDATE scenes SET put_away = ? WHERE id = ?`, away, id)
}

// RemoveScene removes a scene that no job is on, and its views. It returns the
// checksum of its files if no other scene has them, else nothing.
func (s *Store) RemoveScene(ctx context.Context, id int64) (orphan string, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		if err := t.QueryRowContext(ctx, `SELECT sha256 FROM scenes WHERE id = ? FOR UPDATE`, id).Scan(&orphan); err != nil {
			return missing(err, "scene", id)
		}
		var jobs, others int
		if err := t.QueryRowContext(ctx, `SELECT (SELECT COUNT(*) FROM jobs WHERE scene = ?), (SELECT COUNT(*) FROM scenes WHERE sha256 = ? AND id <> ?)`,
			id, orphan, id).Scan(&jobs, &others); err != nil {
			return err
		}
		if jobs > 0 {
			return fault.ErrState
		}
		if others > 0 {
			orphan = ""
		}
		if _, err := t.ExecContext(ctx, `DELETE FROM views WHERE scene = ?`, id); err != nil {
			return err
		}
		_, err := t.ExecContext(ctx, `DELETE FROM scenes WHERE id = ?`, id)
		return err
	})
	return orphan, err
}
