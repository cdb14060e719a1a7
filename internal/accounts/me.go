package accounts

import (
	"context"
	"maps"
	"slices"

	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Me is who acts, and whom this browser may act as besides: everybody, as long as nobody has
// a password.
type Me struct {
	ID     int64         `json:"id"`
	Name   string        `json:"name"`
	Others []PersonLine  `json:"others" nullable:"false" doc:"Whom this browser may act as; nobody once people sign in"`
	Roles  []ProjectRole `json:"roles" nullable:"false"`
	// Open says that nobody has to sign in.
	Open  bool `json:"open" doc:"Nobody has a password: whoever opens the page on this machine is the first person"`
	Leads bool `json:"leads" doc:"They may set the first password"`
}

// PersonLine is somebody with what they are.
type PersonLine struct {
	ID    int64           `json:"id"`
	Name  string          `json:"name"`
	Roles []identity.Role `json:"roles" nullable:"false" doc:"In any project, the highest first"`
}

// ProjectRole is what somebody is in a project.
type ProjectRole struct {
	Project int64         `json:"project"`
	Role    identity.Role `json:"role" enum:"lead,td,artist,reviewer"`
}

// Me tells who acts.
func (s *Service) Me(ctx context.Context, who identity.Actor) (Me, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return Me{}, err
	}
	m := Me{ID: who.ID, Name: who.Name, Others: []PersonLine{}, Roles: []ProjectRole{}}
	for _, p := range identity.Seen(who).Some {
		m.Roles = append(m.Roles, ProjectRole{p, who.Roles[p]})
	}
	m.Leads = s.guard.Any(who, identity.EditProject) == nil
	closed, err := s.Closed(ctx)
	if m.Open = !closed; closed || err != nil {
		return m, err
	}
	all, err := s.store.Actors(ctx, 0)
	for _, a := range all {
		o := PersonLine{a.ID, a.Name, []identity.Role{}}
		is := slices.Collect(maps.Values(a.Roles))
		for _, r := range identity.Roles {
			if slices.Contains(is, r) {
				o.Roles = append(o.Roles, r)
			}
		}
		m.Others = append(m.Others, o)
	}
	return m, err
}

// Rename gives the one who acts another name.
func (s *Service) Rename(ctx context.Context, who identity.Actor, name string) error {
	if err := s.guard.Any(who, identity.See); err != nil {
		return err
	}
	name, err := ticket.NameOf("A person", name)
	if err != nil {
		return err
	}
	return s.store.RenamePerson(ctx, who.ID, name)
}
