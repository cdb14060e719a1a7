package scenes_test

import (
	"context"
	"errors"
	"math"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"amberproof/core/importer"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestSetupsAreSavedOverTheirVersion(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{X: 100}}}}
	b, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u)
	if err != nil || b.Version != 1 || b.Subject.Setup.Of("Box").Path == "" {
		t.Fatalf("saved as %+v: %v", b.Subject.Setup, err)
	}
	_, imported, err := a.Scenes.Open(ctx, me, j.Scene)
	if err != nil || imported.Parts[1].Place != nil {
		t.Fatalf("the imported scene was changed: %v", err)
	}
	if x := b.Subject.Scene.PartBounds(1).Centre().X; math.Abs(float64(x)-0.1) > 1e-6 {
		t.Errorf("the box is at %v", x)
	}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, setup.Setup{}); !errors.Is(err, fault.ErrChanged) {
		t.Errorf("over a version that is gone: %v", err)
	}
	for _, bad := range []setup.Setup{
		{Parts: []setup.Change{{Part: "Box", Scale: 0}}},
		{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{Y: 1e9}}}},
		{Parts: []setup.Change{{Part: "Box", Scale: 2}, {Part: "Box", Scale: 3}}},
		{Parts: []setup.Change{{Part: "Box", Scale: 1000, Shift: setup.Vector{Y: 1e6}}, {Part: "Table", Scale: 1, Turn: setup.Angles{X: math.Inf(1)}}}},
	} {
		var in *fault.Input
		if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 1, bad); !errors.As(err, &in) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	if b, err := a.Scenes.Bench(ctx, me, j.Scene); err != nil || b.Version != 1 {
		t.Errorf("what was refused is kept as version %d: %v", b.Version, err)
	}
	// Two at once: one is kept, the other told.
	var wg sync.WaitGroup
	errs := make([]error, 8)
	for i := range errs {
		wg.Go(func() { _, errs[i] = a.Scenes.SaveSetup(ctx, me, j.Scene, 1, u) })
	}
	wg.Wait()
	kept := 0
	for _, err := range errs {
		if err == nil {
			kept++
		} else if !errors.Is(err, fault.ErrChanged) {
			t.Error(err)
		}
	}
	if kept != 1 {
		t.Errorf("%d were kept", kept)
	}
}

// The set-up of one file of a product goes onto a newer one, and what has no part
// there any more is told.
func TestASetupGoesOntoANewerFile(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 2}, {Part: "Table", Scale: 1, Out: true}}}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	newer := testkit.Bundle()
	newer["bench.obj"] = append([]byte("# newer\n"), newer["bench.obj"]...)
	for i := range newer["bench.obj"] {
		if string(newer["bench.obj"][i:min(i+7, len(newer["bench.obj"]))]) == "o Table" {
			copy(newer["bench.obj"][i:], "o Board")
		}
	}
	row, err := a.Scenes.ImportBundle(ctx, me, j.Project, newer)
	if err != nil {
		t.Fatal(err)
	}
	b, err := a.Scenes.TakeSetup(ctx, me, row.ID, 0, j.Scene)
	if err != nil || b.Version != 1 || len(b.Subject.Lost) != 1 || b.Subject.Lost[0].Part != "Table" || b.Subject.Scene.Parts[1].Place == nil {
		t.Fatalf("lost %+v: %v", b.Subject.Lost, err)
	}
	if len(b.Found) != 0 {
		t.Errorf("found again %+v, with the keys that they had", b.Found)
	}
	if _, err := a.Scenes.TakeSetup(ctx, me, row.ID, 1, 999); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("of a scene that is not there: %v", err)
	}
}

// What mends a finding is laid over what the set-up has already, and mends it.
// A scene that is removed while the same content comes in again leaves the new one its file.
func TestRemovedWhileTheSameComesInAgain(t *testing.T) {
	dir := t.TempDir()
	a, _ := testkit.AppAt(t, testkit.Store(t), dir)
	b := importer.Bundle{"a.obj": []byte("o A\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")}
	who, ctx := identity.Local, context.Background()
	p, err := a.Projects.Ensure(ctx, who, "Pellwick")
	if err != nil {
		t.Fatal(err)
	}
	last, err := a.Scenes.ImportBundle(ctx, who, p.ID, b)
	if err != nil {
		t.Fatal(err)
	}
	for range 25 {
		var wg sync.WaitGroup
		wg.Go(func() {
			if err := a.Scenes.Remove(ctx, who, last.ID); err != nil {
				t.Error(err)
			}
		})
		var next scenes.Scene
		wg.Go(func() {
			if next, err = a.Scenes.ImportBundle(ctx, who, p.ID, b); err != nil {
				t.Error(err)
			}
		})
		wg.Wait()
		if _, err := os.Stat(filepath.Join(dir, "scenes", next.SHA256+".zip")); err != nil {
			t.Fatalf("its file is lost: %v", err)
		}
		last = next
	}
}

func TestFixes(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{X: 50, Y: 12.5}}}}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	r, err := a.Scenes.Preflight(ctx, me, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	var fix *setup.Change
	for _, f := range r.Findings {
		if f.Check == "floats" && f.Part == "Box" && math.Abs(f.Value-12.5) < 0.01 && len(f.Fix.Changes) == 1 {
			fix = &f.Fix.Changes[0]
		}
	}
	if fix == nil || fix.Shift.X != 50 || math.Abs(fix.Shift.Y) > 1e-3 {
		t.Fatalf("found %+v, to be mended by %+v", r.Findings, fix)
	}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, r.Version, u.With(*fix)); err != nil {
		t.Fatal(err)
	}
	if r, err = a.Scenes.Preflight(ctx, me, j.Scene); err != nil || r.Version != 2 {
		t.Fatal(err)
	}
	for _, f := range r.Findings {
		if f.Check == "floats" {
			t.Errorf("mended, and found again: %+v", f)
		}
	}
	if c, err := a.Scenes.Checking(ctx, me, j.Scene); err != nil || c.Known {
		t.Errorf("a check that has ended is told of as %+v: %v", c, err)
	}
}

func TestDrop(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{X: 50, Y: 80}}}}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	c, onto, err := a.Scenes.Drop(ctx, me, j.Scene, []string{"Box"})
	if err != nil || onto != "Table" || len(c) != 1 || c[0].Shift.X != 50 || math.Abs(c[0].Shift.Y) > 1e-3 {
		t.Errorf("put by %+v onto %q: %v", c, onto, err)
	}
	var in *fault.Input
	for _, parts := range [][]string{{"Box", "Sofa"}, {"Table"}} {
		if _, _, err := a.Scenes.Drop(ctx, me, j.Scene, parts); !errors.As(err, &in) {
			t.Errorf("%v: %v", parts, err)
		}
	}
}

// A finding that is meant is put aside, changes no run, and is told with the rest.
func TestFindingsPutAside(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	u := setup.Setup{Parts: []setup.Change{{Part: "Box", Scale: 1, Shift: setup.Vector{Y: 12.5}}}}
	if _, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u); err != nil {
		t.Fatal(err)
	}
	meant := func() (is, all int) {
		r, err := a.Scenes.Preflight(ctx, me, j.Scene)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range r.Findings {
			if f.Aside {
				is++
				u.Aside = append(u.Aside, setup.Aside{Check: string(f.Check), Part: f.Part, Other: f.Other})
			} else if f.Check == "floats" {
				u.Aside = append(u.Aside, setup.Aside{Check: string(f.Check), Part: f.Part, Other: f.Other})
			}
		}
		return is, len(r.Findings)
	}
	is, all := meant()
	if is != 0 || all == 0 || len(u.Aside) != 1 {
		t.Fatalf("%d of %d put aside, %v", is, all, u.Aside)
	}
	before := u.ForRun()
	b, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 1, u)
	if err != nil || len(b.Subject.Setup.ForRun().Aside) != 0 || len(before.Aside) != 0 {
		t.Fatalf("runs know of it: %v", err)
	}
	if is, n := meant(); is != 1 || n != all {
		t.Errorf("%d of %d put aside", is, n)
	}
	if len(u.With().Aside) != 1 {
		t.Error("it is there twice")
	}
}

// A ticket is checked in its own light, from its own view and as it is staged: also with a
// floor that is no part of the scene.
func TestPreflightOfATicket(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	views, err := a.Scenes.Views(ctx, me, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	found := func(change func(t *ticket.Ticket)) map[string]scenes.Finding {
		t.Helper()
		doc := j.Ticket
		change(&doc)
		r, err := a.Scenes.PreflightOf(ctx, me, j.Scene, &doc)
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]scenes.Finding{}
		for _, f := range r.Findings {
			if f.View != "" && f.View != views[0].Name {
				t.Errorf("found in %q, which the ticket does not show", f.View)
			}
			out[string(f.Check)] = f
		}
		return out
	}
	plain := found(func(*ticket.Ticket) {})
	if _, ok := plain["clips"]; ok {
		t.Errorf("as it is: %+v", plain)
	}
	if got := found(func(t *ticket.Ticket) { t.View.Exposure = 12 }); got["clips"].Value < 10 {
		t.Errorf("twelve stops brighter: %+v", got)
	}
	if got := found(func(t *ticket.Ticket) { t.View.Exposure = -12; t.View.Width = 4000 }); got["dark"].Says == "" {
		t.Errorf("twelve stops darker: %+v", got)
	}
	found(func(t *ticket.Ticket) { t.Stage.Catcher.On = true })
	if _, ok := found(func(t *ticket.Ticket) { t.Surface.Mode = "clay" })["bare"]; ok {
		t.Error("what clay covers was told")
	}
	lost := j.Ticket
	lost.View.Name = "nowhere"
	if _, err := a.Scenes.PreflightOf(ctx, me, j.Scene, &lost); err == nil {
		t.Error("a view that is not there was checked")
	}
}
