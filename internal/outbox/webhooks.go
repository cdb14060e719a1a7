package outbox

import (
	"context"
	"net/url"
	"slices"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// Webhook is an address of another program that is told what happens in a project.
type Webhook struct {
	ID      int64             `json:"id"`
	URL     string            `json:"url"`
	Kinds   []store.EventKind `json:"kinds" nullable:"false" doc:"Of events that it is told"`
	Paused  bool              `json:"paused" doc:"It is told nothing until it goes on, and not what happened meanwhile"`
	Created time.Time         `json:"created"`
	Secret  string            `json:"secret" doc:"That signs what it is sent; told once, when it is made"`
}

// WebhookTerms are what a webhook is made with.
type WebhookTerms struct {
	URL    string            `json:"url" minLength:"1" maxLength:"1000" doc:"http or https"`
	Kinds  []store.EventKind `json:"kinds" nullable:"false" minItems:"1" maxItems:"20" doc:"Of events that it is told"`
	Paused bool              `json:"paused,omitempty"`
}

// mostWebhooks is how many a project has.
const mostWebhooks = 20

func (s *Service) check(project int64, t *WebhookTerms) error {
	u, err := url.Parse(t.URL)
	switch {
	case err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Hostname() == "" || len(t.URL) > 1000:
		return fault.Bad("The address of a webhook is http:// or https:// and a name, of 1000 letters at most")
	case u.User != nil:
		return fault.Bad("No name or password stands in the address: what is sent is signed")
	case isStandIn(u.Hostname()) && t.URL != StandInURL(project):
		return fault.Bad("The stand-in of this project is %s", StandInURL(project))
	case len(t.Kinds) == 0:
		return fault.Bad("Choose what it is told")
	}
	for _, k := range t.Kinds {
		if !slices.Contains(store.EventKinds, k) {
			return fault.Bad("There is no event %q", k)
		}
	}
	t.Kinds = slices.Compact(slices.Sorted(slices.Values(t.Kinds)))
	return nil
}

// Webhooks lists those of a project.
func (s *Service) Webhooks(ctx context.Context, who identity.Actor, project int64) ([]Webhook, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return nil, err
	}
	rows, err := s.store.Webhooks(ctx, project)
	out := []Webhook{}
	for _, v := range rows {
		out = append(out, Webhook{v.ID, v.URL, v.Kinds, v.Paused, v.Created, ""})
	}
	return out, err
}

// AddWebhook adds one to a project, and tells its secret.
func (s *Service) AddWebhook(ctx context.Context, who identity.Actor, project int64, t WebhookTerms) (Webhook, error) {
	if err := s.guard.In(who, identity.EditProject, project); err != nil {
		return Webhook{}, err
	}
	if err := s.check(project, &t); err != nil {
		return Webhook{}, err
	}
	have, err := s.store.Webhooks(ctx, project)
	if err != nil {
		return Webhook{}, err
	}
	if len(have) >= mostWebhooks {
		return Webhook{}, fault.Bad("A project has at most %d webhooks; remove one first", mostWebhooks)
	}
	v := store.Webhook{Project: project, URL: t.URL, Kinds: t.Kinds, Secret: NewSecret()}
	if v.ID, err = s.store.AddWebhook(ctx, who.ID, v); err != nil {
		return Webhook{}, err
	}
	return Webhook{v.ID, v.URL, v.Kinds, false, s.now().UTC(), v.Secret}, nil
}

// ChangeWebhook gives one other terms.
func (s *Service) ChangeWebhook(ctx context.Context, who identity.Actor, id int64, t WebhookTerms) error {
	if err := s.guard.May(ctx, who, identity.EditProject, identity.WebhookKind, id); err != nil {
		return err
	}
	project, _, err := s.store.Owner(ctx, string(identity.WebhookKind), id)
	if err != nil {
		return err
	}
	if err := s.check(project, &t); err != nil {
		return err
	}
	return s.store.ChangeWebhook(ctx, store.Webhook{ID: id, URL: t.URL, Kinds: t.Kinds, Paused: t.Paused})
}

// RemoveWebhook removes one with what it was sent.
func (s *Service) RemoveWebhook(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.EditProject, identity.WebhookKind, id); err != nil {
		return err
	}
	return s.store.RemoveWebhook(ctx, id)
}
