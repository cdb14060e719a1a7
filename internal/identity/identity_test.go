package identity

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"amberproof/internal/fault"
)

func TestTheOnePersonMayAndNobodyMayNot(t *testing.T) {
	for _, do := range []Act{See, EditScenes, EditJobs, RunJobs, Remove, EditLibrary} {
		if err := (OnePerson{}).May(Local, do, Thing{3, 1}); err != nil {
			t.Errorf("the owner: %v", err)
		}
		if err := (OnePerson{}).May(Actor{}, do, Thing{}); !errors.Is(err, fault.ErrForbidden) {
			t.Errorf("nobody may %s: %v", do, err)
		}
	}
	if who := From(With(t.Context(), Local)); who != Local {
		t.Errorf("who acts: %+v", who)
	}
	if who := From(t.Context()); who != (Actor{}) {
		t.Errorf("somebody acts where nothing is said: %+v", who)
	}
}

// things is a store of one thing in each of two projects.
type things struct{}

func (things) Owner(_ context.Context, kind string, id int64) (project, maker int64, err error) {
	if kind != string(SceneKind) || id > 2 {
		return 0, 0, fmt.Errorf("%s %d: %w", kind, id, fault.ErrNotFound)
	}
	return id, 10 + id, nil
}

// members lets everybody see the project of their number, and makers remove what they made.
type members struct{}

func (members) May(who Actor, do Act, what Thing) error {
	if who.ID == 0 || do == Remove && what.Maker != who.ID || what.Project != 0 && what.Project != who.ID%10 {
		return fault.ErrForbidden
	}
	return nil
}

func (members) Projects(who Actor) Projects { return Projects{Some: []int64{who.ID % 10}} }

// A policy is asked with the project of a thing and who made it.
func TestTheGuardAsksAboutThings(t *testing.T) {
	g := Guard{members{}, things{}}
	for _, c := range []struct {
		who  int64
		do   Act
		id   int64
		want error
	}{
		{11, See, 1, nil}, {11, See, 2, fault.ErrForbidden}, {11, Remove, 1, nil}, {21, Remove, 1, fault.ErrForbidden},
		{21, See, 1, nil}, {11, See, 3, fault.ErrNotFound}, {0, See, 3, fault.ErrForbidden},
	} {
		if err := g.May(t.Context(), Actor{ID: c.who}, c.do, SceneKind, c.id); !errors.Is(err, c.want) {
			t.Errorf("%d may %s %d: %v", c.who, c.do, c.id, err)
		}
	}
	if err := g.In(Actor{ID: 11}, EditScenes, 2); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("in another project: %v", err)
	}
	if p, err := g.Seen(Actor{ID: 11}); err != nil || p.All || len(p.Some) != 1 || p.Some[0] != 1 {
		t.Errorf("sees %+v %v", p, err)
	}
	if _, err := g.Seen(Actor{}); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("nobody sees lists: %v", err)
	}
}
