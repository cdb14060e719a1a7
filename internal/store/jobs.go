package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/ticket"
)

// Job is a job's row. Version counts the saved states of its ticket.
type Job struct {
	ID, Project, Scene int64
	Name               string
	Ticket             ticket.Ticket
	Version            int64
	Changed            time.Time
	PutAway            bool
}

// Line is what rows of jobs and of runs show of a ticket, so that lists need not
// read tickets.
type Line struct {
	View          string
	Width, Height int // of the frame as rendered, pixels
	Surface       string
	Preset        string
	Target        float64 // noise, percent
}

// lineOf takes the line out of a ticket.
func lineOf(t *ticket.Ticket) Line {
	size := t.Size()
	return Line{t.View.Name, size.X, size.Y, t.Surface.Mode, t.Quality.Preset, t.Quality.Noise}
}

// JobLine is a job in a list, with its last run.
type JobLine struct {
	ID, Project, Scene int64
	Name, SceneName    string
	SceneSHA256        string
	Version            int64
	Changed            time.Time
	PutAway            bool
	Line
	Runs, Delivered int
	Last            *RunLine
}

const jobColumns = `id, project, scene, name, ticket, version, changed, put_away`

func readJob(r rows) (v Job, err error) {
	var doc string
	if err = r.Scan(&v.ID, &v.Project, &v.Scene, &v.Name, &doc, &v.Version, &v.Changed, &v.PutAway); err == nil {
		v.Ticket, err = ticket.Restore([]byte(doc))
	}
	return v, err
}

// AddJob adds a job and returns its number.
func (s *Store) AddJob(ctx context.Context, maker int64, v Job) (int64, error) {
	ticket, err := toJSON(v.Ticket)
	if err != nil {
		return 0, err
	}
	t, l := now(), lineOf(&v.Ticket)
	r, err := s.db.ExecContext(ctx, `INSERT INTO jobs (project, scene, maker, name, ticket, created,
		changed, view, width, height, surface, preset, target) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?)`,
		v.Project, v.Scene, maker, v.Name, ticket, t, t, l.View, l.Width, l.Height, l.Surface, l.Preset, l.Target)
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

// JobsAfter is where an earlier page ended; its zero value begins at the first.
type JobsAfter struct {
	Changed time.Time
	ID      int64
}

// JobsWanted chooses jobs for a list.
type JobsWanted struct {
	Of      Within
	PutAway bool  // those that are, or those that are not
	Scene   int64 // 0: of all
	After   JobsAfter
	Most    int
}

// Jobs lists a page of jobs, last changed first.
func (s *Store) Jobs(ctx context.Context, w JobsWanted) ([]JobLine, error) {
	where, args := w.Of.in(`j.project`)
	where, args = where+` AND j.put_away = ?`, append(args, w.PutAway)
	if w.Scene != 0 {
		where, args = where+` AND j.scene = ?`, append(args, w.Scene)
	}
	if w.After.ID != 0 {
		where, args = where+` AND (j.changed, j.id) < (?, ?)`, append(args, w.After.Changed, w.After.ID)
	}
	read := func(r rows) (v JobLine, err error) {
		var last lastRun
		l := &v.Line
		err = r.Scan(&v.ID, &v.Project, &v.Scene, &v.Name, &v.SceneName, &v.SceneSHA256, &v.Version, &v.Changed, &v.PutAway,
			&l.View, &l.Width, &l.Height, &l.Surface, &l.Preset, &l.Target,
			&v.Runs, &v.Delivered, &last.id, &last.number, &last.state, &last.samples, &last.noise,
			&last.seconds, &last.share, &last.queued, &last.finished, &last.surface)
		v.Last = last.line(&v)
		return v, err
	}
	return list(ctx, s.db, read, `SELECT j.id, j.project, j.scene, j.name, s.name, s.sha256,
		j.version, j.changed, j.put_away, j.view, j.width, j.height, j.surface, j.preset, j.target,
		(SELECT COUNT(*) FROM runs x WHERE x.job = j.id),
		(SELECT COUNT(DISTINCT d.run) FROM deliveries d JOIN runs x ON x.id = d.run WHERE x.job = j.id AND NOT x.background),
		r.id, r.number, r.state, r.samples, r.noise, r.seconds, r.share, r.queued, r.finished, r.surface
		FROM jobs j JOIN scenes s ON s.id = j.scene LEFT JOIN runs r ON r.id = j.last_run
		WHERE `+where+` ORDER BY j.changed DESC, j.id DESC LIMIT ?`, append(args, w.Most)...)
}

// lastRun is a run that may be absent.
type lastRun struct {
	id               sql.NullInt64
	number           sql.NullInt64
	state, surface   sql.NullString
	samples, seconds sql.NullFloat64
	share            sql.NullFloat64
	noise            *float64
	queued           sql.NullTime
	finished         *time.Time
}

func (l *lastRun) line(j *JobLine) *RunLine {
	if !l.id.Valid {
		return nil
	}
	r := &RunLine{ID: l.id.Int64, Job: j.ID, JobName: j.Name, Number: int(l.number.Int64), State: ticket.State(l.state.String),
		Queued: l.queued.Time, Finished: l.finished}
	r.Samples, r.Noise, r.Seconds, r.Share, r.Surface = l.samples.Float64, l.noise, l.seconds.Float64, l.share.Float64, l.surface.String
	return r
}

// SaveTicket saves a ticket over the given version and returns the new one;
// fault.ErrChanged when another was saved meanwhile.
func (s *Store) SaveTicket(ctx context.Context, id, version int64, t ticket.Ticket) (int64, error) {
	doc, err := toJSON(t)
	if err != nil {
		return 0, err
	}
	l := lineOf(&t)
	r, err := s.db.ExecContext(ctx, `UPDATE jobs SET ticket = ?, version = version + 1, changed = ?,
		view = ?, width = ?, height = ?, surface = ?, preset = ?, target = ? WHERE id = ? AND version = ?`,
		doc, now(), l.View, l.Width, l.Height, l.Surface, l.Preset, l.Target, id, version)
	if err != nil {
		return 0, err
	}
	if n, err := r.RowsAffected(); err != nil || n == 1 {
		return version + 1, err
	}
	if _, err := s.Job(ctx, id); err != nil {
		return 0, err
	}
	return 0, fmt.Errorf("the ticket: %w", fault.ErrChanged)
}

// RenameJob gives a job another name.
func (s *Store) RenameJob(ctx context.Context, id int64, name string) error {
	return s.change(ctx, "job", id, `UPDATE jobs SET name = ? WHERE id = ?`, name, id)
}

// PutJobAway takes a job out of the lists, or back into them.
func (s *Store) PutJobAway(ctx context.Context, id int64, away bool) error {
	return s.change(ctx, "job", id, `UPDATE jobs SET put_away = ? WHERE id = ?`, away, id)
}

// RunsOf lists the runs of a job.
func (s *Store) RunsOf(ctx context.Context, job int64) ([]int64, error) {
	return list(ctx, s.db, func(r rows) (id int64, err error) { return id, r.Scan(&id) }, `SELECT id FROM runs WHERE job = ? ORDER BY id`, job)
}

// RemoveJob removes a job and its runs, and returns the runs, whose files are
// then to be removed. Runs that are going, and unless delivered is set those
// that have delivered, keep it from being removed: fault.ErrState.
func (s *Store) RemoveJob(ctx context.Context, id int64, delivered bool) (runs []int64, err error) {
	err = s.tx(ctx, func(t *sql.Tx) error {
		if err := t.QueryRowContext(ctx, `SELECT id FROM jobs WHERE id = ? FOR UPDATE`, id).Scan(&id); err != nil {
			return missing(err, "job", id)
		}
		q, err := t.QueryContext(ctx, `SELECT id, state, background, (SELECT COUNT(*)
			FROM deliveries d WHERE d.run = runs.id) FROM runs WHERE job = ? FOR UPDATE`, id)
		if err != nil {
			return err
		}
		defer q.Close()
		runs = nil
		for q.Next() {
			var run int64
			var state ticket.State
			var background bool
			var n int
			if err := q.Scan(&run, &state, &background, &n); err != nil {
				return err
			}
			if state.Going() {
				return fmt.Errorf("run %d of the job is %s; stop it first: %w", run, state, fault.ErrState)
			}
			if n > 0 && !background && !delivered {
				return fmt.Errorf("the job has delivered files; say that they are to be removed too: %w", fault.ErrState)
			}
			runs = append(runs, run)
		}
		if err := q.Err(); err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `DELETE FROM runs WHERE job = ?`, id); err != nil {
			return err
		}
		_, err = t.ExecContext(ctx, `DELETE FROM jobs WHERE id = ?`, id)
		return err
	})
	return runs, err
}
