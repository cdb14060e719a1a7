package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// hashing is argon2id with the least that OWASP advises (Password Storage Cheat Sheet, 2024):
// 19 MiB, two passes.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// mostHashes is how many passwords are hashed at once: each takes memory and a core.
const mostHashes = 2

// Limits of passwords.
const (
	leastPassword = 10  // letters
	mostPassword  = 200 // bytes
)

var errNotOpen = fmt.Errorf("%w: people have passwords; sign in as who you are", fault.ErrForbidden)

// errWrong does not tell whether there is such a person.
var errWrong = fault.Bad("The name or the password is wrong")

// nobodys is what a password is compared with where there is no such person, so that both
// take the same time.
var nobodys, _ = argon2id.CreateHash("nobody has this password", hashing)

// check refuses passwords that are easily found.
func check(name, password string) error {
	switch {
	case utf8.RuneCountInString(password) < leastPassword:
		return fault.Bad("A password has at least %d letters", leastPassword)
	case len(password) > mostPassword:
		return fault.Bad("A password has at most %d bytes", mostPassword)
	case strings.Contains(names.Fold(password), names.Fold(name)):
		return fault.Bad("A password does not contain the name")
	case len(strings.Trim(password, password[:1])) == 0:
		return fault.Bad("A password is more than one letter over and over")
	}
	return nil
}

// inTurn has f run while few others do.
func (s *Service) inTurn(ctx context.Context, f func() error) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case s.hashes <- struct{}{}:
	}
	defer func() { <-s.hashes }()
	return f()
}

func (s *Service) hash(ctx context.Context, password string) (hash string, err error) {
	err = s.inTurn(ctx, func() error {
		hash, err = argon2id.CreateHash(password, hashing)
		return err
	})
	return hash, err
}

func (s *Service) matches(ctx context.Context, password, hash string) (ok bool, err error) {
	if len(password) > mostPassword {
		return false, nil
	}
	err = s.inTurn(ctx, func() error {
		ok, err = argon2id.ComparePasswordAndHash(password, hash)
		return err
	})
	return ok, err
}

// SignIn checks a name and a password. An error wraps fault.Input if they do not belong
// together, or is a fault.Slow where the name or the address has tried too often.
func (s *Service) SignIn(ctx context.Context, address, name, password string) (Session, error) {
	name = names.Text(name)
	if err := s.tries.allow(address, names.Fold(name)); err != nil {
		return Session{}, err
	}
	c, err := s.store.CredentialsNamed(ctx, name)
	if err != nil && !errors.Is(err, fault.ErrNotFound) {
		return Session{}, err
	}
	hash := c.Password
	if hash == "" {
		hash = nobodys
	}
	ok, err := s.matches(ctx, password, hash)
	if err != nil {
		return Session{}, err
	}
	if !ok || c.Password == "" {
		return Session{}, errWrong
	}
	s.tries.forget(names.Fold(name))
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
	hash, err := s.hash(ctx, password)
	if err != nil {
		return Session{}, err
	}
	stamp, err := s.store.SetPassword(ctx, who.ID, c.Stamp, hash)
	return Session{who.ID, stamp}, err
}

// confirm checks the password that somebody has.
func (s *Service) confirm(ctx context.Context, c *store.Credentials, address, was string) error {
	if err := s.tries.allow(address, fmt.Sprint("person ", c.Person)); err != nil {
		return err
	}
	ok, err := s.matches(ctx, was, c.Password)
	if err == nil && !ok {
		err = fault.Bad("The password that was is wrong")
	}
	if err == nil {
		s.tries.forget(fmt.Sprint("person ", c.Person))
	}
	return err
}
