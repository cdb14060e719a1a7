package library_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"image"
	"image/png"
	"math"
	"slices"
	"strings"
	"testing"

	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/library"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

// Names that differ in writing only are versions of one entry; names that merely make
// the same key are two.
func TestNamesAndVersions(t *testing.T) {
	a, _ := testkit.App(t)
	ctx := context.Background()
	keep := func(name string, tone float64) (key string, version int) {
		t.Helper()
		plan := ticket.New().Surface.Clay
		plan.Tone = tone
		body, err := json.Marshal(plan)
		if err != nil {
			t.Fatal(err)
		}
		e, err := a.Library.Keep(ctx, identity.Local, "clay", name, 0, body)
		if err != nil {
			t.Fatal(err)
		}
		return e.Key, e.Version
	}
	for _, c := range []struct {
		name    string
		key     string
		version int
	}{{"Matte 1", "matte_1", 1}, {"matte-1", "matte_1_2", 1}, {"MATTE 1", "matte_1", 2}, {"Matte-1", "matte_1_2", 2}, {"光 白", "光_白", 1}} {
		if key, version := keep(c.name, 0.5); key != c.key || version != c.version {
			t.Errorf("%q is version %d of %q, want %d of %q", c.name, version, key, c.version, c.key)
		}
	}
	list, err := a.Library.List(ctx, identity.Local, "clay", 0)
	if err != nil || len(list) != 3 {
		t.Errorf("%d entries, %v", len(list), err)
	}
}

func TestWhatTheLibraryRefuses(t *testing.T) {
	a, _ := testkit.App(t)
	ctx := context.Background()
	own, err := json.Marshal(ticket.New().Quality)
	if err != nil {
		t.Fatal(err)
	}
	for what, c := range map[string]struct{ kind, name, body string }{
		"kind":            {"recipes", "x", "{}"},
		"no name":         {"clay", " \t", "{}"},
		"unknown word":    {"clay", "x", `{"tune": 0.5}`},
		"out of range":    {"clay", "x", `{"tone": 7}`},
		"broken":          {"clay", "x", `{"tone":`},
		"a faulty stage":  {"stage", "x", `{"lights": [{"name": "Key", "width": 0}]}`},
		"a broken stage":  {"stage", "x", `{"lamps": []}`},
		"a built-in name": {"quality", ticket.Presets()[0].Key, string(own)},
	} {
		var bad *fault.Input
		if _, err := a.Library.Keep(ctx, identity.Local, c.kind, c.name, 0, []byte(c.body)); !errors.As(err, &bad) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if list, err := a.Library.List(ctx, identity.Local, "clay", 0); err != nil || len(list) != 0 {
		t.Errorf("something was kept: %v %v", list, err)
	}
}

// A stage is kept with its picture, version by version; of what it leaves out it has the
// defaults.
func TestStagesAreKept(t *testing.T) {
	a, _ := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	for range 3 {
		if _, err := a.Library.Keep(ctx, me, "stage", "Low sun", 0, []byte(`{"lights": [{"name": "Sun", "kind": "sun"}]}`)); err != nil {
			t.Fatal(err)
		}
	}
	list, err := a.Library.List(ctx, me, "stage", 0)
	if err != nil || len(list) != 1 || list[0].Version != 3 || !list[0].Shown {
		t.Fatalf("%+v: %v", list, err)
	}
	if list[0].Says != "no backdrop · Sun · set for 200 mm" {
		t.Errorf("it says %q", list[0].Says)
	}
	e, err := a.Library.Entry(ctx, me, "stage", list[0].Key, list[0].Version)
	if err != nil {
		t.Fatal(err)
	}
	var g setup.Stage
	if err := json.Unmarshal(e.Body, &g); err != nil || g.Lights[0].Kelvin != 6504 || g.Backdrop.Kind != setup.NoBackdrop {
		t.Errorf("kept as %+v: %v", g, err)
	}
	if _, err := a.Library.Picture(ctx, me, "stage", "low_sun", 3); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("none is kept with it: %v", err)
	}
	shown, err := a.Live.StageShown(ctx, me, e.Body)
	if err != nil {
		t.Fatal(err)
	}
	img, err := imageOf(shown)
	if err != nil || img.Bounds().Dx() < 100 {
		t.Fatalf("what it looks like: %v", err)
	}
	least, most := uint32(math.MaxUint32), uint32(0)
	for y := range img.Bounds().Dy() {
		for x := range img.Bounds().Dx() {
			_, g, _, _ := img.At(x, y).RGBA()
			least, most = min(least, g), max(most, g)
		}
	}
	if most < least+0x4000 {
		t.Errorf("its picture goes from %x to %x", least, most)
	}
}

func imageOf(b []byte) (image.Image, error) { return png.Decode(bytes.NewReader(b)) }

// What is kept for a project is its people's: others find neither it nor its name.
func TestWhatAProjectKeepsForItself(t *testing.T) {
	a, j := testkit.App(t)
	ctx := context.Background()
	other, err := a.Projects.Ensure(ctx, identity.Local, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	lead := func(id, project int64) identity.Actor {
		return identity.Actor{ID: id, Roles: map[int64]identity.Role{project: identity.Lead}}
	}
	ours, theirs := lead(1, j.Project), lead(2, other.ID)
	keep := func(who identity.Actor, project int64) library.Entry {
		t.Helper()
		e, err := a.Library.Keep(ctx, who, "clay", "Matte", project, []byte("{}"))
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	studio, own, elsewhere := keep(theirs, 0), keep(ours, j.Project), keep(theirs, other.ID)
	if again := keep(ours, j.Project); again.Key != own.Key || again.Version != 2 {
		t.Errorf("%+v is not the second version of %+v", again.Line, own.Line)
	}
	keys := func(who identity.Actor, project int64) (out []string) {
		t.Helper()
		all, err := a.Library.List(ctx, who, "clay", project)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range all {
			out = append(out, l.Key)
		}
		return out
	}
	if got := keys(ours, 0); !slices.Equal(got, []string{studio.Key, own.Key}) {
		t.Errorf("ours: %q", got)
	}
	if got := keys(identity.Local, other.ID); !slices.Equal(got, []string{studio.Key, elsewhere.Key}) {
		t.Errorf("of the other project: %q", got)
	}
	if got := keys(ours, other.ID); !slices.Equal(got, []string{studio.Key}) {
		t.Errorf("of a project of others: %q", got)
	}
	_, never := a.Library.Entry(ctx, theirs, "clay", "nothing", 1)
	_, hidden := a.Library.Entry(ctx, theirs, "clay", own.Key, 1)
	if !errors.Is(hidden, fault.ErrNotFound) || strings.Replace(hidden.Error(), own.Key, "nothing", 1) != never.Error() {
		t.Errorf("what is hidden is told apart from what is not there: %v, %v", hidden, never)
	}
	if err := a.Library.PutAway(ctx, theirs, "clay", own.Key); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("put away by others: %v", err)
	}
	if _, err := a.Library.Keep(ctx, theirs, "clay", "Matte", j.Project, []byte("{}")); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("kept by others: %v", err)
	}
}
