package scenes_test

import (
	"bytes"
	"context"
	"image/png"
	"os"
	"path/filepath"
	"testing"
	"time"

	"amberproof/internal/identity"
	"amberproof/internal/testkit"
)

func TestMain(m *testing.M) { testkit.Main(m) }

// A scene that comes in is drawn ahead, from each of its views; the drawings outlast
// the program and go with the scene.
func TestScenesAreDrawnAheadAndKept(t *testing.T) {
	st, dir := testkit.Store(t), t.TempDir()
	a, j := testkit.AppAt(t, st, dir)
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	ended := make(chan struct{})
	go func() { a.Scenes.Draw(ctx); close(ended) }()
	var drawn []string
	for end := time.Now().Add(30 * time.Second); len(drawn) == 0; time.Sleep(5 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("nothing was drawn")
		}
		drawn, _ = filepath.Glob(filepath.Join(dir, "drawings", "*.png"))
	}
	cancel()
	<-ended
	views, err := a.Scenes.Views(context.Background(), identity.Local, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	first, tag, err := a.Scenes.Shaded(context.Background(), identity.Local, j.Scene, views[0].Name)
	if err != nil {
		t.Fatal(err)
	}
	m, err := png.Decode(bytes.NewReader(first))
	if err != nil || m.Bounds().Dx() != 480 || m.Bounds().Dy() != 360 {
		t.Fatalf("a drawing of %v: %v", m.Bounds(), err)
	}
	// Another process takes those that are kept, which are marked here to be told.
	drawn, _ = filepath.Glob(filepath.Join(dir, "drawings", "*.png"))
	for _, kept := range drawn {
		if err := os.WriteFile(kept, []byte("kept"), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	b, _ := testkit.AppAt(t, st, dir)
	again, same, err := b.Scenes.Shaded(context.Background(), identity.Local, j.Scene, views[0].Name)
	if err != nil || string(again) != "kept" || same != tag {
		t.Errorf("%d bytes under %s, were %d under %s: %v", len(again), same, len(first), tag, err)
	}
	if err := b.Runs.RemoveJob(context.Background(), identity.Local, j.ID, true); err != nil {
		t.Fatal(err)
	}
	if err := b.Scenes.Remove(context.Background(), identity.Local, j.Scene); err != nil {
		t.Fatal(err)
	}
	if left, _ := os.ReadDir(filepath.Join(dir, "drawings")); len(left) != 0 {
		t.Errorf("%d drawings are left of a scene that is gone", len(left))
	}
}
