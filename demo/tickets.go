package demo

import (
	"slices"
	"strings"

	"amberproof/core/passes"
	"amberproof/internal/ticket"
)

// Ready is a ticket of the demo with its name and file name.
type Ready struct {
	Name, File string
	Ticket     ticket.Ticket
}

// Set is a scene of the demo with its ready tickets.
type Set struct {
	File    string
	Scene   func() ([]byte, error) // a .glb file
	Tickets func(views []ticket.View) []Ready
}

// Sets are the scenes of the demo.
func Sets() []Set {
	return []Set{{SceneFile, Scene, Tickets}, {VitrineFile, Vitrine, VitrineTickets}}
}

// VitrineTickets are ready tickets for the shop window: its picture, and its clay with the
// pane kept, the darker clay on the hardware, crevices and edge lines.
func VitrineTickets(views []ticket.View) []Ready {
	t := stage(views[0].Name)
	t.View.Width, t.View.Height = 1080, 1350
	t.Stage.Surround.Strength, t.Stage.Surround.Turn = 0.5, 150
	c := t
	c.Surface.Mode = "clay"
	c.Surface.Clay.Tone = 0.66
	c.Surface.Clay.Rules = append(slices.Clone(c.Surface.Clay.Rules),
		ticket.KeepRule{By: "kind", Match: "glowing", Parts: []string{}, Do: "keep"},
		ticket.KeepRule{By: "name", Match: "*hardware*", Parts: []string{}, Do: "second"},
	)
	c.Surface.Clay.Crevices = &ticket.Crevices{Tone: 0.22, Reach: 14}
	c.Surface.Clay.Lines = &ticket.Lines{Creases: true, Angle: 50, Outlines: true, Borders: true, Boundaries: true, Weight: 0.9,
		By: "height", Through: true, As: "picture"}
	return []Ready{{views[0].Name, "ticket-shop_window.json", t}, {views[0].Name + " clay", "ticket-shop_window_clay.json", c}}
}

// Tickets are ready tickets for the lantern: the finished picture of each view,
// and the clay of the first.
func Tickets(views []ticket.View) []Ready {
	var out []Ready
	add := func(name string, t ticket.Ticket) {
		out = append(out, Ready{name, "ticket-" + strings.ToLower(passes.Slug(name)) + ".json", t})
	}
	for i, v := range views {
		t := stage(v.Name)
		if v.Name == "Front" {
			t.View.Width, t.View.Height = 1080, 1350
		}
		if i == 0 {
			t.Passes.Occlusion.On, t.Passes.FinishMasks, t.Passes.Lights = true, true, true
		}
		add(v.Name, t)
	}
	c := stage(views[0].Name)
	c.Surface.Mode = "clay"
	c.Surface.Clay.Rules = append(c.Surface.Clay.Rules,
		ticket.KeepRule{By: "kind", Match: "glowing", Parts: []string{}, Do: "keep"},
		ticket.KeepRule{By: "name", Match: "*rivet*", Parts: []string{}, Do: "second"},
	)
	c.Passes.Occlusion.On = true
	add(views[0].Name+" clay", c)
	return out
}

// stage is the ticket all of the demo's tickets start from.
func stage(view string) ticket.Ticket {
	t := ticket.New()
	t.View.Name = view
	t.Stage.Surround.Picture.Name = SurroundFile
	t.Quality.Clamp = 3
	t.Passes.Occlusion.Reach = 35
	return t
}

// glanceSide is the longer side of a glance, in pixels.
const glanceSide = 400

// Glance makes of a ticket one of a small quick picture of the same, for lists.
func Glance(t *ticket.Ticket) {
	v := &t.View
	long := max(v.Width, v.Height)
	v.Width, v.Height = max(1, v.Width*glanceSide/long), max(1, v.Height*glanceSide/long)
	v.Scale, v.Region.On = 100, false
	q := &t.Quality
	q.Least, q.Most, q.Noise = 8, 16, 0
	q.Diffuse, q.Glossy, q.Clear, q.Clamp = 2, 3, 8, 3
	t.Passes = ticket.New().Passes
	t.Output = ticket.New().Output
}

// GlanceInClay is Glance with the clay plan worn.
func GlanceInClay(t *ticket.Ticket) {
	Glance(t)
	t.Surface.Mode = "clay"
}
