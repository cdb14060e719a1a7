package scenes

import (
	"context"
	"errors"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// View is a saved view.
type View struct {
	ID     int64         `json:"id"`
	Scene  int64         `json:"scene"`
	Name   string        `json:"name"`
	Camera ticket.Camera `json:"camera"`
	Locked bool          `json:"locked"`
	// Version grows with each change.
	Version int64 `json:"version"`
}

// Plain is the view as tickets know it.
func (v *View) Plain() ticket.View { return ticket.View{Name: v.Name, Camera: v.Camera} }

// PlainViews are views as tickets know them.
func PlainViews(all []View) []ticket.View {
	out := make([]ticket.View, len(all))
	for i := range all {
		out[i] = all[i].Plain()
	}
	return out
}

// Views lists the views of a scene in the order they were made.
func (s *Service) Views(ctx context.Context, who identity.Actor, sceneID int64) ([]View, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.SceneKind, sceneID); err != nil {
		return nil, err
	}
	rows, err := s.store.Views(ctx, sceneID)
	if err != nil {
		return nil, err
	}
	file, err := s.file(ctx, sceneID)
	out := make([]View, len(rows))
	for i, v := range rows {
		out[i] = View(v)
		out[i].Camera = v.Camera.Corrected(file)
	}
	return out, err
}

// file is how a scene's set-up corrects its file. Views are kept in the space of the
// file, so that they go with the product when that is corrected.
func (s *Service) file(ctx context.Context, sceneID int64) (*setup.File, error) {
	u, _, err := s.store.Setup(ctx, sceneID)
	return u.File, err
}

// Pose is a scene and its views at a moment of an animation; without one as saved.
func (s *Service) Pose(ctx context.Context, who identity.Actor, id int64, animation string, moment float64) (*scene.Scene, []View, error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return nil, nil, err
	}
	v := b.Subject.Scene
	views, err := s.Views(ctx, who, id)
	if err != nil || animation == "" {
		return v, views, err
	}
	at := v.MotionNamed(animation)
	if at < 0 {
		return nil, nil, fault.Bad("The scene has no animation %q", animation)
	}
	for i := range views {
		views[i].Camera = views[i].Camera.Posed(v, at, moment)
	}
	return v.At(at, float32(moment)), views, nil
}

// SaveView saves a new view of a scene.
func (s *Service) SaveView(ctx context.Context, who identity.Actor, sceneID int64, name string, c ticket.Camera) (View, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, sceneID); err != nil {
		return View{}, err
	}
	name, err := ticket.NameOf("The view", name)
	if err != nil {
		return View{}, err
	}
	if err := CheckCamera(c); err != nil {
		return View{}, err
	}
	if _, err := s.store.Scene(ctx, sceneID); err != nil {
		return View{}, err
	}
	file, err := s.file(ctx, sceneID)
	if err != nil {
		return View{}, err
	}
	v, err := s.store.AddView(ctx, who.ID, store.View{Scene: sceneID, Name: name, Camera: c.Uncorrected(file)})
	if errors.Is(err, fault.ErrTaken) {
		return View{}, fault.Bad("There is a view %q already; choose another name", name)
	}
	v.Camera = v.Camera.Corrected(file)
	return View(v), err
}

// ViewChange is what is to change of a view; what is nil stays.
type ViewChange struct {
	Version int64 // that it was seen in
	Name    *string
	Locked  *bool
	Camera  *ticket.Camera
}

// ChangeView changes what is given of a view.
func (s *Service) ChangeView(ctx context.Context, who identity.Actor, id int64, to ViewChange) (View, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.ViewKind, id); err != nil {
		return View{}, err
	}
	old, err := s.store.View(ctx, id)
	if err != nil {
		return View{}, err
	}
	file, err := s.file(ctx, old.Scene)
	if err != nil {
		return View{}, err
	}
	v, err := s.store.ChangeView(ctx, id, to.Version, func(v *store.View) error {
		if to.Name != nil {
			n, err := ticket.NameOf("The view", *to.Name)
			if err != nil {
				return err
			}
			v.Name = n
		}
		if to.Locked != nil {
			v.Locked = *to.Locked
		}
		if to.Camera != nil {
			if err := CheckCamera(*to.Camera); err != nil {
				return err
			}
			v.Camera = to.Camera.Uncorrected(file)
		}
		return nil
	})
	if errors.Is(err, fault.ErrTaken) {
		return View{}, fault.Bad("There is a view of that name already; choose another")
	}
	v.Camera = v.Camera.Corrected(file)
	return View(v), err
}

// RemoveView removes an unlocked view.
func (s *Service) RemoveView(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.ViewKind, id); err != nil {
		return err
	}
	return s.store.RemoveView(ctx, id)
}

// widestFov is a field of view that no camera reaches, radians over the frame's height.
const widestFov = 3.1

// mostShift bounds how far a frame is shifted, percent of it.
const mostShift = 500

func within(v, most float32) bool { return v >= -most && v <= most }

// CheckCamera tells what is wrong with a camera, as a fault.Input.
func CheckCamera(c ticket.Camera) error {
	var sum float32
	for _, v := range c.Matrix {
		sum += v - v
	}
	world := geom.Affine(c.Matrix)
	if sum != 0 || world.Det() == 0 || !(c.YFov >= 0 && c.YFov < widestFov) || !(c.YMag >= 0 && c.YMag < 1e6) || c.YFov == 0 &&
		c.YMag == 0 || len(c.Follows) > 200 || !within(c.ShiftX, mostShift) || !within(c.ShiftY, mostShift) {
		return fault.Bad("The camera is not a proper one; move the view and save again")
	}
	return nil
}
