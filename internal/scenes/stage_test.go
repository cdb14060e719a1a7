package scenes_test

import (
	"context"
	"errors"
	"math"
	"strings"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// A stage takes the place of what stands around in the file, is saved with the set-up,
// and what a job begins with is the stage's.
func TestAStageIsWorkedOutAndSaved(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	w, err := a.Scenes.Stage(ctx, me, j.Scene, scenes.StageNew, nil, nil)
	if err != nil || len(w.Cannot) > 0 || w.Stage.Backdrop.Kind != setup.Curved {
		t.Fatalf("%+v: %v", w, err)
	}
	w.Stage.Begins.Exposure = 1.5
	u := setup.Setup{Parts: w.Changes, Stage: &w.Stage}
	b, err := a.Scenes.SaveSetup(ctx, me, j.Scene, 0, u)
	if err != nil || len(b.Subject.Lost) > 0 {
		t.Fatalf("lost %+v: %v", b.Subject.Lost, err)
	}
	v := b.Subject.Scene
	if n := len(v.Parts); n < 4 || !v.Parts[n-1].Staged {
		t.Errorf("the stage is not in the scene: %d parts", n)
	}
	// No finding is of the stage's own making.
	r, err := a.Scenes.Preflight(ctx, me, j.Scene)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range r.Findings {
		if f.Check == "edge" || f.Part == "Backdrop" || f.Other == "Backdrop" || f.Part == "Key" {
			t.Errorf("the stage is found fault with: %+v", f)
		}
	}
	made, err := a.Jobs.Create(ctx, me, j.Scene, "Second", nil)
	if err != nil || made.Ticket.View.Exposure != 1.5 || made.Ticket.Stage.Surround.Tone != w.Stage.Begins.Surround.Tone {
		t.Errorf("a job begins with %+v: %v", made.Ticket.Stage.Surround, err)
	}
	// Twice the same is the same, and a smaller backdrop is measured back.
	less := w.Stage
	less.Backdrop.Width, less.Backdrop.Height = 10, less.Backdrop.Bend
	again, err := a.Scenes.Stage(ctx, me, j.Scene, scenes.StageMeasure, &less, nil)
	if err != nil || again.Stage.Backdrop != w.Stage.Backdrop || len(again.Changes) > 0 {
		t.Errorf("measured %+v, was %+v: %v", again.Stage.Backdrop, w.Stage.Backdrop, err)
	}
	// One that says nothing of what jobs begin with has the defaults of that.
	silent := w.Stage
	silent.Begins = nil
	if b, err = a.Scenes.SaveSetup(ctx, me, j.Scene, b.Version, setup.Setup{Parts: w.Changes, Stage: &silent}); err != nil || b.Subject.Setup.Stage.Begins == nil {
		t.Errorf("a stage without a surround: %v", err)
	}
	less.Lights = append(less.Lights, less.Lights[0])
	var in *fault.Input
	for what, err := range map[string]error{
		"no stage":        second(a.Scenes.Stage(ctx, me, j.Scene, scenes.StageAround, nil, nil)),
		"a faulty one":    second(a.Scenes.Stage(ctx, me, j.Scene, scenes.StageAround, &less, nil)),
		"no such view":    second(a.Scenes.Stage(ctx, me, j.Scene, scenes.StageNew, nil, []string{"Nowhere"})),
		"a broken camera": second(a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Aspect: 1})),
		"no such part":    second(a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Aspect: 1, Camera: viewOf(t, a.Scenes, j.Scene), Aim: []string{"Sofa"}})),
	} {
		if !errors.As(err, &in) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, _, err := a.Scenes.Drop(ctx, me, j.Scene, []string{"Backdrop"}); !errors.As(err, &in) {
		t.Errorf("a backdrop was put down: %v", err)
	}
}

func second[T any](_ T, err error) error { return err }

func viewOf(t *testing.T, s *scenes.Service, id int64) ticket.Camera {
	t.Helper()
	views, err := s.Views(context.Background(), identity.Local, id)
	if err != nil || len(views) == 0 {
		t.Fatal(err)
	}
	return views[0].Camera
}

func TestFraming(t *testing.T) {
	a, j := testkit.App(t)
	ctx, me := context.Background(), identity.Local
	c := viewOf(t, a.Scenes, j.Scene)
	focal, roll := 85.0, 10.0
	// Half the lens on half the sensor sees as much; no lens sees nearly half of all.
	short, tiny := focal/2, 0.5
	on, err := a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Camera: c, Aspect: 1.5, Focal: &short, Sensor: 12})
	if err != nil || math.Abs(on.Focal-focal) > 1e-3 {
		t.Errorf("on a small sensor it is %g mm: %v", on.Focal, err)
	}
	if _, err := a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Camera: c, Aspect: 1.5, Focal: &tiny, Sensor: 500}); err == nil {
		t.Error("a lens that sees nearly half of all")
	}
	f, err := a.Scenes.Frame(ctx, me, j.Scene,
		&scenes.Framing{Camera: c, Aspect: 1.5, Focal: &focal, Roll: &roll, Aim: []string{"Box"}, Fit: &scenes.Fit{Margin: 10}})
	if err != nil || math.Abs(f.Focal-85) > 1e-3 || math.Abs(f.Roll-10) > 1e-3 || f.Camera.Matrix == c.Matrix {
		t.Errorf("%+v: %v", f, err)
	}
	up, err := a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Camera: c, Aspect: 1.5, Upright: true})
	if err != nil || up.Camera.Matrix[6] != 0 || up.Camera.ShiftY >= 0 {
		t.Errorf("upright it is %+v: %v", up, err)
	}
	down := c
	down.Matrix = [12]float32(geom.LookAt(geom.V(0.1, 5, 0.1), geom.V(0, 0, 0), geom.V(0, 1, 0)))
	if _, err := a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Camera: down, Aspect: 1.5, Upright: true}); err == nil ||
		!strings.Contains(err.Error(), "too steeply") {
		t.Errorf("from straight above: %v", err)
	}
	if c := (ticket.Camera{Matrix: c.Matrix, YFov: c.YFov, ShiftY: 501}); scenes.CheckCamera(c) == nil {
		t.Error("a shift of five frames is taken")
	}
	if same, err := a.Scenes.Frame(ctx, me, j.Scene, &scenes.Framing{Camera: c, Aspect: 1}); err != nil || same.Camera != c {
		t.Errorf("nothing was asked, and the camera is %+v: %v", same.Camera, err)
	}
}
