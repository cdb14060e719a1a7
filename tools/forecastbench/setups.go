package main

import (
	"context"
	"fmt"
	"strings"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/setup"
	"amberproof/demo"
	"amberproof/internal/ticket"
	"amberproof/tools/stages"
)

// picture is one that is forecast.
type picture struct {
	name   string
	scene  func() ([]byte, error)
	file   string
	ready  int                    // ticket of the demo; -1: a new one
	change func(t *ticket.Ticket) // or nil
}

func tone(x float64) func(t *ticket.Ticket) {
	return func(t *ticket.Ticket) { t.Stage.Surround.Tone = x }
}

var pictures = []picture{
	// The figures of core/forecast were chosen on these.
	{"hero", demo.Scene, demo.SceneFile, 0, nil},
	{"window", stages.Window, "window.gltf", -1, func(t *ticket.Ticket) { t.Stage.Surround.On = false }},
	{"machine", stages.Machine, "machine.gltf", -1, tone(0.6)},
	// No choice was made on those from here on.
	{"shop window", demo.Vitrine, demo.VitrineFile, 0, nil},
	{"burner", demo.Scene, demo.SceneFile, 1, nil},
	{"cloth", stages.Cloth, "cloth.gltf", -1, tone(0.15)},
	{"lattice", stages.Lattice, "lattice.gltf", -1, tone(0.1)},
	{"caustics", stages.Caustics, "caustics.gltf", -1, tone(0.05)},
}

// choose finds set-ups by name; all for an empty list.
func choose(list string) ([]picture, error) {
	if list == "" {
		return pictures, nil
	}
	var out []picture
	for _, want := range strings.Split(list, ",") {
		n := len(out)
		for _, s := range pictures {
			if s.name == strings.TrimSpace(want) {
				out = append(out, s)
			}
		}
		if len(out) == n {
			return nil, fmt.Errorf("there is no picture %q", want)
		}
	}
	return out, nil
}

// subject is a set-up's scene, read.
type subject struct {
	ticket.Subject
	views    []ticket.View
	surround *imageio.HDR
	begins   ticket.Ticket
}

func (s *picture) open(ctx context.Context) (*subject, error) {
	raw, err := s.scene()
	if err != nil {
		return nil, err
	}
	b := importer.Bundle{s.file: raw}
	sc, err := importer.Import(ctx, b, importer.DefaultLimits)
	if err != nil {
		return nil, err
	}
	out := &subject{}
	if out.Subject, err = ticket.Of(ctx, ticket.SceneRef{Name: s.file, SHA256: b.Checksum()}, sc, setup.Setup{}); err != nil {
		return nil, err
	}
	if out.surround, err = imageio.ReadSurround(demo.Surround(), imageio.DefaultLimits); err != nil {
		return nil, err
	}
	out.views = ticket.ViewsOf(sc)
	out.begins = ticket.NewFor(&out.Subject.Setup)
	for _, d := range demo.Sets() {
		if s.ready >= 0 && d.File == s.file {
			out.begins = d.Tickets(out.views)[s.ready].Ticket
		}
	}
	if s.change != nil {
		s.change(&out.begins)
	}
	if out.begins.Stage.Surround.Picture.Name == "" {
		out.surround = nil
	}
	return out, nil
}

// ticket is the set-up's at a preset, of one surface and a square size.
func (s *subject) ticket(preset, surface string, side int) ticket.Ticket {
	t := s.begins
	for _, p := range ticket.Presets() {
		if p.Key == preset {
			q := p.Quality
			q.Denoise = t.Quality.Denoise
			t.Quality = q
		}
	}
	t.View.Width, t.View.Height, t.View.Scale, t.Surface.Mode = side, side, 100, surface
	return t
}
