package server

import (
	"context"

	"amberproof/core/geom"
	"amberproof/core/setup"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
)

// dropBody is what puts parts onto what is under them.
type dropBody struct {
	Changes []setup.Change `json:"changes" nullable:"false" doc:"Of the set-up, to be laid over those of the same parts"`
	Onto    string         `json:"onto" doc:"Key of the part they then stand on"`
}

// bench are operations on what is changed over an imported scene, and its preflight.
func (s *Server) bench() {
	handle(s, "GET", "/api/scenes/{id}/setup", "get-setup", "The set-up of a scene, as the headless command takes it",
		func(ctx context.Context, who identity.Actor, in *ByID) (setup.Setup, error) {
			b, err := s.app.Scenes.Bench(ctx, who, in.ID)
			return b.Subject.Setup, err
		})
	handle(s, "PUT", "/api/scenes/{id}/setup", "save-setup", "Save a scene's set-up over the version it was made from",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64       `json:"version"`
				Setup   setup.Setup `json:"setup"`
			}
		}) (sceneBody, error) {
			b, err := s.app.Scenes.SaveSetup(ctx, who, in.ID, in.Body.Version, in.Body.Setup)
			return s.described(ctx, who, b, err)
		})
	handle(s, "POST", "/api/scenes/{id}/setup/compare", "compare-setup", "What a set-up and the kept one have changed since both were one",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Setup setup.Setup `json:"setup" doc:"The other one"`
				Base  setup.Setup `json:"base" doc:"What it was made from"`
			}
		}) (scenes.SetupVersions, error) {
			return s.app.Scenes.CompareSetup(ctx, who, in.ID, in.Body.Setup, in.Body.Base)
		})
	handle(s, "POST", "/api/scenes/{id}/setup/from", "take-setup", "Lay the set-up of another scene, as of an older file, over this one",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Version int64 `json:"version" doc:"Of this scene's set-up, which is replaced"`
				Scene   int64 `json:"scene" doc:"Whose set-up to take"`
			}
		}) (sceneBody, error) {
			b, err := s.app.Scenes.TakeSetup(ctx, who, in.ID, in.Body.Version, in.Body.Scene)
			return s.described(ctx, who, b, err)
		})
	s.benchTools()
	s.keptPictures()
}

// benchTools work out changes and find faults; nothing is saved.
func (s *Server) benchTools() {
	handle(s, "POST", "/api/scenes/{id}/drop", "drop-parts", "How parts come to stand on what is under them",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Parts []string `json:"parts" minItems:"1" maxItems:"20000" nullable:"false" doc:"Keys; they move as one"`
			}
		}) (dropBody, error) {
			changes, onto, err := s.app.Scenes.Drop(ctx, who, in.ID, in.Body.Parts)
			return dropBody{changes, onto}, err
		})
	handle(s, "POST", "/api/scenes/{id}/faces", "grow-faces", "A set of faces of a part, to be saved with the set-up as a part of its own",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Part  string     `json:"part" maxLength:"4096" doc:"Its key"`
				Point [3]float32 `json:"point" nullable:"false" doc:"On it, in the world, metres"`
				By    string     `json:"by" enum:"piece,angle,island"`
				Angle float64    `json:"angle" minimum:"0" maximum:"180" doc:"Degrees"`
			}
		}) (setup.Set, error) {
			at := geom.V(in.Body.Point[0], in.Body.Point[1], in.Body.Point[2])
			return s.app.Scenes.SetOfFaces(ctx, who, in.ID, in.Body.Part, at, in.Body.By, in.Body.Angle)
		})
	handle(s, "POST", "/api/scenes/{id}/moved", "move-parts", "Parts moved, turned and made larger as one; nothing is saved",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Begin []setup.Change `json:"begin" minItems:"1" maxItems:"20000" nullable:"false" doc:"The parts, by their changes as the motion begins"`
				By    setup.Together `json:"by"`
			}
		}) (list[setup.Change], error) {
			return listed(s.app.Scenes.Move(ctx, who, in.ID, in.Body.Begin, &in.Body.By))
		})
	handle(s, "GET", "/api/scenes/{id}/preflight", "get-preflight", "Check a scene as it stands on the bench",
		func(ctx context.Context, who identity.Actor, in *ByID) (scenes.Report, error) {
			return s.app.Scenes.Preflight(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/scenes/{id}/preflight/progress", "get-preflight-progress", "Where the check of a scene stands",
		func(ctx context.Context, who identity.Actor, in *ByID) (scenes.Checking, error) {
			return s.app.Scenes.Checking(ctx, who, in.ID)
		})
}

// keptPictures are live pictures that were kept.
func (s *Server) keptPictures() {
	handle(s, "GET", "/api/scenes/{id}/kept", "list-kept", "Live pictures of a scene that were kept, oldest first",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[scenes.Kept], error) {
			return listed(s.app.Scenes.ListKept(ctx, who, in.ID))
		})
	handle(s, "GET", "/api/kept/{id}", "get-kept", "A kept live picture with all that it was made of",
		func(ctx context.Context, who identity.Actor, in *ByID) (scenes.KeptWhole, error) {
			return s.app.Scenes.Kept(ctx, who, in.ID)
		})
	sendPNG(s, "GET", "/api/kept/{id}/picture.png", "get-kept-picture", "A kept live picture",
		func(ctx context.Context, who identity.Actor, in *ByID) ([]byte, error) {
			return s.app.Scenes.KeptPicture(ctx, who, in.ID)
		})
	perform(s, "DELETE", "/api/kept/{id}", "remove-kept", "Remove a kept live picture for good", func(ctx context.Context, who identity.Actor, in *ByID) error {
		return s.app.Scenes.RemoveKept(ctx, who, in.ID)
	})
}
