package server

import (
	"context"
	"encoding/json"
	"errors"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/library"
)

// library keeps what is used again. The body of an entry is checked by its kind in the
// use case; here it is JSON of a bounded size.
func (s *Server) library() {
	type ByKind struct {
		Kind string `path:"kind" maxLength:"40"`
	}
	// The alias keeps the name out of the generated types: a body is any JSON.
	type libraryBody = json.RawMessage
	handle(s, "GET", "/api/library/{kind}", "list-library", "The newest version of everything of a kind",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByKind
			OfProject
		}) (list[library.Line], error) {
			return listed(s.app.Library.List(ctx, who, in.Kind, in.Project))
		})
	handle(s, "POST", "/api/library/{kind}", "keep-in-library", "Keep something under a name, as the next version of it",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByKind
			Body struct {
				Name string      `json:"name" maxLength:"120"`
				Body libraryBody `json:"body"`
				// Left out by programs that know of no projects.
				Project int64 `json:"project,omitempty" minimum:"0" doc:"For its people only; 0: for the whole studio"`
			}
		}) (library.Entry, error) {
			return s.app.Library.Keep(ctx, who, in.Kind, in.Body.Name, in.Body.Project, in.Body.Body)
		})
	type Version struct {
		ByKind
		Key     string `path:"key" maxLength:"80"`
		Version int    `path:"version" minimum:"1"`
	}
	handle(s, "GET", "/api/library/{kind}/{key}/{version}", "get-library-entry", "A version of something, with its contents",
		func(ctx context.Context, who identity.Actor, in *Version) (library.Entry, error) {
			return s.app.Library.Entry(ctx, who, in.Kind, in.Key, in.Version)
		})
	sendPNG(s, "GET", "/api/library/{kind}/{key}/{version}/picture.png", "get-library-picture", "What a version of something looks like",
		func(ctx context.Context, who identity.Actor, in *Version) ([]byte, error) {
			png, err := s.app.Library.Picture(ctx, who, in.Kind, in.Key, in.Version)
			if !errors.Is(err, fault.ErrNotFound) || in.Kind != "stage" {
				return png, err
			}
			e, err := s.app.Library.Entry(ctx, who, in.Kind, in.Key, in.Version)
			if err != nil {
				return nil, err
			}
			return s.app.Live.StageShown(ctx, who, e.Body)
		})
	perform(s, "DELETE", "/api/library/{kind}/{key}", "put-away-from-library", "Take an entry out of the library",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByKind
			Key string `path:"key" maxLength:"80"`
		}) error {
			return s.app.Library.PutAway(ctx, who, in.Kind, in.Key)
		})
}
