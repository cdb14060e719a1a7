package identity

import (
	"errors"
	"testing"

	"amberproof/internal/fault"
)

func TestTheOnePersonMayAndNobodyMayNot(t *testing.T) {
	for _, do := range []Act{See, EditScenes, EditJobs, RunJobs, Remove, EditLibrary} {
		if err := (OnePerson{}).May(Local, do); err != nil {
			t.Errorf("the owner: %v", err)
		}
		if err := (OnePerson{}).May(Actor{}, do); !errors.Is(err, fault.ErrForbidden) {
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
