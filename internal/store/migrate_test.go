package store

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"amberproof/internal/ticket"
	"amberproof/internal/whole"
)

// Rows and folders that were kept by the first form of the tables are brought to
// the present one. The address of an empty database comes from the tests' kit,
// which this package cannot import.
var EmptyDatabase func(t testing.TB) string

func MigratesWhatIsThere(t *testing.T) {
	ctx := context.Background()
	s, err := Open(ctx, EmptyDatabase(t))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	p, err := s.migrator()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := p.UpTo(ctx, 1); err != nil {
		t.Fatal(err)
	}
	exec := func(q string, args ...any) {
		t.Helper()
		if _, err := s.db.ExecContext(ctx, q, args...); err != nil {
			t.Fatalf("%s: %v", q, err)
		}
	}
	doc := ticket.New()
	doc.View.Name, doc.View.Width, doc.View.Height, doc.View.Scale = "Hero", 1001, 500, 50
	r := ticket.Resolved{Ticket: doc}
	body, err := toJSON(doc)
	if err != nil {
		t.Fatal(err)
	}
	resolved, err := toJSON(r)
	if err != nil {
		t.Fatal(err)
	}
	exec(`INSERT INTO projects (id, name, created) VALUES (1, 'Pellwick', NOW())`)
	exec(`INSERT INTO scenes (id, project, name, file, sha256, bytes, triangles, parts, left_out, created)
		VALUES (1, 1, 'Lantern', 'l.glb', 'ab', 1, 1, 1, '[]', NOW())`)
	exec(`INSERT INTO jobs (id, project, scene, name, ticket, created, changed) VALUES (1, 1, 1, 'Hero', ?, NOW(), NOW())`, body)
	for i, state := range []string{"done", "kept", "stopped"} {
		exec(`INSERT INTO runs (id, job, number, resolved, fingerprint, state, fault, elements, queued, samples)
			VALUES (?, 1, ?, ?, ?, ?, '', '[]', NOW(), 16)`, i+1, i+1, resolved, r.Fingerprint(), state)
	}
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	for id, want := range map[int64]ticket.State{1: ticket.Done, 2: ticket.Kept, 3: ticket.Stopped} {
		got, err := s.Run(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		deliveries := 1
		if want == ticket.Stopped {
			deliveries = 0
		}
		if got.State != want || got.Film != r.Fingerprint() || got.View != "Hero" || got.Width != doc.Size().X || got.Height != 250 ||
			got.Least != 1 || got.Deliveries != deliveries || got.Frames != 1 {
			t.Errorf("%+v", got.RunLine)
		}
	}
	jobs, err := s.Jobs(ctx, JobsWanted{Of: Anywhere, PutAway: false, Scene: 0, After: JobsAfter{}, Most: 10})
	if err != nil || len(jobs) != 1 || jobs[0].Last == nil || jobs[0].Last.ID != 3 || jobs[0].Width != doc.Size().X || jobs[0].Preset != "proof" {
		t.Errorf("%+v %v", jobs, err)
	}
	var frames int
	if err := s.db.QueryRowContext(ctx, `SELECT COUNT(*) FROM frames WHERE number = 0 AND samples = 16`).Scan(&frames); err != nil || frames != 3 {
		t.Errorf("%d frames, %v", frames, err)
	}
	if _, err := p.DownTo(ctx, 1); err != nil {
		t.Errorf("back again: %v", err)
	}
}

func TestFoldersOfRunsAreBroughtUp(t *testing.T) {
	root := filepath.Join(t.TempDir(), "dä ta [1]*")
	old := filepath.Join(root, "runs", "7")
	for _, d := range []string{"delivery", "delivery.part"} {
		if err := os.MkdirAll(filepath.Join(old, d), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	for _, f := range []string{"film", "delivery/manifest.json"} {
		if err := os.WriteFile(filepath.Join(old, f), []byte("x"), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	half := filepath.Join(root, "runs", "7", "deliveries", whole.Making+"123")
	stray := filepath.Join(root, "scenes", staging+"9")
	for _, d := range []string{half, stray} {
		if err := os.MkdirAll(d, 0o755); err != nil {
			t.Fatal(err)
		}
	}
	for range 2 { // again is harmless
		f, err := OpenFiles(root)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range []string{f.Film(7, 0), filepath.Join(f.Delivery(7, 1), "manifest.json")} {
			if _, err := os.Stat(p); err != nil {
				t.Error(err)
			}
		}
		for _, p := range []string{filepath.Join(old, "delivery.part"), half, stray} {
			if _, err := os.Stat(p); !os.IsNotExist(err) {
				t.Errorf("%s is still there", p)
			}
		}
	}
}
