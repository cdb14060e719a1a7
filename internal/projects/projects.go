// Package projects holds the use cases of projects and of the people in them.
package projects

import (
	"context"
	"errors"
	"slices"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store *store.Store
	guard identity.Guard
}

// New makes a service.
func New(st *store.Store, guard identity.Guard) *Service { return &Service{st, guard} }

// Person is somebody, with what they are in a project.
type Person struct {
	ID   int64         `json:"id"`
	Name string        `json:"name"`
	Role identity.Role `json:"role" enum:"lead,td,artist,reviewer"`
	Mail string        `json:"mail" doc:"Where mail reaches them; told to leads only"`
}

// Project is one campaign, as somebody sees it.
type Project struct {
	ID      int64          `json:"id"`
	Name    string         `json:"name"`
	PutAway bool           `json:"putAway"`
	Role    identity.Role  `json:"role" doc:"Of who asks: lead, td, artist or reviewer"`
	May     []identity.Act `json:"may" nullable:"false" doc:"What who asks may do in it"`
}

func of(who identity.Actor, p store.Project) Project {
	return Project{p.ID, p.Name, p.PutAway, who.Roles[p.ID], identity.Allowed(who, p.ID)}
}

// List lists the projects that somebody belongs to, those put away last.
func (s *Service) List(ctx context.Context, who identity.Actor) ([]Project, error) {
	seen, err := s.guard.Seen(who)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.Projects(ctx, store.Within(seen))
	out := make([]Project, len(rows))
	for i, p := range rows {
		out[i] = of(who, p)
	}
	return out, err
}

// Make makes a project, whose lead is who makes it.
func (s *Service) Make(ctx context.Context, who identity.Actor, name string) (Project, error) {
	if err := s.guard.Any(who, identity.EditProject); err != nil {
		return Project{}, err
	}
	name, err := ticket.NameOf("A project", name)
	if err != nil {
		return Project{}, err
	}
	p, err := s.store.AddProject(ctx, who.ID, name)
	if err != nil {
		return Project{}, err
	}
	who, err = s.store.Actor(ctx, who.ID) // who is its lead from now on
	return of(who, p), err
}

// Ensure is the project of a name, made if need be.
func (s *Service) Ensure(ctx context.Context, who identity.Actor, name string) (Project, error) {
	if err := s.guard.Any(who, identity.EditProject); err != nil {
		return Project{}, err
	}
	p, err := s.store.EnsureProject(ctx, who.ID, name)
	return of(who, p), err
}

// Change renames a project, puts it away or brings it back; what is nil stays.
func (s *Service) Change(ctx context.Context, who identity.Actor, id int64, name *string, away *bool) (Project, error) {
	if err := s.guard.In(who, identity.EditProject, id); err != nil {
		return Project{}, err
	}
	if name == nil && away == nil {
		return Project{}, fault.Bad("Say what to change: name or putAway")
	}
	if name != nil {
		tidied, err := ticket.NameOf("A project", *name)
		if err == nil {
			err = s.store.RenameProject(ctx, id, tidied)
		}
		if err != nil {
			return Project{}, err
		}
	}
	if away != nil {
		if err := s.store.PutProjectAway(ctx, id, *away); err != nil {
			return Project{}, err
		}
	}
	p, err := s.store.Project(ctx, id)
	return of(who, p), err
}

// People lists the people of a project, its leads first.
func (s *Service) People(ctx context.Context, who identity.Actor, project int64) ([]Person, error) {
	if err := s.guard.In(who, identity.See, project); err != nil {
		return nil, err
	}
	rows, err1 := s.store.Members(ctx, project)
	out := make([]Person, len(rows))
	for i, m := range rows {
		out[i] = Person{ID: m.ID, Name: m.Name, Role: m.Role}
	}
	if s.guard.In(who, identity.EditProject, project) != nil {
		return out, err1
	}
	reachable, err2 := s.store.Reachable(ctx, project)
	for _, r := range reachable {
		if i := slices.IndexFunc(out, func(p Person) bool { return p.ID == r.ID }); i >= 0 {
			out[i].Mail = r.Mail
		}
	}
	return out, errors.Join(err1, err2)
}

// Join takes somebody into a project by name, who is new here or known from another one.
func (s *Service) Join(ctx context.Context, who identity.Actor, project int64, name string, role identity.Role) (Person, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return Person{}, err
	}
	name, err := ticket.NameOf("A person", name)
	if err == nil {
		err = known(role)
	}
	if err != nil {
		return Person{}, err
	}
	p, err := s.store.EnsurePerson(ctx, name)
	if err != nil {
		return Person{}, err
	}
	return Person{ID: p.ID, Name: p.Name, Role: role}, s.store.SetMember(ctx, project, p.ID, role)
}

func known(role identity.Role) error {
	if !slices.Contains(identity.Roles, role) {
		return fault.Bad("The role must be lead, td, artist or reviewer")
	}
	return nil
}

// SetRole makes somebody of a project something else there.
func (s *Service) SetRole(ctx context.Context, who identity.Actor, project, person int64, role identity.Role) (Person, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return Person{}, err
	}
	if err := known(role); err != nil {
		return Person{}, err
	}
	m, err := s.store.MemberOf(ctx, project, person)
	if err != nil {
		return Person{}, err
	}
	return Person{ID: m.ID, Name: m.Name, Role: role}, s.store.SetMember(ctx, project, person, role)
}

// Leave takes somebody out of a project. What they made and said stays.
func (s *Service) Leave(ctx context.Context, who identity.Actor, project, person int64) error {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return err
	}
	if _, err := s.store.MemberOf(ctx, project, person); err != nil {
		return err
	}
	return s.store.SetMember(ctx, project, person, "")
}
