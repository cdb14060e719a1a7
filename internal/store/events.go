package store

import (
	"context"
	"database/sql"
	"time"
)

// Event is something that happened in a project.
type Event struct {
	ID, Project               int64
	Kind                      EventKind
	By                        Person // as they were called then; the zero Person where nobody did it
	Round, Proof, Remark, Run int64  // what it happened to, each 0 for none; it may be gone by now
	State                     string // that it was brought to: a verdict, or the state of a remark or of a run
	Words                     string // that were said
	Created                   time.Time
}

// EventKind is what sort of thing happened.
type EventKind string

// Kinds of events.
const (
	RoundMade      EventKind = "round.made"
	RoundChanged   EventKind = "round.changed"
	RoundRemoved   EventKind = "round.removed"
	ProofPutUp     EventKind = "proof.put-up"
	ProofWithdrawn EventKind = "proof.withdrawn"
	ProofAnswered  EventKind = "proof.answered"
	RemarkMade     EventKind = "remark.made"
	RemarkAnswered EventKind = "remark.answered"
	RunQueued      EventKind = "run.queued"
	RunStarted     EventKind = "run.started"
	RunEnded       EventKind = "run.ended"
)

// EventKinds are all of them.
var EventKinds = []EventKind{
	RoundMade, RoundChanged, RoundRemoved, ProofPutUp, ProofWithdrawn, ProofAnswered, RemarkMade, RemarkAnswered, RunQueued, RunStarted, RunEnded,
}

// happened writes an event in the transaction that makes it happen.
func happened(ctx context.Context, t *sql.Tx, e Event) error {
	_, err := t.ExecContext(ctx, `INSERT INTO events (project, kind, person, name, round, proof, remark, run, state, words, created)
		VALUES (?,?,?,?,?,?,?,?,?,?,?)`, e.Project, e.Kind, e.By.ID, e.By.Name, e.Round, e.Proof, e.Remark, e.Run, e.State, e.Words, now())
	return err
}

// ran writes an event of a run, unless it goes in the background.
func ran(ctx context.Context, t *sql.Tx, run int64, kind EventKind, state string) error {
	_, err := t.ExecContext(ctx, `INSERT INTO events (project, kind, person, name, run, state, words, created)
		SELECT j.project, ?, 0, '', r.id, ?, r.fault, ? FROM runs r JOIN jobs j ON j.id = r.job WHERE r.id = ? AND NOT r.background`,
		kind, state, now(), run)
	return err
}

const eventColumns = `e.id, e.project, e.kind, e.person, e.name, e.round, e.proof, e.remark, e.run, e.state, e.words, e.created`

func readEvent(r rows) (e Event, err error) {
	return e, r.Scan(&e.ID, &e.Project, &e.Kind, &e.By.ID, &e.By.Name, &e.Round, &e.Proof, &e.Remark, &e.Run, &e.State, &e.Words, &e.Created)
}

// Untold are events that were not told yet, in the order they came, at most so many.
func (s *Store) Untold(ctx context.Context, most int) ([]Event, error) {
	return list(ctx, s.db, readEvent, `SELECT `+eventColumns+` FROM events e WHERE NOT e.told ORDER BY e.id LIMIT ?`, most)
}

// Tell marks an event as told, and has messages go out and people get notices of it: all of
// that, or nothing. What was told already is not told again.
func (s *Store) Tell(ctx context.Context, event int64, out []Message, people []int64) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		r, err := t.ExecContext(ctx, `UPDATE events SET told = TRUE WHERE id = ? AND NOT told`, event)
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return err
		}
		for i := range out {
			if err := addMessage(ctx, t, &out[i]); err != nil {
				return err
			}
		}
		for _, p := range people {
			if _, err := t.ExecContext(ctx, `INSERT IGNORE INTO notices (person, event, created) VALUES (?,?,?)`, p, event, now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// Notified are people whose first notice is older than that.
func (s *Store) Notified(ctx context.Context, before time.Time) ([]int64, error) {
	return list(ctx, s.db, func(r rows) (id int64, err error) { return id, r.Scan(&id) },
		`SELECT person FROM notices GROUP BY person HAVING MIN(created) <= ? ORDER BY person`, before)
}

// Notices are events that a person is still to be told of, in the order they came.
func (s *Store) Notices(ctx context.Context, person int64, most int) ([]Event, error) {
	return list(ctx, s.db, readEvent, `SELECT `+eventColumns+` FROM notices n JOIN events e ON e.id = n.event
		WHERE n.person = ? ORDER BY e.id LIMIT ?`, person, most)
}

// Notify has messages go out in place of notices of a person, up to an event.
func (s *Store) Notify(ctx context.Context, person, upTo int64, out []Message) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		if _, err := t.ExecContext(ctx, `DELETE FROM notices WHERE person = ? AND event <= ?`, person, upTo); err != nil {
			return err
		}
		for i := range out {
			if err := addMessage(ctx, t, &out[i]); err != nil {
				return err
			}
		}
		return nil
	})
}

// SweepEvents forgets events and messages that have been told and have ended before a time.
func (s *Store) SweepEvents(ctx context.Context, before time.Time) error {
	if _, err := s.db.ExecContext(ctx, `DELETE FROM messages WHERE ended < ?`, before); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `DELETE FROM events WHERE told AND created < ? AND id NOT IN (SELECT event FROM notices)`, before)
	return err
}
