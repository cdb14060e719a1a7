package accounts

import (
	"context"
	"errors"
	"fmt"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/secrets"
)

// invitationLife is how long a link for a password can be used.
const invitationLife = 7 * 24 * time.Hour

// Invitation is a link by which somebody sets a password. Its token is told once and kept as
// its checksum only.
type Invitation struct {
	Token string    `json:"token"`
	Until time.Time `json:"until"`
}

// Invite makes a link by which a person of a project sets a password, the first or a new one
// for one that was forgotten, and sends it to them if that is wanted. Links made for them before
// end.
func (s *Service) Invite(ctx context.Context, who identity.Actor, project, person int64, mail bool) (Invitation, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return Invitation{}, err
	}
	closed, err := s.Closed(ctx)
	if err != nil {
		return Invitation{}, err
	}
	if !closed {
		return Invitation{}, fmt.Errorf("set a password of your own first: until then nobody needs one: %w", fault.ErrState)
	}
	if err := s.answersFor(ctx, who, project, person); err != nil {
		return Invitation{}, err
	}
	inv, err := s.invite(ctx, who.ID, person)
	if err == nil && mail {
		err = s.mailInvitation(ctx, who, project, person, &inv)
	}
	return inv, err
}

func (s *Service) invite(ctx context.Context, maker, person int64) (Invitation, error) {
	token, sum := secrets.NewToken()
	until := s.now().UTC().Add(invitationLife)
	return Invitation{token, until}, s.store.AddInvitation(ctx, sum, person, maker, until)
}

// Recover makes such a link for the person of a name, for whoever has the data folder: the way
// back in for a lead who has forgotten the password.
func (s *Service) Recover(ctx context.Context, name string) (Invitation, error) {
	c, err := s.store.CredentialsNamed(ctx, name)
	if err != nil {
		return Invitation{}, err
	}
	return s.invite(ctx, c.Person, c.Person)
}

// errSpent does not tell a link that has been used from one that never was.
var errSpent = fault.Bad("This link is no longer good; ask a lead for another one")

// Invited tells whose link a token is.
func (s *Service) Invited(ctx context.Context, address, token string) (name string, err error) {
	if err := s.tries.Allow(address, "invitation"+address); err != nil {
		return "", err
	}
	p, err := s.store.Invited(ctx, secrets.Sum(token), s.now().UTC())
	if errors.Is(err, fault.ErrNotFound) {
		err = errSpent
	}
	return p.Name, err
}

// Accept sets the password of whom a link invites, and signs them in. A password that is
// refused leaves the link as it is.
func (s *Service) Accept(ctx context.Context, address, token, password string) (Session, error) {
	name, err := s.Invited(ctx, address, token)
	if err != nil {
		return Session{}, err
	}
	if err := check(name, password); err != nil {
		return Session{}, err
	}
	hash, err := secrets.Hash(ctx, password)
	if err != nil {
		return Session{}, err
	}
	c, err := s.store.TakeInvitation(ctx, secrets.Sum(token), hash, s.now().UTC())
	if errors.Is(err, fault.ErrNotFound) {
		err = errSpent
	}
	return Session{c.Person, c.Stamp}, err
}
