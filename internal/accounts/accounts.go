// Package accounts finds out who acts, and keeps how people sign in: passwords, the links by
// which they set one, and who did what.
package accounts

import (
	"context"
	"errors"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/secrets"
	"amberproof/internal/store"
)

// Service is safe for concurrent use.
type Service struct {
	store *store.Store
	guard identity.Guard
	site  string // under which people reach the server
	tries *secrets.Tries
	// ceremonies are those in which a passkey has yet to answer, by their challenges.
	ceremonies *lru.Cache[string, ceremony]
	closed     atomic.Bool // somebody has a password; that never ends
	now        func() time.Time
}

// New makes a service.
func New(st *store.Store, guard identity.Guard, site string) *Service {
	ceremonies, _ := lru.New[string, ceremony](mostCeremonies) // it only fails for sizes under 1
	return &Service{store: st, guard: guard, site: site, ceremonies: ceremonies, tries: secrets.NewTries(), now: time.Now}
}

// first is the person that the page opens for as shipped: whoever sits at this machine.
const first = 1

// Session is what a browser is known by: the person, and the stamp of the password that was
// given; without one, whom it acts as in the open house.
type Session struct{ Person, Stamp int64 }

// Closed tells whether people have to sign in: as soon as one of them has a password.
func (s *Service) Closed(ctx context.Context) (bool, error) {
	if s.closed.Load() {
		return true, nil
	}
	any, err := s.store.AnyPassword(ctx)
	if any {
		s.closed.Store(true)
	}
	return any, err
}

// Acting finds out who acts. In the open house that is the person of the session, or the first
// one where there is none; later who has signed in by the password they have now, or nobody.
func (s *Service) Acting(ctx context.Context, by Session) (identity.Actor, error) {
	closed, err := s.Closed(ctx)
	if err != nil {
		return identity.Actor{}, err
	}
	if closed {
		if by.Person == 0 || by.Stamp == 0 {
			return identity.Actor{}, nil
		}
		c, err := s.store.CredentialsOf(ctx, by.Person)
		if errors.Is(err, fault.ErrNotFound) || err == nil && (c.Password == "" || c.Stamp != by.Stamp) {
			return identity.Actor{}, nil
		}
		if err != nil {
			return identity.Actor{}, err
		}
		return s.store.Actor(ctx, by.Person)
	}
	if by.Person != 0 {
		who, err := s.store.Actor(ctx, by.Person)
		if !errors.Is(err, fault.ErrNotFound) {
			return who, err
		}
	}
	return s.store.Actor(ctx, first)
}

// ActAs checks whom a browser wants to act as from now on in the open house;
// fault.ErrNotFound where there is no such person.
func (s *Service) ActAs(ctx context.Context, who identity.Actor, person int64) (Session, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return Session{}, err
	}
	closed, err := s.Closed(ctx)
	if err != nil {
		return Session{}, err
	}
	if closed {
		return Session{}, errNotOpen
	}
	_, err = s.store.Actor(ctx, person)
	return Session{Person: person}, err
}

// For is a person as the program itself acts for them, as the demo does.
func (s *Service) For(ctx context.Context, person int64) (identity.Actor, error) {
	return s.store.Actor(ctx, person)
}
