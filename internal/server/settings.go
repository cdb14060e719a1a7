package server

import (
	"context"

	"amberproof/internal/identity"
	"amberproof/internal/job"
)

// settingsBody is what the forms are made of.
type settingsBody struct {
	Settings []job.Setting `json:"settings" nullable:"false"`
	Presets  []job.Preset  `json:"presets" nullable:"false"`
	Default  job.Ticket    `json:"default"`
	Version  string        `json:"version"`
}

// settings serves the one declaration of what a ticket may say, which the forms, the
// validation and the documents are all made of.
func (s *Server) settings() {
	handle(s, "GET", "/api/settings", "get-settings", "Every setting of a ticket: unit, range, default and help", func(context.Context, identity.Actor, *nothing) (settingsBody, error) {
		return settingsBody{job.Settings(), job.Presets(), job.New(), s.app.Version}, nil
	})
}
