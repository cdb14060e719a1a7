package identity

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"amberproof/internal/fault"
)

// What each role may do in its project; nothing is known of other projects.
func TestWhoMayDoWhat(t *testing.T) {
	const project, other = 3, 4
	table := map[Act]string{ // of lead, TD, artist, reviewer
		See: "yyyy", Judge: "yyyy", EditScenes: "yyyn", EditJobs: "yyyn", RunJobs: "yyyn",
		EditRounds: "yynn", EditLibrary: "yynn", Remove: "yynn", EditProject: "ynnn",
	}
	if len(Acts) != len(allowed) {
		t.Errorf("%d acts are told, there are %d", len(Acts), len(allowed))
	}
	if got := Allowed(Actor{ID: 7, Roles: map[int64]Role{project: Reviewer}}, project); !slices.Equal(got, []Act{See, Judge}) {
		t.Errorf("a reviewer may %v", got)
	}
	if len(table) != len(allowed) {
		t.Errorf("%d acts are in the table, there are %d", len(table), len(allowed))
	}
	for do, want := range table {
		for i, r := range Roles {
			who := Actor{ID: 7, Name: "Somebody", Roles: map[int64]Role{project: r}}
			err := May(who, do, Thing{Project: project, Maker: 1})
			if may := want[i] == 'y'; may != (err == nil) || !may && !errors.Is(err, fault.ErrForbidden) {
				t.Errorf("a %s may %s: %v", r, do, err)
			}
			if err := May(who, do, Thing{Project: other, Maker: 7}); !errors.Is(err, fault.ErrNotFound) {
				t.Errorf("a %s may %s in a project of others: %v", r, do, err)
			}
			studio := want[i] == 'y' || do == See
			if err := May(who, do, Thing{}); studio != (err == nil) {
				t.Errorf("a %s may %s of the studio: %v", r, do, err)
			}
		}
		if err := May(Actor{}, do, Thing{}); !errors.Is(err, fault.ErrForbidden) {
			t.Errorf("nobody may %s: %v", do, err)
		}
		if err := May(Local, do, Thing{other, 5}); err != nil {
			t.Errorf("the program may %s: %v", do, err)
		}
	}
	err := May(Actor{ID: 2, Name: "Ann", Roles: map[int64]Role{1: Artist}}, EditRounds, Thing{1, 2})
	if !strings.Contains(fmt.Sprint(err), "Ann may not change rounds here; a lead or TD can") {
		t.Errorf("it is said so: %v", err)
	}
}

// Who made something may remove it, unless they have become one who only looks.
func TestMakersRemoveWhatTheyMade(t *testing.T) {
	for r, may := range map[Role]bool{Artist: true, Reviewer: false} {
		err := May(Actor{ID: 7, Roles: map[int64]Role{3: r}}, Remove, Thing{3, 7})
		if (err == nil) != may {
			t.Errorf("a %s removes what they made: %v", r, err)
		}
	}
}

func TestWhoActsIsInTheContext(t *testing.T) {
	if who := From(With(t.Context(), Local)); who.ID != Local.ID || !who.House {
		t.Errorf("who acts: %+v", who)
	}
	if who := From(t.Context()); who.ID != 0 || who.House {
		t.Errorf("somebody acts where nothing is said: %+v", who)
	}
}

// things is a store of one scene in each of two projects.
type things struct{}

func (things) Owner(_ context.Context, kind string, id int64) (project, maker int64, err error) {
	if kind != string(SceneKind) || id > 2 {
		return 0, 0, fmt.Errorf("%s %d: %w", kind, id, fault.ErrNotFound)
	}
	return id, 10 + id, nil
}

// The guard asks with the project of a thing and who made it.
func TestTheGuardAsksAboutThings(t *testing.T) {
	g := Guard{things{}}
	people := map[int64]Actor{
		0:  {},
		11: {ID: 11, Roles: map[int64]Role{1: Artist}},
		21: {ID: 21, Roles: map[int64]Role{1: Artist, 2: Reviewer}},
	}
	for _, c := range []struct {
		who  int64
		do   Act
		id   int64
		want error
	}{
		{11, See, 1, nil}, {11, See, 2, fault.ErrNotFound}, {11, Remove, 1, nil}, {21, Remove, 1, fault.ErrForbidden},
		{21, See, 1, nil}, {21, See, 2, nil}, {21, EditScenes, 2, fault.ErrForbidden}, {11, See, 3, fault.ErrNotFound}, {0, See, 3, fault.ErrForbidden},
	} {
		if err := g.May(t.Context(), people[c.who], c.do, SceneKind, c.id); !errors.Is(err, c.want) {
			t.Errorf("%d may %s %d: %v", c.who, c.do, c.id, err)
		}
	}
	if err := g.In(people[11], EditScenes, 2); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("in another project: %v", err)
	}
	if p, err := g.Seen(people[21]); err != nil || p.All || !slices.Equal(p.Some, []int64{1, 2}) {
		t.Errorf("sees %+v %v", p, err)
	}
	if _, err := g.Seen(Actor{}); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("nobody sees lists: %v", err)
	}
}
