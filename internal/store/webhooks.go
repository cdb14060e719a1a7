package store

import (
	"context"
	"encoding/json"
	"time"
)

// Webhook is an address of another program that is told what happens in a project.
type Webhook struct {
	ID, Project int64
	URL         string
	Secret      string // that signs what it is sent
	Kinds       []EventKind
	Paused      bool
	Created     time.Time
}

const webhookColumns = `id, project, url, secret, kinds, paused, created`

func readWebhook(r rows) (v Webhook, err error) {
	var kinds []byte
	if err = r.Scan(&v.ID, &v.Project, &v.URL, &v.Secret, &kinds, &v.Paused, &v.Created); err == nil {
		err = json.Unmarshal(kinds, &v.Kinds)
	}
	return v, err
}

// Webhooks are those of a project, in the order they came.
func (s *Store) Webhooks(ctx context.Context, project int64) ([]Webhook, error) {
	return list(ctx, s.db, readWebhook, `SELECT `+webhookColumns+` FROM webhooks WHERE project = ? ORDER BY id`, project)
}

// WebhooksTo are those that lead to an address.
func (s *Store) WebhooksTo(ctx context.Context, url string) ([]Webhook, error) {
	return list(ctx, s.db, readWebhook, `SELECT `+webhookColumns+` FROM webhooks WHERE url = ? ORDER BY id`, url)
}

// Webhook reads one.
func (s *Store) Webhook(ctx context.Context, id int64) (Webhook, error) {
	v, err := readWebhook(s.db.QueryRowContext(ctx, `SELECT `+webhookColumns+` FROM webhooks WHERE id = ?`, id))
	return v, missing(err, "webhook", id)
}

// AddWebhook adds one.
func (s *Store) AddWebhook(ctx context.Context, maker int64, v Webhook) (id int64, err error) {
	kinds, err := toJSON(v.Kinds)
	if err != nil {
		return 0, err
	}
	r, err := s.db.ExecContext(ctx, `INSERT INTO webhooks (project, url, secret, kinds, maker, created) VALUES (?,?,?,?,?,?)`,
		v.Project, v.URL, v.Secret, kinds, maker, now())
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// ChangeWebhook gives one another address, other kinds, has it paused or go on.
func (s *Store) ChangeWebhook(ctx context.Context, v Webhook) error {
	kinds, err := toJSON(v.Kinds)
	if err != nil {
		return err
	}
	return s.change(ctx, "webhook", v.ID, `UPDATE webhooks SET url = ?, kinds = ?, paused = ? WHERE id = ?`, v.URL, kinds, v.Paused, v.ID)
}

// RemoveWebhook removes one with what it was sent.
func (s *Store) RemoveWebhook(ctx context.Context, id int64) error {
	return s.change(ctx, "webhook", id, `DELETE FROM webhooks WHERE id = ?`, id)
}
