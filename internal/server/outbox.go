package server

import (
	"context"

	"amberproof/internal/accounts"
	"amberproof/internal/identity"
	"amberproof/internal/outbox"
	"amberproof/internal/store"
)

// mail are operations on where mail reaches people, and on what goes out.
func (s *Server) mail() {
	handle(s, "GET", "/api/me/mail", "get-my-mail", "Where mail reaches who acts, and of what they want some",
		func(ctx context.Context, who identity.Actor, _ *nothing) (accounts.Mail, error) {
			return s.app.Accounts.Mail(ctx, who)
		})
	perform(s, "PUT", "/api/me/mail", "set-my-mail", "Say where mail reaches who acts, and of what they want some",
		func(ctx context.Context, who identity.Actor, in *struct{ Body accounts.Mail }) error {
			return s.app.Accounts.SetMail(ctx, who, in.Body)
		})
	perform(s, "PUT", "/api/projects/{id}/people/{person}/mail", "set-mail", "Say where mail reaches somebody of a project",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Person int64 `path:"person"`
			Body   struct {
				Address string `json:"address" maxLength:"254" doc:"Empty: nowhere"`
			}
		}) error {
			return s.app.Accounts.SetMailOf(ctx, who, in.ID, in.Person, in.Body.Address)
		})
	handle(s, "GET", "/api/projects/{id}/messages", "list-messages", "Mail of a project, or what a webhook of it was sent, the newest first",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Webhook int64              `query:"webhook" minimum:"0" doc:"0: mail"`
			State   store.MessageState `query:"state" enum:",waiting,sent,given up" doc:"Empty: all"`
			Before  int64              `query:"before" minimum:"0" doc:"Those that came before that one"`
		}) (outbox.Page, error) {
			return s.app.Outbox.List(ctx, who, in.ID, outbox.Wanted{Webhook: in.Webhook, State: in.State, Before: in.Before})
		})
	perform(s, "POST", "/api/messages/{id}/retry", "retry-message", "Try at once to send a message that was not sent yet, or was given up",
		func(ctx context.Context, who identity.Actor, in *ByID) error {
			return s.app.Outbox.Retry(ctx, who, in.ID)
		})
}

// webhooks are operations on programs that are told what happens.
func (s *Server) webhooks() {
	handle(s, "GET", "/api/projects/{id}/webhooks", "list-webhooks", "Addresses of programs that are told what happens in a project",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[outbox.Webhook], error) {
			return listed(s.app.Outbox.Webhooks(ctx, who, in.ID))
		})
	type terms struct {
		ByID
		Body outbox.WebhookTerms
	}
	handle(s, "POST", "/api/projects/{id}/webhooks", "add-webhook", "Have a program be told what happens in a project",
		func(ctx context.Context, who identity.Actor, in *terms) (outbox.Webhook, error) {
			return s.app.Outbox.AddWebhook(ctx, who, in.ID, in.Body)
		})
	perform(s, "PUT", "/api/webhooks/{id}", "change-webhook", "Change where a webhook leads or what it is told, pause it or let it go on",
		func(ctx context.Context, who identity.Actor, in *terms) error {
			return s.app.Outbox.ChangeWebhook(ctx, who, in.ID, in.Body)
		})
	perform(s, "DELETE", "/api/webhooks/{id}", "remove-webhook", "Remove a webhook with the list of what it was sent",
		func(ctx context.Context, who identity.Actor, in *ByID) error {
			return s.app.Outbox.RemoveWebhook(ctx, who, in.ID)
		})
	handle(s, "GET", "/api/projects/{id}/stand-in", "get-stand-in", "What the stand-in for another program got",
		func(ctx context.Context, who identity.Actor, in *ByID) (outbox.StandIn, error) {
			return s.app.Outbox.StandIn(ctx, who, in.ID)
		})
	handle(s, "PUT", "/api/projects/{id}/stand-in", "set-stand-in", "Have the stand-in refuse what comes next",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Refuses int `json:"refuses" minimum:"0" maximum:"10"`
			}
		}) (outbox.StandIn, error) {
			return s.app.Outbox.Refuse(ctx, who, in.ID, in.Body.Refuses)
		})
}
