// Package identity says who acts and what they may do. Its rules are pure: they
// ask no database and know no clock. Every use case takes an Actor and asks its
// Guard, so that accounts are another policy and not another program.
package identity

import (
	"context"
	"fmt"

	"amberproof/internal/fault"
)

// Actor is who acts. The zero Actor is nobody.
type Actor struct {
	ID   int64
	Name string
	Role Role
}

// Role is what kind of colleague an actor is.
type Role string

// Owner is the role of the one person on whose machine the program runs.
const Owner Role = "owner"

// Local is that person.
var Local = Actor{ID: 1, Name: "local", Role: Owner}

// Act is something that can be allowed or not.
type Act string

// What use cases ask for.
const (
	See         Act = "see"          // scenes, jobs, runs, proofs
	EditScenes  Act = "edit scenes"  // import, rename, put away, views
	EditJobs    Act = "edit jobs"    // tickets, names
	RunJobs     Act = "run jobs"     // start, stop, keep, order
	Remove      Act = "remove"       // what cannot be brought back
	EditLibrary Act = "edit library" // presets, plans
)

// Thing is what an act is done to: something of a project, by who made it. The zero Thing
// belongs to no project and was made by nobody in particular.
type Thing struct{ Project, Maker int64 }

// Projects are those whose things somebody sees: all, or some.
type Projects struct {
	All  bool
	Some []int64
}

// Policy decides what an actor may do to a thing. An error says why not, and wraps
// fault.ErrForbidden.
type Policy interface {
	May(who Actor, do Act, what Thing) error
	// Projects are those whose things stand in the actor's lists.
	Projects(who Actor) Projects
}

// OnePerson is the policy of a program without accounts: its owner may do
// everything, nobody else anything.
type OnePerson struct{}

// May implements Policy.
func (OnePerson) May(who Actor, do Act, _ Thing) error {
	if who.Role == Owner {
		return nil
	}
	return fmt.Errorf("%w: nobody in particular may not %s", fault.ErrForbidden, do)
}

// Projects implements Policy.
func (OnePerson) Projects(who Actor) Projects { return Projects{All: who.Role == Owner} }

type key struct{}

// With makes a context in which somebody acts.
func With(ctx context.Context, who Actor) context.Context { return context.WithValue(ctx, key{}, who) }

// From is who acts in a context; nobody where nothing is said.
func From(ctx context.Context) Actor {
	who, _ := ctx.Value(key{}).(Actor)
	return who
}
