// Package testkit gives tests a database server, a small scene, and an
// application over both. Only tests import it.
package testkit

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"amberproof/core/importer"
	"amberproof/internal/app"
	"amberproof/internal/job"
	"amberproof/internal/mariadb"
	"amberproof/internal/store"
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
	dir, err := os.MkdirTemp("", "amberproof-test-")
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
func Ticket() job.Ticket {
	t := job.New()
	t.View.Width, t.View.Height = 96, 64
	t.Quality.Least, t.Quality.Most, t.Quality.Noise = 4, 16, 0
	t.Passes.Lights, t.Passes.Occlusion.On, t.Passes.FinishMasks = true, true, true
	return t
}

// App is an application with the bench scene and one job on it.
func App(t testing.TB) (*app.App, store.Job) {
	t.Helper()
	return AppAt(t, Store(t), t.TempDir())
}

// AppAt is App over a given store and folder; the scene and job are made if there are none.
func AppAt(t testing.TB, st *store.Store, dir string) (*app.App, store.Job) {
	t.Helper()
	ctx := context.Background()
	files, err := store.OpenFiles(dir)
	if err != nil {
		t.Fatal(err)
	}
	a := app.New(st, files, "test", 2, slog.New(slog.DiscardHandler))
	jobs, err := st.Jobs(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if len(jobs) > 0 {
		return a, jobs[0]
	}
	p, err := st.EnsureProject(ctx, "Pellwick")
	if err != nil {
		t.Fatal(err)
	}
	row, err := a.ImportScene(ctx, p.ID, Bundle())
	if err != nil {
		t.Fatal(err)
	}
	ticket := Ticket()
	j, err := a.CreateJob(ctx, row.ID, "Bench", &ticket)
	if err != nil {
		t.Fatal(err)
	}
	return a, j
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
