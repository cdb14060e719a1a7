package ticket

import (
	"slices"
	"testing"

	"amberproof/core/setup"
)

func TestAPictureNamesAllThatItNeeds(t *testing.T) {
	r := Resolved{Ticket: New(), Scene: SceneRef{SHA256: "5ce4e"}}
	if n := r.Needs(); n.Scene != "5ce4e" || n.Setup != "" || len(n.Pictures) != 0 || n.Ticket != r.Fingerprint() {
		t.Errorf("a plain ticket needs %+v", n)
	}
	bare := r.Needs()
	onFinish := setup.NewMap(setup.Drawn{Name: "grain.png", SHA256: "c"})
	shelf := setup.NewMap(setup.Drawn{Name: "of the shelf"})
	r.Setup = &setup.Setup{Finishes: []setup.Finish{{Name: "Wood", BaseMap: &onFinish, HeightMap: &onFinish, RoughMap: &shelf}}}
	r.Ticket.Stage.Surround.Picture = setup.Picture{Name: "sky.hdr", SHA256: "d"}
	r.Ticket.Stage.Plate = &Plate{Picture: setup.Drawn{Name: "street.png", SHA256: "a"}}
	n := r.Needs()
	if want := []string{"a", "c", "d"}; !slices.Equal(n.Pictures, want) {
		t.Errorf("pictures %v, want %v", n.Pictures, want)
	}
	if n.Setup == "" || n.Ticket == bare.Ticket {
		t.Errorf("needs %+v", n)
	}
	r.Setup.Finishes[0].Name = "Oak"
	if r.Needs().Setup == n.Setup {
		t.Error("another set-up has the same name")
	}
}
