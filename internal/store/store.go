// Package store keeps everything that outlives a process: rows in MariaDB and
// big files in a folder beside it. It is the only place with SQL.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"

	"amberproof/core/scene"
	"amberproof/internal/job"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors of the store; decide with errors.Is.
var (
	ErrNotFound = errors.New("not found")
	ErrTaken    = errors.New("the name is taken")
	ErrChanged  = errors.New("it was changed elsewhere in the meantime")
	ErrState    = errors.New("its state does not allow that")
)

// Store is safe for concurrent use. Close it when done.
type Store struct{ db *sql.DB }

// Open connects to a database; dsn is in the driver's form.
func Open(ctx context.Context, dsn string) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.ClientFoundRows = true // an update that changes nothing still found its row
	conn, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	s := &Store{sql.OpenDB(conn)}
	s.db.SetMaxOpenConns(16)
	if err := s.db.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("the database does not answer: %w", err), s.db.Close())
	}
	return s, nil
}

// Close closes the connections.
func (s *Store) Close() error { return s.db.Close() }

// Ping asks the database whether it is there.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// Migrate brings the tables to the newest form; doing it again is harmless.
func (s *Store) Migrate(ctx context.Context) error {
	p, err := s.migrator()
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

func (s *Store) migrator() (*goose.Provider, error) {
	sub, err := subFS()
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectMySQL, s.db, sub)
}

// Project is one campaign.
type Project struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Scene is an imported scene's row.
type Scene struct {
	ID        int64        `json:"id"`
	Project   int64        `json:"project"`
	Name      string       `json:"name"`
	File      string       `json:"file" doc:"Name of the main file"`
	SHA256    string       `json:"sha256"`
	Bytes     int64        `json:"bytes"`
	Triangles int          `json:"triangles"`
	Parts     int          `json:"parts"`
	LeftOut   []scene.Note `json:"leftOut" nullable:"false"`
	Created   time.Time    `json:"created"`
}

// View is a saved view's row.
type View struct {
	ID     int64      `json:"id"`
	Scene  int64      `json:"scene"`
	Name   string     `json:"name"`
	Camera job.Camera `json:"camera"`
	Locked bool       `json:"locked"`
}

// Surround is an environment picture's row.
type Surround struct {
	SHA256 string `json:"sha256"`
	Name   string `json:"name"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// Job is a job's row. Version counts the saved states of its ticket.
type Job struct {
	ID      int64      `json:"id"`
	Project int64      `json:"project"`
	Scene   int64      `json:"scene"`
	Name    string     `json:"name"`
	Ticket  job.Ticket `json:"ticket"`
	Version int64      `json:"version"`
	Changed time.Time  `json:"changed"`
}

// State is where a run stands.
type State string

const (
	Queued   State = "queued"
	Running  State = "running"
	Stopped  State = "stopped" // can be resumed or kept
	Done     State = "done"
	Kept     State = "kept" // delivered before its target
	Failed   State = "failed"
	Stopping State = "stopping"
)

// Run is a run's row.
type Run struct {
	ID          int64        `json:"id"`
	Job         int64        `json:"job"`
	Number      int          `json:"number"`
	Resolved    job.Resolved `json:"resolved"`
	Fingerprint string       `json:"fingerprint"`
	State       State        `json:"state" enum:"queued,running,stopping,stopped,done,kept,failed"`
	Fault       string       `json:"fault" doc:"What went wrong, for a failed run"`
	Elements    []string     `json:"elements" nullable:"false" doc:"Lights kept apart"`
	Queued      time.Time    `json:"queued"`
	Started     *time.Time   `json:"started"`
	Finished    *time.Time   `json:"finished"`
	Seconds     float64      `json:"seconds" doc:"Time spent rendering"`
	Samples     float64      `json:"samples" doc:"Mean samples per pixel"`
	Noise       *float64     `json:"noise" doc:"Percent of display white; null before it can be told"`
	Share       float64      `json:"share" doc:"Finished share of the forecast samples, 0 to 1"`
}

// now is the time a row is stamped with; the database has milliseconds.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

func toJSON(v any) (string, error) {
	b, err := json.Marshal(v)
	return string(b), err
}

// missing turns an absent row into ErrNotFound with a name.
func missing(err error, what string, id any) error {
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("%s %v: %w", what, id, ErrNotFound)
	}
	return err
}

func taken(err error) error {
	var m *mysql.MySQLError
	if errors.As(err, &m) && m.Number == 1062 {
		return ErrTaken
	}
	return err
}

// tx runs f in a transaction.
func (s *Store) tx(ctx context.Context, f func(*sql.Tx) error) error {
	t, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(t); err != nil {
		return errors.Join(err, ignoreDone(t.Rollback()))
	}
	return t.Commit()
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}
