package scenes_test

import (
	"errors"
	"testing"

	"amberproof/demo"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// An environment picture of a project is its people's: others find it neither in lists nor by
// its checksum, and their tickets not by its name.
func TestSurroundsOfProjects(t *testing.T) {
	a, j := testkit.App(t)
	ctx := t.Context()
	other, err := a.Projects.Ensure(ctx, identity.Local, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	as := func(id, project int64, role identity.Role) identity.Actor {
		return identity.Actor{ID: id, Roles: map[int64]identity.Role{project: role}}
	}
	ours, theirs := as(1, j.Project, identity.TD), as(2, other.ID, identity.Lead)
	v, err := a.Scenes.ImportSurround(ctx, ours, j.Project, "hall.hdr", demo.Surround())
	if err != nil || v.Project != j.Project {
		t.Fatal(v, err)
	}
	for _, c := range []struct {
		who  identity.Actor
		sees int
		err  error
	}{{ours, 1, nil}, {theirs, 0, fault.ErrNotFound}, {as(3, j.Project, identity.Reviewer), 1, nil}} {
		all, err := a.Scenes.Surrounds(ctx, c.who, 0)
		if err != nil || len(all) != c.sees {
			t.Errorf("person %d: %v %v", c.who.ID, all, err)
		}
		if err := a.Scenes.SeesSurround(ctx, c.who, v.SHA256); !errors.Is(err, c.err) {
			t.Errorf("person %d, by its checksum: %v, want %v", c.who.ID, err, c.err)
		}
		if _, err := a.Live.SurroundShown(ctx, c.who, v.SHA256); !errors.Is(err, c.err) {
			t.Errorf("person %d, shown: %v, want %v", c.who.ID, err, c.err)
		}
	}
	pinned := func(project int64) string {
		t.Helper()
		d := ticket.New()
		d.Stage.Surround.On, d.Stage.Surround.Picture.Name = true, "hall.hdr"
		if err := a.Scenes.Pin(ctx, project, &d); err != nil {
			t.Fatal(err)
		}
		return d.Stage.Surround.Picture.SHA256
	}
	if got := pinned(j.Project); got != v.SHA256 {
		t.Errorf("in its project the name gives %q", got)
	}
	if got := pinned(other.ID); got != "" {
		t.Errorf("in another project the name gives %q", got)
	}
	for _, c := range []struct {
		who     identity.Actor
		project int64
	}{{theirs, j.Project}, {as(3, j.Project, identity.Reviewer), j.Project}, {as(3, j.Project, identity.Reviewer), 0}} {
		if _, err := a.Scenes.ImportSurround(ctx, c.who, c.project, "x.hdr", demo.Surround()); err == nil {
			t.Errorf("person %d takes a picture in for project %d", c.who.ID, c.project)
		}
	}
	// The same file for the whole studio: now they see it, under the name it has there.
	if _, err := a.Scenes.ImportSurround(ctx, theirs, 0, "theirs.hdr", demo.Surround()); err != nil {
		t.Fatal(err)
	}
	if all, err := a.Scenes.Surrounds(ctx, theirs, 0); err != nil || len(all) != 1 || all[0].Name != "theirs.hdr" {
		t.Errorf("%v %v", all, err)
	}
	if all, err := a.Scenes.Surrounds(ctx, ours, 0); err != nil || len(all) != 1 {
		t.Errorf("one picture of project and studio is listed as %v %v", all, err)
	}
}
