package review_test

import (
	"errors"
	"slices"
	"testing"

	"amberproof/internal/fault"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/ticket"
)

// A remark about a setting is offered where that setting was changed, and nowhere else.
func TestARemarkAboutASetting(t *testing.T) {
	h := open(t)
	r := h.round(t, false, h.ann)
	p := h.putUp(t, r.ID, h.render(t, nothing)).Proofs[0]
	topics, err := h.Review.Topics(ctx, h.ann, p.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"light Lamp", "exposure", "surround", "noise and samples"} {
		if !slices.Contains(topics, want) {
			t.Errorf("%q is not among %q", want, topics)
		}
	}
	spot := round.Mark{Kind: round.Spot, Points: [][2]float64{{0.5, 0.5}}}
	for _, topic := range []string{"light Lamp", "exposure", ""} {
		if _, err := h.Review.Remark(ctx, h.ann, p.ID, review.ToRemark{Mark: spot, Words: "About " + topic, Topic: topic}); err != nil {
			t.Fatal(err)
		}
	}
	var bad *fault.Input
	if _, err := h.Review.Remark(ctx, h.ann, p.ID, review.ToRemark{Mark: spot, Words: "x", Topic: "light Moon"}); !errors.As(err, &bad) {
		t.Errorf("a light that is not there: %v", err)
	}
	wanted := func() map[string]int {
		t.Helper()
		all, err := h.Review.Wanted(ctx, h.td, h.job.ID)
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]int{}
		for _, w := range all {
			out[w.Topic] = len(w.Changed)
		}
		return out
	}
	if got := wanted(); len(got) != 2 || got["light Lamp"] != 0 || got["exposure"] != 0 {
		t.Errorf("nothing was changed: %v", got)
	}
	second := h.putUp(t, r.ID, h.render(t, func(v *ticket.Ticket) {
		v.Stage.Lights = []ticket.LightChange{ticket.LightAsFound("Lamp")}
		v.Stage.Lights[0].Strength = 0.5
		v.Surface.Clay.Tone = 0.3
	}))
	if got := wanted(); len(got) != 2 || got["light Lamp"] != 1 || got["exposure"] != 0 {
		t.Errorf("a light was changed: %v", got)
	}
	c, err := h.Review.Compare(ctx, h.td, second.Proofs[1].ID)
	if err != nil || !slices.Contains(c.Topics, "light Lamp") || slices.Contains(c.Topics, "exposure") {
		t.Errorf("%q, %v", c.Topics, err)
	}
}
