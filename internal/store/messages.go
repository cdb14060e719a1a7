package store

import (
	"context"
	"database/sql"
	"time"
)

// Message is something that goes out: mail, or what a webhook is sent.
type Message struct {
	ID, Project   int64
	Webhook       int64 // 0: mail
	Event         int64 // that a webhook is told of
	Address       string
	Subject, Body string
	Secret        bool // the body holds a link that lets somebody in
	State         MessageState
	Attempts      int
	Due           time.Time // when it is tried next
	Said          string    // what came of the last attempt
	Created       time.Time
	Ended         *time.Time
}

// MessageState is how far a message is.
type MessageState string

// States of messages.
const (
	Waiting MessageState = "waiting"
	Sent    MessageState = "sent"
	GivenUp MessageState = "given up"
)

const messageColumns = `id, project, COALESCE(webhook, 0), event, address, subject, body, secret, state, attempts, due, said, created, ended`

func readMessage(r rows) (m Message, err error) {
	var ended sql.NullTime
	err = r.Scan(&m.ID, &m.Project, &m.Webhook, &m.Event, &m.Address, &m.Subject, &m.Body, &m.Secret, &m.State, &m.Attempts, &m.Due, &m.Said,
		&m.Created, &ended)
	if ended.Valid {
		m.Ended = &ended.Time
	}
	return m, err
}

type execer interface {
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

func addMessage(ctx context.Context, db execer, m *Message) error {
	at := now()
	r, err := db.ExecContext(ctx, `INSERT INTO messages (project, webhook, event, address, subject, body, secret, state, due, created)
		VALUES (?,NULLIF(?, 0),?,?,?,?,?,?,?,?)`, m.Project, m.Webhook, m.Event, m.Address, m.Subject, m.Body, m.Secret, Waiting, at, at)
	if err != nil {
		return err
	}
	m.ID, err = r.LastInsertId()
	return err
}

// AddMessage has a message go out.
func (s *Store) AddMessage(ctx context.Context, m *Message) error { return addMessage(ctx, s.db, m) }

// DueMessages are those that wait and are due: of mail and of each webhook the earliest.
func (s *Store) DueMessages(ctx context.Context, at time.Time) ([]Message, error) {
	return list(ctx, s.db, readMessage, `SELECT `+messageColumns+` FROM messages WHERE id IN (
		SELECT MIN(id) FROM messages WHERE state = ? AND due <= ? GROUP BY COALESCE(webhook, 0)) ORDER BY id`, Waiting, at)
}

// ClaimMessage counts an attempt and has the next one be due later, in case this one never
// comes to an end; ok is false where it was claimed or has ended meanwhile.
func (s *Store) ClaimMessage(ctx context.Context, m *Message, next time.Time) (ok bool, err error) {
	r, err := s.db.ExecContext(ctx, `UPDATE messages SET attempts = attempts + 1, due = ? WHERE id = ? AND state = ? AND attempts = ?`,
		next, m.ID, Waiting, m.Attempts)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	m.Attempts++
	return n == 1, err
}

// EndAttempt records what came of an attempt. A message that has been sent keeps its body only
// where that lets nobody in, or kept says so.
func (s *Store) EndAttempt(ctx context.Context, id int64, to MessageState, said string, kept bool) error {
	var ended any
	if to != Waiting {
		ended = now()
	}
	_, err := s.db.ExecContext(ctx, `UPDATE messages SET state = ?, said = ?, ended = ?, body = IF(secret AND ? = ? AND NOT ?, '', body) WHERE id = ?`,
		to, said, ended, to, Sent, kept, id)
	return err
}

// RetryMessage has a message that was given up, or waits for its next attempt, be tried at once.
func (s *Store) RetryMessage(ctx context.Context, id int64) error {
	return s.change(ctx, "message", id, `UPDATE messages SET state = ?, attempts = 0, due = ?, ended = NULL WHERE id = ? AND state <> ?`,
		Waiting, now(), id, Sent)
}

// Message reads one.
func (s *Store) Message(ctx context.Context, id int64) (Message, error) {
	m, err := readMessage(s.db.QueryRowContext(ctx, `SELECT `+messageColumns+` FROM messages WHERE id = ?`, id))
	return m, missing(err, "message", id)
}

// MessagesWanted chooses messages of a project.
type MessagesWanted struct {
	Project int64
	Webhook int64        // of that one only; 0: all mail
	State   MessageState // empty: all
	Before  int64        // that came before that one; 0: the newest
	Most    int
}

// Messages are those that are wanted, the newest first.
func (s *Store) Messages(ctx context.Context, w MessagesWanted) ([]Message, error) {
	return list(ctx, s.db, readMessage, `SELECT `+messageColumns+` FROM messages
		WHERE project = ? AND COALESCE(webhook, 0) = ? AND ? IN ('', state) AND (? = 0 OR id < ?) ORDER BY id DESC LIMIT ?`,
		w.Project, w.Webhook, w.State, w.Before, w.Before, w.Most)
}
