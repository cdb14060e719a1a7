package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"strings"
	"time"

	"amberproof/core/forecast"
	"amberproof/internal/ticket"
)

// Run is a run's row.
type Run struct {
	RunLine
	Resolved    ticket.Resolved
	Fingerprint string
	Film        string   // identity that its film is kept under
	Elements    []string // lights kept apart
}

// RunLine is a run in a list: its row but for the resolved ticket.
type RunLine struct {
	ID, Job    int64
	JobName    string
	Scene      int64 // of the job
	Project    int64 // of the job
	Number     int
	State      ticket.State
	Intent     ticket.Intent
	Fault      string // what went wrong, for a failed run
	Background bool   // rendered for the lists, when nothing else is to be done
	Frames     int
	Attempts   int
	Queued     time.Time
	Started    *time.Time
	Finished   *time.Time
	Deliveries int
	GoesOn     int64           // run whose films it goes on from; 0: none, or one that is gone
	Forecast   *forecast.Range // of its seconds, when it was queued; nil: none was made
	Line
	Measure
}

// Measure is what is recorded of a run or a frame as it goes.
type Measure struct {
	Seconds float64  // spent rendering
	Samples float64  // mean per pixel
	Least   int      // of the pixel that has fewest
	Noise   *float64 // percent of display white; nil before it can be told
	Share   float64  // finished share of the forecast samples, 0 to 1
}

const lineColumns = `r.id, r.job, j.name, j.scene, j.project, r.number, r.state,
	r.intent, r.fault, r.background, r.frames, r.attempts, r.queued, r.started, r.finished,
	(SELECT COUNT(*) FROM deliveries d WHERE d.run = r.id), r.view, r.width, r.height,
		r.surface, r.preset, r.target, r.seconds, r.samples, r.least, r.noise, r.share,
		COALESCE(r.goes_on, 0), r.forecast, r.forecast_low, r.forecast_high`

const fromRuns = ` FROM runs r JOIN jobs j ON j.id = r.job `

func (v *RunLine) into(told *ranged) []any {
	return append([]any{&v.ID, &v.Job, &v.JobName, &v.Scene, &v.Project, &v.Number, &v.State, &v.Intent, &v.Fault, &v.Background,
		&v.Frames, &v.Attempts, &v.Queued, &v.Started, &v.Finished,
		&v.Deliveries, &v.View, &v.Width, &v.Height, &v.Surface, &v.Preset, &v.Target, &v.Seconds, &v.Samples, &v.Least, &v.Noise, &v.Share, &v.GoesOn},
		told.into()...)
}

func readLine(r rows) (v RunLine, err error) {
	var told ranged
	err = r.Scan(v.into(&told)...)
	v.Forecast = told.forecast()
	return v, err
}

const runColumns = lineColumns + `, r.resolved, r.fingerprint, r.film, r.elements`

func readRun(r rows) (v Run, err error) {
	var resolved, elements string
	var told ranged
	if err = r.Scan(append(v.into(&told), &resolved, &v.Fingerprint, &v.Film, &elements)...); err != nil {
		return v, err
	}
	v.Forecast = told.forecast()
	if v.Resolved, err = ticket.RestoreResolved([]byte(resolved)); err == nil {
		err = json.Unmarshal([]byte(elements), &v.Elements)
	}
	return v, err
}

// NewRun is a run to be queued.
type NewRun struct {
	Job, Maker int64
	Resolved   ticket.Resolved
	Frames     int
	Background bool  // it comes after all that are not
	GoesOn     int64 // the run whose films it goes on from; 0: none
}

// AddRun queues a run of a job, behind all others.
func (s *Store) AddRun(ctx context.Context, n NewRun) (id int64, err error) {
	resolved, err := toJSON(n.Resolved)
	if err != nil {
		return 0, err
	}
	l, jobID := lineOf(&n.Resolved.Ticket), n.Job
	goesOn := sql.NullInt64{Int64: n.GoesOn, Valid: n.GoesOn != 0}
	err = s.tx(ctx, func(t *sql.Tx) error {
		// The job's row is locked, so that two runs cannot take one number.
		if err := t.QueryRowContext(ctx, `SELECT id FROM jobs WHERE id = ? FOR UPDATE`, jobID).Scan(&jobID); err != nil {
			return missing(err, "job", jobID)
		}
		res, err := t.ExecContext(ctx, `INSERT INTO runs (job, maker, number, resolved, fingerprint, film,
			state, fault, elements, queued, background, place, frames, goes_on, view, width, height, surface, preset, target)
			SELECT ?, ?, COALESCE(MAX(number), 0) + 1, ?, ?, ?, ?, '', '[]', ?, ?, 0, ?, ?, ?, ?, ?, ?, ?, ? FROM runs WHERE job = ?`,
			jobID, n.Maker, resolved, n.Resolved.Fingerprint(), n.Resolved.FilmKey(), ticket.Queued, now(), n.Background, n.Frames, goesOn,
			l.View, l.Width, l.Height, l.Surface, l.Preset, l.Target, jobID)
		if err != nil {
			return err
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `UPDATE runs SET place = id WHERE id = ?`, id); err != nil {
			return err
		}
		if err := addFrames(ctx, t, id, n.Frames); err != nil {
			return err
		}
		if _, err := t.ExecContext(ctx, `UPDATE jobs SET last_run = ? WHERE id = ?`, id, jobID); err != nil {
			return err
		}
		return ran(ctx, t, id, RunQueued, string(ticket.Queued))
	})
	return id, err
}

// Run reads one run.
func (s *Store) Run(ctx context.Context, id int64) (Run, error) {
	v, err := readRun(s.db.QueryRowContext(ctx, `SELECT `+runColumns+fromRuns+`WHERE r.id = ?`, id))
	return v, missing(err, "run", id)
}

// RunLine reads one run without its ticket.
func (s *Store) RunLine(ctx context.Context, id int64) (RunLine, error) {
	v, err := readLine(s.db.QueryRowContext(ctx, `SELECT `+lineColumns+fromRuns+`WHERE r.id = ?`, id))
	return v, missing(err, "run", id)
}

// LastRun reads a job's newest run; ok is false when it has none.
func (s *Store) LastRun(ctx context.Context, jobID int64) (v Run, ok bool, err error) {
	v, err = readRun(s.db.QueryRowContext(ctx, `SELECT `+runColumns+fromRuns+`WHERE r.job = ? ORDER BY r.id DESC LIMIT 1`, jobID))
	if err == sql.ErrNoRows {
		return v, false, nil
	}
	return v, err == nil, err
}

// DoneRuns reads the newest runs of a job that came to their end by themselves, at most so many, but
// for those that were made for the lists.
func (s *Store) DoneRuns(ctx context.Context, job int64, most int) ([]Run, error) {
	return list(ctx, s.db, readRun, `SELECT `+runColumns+fromRuns+`WHERE r.job = ? AND r.state = ? AND NOT r.background ORDER BY r.id DESC LIMIT ?`,
		job, ticket.Done, most)
}

// RunsWanted chooses runs for a list.
type RunsWanted struct {
	Of     Within
	Job    int64          // 0: of all jobs
	States []ticket.State // none: any
	Before int64          // only runs older than this one; 0: from the newest on
	Most   int
}

// Runs lists runs, newest first.
func (s *Store) Runs(ctx context.Context, w RunsWanted) ([]RunLine, error) {
	var where []string
	var args []any
	if !w.Of.All {
		in, more := w.Of.in(`project`)
		where, args = append(where, `job IN (SELECT id FROM jobs WHERE `+in+`)`), more
	}
	if w.Job != 0 {
		where, args = append(where, `job = ?`), append(args, w.Job)
	}
	if w.Before != 0 {
		where, args = append(where, `id < ?`), append(args, w.Before)
	}
	if len(w.States) > 0 {
		in, more := oneOf(w.States)
		where, args = append(where, `state IN `+in), append(args, more...)
	}
	return s.lines(ctx, strings.Join(append(where, `TRUE`), ` AND `)+` ORDER BY id DESC`, w.Most, `r.id DESC`, args...)
}

// lines reads the lines of the first runs of a query. The runs are chosen by an
// index first, and only those are then read: rows have their tickets in them.
func (s *Store) lines(ctx context.Context, chosen string, most int, order string, args ...any) ([]RunLine, error) {
	return list(ctx, s.db, readLine, `SELECT `+lineColumns+` FROM (SELECT id FROM runs WHERE `+chosen+` LIMIT ?) c STRAIGHT_JOIN runs r
		ON r.id = c.id STRAIGHT_JOIN jobs j ON j.id = r.job ORDER BY `+order, append(args, most)...)
}

// mostQueued bounds the queue that is listed.
const mostQueued = 1000

// Queue lists the runs that somebody works on, then those that wait in their order.
func (s *Store) Queue(ctx context.Context, of Within) ([]RunLine, error) {
	in, args := oneOf([]ticket.State{ticket.Running, ticket.Stopping, ticket.Delivering})
	mine, own := `TRUE`, []any(nil)
	if !of.All {
		mine, own = of.in(`project`)
		mine = `job IN (SELECT id FROM jobs WHERE ` + mine + `)`
	}
	going, err := s.lines(ctx, `state IN `+in+` AND `+mine, mostQueued, `r.id`, append(args, own...)...)
	if err != nil {
		return nil, err
	}
	waiting, err := s.lines(ctx, `state = ? AND `+mine+` ORDER BY background, place, id`, mostQueued, `r.background, r.place, r.id`,
		append([]any{ticket.Queued}, own...)...)
	return append(going, waiting...), err
}

// CountRuns counts runs by state.
func (s *Store) CountRuns(ctx context.Context) (map[ticket.State]int, error) {
	type count struct {
		state ticket.State
		n     int
	}
	all, err := list(ctx, s.db, func(r rows) (c count, err error) { return c, r.Scan(&c.state, &c.n) }, `SELECT state, COUNT(*) FROM runs GROUP BY state`)
	out := map[ticket.State]int{}
	for _, c := range all {
		out[c.state] = c.n
	}
	return out, err
}

// oneOf writes states for IN.
func oneOf(states []ticket.State) (in string, args []any) {
	for _, v := range states {
		args = append(args, v)
	}
	return `(?` + strings.Repeat(`,?`, len(states)-1) + `)`, args
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
