package store

import (
	"context"
	"fmt"
	"strings"
)

// owned reads, for each kind of thing, its project and who made it.
var owned = map[string]string{
	"scene":        `SELECT project, maker FROM scenes WHERE id = ?`,
	"view":         `SELECT s.project, x.maker FROM views x JOIN scenes s ON s.id = x.scene WHERE x.id = ?`,
	"kept picture": `SELECT s.project, x.maker FROM kept x JOIN scenes s ON s.id = x.scene WHERE x.id = ?`,
	"job":          `SELECT project, maker FROM jobs WHERE id = ?`,
	"round":        `SELECT project, maker FROM rounds WHERE id = ?`,
	"proof":        `SELECT r.project, x.maker FROM proofs x JOIN rounds r ON r.id = x.round WHERE x.id = ?`,
	"link":         `SELECT r.project, x.maker FROM links x JOIN rounds r ON r.id = x.round WHERE x.id = ?`,
	"remark":       `SELECT project, maker FROM remarks WHERE id = ?`,
	"webhook":      `SELECT project, maker FROM webhooks WHERE id = ?`,
	"message":      `SELECT project, 0 FROM messages WHERE id = ?`,
	"run":          `SELECT j.project, x.maker FROM runs x JOIN jobs j ON j.id = x.job WHERE x.id = ?`,
}

// Owner is the project of a thing and who made it; fault.ErrNotFound where there is none.
func (s *Store) Owner(ctx context.Context, kind string, id int64) (project, maker int64, err error) {
	q, ok := owned[kind]
	if !ok {
		return 0, 0, fmt.Errorf("store: nothing is known of who owns a %s", kind)
	}
	err = s.db.QueryRowContext(ctx, q, id).Scan(&project, &maker)
	return project, maker, missing(err, kind, id)
}

// Within chooses what belongs to some projects, or to any.
type Within struct {
	All  bool
	Some []int64
}

// Anywhere chooses from all projects.
var Anywhere = Within{All: true}

// in is a condition on a column that holds a project.
func (w Within) in(column string) (cond string, args []any) {
	if w.All {
		return `TRUE`, nil
	}
	if len(w.Some) == 0 {
		return `FALSE`, nil
	}
	for _, id := range w.Some {
		args = append(args, id)
	}
	return column + ` IN (?` + strings.Repeat(`,?`, len(w.Some)-1) + `)`, args
}
