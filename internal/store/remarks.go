package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"reflect"
	"time"

	"amberproof/core/surface"
	"amberproof/internal/round"
)

// Remark is what somebody said of a place in a proof.
type Remark struct {
	ID, Project, Proof int64
	Number             int // within the project, from 1
	Mark               round.Mark
	Place              *surface.Place // nil where no part is seen
	Topic              string         // setting of the ticket that it is about; empty for none
	State              round.RemarkState
	Maker              int64
	Lines              []RemarkLine // in the order they came; the remark itself first
}

// RemarkLine is something said in a remark.
type RemarkLine struct {
	ID, Remark, Person int64
	Name               string // as it was then
	Words              string
	State              round.RemarkState // it was brought to by this; empty: it stayed
	Created            time.Time
}

const remarkColumns = `id, project, proof, number, mark, place, topic, state, maker`

func readRemark(r rows) (v Remark, err error) {
	var mark, place []byte
	if err = r.Scan(&v.ID, &v.Project, &v.Proof, &v.Number, &mark, &place, &v.Topic, &v.State, &v.Maker); err != nil {
		return v, err
	}
	if err = json.Unmarshal(mark, &v.Mark); err == nil && place != nil {
		err = json.Unmarshal(place, &v.Place)
	}
	return v, err
}

// remarks reads those that where chooses, with all that was said in them.
func remarks(ctx context.Context, q querier, where string, args ...any) ([]Remark, error) {
	all, err := list(ctx, q, readRemark, `SELECT `+remarkColumns+` FROM remarks WHERE `+where+` ORDER BY number`, args...)
	if err != nil {
		return nil, err
	}
	at := map[int64]*Remark{}
	for i := range all {
		at[all[i].ID] = &all[i]
	}
	lines, err := list(ctx, q, func(r rows) (l RemarkLine, err error) {
		return l, r.Scan(&l.ID, &l.Remark, &l.Person, &l.Name, &l.Words, &l.State, &l.Created)
	}, `SELECT id, remark, person, name, words, state, created FROM remark_lines
		WHERE remark IN (SELECT id FROM remarks WHERE `+where+`) ORDER BY id`, args...)
	for _, l := range lines {
		if r := at[l.Remark]; r != nil { // else it came between the two readings
			r.Lines = append(r.Lines, l)
		}
	}
	return all, err
}

// Remarks are all of a project, by their numbers.
func (s *Store) Remarks(ctx context.Context, project int64) ([]Remark, error) {
	return remarks(ctx, s.db, `project = ?`, project)
}

// OpenOnTopics are the open ones of a project that are about a setting, by their numbers.
func (s *Store) OpenOnTopics(ctx context.Context, project int64) ([]Remark, error) {
	return remarks(ctx, s.db, `project = ? AND state = ? AND topic <> ''`, project, round.Open)
}

// Remark reads one.
func (s *Store) Remark(ctx context.Context, id int64) (Remark, error) {
	all, err := remarks(ctx, s.db, `id = ?`, id)
	if err == nil && len(all) == 0 {
		err = missing(sql.ErrNoRows, "remark", id)
	}
	if err != nil {
		return Remark{}, err
	}
	return all[0], nil
}

// OpenRemarks counts the open remarks of a project by the proof that they were made on.
func (s *Store) OpenRemarks(ctx context.Context, project int64) (map[int64]int, error) {
	type count struct {
		proof int64
		n     int
	}
	all, err := list(ctx, s.db, func(r rows) (c count, err error) { return c, r.Scan(&c.proof, &c.n) },
		`SELECT proof, COUNT(*) FROM remarks WHERE project = ? AND state = ? GROUP BY proof`, project, round.Open)
	out := map[int64]int{}
	for _, c := range all {
		out[c.proof] = c.n
	}
	return out, err
}

// AddRemark adds a remark with its first line, and tells its number. Just the same by the same
// person being the last on the proof, it was a second click: that one is told. A project has at
// most so many; ok is false if it has them.
func (s *Store) AddRemark(ctx context.Context, v Remark, most int) (id int64, ok bool, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		var project int64
		// The row of the project is held, so that two remarks get two numbers.
		if err := t.QueryRowContext(ctx, `SELECT id FROM projects WHERE id = ? FOR UPDATE`, v.Project).Scan(&project); err != nil {
			return missing(err, "project", v.Project)
		}
		var last, n int
		if err := t.QueryRowContext(ctx, `SELECT COALESCE(MAX(number), 0), COUNT(*) FROM remarks WHERE project = ?`, v.Project).Scan(&last, &n); err != nil {
			return err
		}
		if ok = n < most; !ok {
			return nil
		}
		before, err := remarks(ctx, t, `proof = ? AND maker = ?`, v.Proof, v.Maker)
		if err != nil {
			return err
		}
		if k := len(before) - 1; k >= 0 && reflect.DeepEqual(before[k].Mark, v.Mark) && before[k].Lines[0].Words == v.Lines[0].Words {
			id = before[k].ID
			return nil
		}
		mark, err1 := toJSON(v.Mark)
		var place any
		var err2 error
		if v.Place != nil {
			place, err2 = toJSON(v.Place)
		}
		if err := errors.Join(err1, err2); err != nil {
			return err
		}
		r, err := t.ExecContext(ctx, `INSERT INTO remarks (project, proof, number, mark, place, topic, state, maker) VALUES (?,?,?,?,?,?,?,?)`,
			v.Project, v.Proof, last+1, mark, place, v.Topic, round.Open, v.Maker)
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		v.ID = id
		return addLine(ctx, t, &v, &v.Lines[0], RemarkMade)
	})
	return id, ok, err
}

// addLine adds a line to a remark, which is told as an event of a kind.
func addLine(ctx context.Context, t *sql.Tx, r *Remark, l *RemarkLine, kind EventKind) error {
	if _, err := t.ExecContext(ctx, `INSERT INTO remark_lines (remark, person, name, words, state, created) VALUES (?,?,?,?,?,?)`,
		r.ID, l.Person, l.Name, l.Words, l.State, now()); err != nil {
		return err
	}
	_, err := t.ExecContext(ctx, `INSERT INTO events (project, kind, person, name, round, proof, remark, state, words, created)
		SELECT ?, ?, ?, ?, round, id, ?, ?, ?, ? FROM proofs WHERE id = ?`,
		r.Project, kind, l.Person, l.Name, r.ID, l.State, l.Words, now(), r.Proof)
	return err
}

// InRemark has decide say what is added to a remark, by what was said in it, while nobody else
// adds anything. nil adds nothing. decide may be called again, and has no effects of its own.
func (s *Store) InRemark(ctx context.Context, id int64, decide func(r *Remark) (*RemarkLine, error)) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		var state string
		if err := t.QueryRowContext(ctx, `SELECT state FROM remarks WHERE id = ? FOR UPDATE`, id).Scan(&state); err != nil {
			return missing(err, "remark", id)
		}
		all, err := remarks(ctx, t, `id = ?`, id)
		if err != nil {
			return err
		}
		l, err := decide(&all[0])
		if err != nil || l == nil {
			return err
		}
		if l.State != "" {
			if _, err := t.ExecContext(ctx, `UPDATE remarks SET state = ? WHERE id = ?`, l.State, id); err != nil {
				return err
			}
		}
		return addLine(ctx, t, &all[0], l, RemarkAnswered)
	})
}
