package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/round"
)

// Round is a round's row.
type Round struct {
	ID, Project int64
	Number      int // within the project, from 1
	Kind        round.Kind
	Title       string
	Due         *time.Time // a day
	Needs       bool       // the one before approved
	Note        string     // for those who answer
	Anyway      string     // why it was begun before that
	Version     int64
	Created     time.Time
}

// Proof is what was put up in a round; its files lie under its checksum.
type Proof struct {
	ID, Round     int64
	Number        int // within the round, from 1
	Scene, View   string
	Run           int64 // may be gone
	SHA256        string
	Slug          string
	Passes        []ProofPass
	Width, Height int
	Area          [4]int // of the frame that was computed: left, top, right, bottom in pixels
	Maker         int64
	Created       time.Time
}

// ProofPass is a picture of a proof.
type ProofPass struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Data  bool   `json:"data"`
}

// Answer is what somebody answered to a proof.
type Answer struct {
	ID, Proof, Person int64
	Name              string // as it was then
	Verdict           round.Verdict
	Words             string
	SHA256            string // of the proof that was seen
	Created           time.Time
}

// RoundWhole is a round with all that belongs to it, each in the order it came.
type RoundWhole struct {
	Round
	Asked   []Person
	Proofs  []Proof
	Answers []Answer
}

const roundColumns = `id, project, number, kind, title, due, needs, note, anyway, version, created`

func readRound(r rows) (v Round, err error) {
	var due sql.NullTime
	err = r.Scan(&v.ID, &v.Project, &v.Number, &v.Kind, &v.Title, &due, &v.Needs, &v.Note, &v.Anyway, &v.Version, &v.Created)
	if due.Valid {
		v.Due = &due.Time
	}
	return v, err
}

const proofColumns = `p.id, p.round, p.number, p.scene, p.view, p.run, p.sha256, p.slug, p.passes, p.width, p.height, p.area, p.maker, p.created`

func readProof(r rows) (v Proof, err error) {
	var passes, area []byte
	if err = r.Scan(&v.ID, &v.Round, &v.Number, &v.Scene, &v.View, &v.Run, &v.SHA256, &v.Slug, &passes, &v.Width, &v.Height, &area,
		&v.Maker, &v.Created); err == nil {
		err = errors.Join(json.Unmarshal(passes, &v.Passes), json.Unmarshal(area, &v.Area))
	}
	return v, err
}

// querier is a database or a transaction in it.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}

// wholes reads rounds with all that belongs to them; where chooses rounds, called r.
func wholes(ctx context.Context, q querier, where string, args ...any) ([]RoundWhole, error) {
	all, err := list(ctx, q, func(r rows) (RoundWhole, error) {
		v, err := readRound(r)
		return RoundWhole{Round: v}, err
	}, `SELECT `+roundColumns+` FROM rounds r WHERE `+where+` ORDER BY r.project, r.number`, args...)
	if err != nil {
		return nil, err
	}
	at := map[int64]*RoundWhole{}
	for i := range all {
		at[all[i].ID] = &all[i]
	}
	of := map[int64]*RoundWhole{} // of each proof
	type asked struct {
		round int64
		Person
	}
	people, err := list(ctx, q, func(r rows) (a asked, err error) { return a, r.Scan(&a.round, &a.ID, &a.Name) },
		`SELECT a.round, p.id, p.name FROM asked a JOIN rounds r ON r.id = a.round JOIN people p ON p.id = a.person WHERE `+where+` ORDER BY p.id`, args...)
	if err != nil {
		return nil, err
	}
	for _, a := range people {
		at[a.round].Asked = append(at[a.round].Asked, a.Person)
	}
	proofs, err := list(ctx, q, readProof, `SELECT `+proofColumns+` FROM proofs p JOIN rounds r ON r.id = p.round WHERE `+where+` ORDER BY p.number`, args...)
	if err != nil {
		return nil, err
	}
	for _, p := range proofs {
		of[p.ID] = at[p.Round]
		of[p.ID].Proofs = append(of[p.ID].Proofs, p)
	}
	answers, err := list(ctx, q, func(r rows) (a Answer, err error) {
		return a, r.Scan(&a.ID, &a.Proof, &a.Person, &a.Name, &a.Verdict, &a.Words, &a.SHA256, &a.Created)
	}, `SELECT a.id, a.proof, a.person, a.name, a.verdict, a.words, a.sha256, a.created
		FROM answers a JOIN proofs p ON p.id = a.proof JOIN rounds r ON r.id = p.round WHERE `+where+` ORDER BY a.id`, args...)
	for _, a := range answers {
		of[a.Proof].Answers = append(of[a.Proof].Answers, a)
	}
	return all, err
}

// Rounds are those of a project in their order, with all that belongs to them.
func (s *Store) Rounds(ctx context.Context, project int64) ([]RoundWhole, error) {
	return wholes(ctx, s.db, `r.project = ?`, project)
}

// Round reads one round, with all that belongs to it.
func (s *Store) Round(ctx context.Context, id int64) (RoundWhole, error) {
	all, err := wholes(ctx, s.db, `r.id = ?`, id)
	if err == nil && len(all) == 0 {
		err = missing(sql.ErrNoRows, "round", id)
	}
	if err != nil {
		return RoundWhole{}, err
	}
	return all[0], nil
}

// Proof reads one proof.
func (s *Store) Proof(ctx context.Context, id int64) (Proof, error) {
	p, err := readProof(s.db.QueryRowContext(ctx, `SELECT `+proofColumns+` FROM proofs p WHERE p.id = ?`, id))
	return p, missing(err, "proof", id)
}

// AddRound makes the next round of a project, and says who has to answer in it.
func (s *Store) AddRound(ctx context.Context, maker Person, v Round, asked []int64) (id int64, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		var last int
		// The row of the project is held, so that two rounds get two numbers.
		if err := t.QueryRowContext(ctx, `SELECT id FROM projects WHERE id = ? FOR UPDATE`, v.Project).Scan(&id); err != nil {
			return missing(err, "project", v.Project)
		}
		if err := t.QueryRowContext(ctx, `SELECT COALESCE(MAX(number), 0) FROM rounds WHERE project = ?`, v.Project).Scan(&last); err != nil {
			return err
		}
		r, err := t.ExecContext(ctx, `INSERT INTO rounds (project, number, kind, title, due, needs, note, maker, created) VALUES (?,?,?,?,?,?,?,?,?)`,
			v.Project, last+1, v.Kind, v.Title, v.Due, v.Needs, v.Note, maker.ID, now())
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		if err := ask(ctx, t, id, asked); err != nil {
			return err
		}
		return happened(ctx, t, Event{Project: v.Project, Kind: RoundMade, By: maker, Round: id})
	})
	return id, err
}

// ask says who has to answer in a round.
func ask(ctx context.Context, t *sql.Tx, id int64, people []int64) error {
	if _, err := t.ExecContext(ctx, `DELETE FROM asked WHERE round = ?`, id); err != nil {
		return err
	}
	for _, p := range people {
		if _, err := t.ExecContext(ctx, `INSERT INTO asked (round, person) VALUES (?,?)`, id, p); err != nil {
			return err
		}
	}
	return nil
}

// RoundChange is what is done to a round at once; what is nil or zero is not.
type RoundChange struct {
	Round    *Round  // its new title, kind, day, whether it needs the one before and why not
	Asked    []int64 // not nil: who has to answer from now on
	Proof    *Proof  // put up; its number and its id are filled in
	Withdraw int64   // a proof that is taken down
	Answers  []Answer
	Remove   bool
}

// InRound has decide say what somebody does to a round, by all that belongs to it, while nobody
// else does anything to it. decide may be called again, and has no effects of its own.
func (s *Store) InRound(ctx context.Context, by Person, id int64, decide func(r *RoundWhole) (RoundChange, error)) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		var project int64
		if err := t.QueryRowContext(ctx, `SELECT project FROM rounds WHERE id = ? FOR UPDATE`, id).Scan(&project); err != nil {
			return missing(err, "round", id)
		}
		// The others are read as they were when the transaction began to read, which is now.
		all, err := wholes(ctx, t, `r.id = ?`, id)
		if err != nil {
			return err
		}
		c, err := decide(&all[0])
		if err != nil {
			return err
		}
		if err := s.apply(ctx, t, &all[0], &c); err != nil {
			return err
		}
		for _, e := range c.events() {
			e.Project, e.By, e.Round = project, by, id
			if err := happened(ctx, t, e); err != nil {
				return err
			}
		}
		return nil
	})
}

// events are what a change is told as.
func (c *RoundChange) events() (all []Event) {
	if c.Remove {
		return []Event{{Kind: RoundRemoved}}
	}
	if c.Round != nil || c.Asked != nil {
		all = append(all, Event{Kind: RoundChanged})
	}
	if c.Withdraw != 0 {
		all = append(all, Event{Kind: ProofWithdrawn, Proof: c.Withdraw})
	}
	if c.Proof != nil {
		all = append(all, Event{Kind: ProofPutUp, Proof: c.Proof.ID})
	}
	for _, a := range c.Answers {
		all = append(all, Event{Kind: ProofAnswered, Proof: a.Proof, State: string(a.Verdict), Words: a.Words})
	}
	return all
}

// apply writes a change of a round whose row is held.
func (s *Store) apply(ctx context.Context, t *sql.Tx, r *RoundWhole, c *RoundChange) error {
	do := func(query string, args ...any) error {
		_, err := t.ExecContext(ctx, query, args...)
		return err
	}
	if c.Remove {
		return do(`DELETE FROM rounds WHERE id = ?`, r.ID)
	}
	if v := c.Round; v != nil {
		if err := do(`UPDATE rounds SET kind = ?, title = ?, due = ?, needs = ?, note = ?, anyway = ?, version = version + 1 WHERE id = ?`,
			v.Kind, v.Title, v.Due, v.Needs, v.Note, v.Anyway, r.ID); err != nil {
			return err
		}
	}
	if c.Asked != nil {
		if err := ask(ctx, t, r.ID, c.Asked); err != nil {
			return err
		}
	}
	if c.Withdraw != 0 {
		if err := do(`DELETE FROM proofs WHERE id = ? AND round = ?`, c.Withdraw, r.ID); referred(err) {
			return fmt.Errorf("somebody has remarked on it, so it stays; put up a later one instead: %w", fault.ErrState)
		} else if err != nil {
			return err
		}
	}
	if p := c.Proof; p != nil {
		passes, err1 := toJSON(p.Passes)
		area, err2 := toJSON(p.Area)
		if err := errors.Join(err1, err2); err != nil {
			return err
		}
		p.Number, p.Created = 1, now()
		if n := len(r.Proofs); n > 0 {
			p.Number = r.Proofs[n-1].Number + 1
		}
		got, err := t.ExecContext(ctx, `INSERT INTO proofs (round, number, scene, view, run, sha256, slug, passes, width, height, area, maker, created)
			VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?)`, r.ID, p.Number, p.Scene, p.View, p.Run, p.SHA256, p.Slug, passes, p.Width, p.Height, area, p.Maker, p.Created)
		if err != nil {
			return err
		}
		if p.ID, err = got.LastInsertId(); err != nil {
			return err
		}
	}
	for _, a := range c.Answers {
		if err := do(`INSERT INTO answers (proof, person, name, verdict, words, sha256, created) VALUES (?,?,?,?,?,?,?)`,
			a.Proof, a.Person, a.Name, a.Verdict, a.Words, a.SHA256, now()); err != nil {
			return err
		}
	}
	return nil
}

// ProofSums are the checksums of all proofs that were put up.
func (s *Store) ProofSums(ctx context.Context) ([]string, error) {
	return list(ctx, s.db, func(r rows) (v string, err error) { return v, r.Scan(&v) }, `SELECT DISTINCT sha256 FROM proofs`)
}
