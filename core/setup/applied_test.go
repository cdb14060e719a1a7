package setup

import (
	"testing"

	"amberproof/core/scene"
)

// applied is a scene with a set-up laid over it.
func applied(t *testing.T, u *Setup, s *scene.Scene) (*scene.Scene, []Lost) {
	t.Helper()
	v, lost, err := u.Apply(t.Context(), s)
	if err != nil {
		t.Fatal(err)
	}
	return v, lost
}

// fit is a set-up under the keys of a scene.
func fit(t *testing.T, u *Setup, s *scene.Scene) (Setup, []Found) {
	t.Helper()
	fitted, found, err := u.Fitted(t.Context(), s)
	if err != nil {
		t.Fatal(err)
	}
	return fitted, found
}
