package scenes

import (
	"context"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// widest is the widest frame that a backdrop is measured for, width by height.
const widest = 16.0 / 9

// Staging is a stage for a scene; nothing of it is saved.
type Staging struct {
	Stage   setup.Stage    `json:"stage"`
	Changes []setup.Change `json:"changes" nullable:"false" doc:"Of parts that the stage takes the place of, to be left out"`
	Cannot  []string       `json:"cannot" nullable:"false" doc:"Views that see past the backdrop whatever its size, and why"`
}

// What can be done about a stage.
const (
	StageNew     = "new"     // a first one
	StageAround  = "around"  // a given one, set around the product
	StageMeasure = "measure" // a given one, its backdrop as large as the views need
)

// Stage works out a stage for a scene as it stands on the bench: what is one of the
// above. views are the names of those whose pictures the backdrop is to fill; none: all.
func (s *Service) Stage(ctx context.Context, who identity.Actor, id int64, what string, given *setup.Stage, views []string) (Staging, error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return Staging{}, err
	}
	all, err := s.Views(ctx, who, id)
	if err != nil {
		return Staging{}, err
	}
	var cameras []scene.View
	for i := range all {
		if len(views) == 0 || slices.Contains(views, all[i].Name) {
			cameras = append(cameras, all[i].Plain().Framed(widest))
		}
	}
	if len(cameras) == 0 {
		return Staging{}, fault.Bad("The scene has none of these views; choose others")
	}
	out := Staging{Changes: []setup.Change{}, Cannot: []string{}}
	v := b.Subject.Scene
	box := standing(v)
	var cannot []string
	if what == StageNew {
		out.Stage, cannot = setup.NewStage(box, cameras)
		out.Changes = replaced(v, &b.Subject.Setup)
	} else {
		if given == nil {
			return Staging{}, fault.Bad("A stage is missing; send the one to be set")
		}
		u := setup.Setup{Stage: given}
		if f := ticket.CheckSetup(&u); len(f) > 0 {
			return Staging{}, &fault.Input{Message: "The stage has faults", Faults: f}
		}
		out.Stage = *given
		out.Stage.Begin()
		if what == StageAround {
			out.Stage = given.AroundBox(box)
			if b.Subject.Setup.Stage == nil {
				out.Changes = replaced(v, &b.Subject.Setup)
			}
		}
		if out.Stage.Backdrop.Kind != setup.NoBackdrop {
			out.Stage.Backdrop, cannot = out.Stage.Measured(cameras)
		}
	}
	out.Cannot = append(out.Cannot, cannot...)
	return out, nil
}

// near is how far the floor of a scene's file may lie from the lowest point of the product,
// as a share of its radius, to be what that stands on.
const near = 0.05

// standing is the box around the product down to the floor that its file has it stand on:
// a part of it may float, or be sunk in.
func standing(v *scene.Scene) geom.Box {
	lamp := ticket.IsLamp(v)
	box := v.Focus(lamp)
	for i, around := range v.Around(lamp) {
		if !around || lamp(i) || v.Parts[i].Staged || v.Parts[i].Out {
			continue
		}
		if y := v.PartBounds(i).Min.Y; geom.Abs(y-box.Min.Y) < near*box.Radius() {
			box.Min.Y = y
			break
		}
	}
	return box
}

// replaced leaves out what a scene's file has standing around the product.
func replaced(v *scene.Scene, u *setup.Setup) []setup.Change {
	out := []setup.Change{}
	keys, paths := v.Keys(), v.Paths()
	for i, around := range v.Around(ticket.IsLamp(v)) {
		if p := &v.Parts[i]; around && !p.Staged && !p.Out {
			c := u.Of(keys[i])
			c.Path, c.Out = paths[p.Object], true
			out = append(out, c)
		}
	}
	return out
}
