package server

import (
	"context"

	"amberproof/internal/accounts"
	"amberproof/internal/identity"
	"amberproof/internal/projects"
)

// projects are operations on projects and their people, and on who acts.
func (s *Server) projects() {
	handle(s, "GET", "/api/me", "get-me", "Who acts, and whom this browser may act as",
		func(ctx context.Context, who identity.Actor, _ *nothing) (accounts.Me, error) {
			return s.app.Accounts.Me(ctx, who)
		})
	perform(s, "PATCH", "/api/me", "rename-me", "Give who acts another name", func(ctx context.Context, who identity.Actor, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) error {
		return s.app.Accounts.Rename(ctx, who, in.Body.Name)
	})
	handle(s, "GET", "/api/projects", "list-projects", "The projects of who asks, those put away last",
		func(ctx context.Context, who identity.Actor, _ *nothing) (list[projects.Project], error) {
			return listed(s.app.Projects.List(ctx, who))
		})
	handle(s, "POST", "/api/projects", "make-project", "Make a project", func(ctx context.Context, who identity.Actor, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (projects.Project, error) {
		return s.app.Projects.Make(ctx, who, in.Body.Name)
	})
	handle(s, "PATCH", "/api/projects/{id}", "change-project", "Rename a project, put it away or bring it back",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Name    *string `json:"name,omitempty" maxLength:"120"`
				PutAway *bool   `json:"putAway,omitempty"`
			}
		}) (projects.Project, error) {
			return s.app.Projects.Change(ctx, who, in.ID, in.Body.Name, in.Body.PutAway)
		})
	handle(s, "GET", "/api/projects/{id}/people", "list-people", "The people of a project, its leads first",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[projects.Person], error) {
			return listed(s.app.Projects.People(ctx, who, in.ID))
		})
	handle(s, "POST", "/api/projects/{id}/people", "add-person", "Take somebody into a project", func(ctx context.Context, who identity.Actor, in *struct {
		ByID
		Body struct {
			Name string        `json:"name" maxLength:"120"`
			Role identity.Role `json:"role" enum:"lead,td,artist,reviewer"`
		}
	}) (projects.Person, error) {
		return s.app.Projects.Join(ctx, who, in.ID, in.Body.Name, in.Body.Role)
	})
	type OfPerson struct {
		ByID
		Person int64 `path:"person"`
	}
	handle(s, "PUT", "/api/projects/{id}/people/{person}/role", "set-role", "Make somebody of a project something else there",
		func(ctx context.Context, who identity.Actor, in *struct {
			OfPerson
			Body struct {
				Role identity.Role `json:"role" enum:"lead,td,artist,reviewer"`
			}
		}) (projects.Person, error) {
			return s.app.Projects.SetRole(ctx, who, in.ID, in.Person, in.Body.Role)
		})
	handle(s, "POST", "/api/projects/{id}/people/{person}/invitation", "invite-person", "Make a link by which somebody sets a password, once",
		func(ctx context.Context, who identity.Actor, in *struct {
			OfPerson
			Mail bool `query:"mail" doc:"Send it to their address as well"`
		}) (accounts.Invitation, error) {
			return s.app.Accounts.Invite(ctx, who, in.ID, in.Person, in.Mail)
		})
	perform(s, "DELETE", "/api/projects/{id}/people/{person}", "remove-person", "Take somebody out of a project; what they made stays",
		func(ctx context.Context, who identity.Actor, in *OfPerson) error {
			return s.app.Projects.Leave(ctx, who, in.ID, in.Person)
		})
}
