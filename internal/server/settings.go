package server

import (
	"context"

	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// settingsBody is what the forms are made of.
type settingsBody struct {
	Settings []ticket.Setting `json:"settings" nullable:"false"`
	Presets  []ticket.Preset  `json:"presets" nullable:"false"`
	Default  ticket.Ticket    `json:"default"`
	Version  string           `json:"version"`
}

// settings serves the one declaration of what a ticket may say, which the forms, the
// validation and the documents are all made of.
func (s *Server) settings() {
	handle(s, "GET", "/api/settings", "get-settings", "Every setting of a ticket: unit, range, default and help",
		func(context.Context, identity.Actor, *nothing) (settingsBody, error) {
			return settingsBody{ticket.Settings(), ticket.Presets(), ticket.New(), s.app.Version}, nil
		})
}
