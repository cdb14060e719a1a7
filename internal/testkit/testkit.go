// Package testkit gives tests a database server, a small scene, and an
// application over both. Only tests import it.
package testkit

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"amberproof/core/importer"
	"amberproof/internal/app"
	"amberproof/internal/farm"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/mariadb"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

var (
	server *mariadb.Server
	serial atomic.Int64
)

// Main runs the tests of a package with one database server for all of them.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	dir, err := Folder()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	server, err = mariadb.Start(context.Background(), dir, true, func(string) {})
	if err != nil {
		fmt.Fprintln(os.Stderr, "the tests' database:", err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// folders is what the names of the folders of test runs begin with; their
// process's number follows.
const folders = "amberproof-test-"

// Folder makes a temporary folder for a test run, to be removed at its end; those
// of test runs that were killed are removed here.
func Folder() (string, error) {
	left, err := filepath.Glob(filepath.Join(os.TempDir(), folders+"*"))
	if err != nil {
		return "", err
	}
	for _, p := range left {
		pid, _, _ := strings.Cut(strings.TrimPrefix(filepath.Base(p), folders), "-")
		if _, err := os.Stat("/proc/" + pid); os.IsNotExist(err) {
			_ = os.RemoveAll(p)
		}
	}
	return os.MkdirTemp("", fmt.Sprintf("%s%d-", folders, os.Getpid()))
}

// Database makes an empty database of the test's own and returns its address.
func Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("amberproof_%d", serial.Add(1))
	db, err := sql.Open("mysql", server.DSN("amberproof"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("CREATE DATABASE " + name + " CHARACTER SET utf8mb4"); err != nil {
		t.Fatal(err)
	}
	return server.DSN(name)
}

// Store is a migrated store in a database of the test's own.
func Store(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), Database(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	if err := s.Migrate(context.Background()); err != nil {
		t.Fatal(err)
	}
	return s
}

// PrivateStore is a migrated store in a database server of the test's own, and
// how to have that killed and started again at its address.
func PrivateStore(t testing.TB) (s *store.Store, restart func()) {
	t.Helper()
	own, err := mariadb.Start(context.Background(), t.TempDir(), false, func(string) {})
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	kept := make(chan error, 1)
	go func() { kept <- own.Keep(ctx, func(string) {}) }()
	t.Cleanup(func() {
		cancel()
		if err := errors.Join(own.Stop(), <-kept); err != nil {
			t.Error(err)
		}
	})
	if s, err = store.Open(ctx, own.DSN("amberproof")); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	return s, own.Kill
}

// Bundle is a scene of a table with a box, a window pane and a lamp, made by hand.
func Bundle() importer.Bundle {
	obj := `mtllib bench.mtl
o Table
v -2 0 2
v 2 0 2
v 2 0 -2
v -2 0 -2
usemtl Slate
f 1 2 3 4
o Box
v -0.3 0 0.3
v 0.3 0 0.3
v 0.3 0 -0.3
v -0.3 0 -0.3
v -0.3 0.6 0.3
v 0.3 0.6 0.3
v 0.3 0.6 -0.3
v -0.3 0.6 -0.3
usemtl Ochre
f 5 6 10 9
f 6 7 11 10
f 7 8 12 11
f 8 5 9 12
f 9 10 11 12
o Lamp
v -0.5 2 -0.5
v 0.5 2 -0.5
v 0.5 2 0.5
v -0.5 2 0.5
usemtl Glow
f 13 14 15 16
`
	mtl := `newmtl Slate
Kd 0.4 0.4 0.42
newmtl Ochre
Kd 0.7 0.45 0.15
Pr 0.3
newmtl Glow
Kd 0 0 0
Ke 6 6 6
`
	return importer.Bundle{"bench.obj": []byte(obj), "bench.mtl": []byte(mtl)}
}

// Ticket is a small quick ticket for the bench.
func Ticket() ticket.Ticket {
	t := ticket.New()
	t.View.Width, t.View.Height = 96, 64
	t.Quality.Least, t.Quality.Most, t.Quality.Noise = 4, 16, 0
	t.Passes.Lights, t.Passes.Occlusion.On, t.Passes.FinishMasks = true, true, true
	return t
}

// App is an application with the bench scene and one job on it.
func App(t testing.TB) (*app.App, jobs.Job) {
	t.Helper()
	return AppAt(t, Store(t), t.TempDir())
}

// HeldApp is App whose runs can be held in the middle.
func HeldApp(t testing.TB) (*app.App, jobs.Job, *Hold) {
	t.Helper()
	return HeldAppAt(t, Store(t), t.TempDir())
}

// AppAt is App over a given store and folder; the scene and job are made if there are none.
func AppAt(t testing.TB, st *store.Store, dir string) (*app.App, jobs.Job) {
	t.Helper()
	a, j, _ := HeldAppAt(t, st, dir)
	return a, j
}

// HeldAppAt is AppAt whose runs can be held in the middle.
func HeldAppAt(t testing.TB, st *store.Store, dir string) (*app.App, jobs.Job, *Hold) {
	t.Helper()
	hold := newHold()
	a, j := appAt(t, st, dir, hold)
	return a, j, hold
}

// AppOver is a second application over what an App has kept, as after a start.
func AppOver(t testing.TB, st *store.Store, dir string) *app.App {
	t.Helper()
	return appOver(t, st, dir, newHold())
}

func appOver(t testing.TB, st *store.Store, dir string, hold *Hold) *app.App {
	t.Helper()
	files, err := store.OpenFiles(dir)
	if err != nil {
		t.Fatal(err)
	}
	return app.New(app.Options{Store: st, Files: files, Version: "test", Threads: 2,
		Open: hold.open(farm.Local(2, nil)), Log: slog.New(slog.DiscardHandler)})
}

func appAt(t testing.TB, st *store.Store, dir string, hold *Hold) (*app.App, jobs.Job) {
	t.Helper()
	ctx := context.Background()
	a := appOver(t, st, dir, hold)
	have, err := a.Jobs.List(ctx, identity.Local, jobs.Wanted{})
	if err != nil {
		t.Fatal(err)
	}
	if len(have.Jobs) > 0 {
		j, err := a.Jobs.Get(ctx, identity.Local, have.Jobs[0].ID)
		if err != nil {
			t.Fatal(err)
		}
		return a, j
	}
	p, err := a.Projects.Ensure(ctx, identity.Local, "Pellwick")
	if err != nil {
		t.Fatal(err)
	}
	row, err := a.Scenes.ImportBundle(ctx, identity.Local, p.ID, Bundle())
	if err != nil {
		t.Fatal(err)
	}
	ticket := Ticket()
	j, err := a.Jobs.Create(ctx, identity.Local, row.ID, "Bench", &ticket)
	if err != nil {
		t.Fatal(err)
	}
	return a, j
}

// Work has an application's runs go on until the test ends.
func Work(t testing.TB, a *app.App) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan error, 1)
	go func() { done <- a.Runs.Work(ctx) }()
	t.Cleanup(func() {
		cancel()
		if err := <-done; err != nil {
			t.Error(err)
		}
	})
}

// WriteBundle writes the bench scene's files into a folder and returns the main one.
func WriteBundle(t testing.TB, dir string) string {
	t.Helper()
	main := ""
	for n, b := range Bundle() {
		p := filepath.Join(dir, n)
		if err := os.WriteFile(p, b, 0o600); err != nil {
			t.Fatal(err)
		}
		if strings.HasSuffix(n, ".obj") {
			main = p
		}
	}
	return main
}
