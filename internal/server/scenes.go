package server

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/job"
	"amberproof/internal/store"
)

type partBody struct {
	Key     string  `json:"key"`
	Name    string  `json:"name"`
	Object  int     `json:"object"`
	Finish  string  `json:"finish"`
	Clear   bool    `json:"clear"`
	Glowing bool    `json:"glowing"`
	Lamp    bool    `json:"lamp" doc:"Stands for a light of the stage"`
	Missing bool    `json:"missing" doc:"The file gives it no finish"`
	Size    float64 `json:"size" doc:"Longest side in millimetres"`
	Faces   int     `json:"faces"`
}

type objectBody struct {
	Name   string `json:"name"`
	Parent int    `json:"parent" doc:"-1 for none"`
}

type lampBody struct {
	Name string `json:"name"`
	Kind string `json:"kind" enum:"rectangle,disk,sphere,point,spot,sun"`
}

type animationBody struct {
	Name   string  `json:"name"`
	Length float32 `json:"length" doc:"Seconds to its last key"`
}

// poseBody is a scene at a moment of an animation.
type poseBody struct {
	Parts [][12]float32 `json:"parts" nullable:"false" doc:"For each part the rows of its 3x4 matrix to the world"`
	Views []store.View  `json:"views" nullable:"false" doc:"The views, those that follow a moving camera where it is then"`
}

type sceneBody struct {
	Scene      store.Scene     `json:"scene"`
	Objects    []objectBody    `json:"objects" nullable:"false"`
	Parts      []partBody      `json:"parts" nullable:"false"`
	Lamps      []lampBody      `json:"lamps" nullable:"false"`
	Views      []store.View    `json:"views" nullable:"false"`
	Animations []animationBody `json:"animations" nullable:"false"`
	Centre     [3]float32      `json:"centre" nullable:"false" doc:"Of the product, metres"`
	Radius     float32         `json:"radius"`
}

func (s *Server) scenes() {
	huma.Register(s.api, op("GET", "/api/projects", "list-projects", "All projects"), func(ctx context.Context, _ *struct{}) (*Reply[[]store.Project], error) {
		v, err := s.app.Store.Projects(ctx)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("GET", "/api/settings", "get-settings", "Every setting of a ticket: unit, range, default and help"), func(context.Context, *struct{}) (*Reply[settingsBody], error) {
		return reply(settingsBody{job.Settings(), job.Presets(), job.New(), s.app.Version}), nil
	})
	huma.Register(s.api, op("GET", "/api/scenes", "list-scenes", "All scenes, newest first"), func(ctx context.Context, _ *struct{}) (*Reply[[]store.Scene], error) {
		v, err := s.app.Store.Scenes(ctx)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("GET", "/api/scenes/{id}", "get-scene", "A scene with its parts, lights and views"), func(ctx context.Context, in *ByID) (*Reply[sceneBody], error) {
		row, sc, err := s.app.Scene(ctx, in.ID)
		if err != nil {
			return nil, s.problem(err)
		}
		views, err := s.app.Store.Views(ctx, in.ID)
		if err != nil {
			return nil, s.problem(err)
		}
		return reply(describeScene(row, sc, views)), nil
	})
	huma.Register(s.api, op("GET", "/api/scenes/{id}/pose", "pose-scene", "Where parts and views are at a moment of an animation"), func(ctx context.Context, in *struct {
		ByID
		Animation string  `query:"animation" maxLength:"200"`
		Moment    float64 `query:"moment" minimum:"0" maximum:"1000000"`
	}) (*Reply[poseBody], error) {
		v, views, err := s.app.Pose(ctx, in.ID, in.Animation, in.Moment)
		if err != nil {
			return nil, s.problem(err)
		}
		b := poseBody{Views: views}
		for _, p := range v.Parts {
			b.Parts = append(b.Parts, [12]float32(v.Objects[p.Object].World))
		}
		return reply(b), nil
	})
	huma.Register(s.api, op("GET", "/api/surrounds", "list-surrounds", "All environment pictures"), func(ctx context.Context, _ *struct{}) (*Reply[[]store.Surround], error) {
		v, err := s.app.Store.Surrounds(ctx)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("POST", "/api/scenes/{id}/views", "save-view", "Save a new view"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Name   string     `json:"name" maxLength:"120"`
			Camera job.Camera `json:"camera"`
		}
	}) (*Reply[store.View], error) {
		v, err := s.app.SaveView(ctx, in.ID, in.Body.Name, in.Body.Camera)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("PATCH", "/api/views/{id}", "change-view", "Rename, move, lock or unlock a view"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Name   *string     `json:"name,omitempty" maxLength:"120"`
			Locked *bool       `json:"locked,omitempty"`
			Camera *job.Camera `json:"camera,omitempty"`
		}
	}) (*Reply[store.View], error) {
		v, err := s.app.ChangeView(ctx, in.ID, in.Body.Name, in.Body.Locked, in.Body.Camera)
		return reply(v), s.problem(err)
	})
	huma.Register(s.api, op("DELETE", "/api/views/{id}", "remove-view", "Remove an unlocked view"), func(ctx context.Context, in *ByID) (*struct{}, error) {
		return nil, s.problem(s.app.Store.RemoveView(ctx, in.ID))
	})
}

func describeScene(row store.Scene, sc *scene.Scene, views []store.View) sceneBody {
	b := sceneBody{Scene: row, Objects: []objectBody{}, Parts: []partBody{}, Lamps: []lampBody{}, Views: views, Animations: []animationBody{}}
	for _, o := range sc.Objects {
		b.Objects = append(b.Objects, objectBody{o.Name, o.Parent})
	}
	lamp, keys := job.IsLamp(sc), sc.Keys()
	for i, p := range sc.Parts {
		f := sc.FinishOf(i)
		box := sc.PartBounds(i)
		b.Parts = append(b.Parts, partBody{
			Key: keys[i], Name: p.Name, Object: p.Object, Finish: sc.FinishName(i), Clear: f.Clear(), Glowing: f.Glowing(), Lamp: lamp(i),
			Missing: p.Finish < 0, Size: float64(box.Size().Max()) * 1000, Faces: len(sc.Meshes[p.Mesh].Indices) / 3,
		})
	}
	for _, l := range trace.LampsOf(sc) {
		b.Lamps = append(b.Lamps, lampBody{l.Name, l.Kind})
	}
	for i := range sc.Motions {
		b.Animations = append(b.Animations, animationBody{sc.Motions[i].Name, sc.Motions[i].Length()})
	}
	focus := sc.Focus(lamp)
	c := focus.Centre()
	b.Centre, b.Radius = [3]float32{c.X, c.Y, c.Z}, focus.Radius()
	return b
}
