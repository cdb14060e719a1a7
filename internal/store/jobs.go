package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"amberproof/internal/job"
)

const jobColumns = `id, project, scene, name, ticket, version, changed`

func readJob(r rows) (v Job, err error) {
	var ticket string
	if err = r.Scan(&v.ID, &v.Project, &v.Scene, &v.Name, &ticket, &v.Version, &v.Changed); err == nil {
		v.Ticket, err = job.Restore([]byte(ticket))
	}
	return v, err
}

// AddJob adds a job and returns its number.
func (s *Store) AddJob(ctx context.Context, v Job) (int64, error) {
	ticket, err := toJSON(v.Ticket)
	if err != nil {
		return 0, err
	}
	t := now()
	r, err := s.db.ExecContext(ctx, `INSERT INTO jobs (project, scene, name, ticket, created, changed) VALUES (?,?,?,?,?,?)`, v.Project, v.Scene, v.Name, ticket, t, t)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// Job reads one job.
func (s *Store) Job(ctx context.Context, id int64) (Job, error) {
	v, err := readJob(s.db.QueryRowContext(ctx, `SELECT `+jobColumns+` FROM jobs WHERE id = ?`, id))
	return v, missing(err, "job", id)
}

// Jobs lists all jobs, last changed first.
func (s *Store) Jobs(ctx context.Context) ([]Job, error) {
	return list(ctx, s.db, readJob, `SELECT `+jobColumns+` FROM jobs ORDER BY changed DESC, id DESC`)
}

// SaveTicket saves a ticket over the given version; ErrChanged when another
// was saved meanwhile. It returns the new version.
func (s *Store) SaveTicket(ctx context.Context, id, version int64, t job.Ticket) (int64, error) {
	ticket, err := toJSON(t)
	if err != nil {
		return 0, err
	}
	r, err := s.db.ExecContext(ctx, `UPDATE jobs SET ticket = ?, version = version + 1, changed = ? WHERE id = ? AND version = ?`, ticket, now(), id, version)
	if err != nil {
		return 0, err
	}
	if n, err := r.RowsAffected(); err != nil || n == 1 {
		return version + 1, err
	}
	if _, err := s.Job(ctx, id); err != nil {
		return 0, err
	}
	return 0, fmt.Errorf("the ticket: %w; load it again", ErrChanged)
}

// RenameJob gives a job another name.
func (s *Store) RenameJob(ctx context.Context, id int64, name string) error {
	r, err := s.db.ExecContext(ctx, `UPDATE jobs SET name = ? WHERE id = ?`, name, id)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return missing(sql.ErrNoRows, "job", id)
}

const runColumns = `id, job, number, resolved, fingerprint, state, fault, elements, queued, started, finished, seconds, samples, noise, share`

func readRun(r rows) (v Run, err error) {
	var resolved, elements string
	if err = r.Scan(&v.ID, &v.Job, &v.Number, &resolved, &v.Fingerprint, &v.State, &v.Fault, &elements, &v.Queued, &v.Started, &v.Finished, &v.Seconds, &v.Samples, &v.Noise, &v.Share); err != nil {
		return v, err
	}
	if v.Resolved, err = job.RestoreResolved([]byte(resolved)); err == nil {
		err = json.Unmarshal([]byte(elements), &v.Elements)
	}
	return v, err
}

// AddRun queues a run of a job.
func (s *Store) AddRun(ctx context.Context, jobID int64, r job.Resolved) (id int64, err error) {
	resolved, err := toJSON(r)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(t *sql.Tx) error {
		// The job's row is locked, so that two runs cannot take one number.
		if err := t.QueryRowContext(ctx, `SELECT id FROM jobs WHERE id = ? FOR UPDATE`, jobID).Scan(&jobID); err != nil {
			return missing(err, "job", jobID)
		}
		res, err := t.ExecContext(ctx, `INSERT INTO runs (job, number, resolved, fingerprint, state, fault, elements, queued)
			SELECT ?, COALESCE(MAX(number), 0) + 1, ?, ?, ?, '', '[]', ? FROM runs WHERE job = ?`, jobID, resolved, r.Fingerprint(), Queued, now(), jobID)
		if err != nil {
			return err
		}
		id, err = res.LastInsertId()
		return err
	})
	return id, err
}

// Run reads one run.
func (s *Store) Run(ctx context.Context, id int64) (Run, error) {
	v, err := readRun(s.db.QueryRowContext(ctx, `SELECT `+runColumns+` FROM runs WHERE id = ?`, id))
	return v, missing(err, "run", id)
}

// Runs lists runs, newest first: of a job, or of all for job 0.
func (s *Store) Runs(ctx context.Context, jobID int64) ([]Run, error) {
	return list(ctx, s.db, readRun, `SELECT `+runColumns+` FROM runs WHERE ? = 0 OR job = ? ORDER BY id DESC LIMIT 500`, jobID, jobID)
}

// NextRun takes the oldest queued run and marks it running; ok is false when
// none waits.
func (s *Store) NextRun(ctx context.Context) (v Run, ok bool, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		v, err = readRun(t.QueryRowContext(ctx, `SELECT `+runColumns+` FROM runs WHERE state = ? ORDER BY queued, id LIMIT 1 FOR UPDATE SKIP LOCKED`, Queued))
		if err == sql.ErrNoRows {
			return nil
		}
		if err != nil {
			return err
		}
		ok = true
		v.State = Running
		_, err := t.ExecContext(ctx, `UPDATE runs SET state = ?, started = COALESCE(started, ?) WHERE id = ?`, Running, now(), v.ID)
		return err
	})
	return v, ok, err
}

// Requeue puts runs that a dead process left running back in the queue; what
// they had is kept in their films. Runs that were being stopped are stopped.
func (s *Store) Requeue(ctx context.Context) (int64, error) {
	if _, err := s.db.ExecContext(ctx, `UPDATE runs SET state = ? WHERE state = ?`, Stopped, Stopping); err != nil {
		return 0, err
	}
	r, err := s.db.ExecContext(ctx, `UPDATE runs SET state = ? WHERE state = ?`, Queued, Running)
	if err != nil {
		return 0, err
	}
	return r.RowsAffected()
}

// Measure is what is recorded of a run as it goes.
type Measure struct {
	Seconds, Samples, Share float64
	Noise                   *float64
}

// Record saves a run's measures.
func (s *Store) Record(ctx context.Context, id int64, m Measure) error {
	_, err := s.db.ExecContext(ctx, `UPDATE runs SET seconds = ?, samples = ?, noise = ?, share = ? WHERE id = ?`, m.Seconds, m.Samples, m.Noise, m.Share, id)
	return err
}

// SetElements records the lights that a run keeps apart.
func (s *Store) SetElements(ctx context.Context, id int64, names []string) error {
	e, err := toJSON(names)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `UPDATE runs SET elements = ? WHERE id = ?`, e, id)
	return err
}

// Move changes a run's state if it is in one of the states from; ErrState otherwise.
func (s *Store) Move(ctx context.Context, id int64, to State, fault string, from ...State) error {
	return s.tx(ctx, func(t *sql.Tx) error {
		var have State
		if err := t.QueryRowContext(ctx, `SELECT state FROM runs WHERE id = ? FOR UPDATE`, id).Scan(&have); err != nil {
			return missing(err, "run", id)
		}
		allowed := false
		for _, f := range from {
			allowed = allowed || f == have
		}
		if !allowed {
			return fmt.Errorf("the run is %s: %w", have, ErrState)
		}
		var finished any
		if to == Done || to == Kept || to == Failed {
			finished = now()
		}
		if to == Queued {
			_, err := t.ExecContext(ctx, `UPDATE runs SET state = ?, fault = ?, finished = NULL, queued = ? WHERE id = ?`, to, fault, now(), id)
			return err
		}
		_, err := t.ExecContext(ctx, `UPDATE runs SET state = ?, fault = ?, finished = ? WHERE id = ?`, to, fault, finished, id)
		return err
	})
}
