package ticket

import (
	"strings"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// slide is the lantern of the other tests, whose cap and camera move by three
// metres in three seconds.
func slide() *scene.Scene {
	s := lantern()
	way := &scene.Curve{Times: []float32{0, 3}, Values: [][4]float32{{}, {3}}}
	rest := scene.Place{Turn: [4]float32{0, 0, 0, 1}, Scale: geom.Splat(1)}
	s.Motions = []scene.Motion{{Name: "slide", Moves: []scene.Move{{Object: 0, Rest: rest, Shift: way}, {Object: 2, Rest: rest, Shift: way}}}}
	return s
}

func TestATicketTakesItsPictureAtAMomentOfAnAnimation(t *testing.T) {
	s := slide()
	views := ViewsOf(s)
	d := New()
	m := &d.View.Motion
	m.Animation, m.Moment, m.Shutter = "slide", 2, 500
	r, faults := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, views)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	staged := r.Staged(s)
	if x := staged.Objects[0].World.Origin().X; x != 2 {
		t.Errorf("the cap is at x = %v", x)
	}
	if views[0].Camera.Follows != "Hero" || r.Camera.Matrix[3] != 2 {
		t.Errorf("the view that follows is %+v, at %v", views[0].Camera, r.Camera.Matrix[3])
	}
	if o := r.Options(staged, nil); o.Shutter.Close > o.Shutter.Open || o.Camera.Way != nil {
		t.Errorf("a sharp picture has an open shutter: %+v", o.Shutter)
	}
	r.Ticket.View.Motion.Blur = true
	o := r.Options(staged, nil)
	if h := o.Shutter; !h.Blur || h.Open != 1.75 || h.Close != 2.25 {
		t.Errorf("shutter %+v", h)
	}
	if w := o.Camera.Way; len(w) != 2 || w[0].Origin().X != 1.75 || w[1].Origin().X != 2.25 {
		t.Errorf("the camera's way is %v", w)
	}
	r.Ticket.View.Motion.Blur, r.Ticket.Passes.Motion = false, true
	if o := r.Options(staged, nil); o.Shutter.Blur || o.Shutter.Close != 2.25 || !keeps(&o.Layout, passes.MotionPlane) {
		t.Errorf("vectors of a sharp picture: %+v", o.Shutter)
	}
	// A view that was made by hand stays where it is.
	views[0].Camera.Follows = ""
	if r, _ := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, views); r.Camera.Matrix[3] != 0 {
		t.Errorf("a view of its own moved to %v", r.Camera.Matrix[3])
	}
	m.Animation = "glide"
	if _, faults := Resolve(d, Subject{Ref: SceneRef{}, Scene: s}, views); len(faults) != 1 || !strings.Contains(faults[0].Message, "glide") {
		t.Errorf("faults %v", faults)
	}
}
