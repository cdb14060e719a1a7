package demo

import (
	"strings"

	"amberproof/core/passes"
	"amberproof/internal/job"
)

// Ready is a ticket of the demo with its name and file name.
type Ready struct {
	Name, File string
	Ticket     job.Ticket
}

// Tickets are ready tickets for the demo: the finished picture of each view,
// and the clay of the first.
func Tickets(views []job.View) []Ready {
	var out []Ready
	add := func(name string, t job.Ticket) {
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
		job.KeepRule{By: "kind", Match: "glowing", Parts: []string{}, Do: "keep"},
		job.KeepRule{By: "name", Match: "*rivet*", Parts: []string{}, Do: "second"},
	)
	c.Passes.Occlusion.On = true
	add(views[0].Name+" clay", c)
	return out
}

// stage is the ticket all of the demo's tickets start from.
func stage(view string) job.Ticket {
	t := job.New()
	t.View.Name = view
	t.Stage.Surround.Picture.Name = SurroundFile
	t.Quality.Clamp = 3
	t.Passes.Occlusion.Reach = 35
	return t
}
