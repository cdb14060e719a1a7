package accounts

import (
	"context"
	"fmt"
	"net/mail"
	"slices"
	"strings"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// Mail is where mail reaches somebody, and of what they want some.
type Mail struct {
	Address string   `json:"address" maxLength:"254" doc:"Empty: nowhere"`
	Wants   []string `json:"wants" nullable:"false" maxItems:"3" enum:"answers,remarks,runs" doc:"That are waited for; on what one put up, or that name one; of one's own"`
}

// Mail tells where mail reaches the one who acts.
func (s *Service) Mail(ctx context.Context, who identity.Actor) (Mail, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return Mail{}, err
	}
	address, wants, err := s.store.Mail(ctx, who.ID)
	return Mail{address, wants}, err
}

// SetMail says where mail reaches the one who acts, and of what they want some.
func (s *Service) SetMail(ctx context.Context, who identity.Actor, m Mail) error {
	if err := s.guard.Any(who, identity.See); err != nil {
		return err
	}
	address, err := addressOf(m.Address)
	if err != nil {
		return err
	}
	var wants []string
	for _, w := range identity.Wants {
		if slices.Contains(m.Wants, w) {
			wants = append(wants, w)
		}
	}
	if err := s.store.SetMail(ctx, who.ID, address); err != nil {
		return err
	}
	return s.store.SetWants(ctx, who.ID, wants)
}

// SetMailOf says where mail reaches a person of a project, for a lead of all their projects.
func (s *Service) SetMailOf(ctx context.Context, who identity.Actor, project, person int64, address string) error {
	if err := s.answersFor(ctx, who, project, person); err != nil {
		return err
	}
	address, err := addressOf(address)
	if err != nil {
		return err
	}
	return s.store.SetMail(ctx, person, address)
}

// addressOf checks an address of mail; none is fine.
func addressOf(address string) (string, error) {
	address = strings.TrimSpace(address)
	if address == "" {
		return "", nil
	}
	a, err := mail.ParseAddress(address)
	if err != nil || a.Address != address || len(address) > 254 {
		return "", fault.Bad("An address is written as ada@studio.example, without a name and without spaces")
	}
	return address, nil
}

// answersFor tells whether somebody may set how a person of a project comes in and is reached:
// a lead of all the projects of that person. Else the lead of a small project could take over a
// large one.
func (s *Service) answersFor(ctx context.Context, who identity.Actor, project, person int64) error {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return err
	}
	if _, err := s.store.MemberOf(ctx, project, person); err != nil {
		return err
	}
	theirs, err := s.store.Actor(ctx, person)
	if err != nil {
		return err
	}
	for of := range theirs.Roles {
		if !who.House && who.Roles[of] != identity.Lead {
			return fmt.Errorf("%w: %s belongs to a project that you do not lead", fault.ErrForbidden, theirs.Name)
		}
	}
	return nil
}

// mailInvitation sends a person the link by which they set a password.
func (s *Service) mailInvitation(ctx context.Context, who identity.Actor, project, person int64, inv *Invitation) error {
	address, _, err := s.store.Mail(ctx, person)
	if err != nil {
		return err
	}
	if address == "" {
		return fault.Bad("They have no address yet; write one beside their name first")
	}
	p, err := s.store.Project(ctx, project)
	if err != nil {
		return err
	}
	return s.store.AddMessage(ctx, &store.Message{Project: project, Address: address, Secret: true,
		Subject: "A link to set your password for " + p.Name,
		Body: fmt.Sprintf("Hello,\n\n%s sends you a link by which you set your password for %s, once, until %s:\n%s/invited#%s\n",
			who.Name, p.Name, inv.Until.Format("2 January 2006"), s.site, inv.Token)})
}
