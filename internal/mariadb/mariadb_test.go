package mariadb

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql"
)

func quiet(string) {}

func start(t *testing.T, dir string) *Server {
	t.Helper()
	s, err := Start(context.Background(), dir, true, quiet)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func query(t *testing.T, s *Server, q string) string {
	t.Helper()
	db, err := sql.Open("mysql", s.DSN("amberproof"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var v string
	if err := db.QueryRow(q).Scan(&v); err != nil {
		t.Fatalf("%s: %v", q, err)
	}
	return v
}

func exec1(t *testing.T, s *Server, q string) {
	t.Helper()
	db, err := sql.Open("mysql", s.DSN("amberproof"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(q); err != nil {
		t.Fatalf("%s: %v", q, err)
	}
}

func TestDataOutlivesStopAndKill(t *testing.T) {
	dir := t.TempDir()
	s := start(t, dir)
	exec1(t, s, "CREATE TABLE kept (v VARCHAR(40)) CHARACTER SET utf8mb4")
	exec1(t, s, "INSERT INTO kept VALUES ('stopped ✓')")
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	s = start(t, dir)
	if v := query(t, s, "SELECT v FROM kept"); v != "stopped ✓" {
		t.Errorf("got %q", v)
	}
	if err := s.proc.cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	<-s.proc.done
	s = start(t, dir)
	if v := query(t, s, "SELECT v FROM kept"); v != "stopped ✓" {
		t.Errorf("after a kill: %q", v)
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
}

func TestALeftOverServerIsStoppedFirst(t *testing.T) {
	dir := t.TempDir()
	old := start(t, dir)
	said := ""
	s, err := Start(context.Background(), dir, true, func(w string) { said += w })
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	<-old.proc.done
	if !strings.Contains(said, "earlier start") {
		t.Errorf("said %q", said)
	}
}

func TestAServerStoppedInItsStartStops(t *testing.T) {
	dir := t.TempDir()
	if err := start(t, dir).Stop(); err != nil {
		t.Fatal(err)
	}
	for wait := time.Duration(0); wait < 300*time.Millisecond; wait += 30 * time.Millisecond {
		ctx, cancel := context.WithTimeout(context.Background(), wait)
		s, err := Start(ctx, dir, true, quiet)
		cancel()
		if err == nil {
			err = s.Stop()
		} else if strings.Contains(err.Error(), "did not start") && !strings.Contains(err.Error(), "did not stop") {
			err = nil
		}
		if err != nil {
			t.Errorf("stopped after %s: %v", wait, err)
		}
	}
}

func TestOnlyTheApplicationsAccountGetsIn(t *testing.T) {
	dir := t.TempDir()
	s := start(t, dir)
	defer s.Stop()
	for _, who := range []string{"root:", "amberproof:", "nobody:"} {
		db, err := sql.Open("mysql", strings.Replace(s.DSN("amberproof"), "amberproof:"+s.password, who, 1))
		if err != nil {
			t.Fatal(err)
		}
		if db.Ping() == nil {
			t.Errorf("%q got in without a password", who)
		}
		_ = db.Close()
	}
	if got := query(t, s, "SELECT @@bind_address"); got != "127.0.0.1" {
		t.Errorf("it listens on %s", got)
	}
	info, err := os.Stat(filepath.Join(dir, "password"))
	if err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the password's file: %v %v", info.Mode(), err)
	}
}

func TestAHalfMadeDatabaseIsMadeAnew(t *testing.T) {
	dir := t.TempDir()
	if err := os.MkdirAll(filepath.Join(dir, "data", "mysql"), 0o700); err != nil {
		t.Fatal(err)
	}
	s := start(t, dir)
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
}

// A server that ends by itself is started again at its address; one that does so
// again and again is given up.
func TestAServerThatEndsIsStartedAgain(t *testing.T) {
	s, err := Start(context.Background(), t.TempDir(), false, quiet) // what is committed outlasts a kill
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	exec1(t, s, "CREATE TABLE kept (v VARCHAR(40)) CHARACTER SET utf8mb4")
	exec1(t, s, "INSERT INTO kept VALUES ('here')")
	kept := make(chan error, 1)
	go func() { kept <- s.Keep(context.Background(), quiet) }()
	for k := 0; k <= mostRestarts; k++ {
		s.mu.Lock()
		p := s.proc
		s.mu.Unlock()
		if err := p.cmd.Process.Signal(syscall.SIGKILL); err != nil {
			t.Fatal(err)
		}
		<-p.done
		if k == mostRestarts {
			break
		}
		for end := time.Now().Add(30 * time.Second); !s.greets(); time.Sleep(20 * time.Millisecond) {
			if time.Now().After(end) {
				t.Fatalf("it was not started again after kill %d", k+1)
			}
		}
		if v := query(t, s, "SELECT v FROM kept"); v != "here" {
			t.Fatalf("after kill %d: %q", k+1, v)
		}
	}
	if err := <-kept; err == nil || !strings.Contains(err.Error(), "ended 5 times") {
		t.Errorf("got %v", err)
	}
}

func TestStoppingIsNoReasonToStartAgain(t *testing.T) {
	s := start(t, t.TempDir())
	kept := make(chan error, 1)
	go func() { kept <- s.Keep(context.Background(), quiet) }()
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := <-kept; err != nil || s.greets() {
		t.Errorf("%v; it serves: %v", err, s.greets())
	}
}

// Folders have names of every kind, and nothing is left outside them.
func TestAFolderWithSpacesAndAccents(t *testing.T) {
	before := names(t)
	s := start(t, filepath.Join(t.TempDir(), "Daten für die Lampe ✓ 'x'"))
	exec1(t, s, "CREATE TABLE kept (v VARCHAR(40)) CHARACTER SET utf8mb4")
	if err := s.proc.cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	<-s.proc.done
	others := []string{"Test", "go-build", "amberproof-test-"} // what tests of other packages make meanwhile
	for n := range names(t) {
		if !before[n] && !slices.ContainsFunc(others, func(o string) bool { return strings.HasPrefix(n, o) }) {
			t.Errorf("%s was left in the folder for temporary files", n)
		}
	}
}

// names are the entries of the folder for temporary files.
func names(t *testing.T) map[string]bool {
	t.Helper()
	all, err := os.ReadDir(os.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]bool{}
	for _, d := range all {
		if strings.Contains(d.Name(), "amberproof") || strings.HasPrefix(d.Name(), "#sql") {
			out[d.Name()] = true
		}
	}
	return out
}

// Databases that are made at one moment do not disturb each other.
func TestManyAreMadeAtOnce(t *testing.T) {
	const many = 8
	failed := make(chan error, many)
	for range many {
		dir := t.TempDir()
		go func() { failed <- install(context.Background(), dir, filepath.Join(dir, "data")) }()
	}
	for range many {
		if err := <-failed; err != nil {
			t.Error(err)
		}
	}
}

func TestAFailureIsToldWithItsReason(t *testing.T) {
	if got := complaints([]byte("Installing\n2026-01-01 [ERROR] no room\nPlease check\nall of the above")); got != "2026-01-01 [ERROR] no room" {
		t.Errorf("got %q", got)
	}
	if got := complaints([]byte("one\ntwo")); got != "one\ntwo" {
		t.Errorf("got %q", got)
	}
}
