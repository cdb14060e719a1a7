package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/secrets"
	"amberproof/internal/store"
)

// leastPassword is how long a password is at least.
const leastPassword = 10 // letters

var errNotOpen = fmt.Errorf("%w: people have passwords; sign in as who you are", fault.ErrForbidden)

// errWrong does not tell whether there is such a person.
var errWrong = fault.Bad("The name or the password is wrong")

// check refuses passwords that are easily found.
func check(name, password string) error {
	switch {
	case utf8.RuneCountInString(password) < leastPassword:
		return fault.Bad("A password has at least %d letters", leastPassword)
	case len(password) > secrets.Longest:
		return fault.Bad("A password has at most %d bytes", secrets.Longest)
	case strings.Contains(names.Fold(password), names.Fold(name)):
		return fault.Bad("A password does not contain the name")
	case len(strings.Trim(password, password[:1])) == 0:
		return fault.Bad("A password is more than one letter over and over")
	}
	return nil
}

// SignIn checks a name and a password. An error wraps fault.Input if they do not belong
// together, or is a fault.Slow where the name or the address has tried too often.
func (s *Service) SignIn(ctx context.Context, address, name, password string) (Session, error) {
	name = names.Text(name)
	if err := s.tries.Allow(address, names.Fold(name)); err != nil {
		return Session{}, err
	}
	c, err := s.store.CredentialsNamed(ctx, name)
	if err != nil && !errors.Is(err, fault.ErrNotFound) {
		return Session{}, err
	}
	hash := c.Password
	if hash == "" {
		hash = secrets.Nobodys
	}
	ok, err := secrets.Matches(ctx, password, hash)
	if err != nil {
		return Session{}, err
	}
	if !ok || c.Password == "" {
		return Session{}, errWrong
	}
	s.tries.Forget(names.Fold(name))
	return Session{c.Person, c.Stamp}, nil
}

// SetPassword gives the one who acts a password, in place of the one they have; they are
// signed in by it, and nowhere by an earlier one. The first password ends the open house, so
// that a lead has to be who sets it: others would lock the leads out.
func (s *Service) SetPassword(ctx context.Context, who identity.Actor, address, was, password string) (Session, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return Session{}, err
	}
	c, err := s.store.CredentialsOf(ctx, who.ID)
	if err != nil {
		return Session{}, err
	}
	if c.Password == "" {
		if err := s.guard.Any(who, identity.EditProject); err != nil {
			return Session{}, fmt.Errorf("the first password is a lead's: %w", err)
		}
	} else if err := s.confirm(ctx, &c, address, was); err != nil {
		return Session{}, err
	}
	if err := check(who.Name, password); err != nil {
		return Session{}, err
	}
	hash, err := secrets.Hash(ctx, password)
	if err != nil {
		return Session{}, err
	}
	stamp, err := s.store.SetPassword(ctx, who.ID, c.Stamp, hash)
	return Session{who.ID, stamp}, err
}

// confirm checks the password that somebody has.
func (s *Service) confirm(ctx context.Context, c *store.Credentials, address, was string) error {
	if err := s.tries.Allow(address, fmt.Sprint("person ", c.Person)); err != nil {
		return err
	}
	ok, err := secrets.Matches(ctx, was, c.Password)
	if err == nil && !ok {
		err = fault.Bad("The password that was is wrong")
	}
	if err == nil {
		s.tries.Forget(fmt.Sprint("person ", c.Person))
	}
	return err
}
