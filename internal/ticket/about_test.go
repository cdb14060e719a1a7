package ticket

import (
	"slices"
	"testing"

	"amberproof/core/setup"
)

// What two tickets disagree on is about what remarks can be about.
func TestDifferencesHaveTopics(t *testing.T) {
	var a, b Resolved
	a.Ticket, b.Ticket = New(), New()
	b.Ticket.View.Exposure = 1
	b.Ticket.View.Width++
	b.Ticket.Stage.Surround.Turn = 10
	b.Ticket.Stage.Lights = []LightChange{LightAsFound("Key")}
	b.Ticket.Stage.Lights[0].Strength = 2
	b.Ticket.Surface.Clay.Crevices = &Crevices{Tone: 0.9}
	b.Ticket.Passes.Depth = !a.Ticket.Passes.Depth
	a.Setup = &setup.Setup{Finishes: []setup.Finish{{Name: "Cork"}}}
	b.Setup = &setup.Setup{Stage: &setup.Stage{Lights: []setup.Light{{Name: "Rim"}}}, Parts: []setup.Change{{Part: "Lid", Scale: 2}}}
	var topics []string
	offered := append(Topics([]string{"Key", "Rim"}, []string{"Cork"}), "")
	for _, d := range Differing(&a, &b) {
		if !slices.Contains(offered, d.Topic) {
			t.Errorf("%q is about %q, which is not offered", d.Words, d.Topic)
		}
		if !slices.Contains(topics, d.Topic) {
			topics = append(topics, d.Topic)
		}
	}
	for _, want := range []string{"exposure", "view and size", "surround", "light Key", "light Rim", "finish Cork", "crevices", ""} {
		if !slices.Contains(topics, want) {
			t.Errorf("nothing is about %q: %q", want, topics)
		}
	}
}
