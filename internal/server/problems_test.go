package server

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"strings"
	"syscall"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-sql-driver/mysql"

	"amberproof/core/parallel"
	"amberproof/internal/fault"
)

// Every error says what it is and what to do: a full disk is no failure of the program, and a
// failure of the program says nothing of its insides.
func TestWhatErrorsAreAnsweredWith(t *testing.T) {
	s := &Server{log: slog.New(slog.DiscardHandler)}
	full := &fs.PathError{Op: "write", Path: "/data/films/7", Err: syscall.ENOSPC}
	for name, c := range map[string]struct {
		err    error
		status int
		says   string
	}{
		"a full disk":                  {fmt.Errorf("keeping the scene: %w", full), 507, "Make room"},
		"a share that is used up":      {&os.SyscallError{Syscall: "write", Err: syscall.EDQUOT}, 507, "Make room"},
		"a full disk of the database":  {fmt.Errorf("adding: %w", &mysql.MySQLError{Number: 1021, Message: "Disk full"}), 507, "nothing was saved"},
		"a full table":                 {&mysql.MySQLError{Number: 1114, Message: "The table is full"}, 507, "nothing was saved"},
		"another fault of a statement": {&mysql.MySQLError{Number: 1064, Message: "syntax of secret"}, 500, "log"},
		"a database that is gone":      {&net.OpError{Op: "dial", Err: syscall.ECONNREFUSED}, 503, "Try once more"},
		"something that is not there":  {fmt.Errorf("run 7: %w", fault.ErrNotFound), 404, "run 7"},
		"what may not be done":         {fault.ErrForbidden, 403, ""},
		"a version that is old":        {fault.ErrChanged, 409, ""},
		"no room at the moment":        {fault.ErrBusy, 503, ""},
		"a request that was given up":  {context.Canceled, 499, ""},
		"a programming error":          {&parallel.Panic{What: "index secret out of range", Stack: "secret"}, 500, "log"},
	} {
		var e *huma.ErrorModel
		if err := s.problem(c.err); !errors.As(err, &e) {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if e.Status != c.status || !strings.Contains(e.Detail, c.says) || strings.Contains(e.Detail, "secret") || strings.Contains(e.Detail, "/data") {
			t.Errorf("%s: %d %s", name, e.Status, e.Detail)
		}
	}
}
