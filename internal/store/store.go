// Package store keeps everything that outlives a process: rows in MariaDB and
// big files in a folder beside it. It is the only place with SQL. Its rows are
// what the tables hold; what the interface shows is made of them by the use
// cases.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"net"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"

	"amberproof/internal/fault"
)

//go:embed migrations/*.sql
var migrations embed.FS

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
	cfg.Logger = silent{}      // what fails is told by who asked
	conn, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	s := &Store{sql.OpenDB(conn)}
	s.db.SetMaxOpenConns(16)
	s.db.SetMaxIdleConns(8)
	if err := s.db.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("the database does not answer: %w", err), s.db.Close())
	}
	return s, nil
}

type silent struct{}

func (silent) Print(...any) {}

// Close closes the connections.
func (s *Store) Close() error { return s.db.Close() }

// Ping asks the database whether it is there.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// Gone tells whether an error says that the database cannot be reached, which
// passes once it is started again, rather than that it refused something.
func Gone(err error) bool {
	var dial *net.OpError
	var server *mysql.MySQLError
	const shuttingDown = 1053
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) || errors.As(err, &dial) ||
		errors.As(err, &server) && server.Number == shuttingDown
}

// Full tells whether an error says that the disk of the database is full.
func Full(err error) bool {
	var server *mysql.MySQLError
	if !errors.As(err, &server) {
		return false
	}
	switch server.Number {
	case 3, 1021, 1026, 1114: // a write that failed, a full disk, an error on write, a full table
		return true
	}
	return false
}

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
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectMySQL, s.db, sub)
}

// now is the time a row is stamped with; the database has milliseconds.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

func toJSON(v any) (string, error) {
	b, err := json.Marshal(v)
	return string(b), err
}

// missing turns an absent row into fault.ErrNotFound with a name.
func missing(err error, what string, id any) error {
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("%s %v: %w", what, id, fault.ErrNotFound)
	}
	return err
}

// referred tells whether a row could not be removed since others refer to it.
func referred(err error) bool {
	var m *mysql.MySQLError
	return errors.As(err, &m) && m.Number == 1451
}

// taken turns a doubled key into fault.ErrTaken.
func taken(err error) error {
	var m *mysql.MySQLError
	if errors.As(err, &m) && m.Number == 1062 {
		return fault.ErrTaken
	}
	return err
}

// tx runs f in a transaction. One that lost a deadlock is run again after a moment: by
// its rules nothing of it was done.
func (s *Store) tx(ctx context.Context, f func(*sql.Tx) error) error {
	const deadlock, tries = 1213, 12
	for try := 1; ; try++ {
		err := s.once(ctx, f)
		var m *mysql.MySQLError
		if try == tries || !errors.As(err, &m) || m.Number != deadlock {
			return err
		}
		select { // not all at the same moment again
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(rand.IntN(4<<min(try, 6))) * time.Millisecond):
		}
	}
}

func (s *Store) once(ctx context.Context, f func(*sql.Tx) error) error {
	t, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(t); err != nil {
		if e := t.Rollback(); e != nil && !errors.Is(e, sql.ErrTxDone) && !Gone(e) {
			err = errors.Join(err, e)
		}
		return err
	}
	return t.Commit()
}

// rows is a row to be read, of one or of many.
type rows interface{ Scan(...any) error }

// list runs a query and reads every row.
func list[T any](ctx context.Context, db querier, read func(rows) (T, error), query string, args ...any) ([]T, error) {
	r, err := db.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	out := []T{}
	for r.Next() {
		v, err := read(r)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, r.Err()
}

// change runs an update of the one row of an id; fault.ErrNotFound without it.
func (s *Store) change(ctx context.Context, what string, id int64, query string, args ...any) error {
	r, err := s.db.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return missing(sql.ErrNoRows, what, id)
}
