// Package identity says who acts and what they may do. Its rules are pure: they ask no
// database and know no clock. Every use case takes an Actor and asks its Guard.
package identity

import (
	"context"
	"fmt"
	"slices"

	"amberproof/internal/fault"
)

// Role is what somebody is in a project.
type Role string

// Roles, from who answers for all to who only looks and judges.
const (
	Lead     Role = "lead"
	TD       Role = "td"
	Artist   Role = "artist"
	Reviewer Role = "reviewer"
)

// Roles are all of them.
var Roles = []Role{Lead, TD, Artist, Reviewer}

// Actor is who acts. The zero Actor is nobody.
type Actor struct {
	ID    int64
	Name  string
	Roles map[int64]Role // by project
	// House is the program itself, which loads the demo and renders for the lists: it may do
	// everything, for whoever ID says.
	House bool
}

// Local acts for the program itself, and what it makes is the first person's.
var Local = Actor{ID: 1, Name: "local", House: true}

// Act is something that can be allowed or not.
type Act string

// What use cases ask for.
const (
	See         Act = "see that"           // scenes, jobs, runs, proofs, rounds
	Judge       Act = "answer in rounds"   // verdicts, for who is asked
	EditScenes  Act = "change scenes"      // import, rename, put away, views
	EditJobs    Act = "change jobs"        // tickets, names
	RunJobs     Act = "run jobs"           // start, stop, keep, order
	EditRounds  Act = "change rounds"      // make them, put proofs up, ask people
	EditLibrary Act = "change the library" // presets, plans, stages
	Remove      Act = "remove things"      // what cannot be brought back; makers may what they made
	EditProject Act = "change projects"    // their names, their people
)

// Acts are all of them, in their order.
var Acts = []Act{See, Judge, EditScenes, EditJobs, RunJobs, EditRounds, EditLibrary, Remove, EditProject}

// allowed are the roles that may do something.
var allowed = map[Act][]Role{
	See:         Roles,
	Judge:       Roles,
	EditScenes:  {Lead, TD, Artist},
	EditJobs:    {Lead, TD, Artist},
	RunJobs:     {Lead, TD, Artist},
	EditRounds:  {Lead, TD},
	EditLibrary: {Lead, TD},
	Remove:      {Lead, TD},
	EditProject: {Lead},
}

// Thing is what an act is done to: something of a project, by who made it. The zero Thing
// belongs to the studio and was made by nobody in particular.
type Thing struct{ Project, Maker int64 }

// Projects are those whose things somebody sees: all, or some.
type Projects struct {
	All  bool
	Some []int64
}

// Only is what is left of projects when one of them is looked at; all with 0.
func (p Projects) Only(one int64) Projects {
	switch {
	case one == 0:
		return p
	case p.All || slices.Contains(p.Some, one):
		return Projects{Some: []int64{one}}
	}
	return Projects{Some: []int64{}}
}

// May decides what an actor may do to a thing. An error wraps fault.ErrForbidden and says who
// could, or fault.ErrNotFound for things of projects that the actor does not belong to:
// whether they are there is nobody else's business. What belongs to the studio is seen by all
// who are somebody, and changed by who might change it in any project.
func May(who Actor, do Act, what Thing) error {
	switch {
	case who.House:
		return nil
	case who.ID == 0:
		return fmt.Errorf("%w: nobody in particular may %s", fault.ErrForbidden, do)
	case what.Project == 0:
		if do == See {
			return nil
		}
		for _, r := range who.Roles {
			if slices.Contains(allowed[do], r) {
				return nil
			}
		}
	default:
		r, ok := who.Roles[what.Project]
		if !ok {
			return fault.ErrNotFound
		}
		made := do == Remove && what.Maker == who.ID && r != Reviewer
		if made || slices.Contains(allowed[do], r) {
			return nil
		}
	}
	return fmt.Errorf("%w: %s may not %s here; a %s can", fault.ErrForbidden, who.Name, do, words(allowed[do]))
}

// Allowed are the acts that an actor may do to what others made in a project.
func Allowed(who Actor, project int64) []Act {
	out := []Act{}
	for _, do := range Acts {
		if May(who, do, Thing{Project: project}) == nil {
			out = append(out, do)
		}
	}
	return out
}

// Seen are the projects whose things stand in an actor's lists.
func Seen(who Actor) Projects {
	p := Projects{All: who.House, Some: []int64{}}
	for id := range who.Roles {
		p.Some = append(p.Some, id)
	}
	slices.Sort(p.Some)
	return p
}

// words names roles as people say them.
func words(roles []Role) string {
	said := map[Role]string{Lead: "lead", TD: "TD", Artist: "artist", Reviewer: "reviewer"}
	out := ""
	for i, r := range roles {
		switch {
		case i > 0 && i == len(roles)-1:
			out += " or "
		case i > 0:
			out += ", "
		}
		out += said[r]
	}
	return out
}

type key struct{}

// With makes a context in which somebody acts.
func With(ctx context.Context, who Actor) context.Context { return context.WithValue(ctx, key{}, who) }

// From is who acts in a context; nobody where nothing is said.
func From(ctx context.Context) Actor {
	who, _ := ctx.Value(key{}).(Actor)
	return who
}
