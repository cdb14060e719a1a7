package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// View is a saved view's row.
type View struct {
	ID, Scene int64
	Name      string
	Camera    ticket.Camera
	Locked    bool
	Version   int64 // from 1
}

const viewColumns = `id, scene, name, camera, locked, version`

func readView(r rows) (v View, err error) {
	var cam string
	if err = r.Scan(&v.ID, &v.Scene, &v.Name, &cam, &v.Locked, &v.Version); err == nil {
		err = json.Unmarshal([]byte(cam), &v.Camera)
	}
	return v, err
}

// Views lists the views of a scene in the order they were made.
func (s *Store) Views(ctx context.Context, sceneID int64) ([]View, error) {
	return list(ctx, s.db, readView, `SELECT `+viewColumns+` FROM views WHERE scene = ? ORDER BY id`, sceneID)
}

// View is a view by its ID.
func (s *Store) View(ctx context.Context, id int64) (View, error) {
	v, err := readView(s.db.QueryRowContext(ctx, `SELECT `+viewColumns+` FROM views WHERE id = ?`, id))
	return v, missing(err, "view", id)
}

// AddView saves a new view; fault.ErrTaken when the scene has one of its name.
func (s *Store) AddView(ctx context.Context, maker int64, v View) (View, error) {
	cam, err := toJSON(v.Camera)
	if err != nil {
		return v, err
	}
	r, err := s.db.ExecContext(ctx, `INSERT INTO views (scene, maker, name, camera, locked) VALUES (?,?,?,?,?)`, v.Scene, maker, v.Name, cam, v.Locked)
	if err != nil {
		return v, taken(err)
	}
	v.ID, err = r.LastInsertId()
	v.Version = 1
	return v, err
}

// ChangeView changes a view's name, camera or lock, over the version that it was seen in;
// fault.ErrChanged if it has another by now. A locked view's camera and name change only in
// the step that unlocks it.
func (s *Store) ChangeView(ctx context.Context, id, version int64, change func(*View) error) (View, error) {
	var v View
	err := s.tx(ctx, func(t *sql.Tx) error {
		var err error
		v, err = readView(t.QueryRowContext(ctx, `SELECT `+viewColumns+` FROM views WHERE id = ? FOR UPDATE`, id))
		if err != nil {
			return missing(err, "view", id)
		}
		if v.Version != version {
			return fmt.Errorf("the view %q was changed elsewhere; look at it as it is now: %w", v.Name, fault.ErrChanged)
		}
		before := v
		if err := change(&v); err != nil {
			return err
		}
		if before.Locked && v.Locked && (v.Name != before.Name || v.Camera != before.Camera) {
			return fmt.Errorf("the view %q is locked; unlock it first: %w", before.Name, fault.ErrState)
		}
		cam, err := toJSON(v.Camera)
		if err != nil {
			return err
		}
		v.Version++
		_, err = t.ExecContext(ctx, `UPDATE views SET name = ?, camera = ?, locked = ?, version = ? WHERE id = ?`, v.Name, cam, v.Locked, v.Version, id)
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
			return fmt.Errorf("the view is locked; unlock it first: %w", fault.ErrState)
		}
		_, err := t.ExecContext(ctx, `DELETE FROM views WHERE id = ?`, id)
		return err
	})
}
