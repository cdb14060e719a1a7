package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"amberproof/internal/fault"
)

// MostKept is how many live pictures of a scene are kept.
const MostKept = 200

// Kept is a live picture that was kept, with what it was made of.
type Kept struct {
	ID            int64
	Scene         int64
	Width, Height int
	Samples       int
	Camera        json.RawMessage
	Setup         json.RawMessage
	Ticket        json.RawMessage
	Created       time.Time
	Picture       []byte // PNG; not read with the rest
}

const keptColumns = `id, scene, width, height, samples, camera, setup, ticket, created`

func readKept(r rows) (k Kept, err error) {
	var camera, setup, ticket string
	err = r.Scan(&k.ID, &k.Scene, &k.Width, &k.Height, &k.Samples, &camera, &setup, &ticket, &k.Created)
	k.Camera, k.Setup, k.Ticket = json.RawMessage(camera), json.RawMessage(setup), json.RawMessage(ticket)
	return k, err
}

// KeptOf lists what was kept of a scene, oldest first.
func (s *Store) KeptOf(ctx context.Context, sceneID int64) ([]Kept, error) {
	return list(ctx, s.db, readKept, `SELECT `+keptColumns+` FROM kept WHERE scene = ? ORDER BY id`, sceneID)
}

// Kept reads one.
func (s *Store) Kept(ctx context.Context, id int64) (Kept, error) {
	k, err := readKept(s.db.QueryRowContext(ctx, `SELECT `+keptColumns+` FROM kept WHERE id = ?`, id))
	return k, missing(err, "kept picture", id)
}

// KeptPicture reads the PNG of one.
func (s *Store) KeptPicture(ctx context.Context, id int64) (png []byte, err error) {
	err = s.db.QueryRowContext(ctx, `SELECT picture FROM kept WHERE id = ?`, id).Scan(&png)
	return png, missing(err, "kept picture", id)
}

// Keep keeps a live picture; of a scene with MostKept it is fault.Input.
func (s *Store) Keep(ctx context.Context, maker int64, k Kept) (Kept, error) {
	k.Created = now()
	err := s.tx(ctx, func(t *sql.Tx) error {
		if err := t.QueryRowContext(ctx, `SELECT id FROM scenes WHERE id = ? FOR UPDATE`, k.Scene).Scan(&k.Scene); err != nil {
			return missing(err, "scene", k.Scene)
		}
		var n int
		if err := t.QueryRowContext(ctx, `SELECT COUNT(*) FROM kept WHERE scene = ?`, k.Scene).Scan(&n); err != nil {
			return err
		}
		if n >= MostKept {
			return fault.Bad("%d pictures of this scene are kept; remove some first", n)
		}
		r, err := t.ExecContext(ctx, `INSERT INTO kept (scene, maker, width, height, samples, camera, setup, ticket, created, picture) VALUES (?,?,?,?,?,?,?,?,?,?)`,
			k.Scene, maker, k.Width, k.Height, k.Samples, string(k.Camera), string(k.Setup), string(k.Ticket), k.Created, k.Picture)
		if err != nil {
			return fmt.Errorf("a picture cannot be kept: %w", err)
		}
		k.ID, err = r.LastInsertId()
		return err
	})
	return k, err
}

// RemoveKept removes one for good.
func (s *Store) RemoveKept(ctx context.Context, id int64) error {
	r, err := s.db.ExecContext(ctx, `DELETE FROM kept WHERE id = ?`, id)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return missing(sql.ErrNoRows, "kept picture", id)
}
