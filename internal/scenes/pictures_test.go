package scenes

import (
	"context"
	"strings"
	"testing"

	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/shelf"
	"amberproof/internal/cache"
)

// Pictures are found by their checksum and by nothing else that could be a path; those of
// the shelf by name.
func TestPicturesAreFoundByChecksum(t *testing.T) {
	asked := ""
	s := &Service{drawn: cache.New(1<<20, func(*scene.Image) int64 { return 4 }, func(_ context.Context, sum string) (*scene.Image, error) {
		asked = sum
		return &scene.Image{W: 1, H: 1, Pix: make([]byte, 4)}, nil
	})}
	for _, bad := range []string{"../../scenes/x", "..", strings.Repeat("g", 64), strings.Repeat("a", 63), "/etc/passwd"} {
		if img, err := s.findPicture("x.png", bad); err == nil {
			t.Errorf("%q found %v", bad, img)
		}
	}
	if asked != "" {
		t.Errorf("%q was looked for on the disk", asked)
	}
	sum := strings.Repeat("0a", 32)
	if _, err := s.findPicture("x.png", sum); err != nil || asked != sum {
		t.Errorf("asked for %q: %v", asked, err)
	}
	if img, err := s.findPicture(shelf.Pictures[0], ""); err != nil || img.W != shelf.PictureWidth {
		t.Errorf("of the shelf: %v", err)
	}
	if _, err := s.findPicture("nothing", ""); err == nil {
		t.Error("a picture that the shelf has not")
	}
	v := &scene.Scene{Finishes: []scene.Finish{scene.NewFinish("a")}, Pictures: s.findPicture}
	m := setup.NewMap(setup.Drawn{Name: "gone.png", SHA256: "../x"})
	u := setup.Setup{Finishes: []setup.Finish{{Name: "a", BaseMap: &m}}}
	if _, lost, _ := u.Apply(t.Context(), v); len(lost) != 1 || len(u.MissingPictures(v)) != 1 {
		t.Errorf("lost %+v", lost)
	}
}
