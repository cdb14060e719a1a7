package demo

import (
	"amberproof/core/setup"
	"amberproof/internal/ticket"
)

// Kept is something that the demo's library opens with.
type Kept struct {
	Kind, Name string
	Body       any
}

// Library is what the demo's library opens with: a quality of the house, two clay plans, and
// two stages made of one that was set up for a product.
func Library(stage setup.Stage) []Kept {
	q := ticket.New().Quality
	q.Preset, q.Least, q.Most, q.Noise, q.Diffuse, q.Glossy = ticket.OwnQuality, 48, 1024, 0.9, 4, 6
	q.Denoise = ticket.Denoise{On: true, Take: "noise", Amount: 70}
	keep := func(kind string) ticket.KeepRule {
		return ticket.KeepRule{By: "kind", Match: kind, Parts: []string{}, Do: "keep"}
	}
	pale := ticket.New().Surface.Clay
	pale.Tone, pale.SecondTone = 0.7, 0.32
	pale.Rules = []ticket.KeepRule{keep("clear"), keep("glowing")}
	drawn := pale
	drawn.Tone = 0.58
	drawn.Crevices = &ticket.Crevices{Tone: 0.22, Reach: 12}
	drawn.Lines = &ticket.Lines{Creases: true, Angle: 35, Outlines: true, Borders: true, Boundaries: true, Weight: 0.5, By: "pixels", Through: true, As: "picture"}
	dark := stage
	dark.Backdrop.Colour = setup.Colour{R: 0.05, G: 0.05, B: 0.055}
	dark.Lights = append([]setup.Light(nil), stage.Lights...)
	for i := range dark.Lights {
		if l := &dark.Lights[i]; l.Name == "Fill" {
			l.Strength *= 0.15
		}
	}
	return []Kept{
		{"quality", "House final", q}, {"clay", "Pale, glass kept", pale}, {"clay", "Creases and crevices", drawn},
		{"stage", "Grey sweep, two panels and a rim", stage}, {"stage", "Dark sweep, low key", dark},
	}
}
