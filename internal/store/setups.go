package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"amberproof/core/setup"
	"amberproof/internal/fault"
)

// keptSetups is how many states of a scene's set-up are kept to go back to.
const keptSetups = 500

// Setup reads the set-up of a scene and its version: 0, and one that changes
// nothing, where none was saved.
func (s *Store) Setup(ctx context.Context, sceneID int64) (u setup.Setup, version int64, err error) {
	var body string
	err = s.db.QueryRowContext(ctx, `SELECT version, body FROM setups WHERE scene = ? ORDER BY version DESC LIMIT 1`, sceneID).Scan(&version, &body)
	if errors.Is(err, sql.ErrNoRows) {
		err, body = nil, "{}"
	}
	if err == nil {
		err = json.Unmarshal([]byte(body), &u)
	}
	u.Tidy()
	return u, version, err
}

// SaveSetup saves a set-up over the given version and returns the new one;
// fault.ErrChanged when another was saved meanwhile.
func (s *Store) SaveSetup(ctx context.Context, sceneID, version int64, u setup.Setup) (int64, error) {
	body, err := toJSON(u)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(t *sql.Tx) error {
		if err := t.QueryRowContext(ctx, `SELECT id FROM scenes WHERE id = ? FOR UPDATE`, sceneID).Scan(&sceneID); err != nil {
			return missing(err, "scene", sceneID)
		}
		var newest int64
		if err := t.QueryRowContext(ctx, `SELECT COALESCE(MAX(version), 0) FROM setups WHERE scene = ?`, sceneID).Scan(&newest); err != nil {
			return err
		}
		if newest != version {
			return fmt.Errorf("the set-up: %w", fault.ErrChanged)
		}
		if _, err := t.ExecContext(ctx, `INSERT INTO setups (scene, version, body, created) VALUES (?,?,?,?)`, sceneID, version+1, body, now()); err != nil {
			return err
		}
		_, err := t.ExecContext(ctx, `DELETE FROM setups WHERE scene = ? AND version <= ?`, sceneID, version+1-keptSetups)
		return err
	})
	return version + 1, err
}
