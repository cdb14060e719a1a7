package identity

import (
	"context"
	"errors"
	"fmt"

	"amberproof/internal/fault"
)

// Kind is what sort of thing something is.
type Kind string

// Kinds of things that belong to a project.
const (
	SceneKind       Kind = "scene"
	ViewKind        Kind = "view" // of a scene
	KeptPictureKind Kind = "kept picture"
	JobKind         Kind = "job"
	RunKind         Kind = "run"
	RoundKind       Kind = "round"
	ProofKind       Kind = "proof" // put up in a round
	RemarkKind      Kind = "remark"
	LinkKind        Kind = "link" // to a round
	WebhookKind     Kind = "webhook"
	MessageKind     Kind = "message" // in the outbox
)

// Owners tells to what project a thing belongs and who made it; fault.ErrNotFound where
// there is no such thing.
type Owners interface {
	Owner(ctx context.Context, kind string, id int64) (project, maker int64, err error)
}

// Guard asks about things by their numbers. Every use case asks it.
type Guard struct{ Owners Owners }

// May asks about one thing. Who may do nothing of the kind anywhere is told that, and not
// whether the thing is there; one of a project of others is as if it were not there.
func (g Guard) May(ctx context.Context, who Actor, do Act, kind Kind, id int64) error {
	project, maker, err := g.Owners.Owner(ctx, string(kind), id)
	if errors.Is(err, fault.ErrNotFound) {
		if no := May(who, do, Thing{}); no != nil {
			return no
		}
	}
	if err != nil {
		return err
	}
	return named(May(who, do, Thing{Project: project, Maker: maker}), kind, id)
}

// In asks about something new in a project.
func (g Guard) In(who Actor, do Act, project int64) error {
	if project == 0 {
		return named(fault.ErrNotFound, "project", project)
	}
	return named(May(who, do, Thing{Project: project, Maker: who.ID}), "project", project)
}

func named(err error, kind Kind, id int64) error {
	if errors.Is(err, fault.ErrNotFound) {
		return fmt.Errorf("%s %d: %w", kind, id, err)
	}
	return err
}

// Any asks about what belongs to no project.
func (g Guard) Any(who Actor, do Act) error { return May(who, do, Thing{}) }

// Seen are the projects whose things stand in an actor's lists; an error says why none do.
func (g Guard) Seen(who Actor) (Projects, error) {
	if err := g.Any(who, See); err != nil {
		return Projects{}, err
	}
	return Seen(who), nil
}
