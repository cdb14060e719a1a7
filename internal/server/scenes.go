package server

import (
	"context"

	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/ticket"
)

// partBody is a part as trees, rules and masks need it. Key is its unique name, by which
// tickets name it; Name may be shared.
type partBody struct {
	Key     string      `json:"key"`
	Name    string      `json:"name"`
	Object  int         `json:"object"`
	Finish  string      `json:"finish"`
	Wears   int         `json:"wears" doc:"Its finish's place among those of the scene; one past the last where it has none"`
	World   [12]float32 `json:"world" nullable:"false" doc:"Where it is: rows of the 3x4 matrix to the world"`
	Out     bool        `json:"out" doc:"Left out by the set-up"`
	Group   string      `json:"group" doc:"That it was put into; empty for none"`
	Set     bool        `json:"set" doc:"A set of faces of another part"`
	Staged  bool        `json:"staged" doc:"Stands on the stage of the set-up"`
	Clear   bool        `json:"clear"`
	Glowing bool        `json:"glowing"`
	Lamp    bool        `json:"lamp" doc:"Stands for a light of the stage"`
	Missing bool        `json:"missing" doc:"The file gives it no finish"`
	Size    float64     `json:"size" doc:"Longest side in millimetres"`
	Faces   int         `json:"faces"`
}

// objectBody is a node of the scene's tree.
type objectBody struct {
	Name   string `json:"name"`
	Parent int    `json:"parent" doc:"-1 for none"`
}

// lampBody is a light of the scene, by the name under which tickets switch it.
type lampBody struct {
	Name string `json:"name"`
	Kind string `json:"kind" enum:"rectangle,disk,sphere,point,spot,sun"`
}

// animationBody is an animation that a view may be taken from.
type animationBody struct {
	Name   string  `json:"name"`
	Length float32 `json:"length" doc:"Seconds to its last key"`
}

// poseBody is a scene at a moment of an animation.
type poseBody struct {
	Parts [][12]float32 `json:"parts" nullable:"false" doc:"For each part the rows of its 3x4 matrix to the world"`
	Views []scenes.View `json:"views" nullable:"false" doc:"The views, those that follow a moving camera where it is then"`
}

// setupBody is what was changed on the bench over the imported scene.
type setupBody struct {
	Version  int64           `json:"version" doc:"Of the set-up; 0 where none was saved"`
	File     *setup.File     `json:"file" doc:"How the file was corrected"`
	Sets     []setup.Set     `json:"sets" nullable:"false" doc:"Sets of faces that are parts of their own"`
	Parts    []setup.Change  `json:"parts" nullable:"false"`
	Finishes []setup.Finish  `json:"finishes" nullable:"false"`
	Stage    *setup.Stage    `json:"stage"`
	Variants []setup.Variant `json:"variants" nullable:"false" doc:"That were made on the bench"`
	Aside    []setup.Aside   `json:"aside" nullable:"false" doc:"Findings of the preflight that are meant to be so"`
	Found    []setup.Found   `json:"found" nullable:"false" doc:"Parts that were found again by their place, as it was just laid over this scene"`
	Lost     []setup.Lost    `json:"lost" nullable:"false" doc:"What it says and the scene has nothing for"`
}

// sceneBody is all of a scene but its shape, which comes by itself.
type sceneBody struct {
	Scene      scenes.Scene    `json:"scene"`
	Objects    []objectBody    `json:"objects" nullable:"false"`
	Parts      []partBody      `json:"parts" nullable:"false"`
	Lamps      []lampBody      `json:"lamps" nullable:"false"`
	Views      []scenes.View   `json:"views" nullable:"false"`
	Animations []animationBody `json:"animations" nullable:"false"`
	Finishes   []finishBody    `json:"finishes" nullable:"false" doc:"The scene's finishes, as they are on the bench; the last stands for none"`
	Variants   []string        `json:"variants" nullable:"false" doc:"All looks that jobs can ask for, those made on the bench first"`
	Setup      setupBody       `json:"setup"`
	Stands     []standBody     `json:"stands" nullable:"false" doc:"The shapes of the parts on the stage, which are the last ones"`
	Lit        []litBody       `json:"lit" nullable:"false" doc:"Of each light of the stage, in its order, what it gives"`
	Centre     [3]float32      `json:"centre" nullable:"false" doc:"Of the product, metres"`
	Radius     float32         `json:"radius"`
}

// OfProject chooses what one's own projects and the studio have.
type OfProject struct {
	Project int64 `query:"project" minimum:"0" doc:"With what is the studio's, only what is this project's; 0: of all projects of who asks"`
}

// scenes are operations on scenes and environment pictures, but for what is sent or
// fetched as files.
func (s *Server) scenes() {
	handle(s, "GET", "/api/scenes", "list-scenes", "Scenes, newest first", func(ctx context.Context, who identity.Actor, in *struct {
		Project int64 `query:"project"`
		PutAway bool  `query:"putAway"`
	}) (list[scenes.Scene], error) {
		return listed(s.app.Scenes.List(ctx, who, in.Project, in.PutAway))
	})
	handle(s, "GET", "/api/scenes/{id}", "get-scene", "A scene with its parts, lights and views",
		func(ctx context.Context, who identity.Actor, in *ByID) (sceneBody, error) {
			b, err := s.app.Scenes.Bench(ctx, who, in.ID)
			return s.described(ctx, who, b, err)
		})
	handle(s, "PATCH", "/api/scenes/{id}", "change-scene", "Rename a scene, put it away or take it out again",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Name    *string `json:"name,omitempty" maxLength:"120"`
				PutAway *bool   `json:"putAway,omitempty"`
			}
		}) (v scenes.Scene, err error) {
			if in.Body.Name == nil && in.Body.PutAway == nil {
				return v, fault.Bad("Say what to change: name or putAway")
			}
			if in.Body.Name != nil {
				v, err = s.app.Scenes.Rename(ctx, who, in.ID, *in.Body.Name)
			}
			if in.Body.PutAway != nil && err == nil {
				v, err = s.app.Scenes.PutAway(ctx, who, in.ID, *in.Body.PutAway)
			}
			return v, err
		})
	perform(s, "DELETE", "/api/scenes/{id}", "remove-scene", "Remove a scene without jobs for good",
		func(ctx context.Context, who identity.Actor, in *ByID) error {
			return s.app.Scenes.Remove(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/scenes/{id}/pose", "pose-scene", "Where parts and views are at a moment of an animation",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Animation string  `query:"animation" maxLength:"200"`
			Moment    float64 `query:"moment" minimum:"0" maximum:"1000000"`
		}) (poseBody, error) {
			v, views, err := s.app.Scenes.Pose(ctx, who, in.ID, in.Animation, in.Moment)
			if err != nil {
				return poseBody{}, err
			}
			b := poseBody{Views: views}
			for i := range v.Parts {
				b.Parts = append(b.Parts, [12]float32(v.World(i)))
			}
			return b, nil
		})
	sendPNG(s, "GET", "/api/surrounds/{sha256}/shown.png", "show-surround",
		"A ball in the light of an environment picture, and the picture beside it, unrolled", func(ctx context.Context, who identity.Actor, in *struct {
			SHA256 string `path:"sha256" pattern:"^[0-9a-f]{64}$"`
		}) ([]byte, error) {
			return s.app.Live.SurroundShown(ctx, who, in.SHA256)
		})
	handle(s, "GET", "/api/surrounds", "list-surrounds", "Environment pictures: the studio's, and those of a project or of all of one's own",
		func(ctx context.Context, who identity.Actor, in *OfProject) (list[scenes.PictureFile], error) {
			return listed(s.app.Scenes.Surrounds(ctx, who, in.Project))
		})
	handle(s, "GET", "/api/pictures", "list-pictures", "Pictures for finishes and backings: those of the shelf, then those taken in, newest first",
		func(ctx context.Context, who identity.Actor, in *OfProject) (list[scenes.PictureFile], error) {
			return listed(s.app.Scenes.Pictures(ctx, who, in.Project))
		})
	sendPNG(s, "GET", "/api/pictures/small.png", "get-small-picture", "A picture as large as a list shows it",
		func(ctx context.Context, who identity.Actor, in *struct {
			Name   string `query:"name" maxLength:"200"`
			SHA256 string `query:"sha256" maxLength:"64"`
		}) ([]byte, error) {
			return s.app.Scenes.SmallPicture(ctx, who, in.Name, in.SHA256)
		})
	handle(s, "GET", "/api/imports/{word}", "get-import", "Where an import stands that was sent with a word",
		func(_ context.Context, who identity.Actor, in *struct {
			Word string `path:"word" maxLength:"64"`
		}) (scenes.Waiting, error) {
			return s.app.Scenes.Waiting(who, in.Word)
		})
}

func (s *Server) views() {
	handle(s, "POST", "/api/scenes/{id}/framed", "frame-scene", "A camera levelled, aimed or moved so that something fills the frame",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body scenes.Framing
		}) (scenes.Framed, error) {
			return s.app.Scenes.Frame(ctx, who, in.ID, &in.Body)
		})
	handle(s, "POST", "/api/scenes/{id}/views", "save-view", "Save a new view", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			Name   string        `json:"name" maxLength:"120"`
			Camera ticket.Camera `json:"camera"`
		}
	}) (scenes.View, error) {
		return s.app.Scenes.SaveView(ctx, who, in.ID, in.Body.Name, in.Body.Camera)
	})
	handle(s, "PATCH", "/api/views/{id}", "change-view", "Rename, move, lock or unlock a view", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			Version int64          `json:"version" doc:"Of the view as it was seen"`
			Name    *string        `json:"name,omitempty" maxLength:"120"`
			Locked  *bool          `json:"locked,omitempty"`
			Camera  *ticket.Camera `json:"camera,omitempty"`
		}
	}) (scenes.View, error) {
		return s.app.Scenes.ChangeView(ctx, who, in.ID, scenes.ViewChange(in.Body))
	})
	perform(s, "DELETE", "/api/views/{id}", "remove-view", "Remove an unlocked view", func(ctx context.Context, who identity.Actor, in *ByID) error {
		return s.app.Scenes.RemoveView(ctx, who, in.ID)
	})
}

// described is a scene on the bench with its views.
func (s *Server) described(ctx context.Context, who identity.Actor, b scenes.Bench, err error) (sceneBody, error) {
	if err != nil {
		return sceneBody{}, err
	}
	views, err := s.app.Scenes.Views(ctx, who, b.Scene.ID)
	return describeScene(b, views), err
}

func describeScene(bench scenes.Bench, views []scenes.View) sceneBody {
	sc := bench.Subject.Scene
	b := sceneBody{
		Scene: bench.Scene, Objects: []objectBody{}, Parts: []partBody{}, Lamps: []lampBody{}, Views: views, Animations: []animationBody{}, Finishes: []finishBody{},
		Setup: setupBody{bench.Version, bench.Subject.Setup.File, append([]setup.Set{}, bench.Subject.Setup.Sets...), bench.Subject.Setup.Parts,
			append([]setup.Finish{}, bench.Subject.Setup.Finishes...), bench.Subject.Setup.Stage, append([]setup.Variant{}, bench.Subject.Setup.Looks...),
			append([]setup.Aside{}, bench.Subject.Setup.Aside...), append([]setup.Found{}, bench.Found...), append([]setup.Lost{}, bench.Subject.Lost...)},
		Variants: append([]string{}, bench.Subject.Setup.Variants(sc)...),
		Stands:   standsOf(sc), Lit: litOf(bench.Subject.Setup.Stage, sc),
	}
	for i := range sc.Finishes {
		b.Finishes = append(b.Finishes, finishOf(sc, &sc.Finishes[i]))
	}
	none := scene.Missing()
	b.Finishes = append(b.Finishes, finishOf(sc, &none))
	for _, o := range sc.Objects {
		b.Objects = append(b.Objects, objectBody{o.Name, o.Parent})
	}
	lamp, keys := ticket.IsLamp(sc), sc.Keys()
	for i, p := range sc.Parts {
		f := sc.FinishOf(i)
		box := sc.PartBounds(i)
		wears := p.Finish
		if wears < 0 {
			wears = len(sc.Finishes)
		}
		b.Parts = append(b.Parts, partBody{
			Wears: wears, World: [12]float32(sc.World(i)), Out: p.Out, Staged: p.Staged, Group: p.Group, Set: p.Set,
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
