package review_test

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"

	"amberproof/core/setup"
	"amberproof/core/surface"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/round"
)

func spot(x, y float64, words string) review.ToRemark {
	return review.ToRemark{Mark: round.Mark{Kind: round.Spot, Points: [][2]float64{{x, y}}}, Words: words}
}

// arrange changes the set-up of the house's scene.
func (h *house) arrange(t *testing.T, all ...setup.Change) {
	t.Helper()
	b, err := h.Scenes.Bench(ctx, h.td, h.job.Scene)
	if err != nil {
		t.Fatal(err)
	}
	u := b.Subject.Setup
	u.Parts = all
	if _, err := h.Scenes.SaveSetup(ctx, h.td, h.job.Scene, b.Version, u); err != nil {
		t.Fatal(err)
	}
}

// onBox finds a point of a proof where the box is seen.
func (h *house) onBox(t *testing.T, proof int64) (x, y float64) {
	t.Helper()
	for y = 0.05; y < 1; y += 0.05 {
		for x = 0.05; x < 1; x += 0.05 {
			at, err := h.Review.AtSpot(ctx, h.ann, proof, x, y)
			if err != nil {
				t.Fatal(err)
			}
			if slices.Contains(at.Parts, "Box") {
				// Not at its outline.
				if in, err := h.Review.AtSpot(ctx, h.ann, proof, x+0.04, y+0.04); err == nil && slices.Contains(in.Parts, "Box") {
					return x + 0.02, y + 0.02
				}
			}
		}
	}
	t.Fatal("the box is nowhere in the picture")
	return 0, 0
}

// A remark stays with its part through rounds: where that was moved it is seen there, and it is
// told where the part is gone. Settled, it is not carried further.
func TestARemarkThroughRounds(t *testing.T) {
	h := open(t)
	first := h.putUp(t, h.round(t, false, h.ann).ID, h.render(t, nothing)).Proofs[0]
	x, y := h.onBox(t, first.ID)
	all, err := h.Review.Remark(ctx, h.ann, first.ID, spot(x, y, "Too sharp an edge, @tam."))
	if err != nil {
		t.Fatal(err)
	}
	one := all[0]
	if len(all) != 1 || one.Number != 1 || one.Part != "Box" || one.State != round.Open || one.Seen != surface.Visible || one.X != x || !one.Mine || !one.Settles {
		t.Fatalf("%+v", all)
	}
	for name, who := range map[string]identity.Actor{"Tam": h.td, "Bob": h.bob} {
		all, err := h.Review.Remarks(ctx, who, first.ID)
		if err != nil || all[0].Mine != (name == "Tam") || all[0].Settles != (name == "Tam") || !slices.Equal(all[0].Lines[0].Mentions, []string{"Tam"}) {
			t.Errorf("%s sees %+v %v", name, all, err)
		}
	}
	// Two on what is there twice: a second click makes no second remark.
	if all, err = h.Review.Remark(ctx, h.ann, first.ID, spot(x, y, "Too sharp an edge, @tam.")); err != nil || len(all) != 1 {
		t.Errorf("clicked twice: %+v %v", all, err)
	}
	if _, err = h.Review.SayIn(ctx, h.bob, one.ID, review.Say{State: round.Done, In: first.ID}); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("somebody else settles it: %v", err)
	}
	if all, err = h.Review.SayIn(ctx, h.bob, one.ID, review.Say{Words: "I agree.", In: first.ID}); err != nil || len(all[0].Lines) != 2 {
		t.Errorf("%+v %v", all, err)
	}
	if err := h.Review.Withdraw(ctx, h.td, first.ID); !errors.Is(err, fault.ErrState) {
		t.Errorf("taken down with a remark on it: %v", err)
	}

	// The box is moved by a fifth of a metre.
	h.arrange(t, setup.Change{Part: "Box", Scale: 1, Shift: setup.Vector{X: 200}})
	second := h.putUp(t, h.round(t, false, h.ann).ID, h.render(t, nothing)).Proofs[0]
	changed, err := h.Review.Compare(ctx, h.ann, second.ID)
	if err != nil || !changed.Known || !slices.Equal(changed.Parts, []string{"Box moved x +200 mm"}) {
		t.Errorf("%+v %v", changed, err)
	}
	all, err = h.Review.Remarks(ctx, h.ann, second.ID)
	if err != nil || len(all) != 1 || all[0].Seen != surface.Visible || all[0].Round != 1 {
		t.Fatalf("%+v %v", all, err)
	}
	at, err := h.Review.AtSpot(ctx, h.ann, second.ID, all[0].X, all[0].Y)
	if err != nil || !slices.Contains(at.Parts, "Box") || math.Abs(all[0].X-x) < 0.02 {
		t.Errorf("it went from %v, %v to %v, %v, where %v is: %v", x, y, all[0].X, all[0].Y, at, err)
	}
	if all, err = h.Review.Remarks(ctx, h.ann, first.ID); err != nil || all[0].X != x {
		t.Errorf("in the first round: %+v %v", all, err)
	}

	// It is left out.
	h.arrange(t, setup.Change{Part: "Box", Scale: 1, Out: true})
	third := h.putUp(t, h.round(t, false, h.ann).ID, h.render(t, nothing)).Proofs[0]
	if all, err = h.Review.Remarks(ctx, h.ann, third.ID); err != nil || len(all) != 1 || all[0].Seen != surface.Gone {
		t.Errorf("%+v %v", all, err)
	}
	if changed, err = h.Review.Compare(ctx, h.ann, third.ID); err != nil || !slices.Equal(changed.Parts, []string{"Box removed"}) {
		t.Errorf("%+v %v", changed, err)
	}
	for _, c := range []struct {
		say  review.Say
		fine bool
		want round.RemarkState
	}{
		{review.Say{State: round.WontDo}, false, round.Open},
		{review.Say{State: round.WontDo, Words: "The client wants it."}, true, round.WontDo},
		{review.Say{State: round.WontDo, Words: "The client wants it."}, true, round.WontDo}, // clicked twice
		{review.Say{State: round.Open, Words: "Not any more."}, true, round.Open},
		{review.Say{State: round.Done}, true, round.Done},
		{review.Say{State: "later"}, false, round.Done},
	} {
		c.say.In = third.ID
		if _, err := h.Review.SayIn(ctx, h.td, one.ID, c.say); (err == nil) != c.fine {
			t.Errorf("%+v: %v", c.say, err)
		}
		if all, err = h.Review.Remarks(ctx, h.ann, third.ID); err != nil || all[0].State != c.want {
			t.Errorf("after %+v: %+v %v", c.say, all, err)
		}
	}
	if n := len(all[0].Lines); n != 5 {
		t.Errorf("%d lines", n)
	}
	r, err := h.Review.Get(ctx, h.ann, first.Round)
	if err != nil || r.Proofs[0].Remarks != 0 {
		t.Errorf("still open: %+v %v", r, err)
	}
}

// Several people at once get numbers of their own; what is wrong is refused and changes nothing.
func TestRemarksAtOnceAndBadOnes(t *testing.T) {
	h := open(t)
	p := h.putUp(t, h.round(t, false, h.ann).ID, h.render(t, nothing)).Proofs[0]
	var wg sync.WaitGroup
	for i := range 12 {
		who := []identity.Actor{h.ann, h.bob, h.td}[i%3]
		wg.Go(func() {
			if _, err := h.Review.Remark(ctx, who, p.ID, spot(0.5, 0.5, fmt.Sprint("remark ", i))); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	all, err := h.Review.Remarks(ctx, h.ann, p.ID)
	if err != nil || len(all) != 12 {
		t.Fatalf("%d %v", len(all), err)
	}
	for i, r := range all {
		if r.Number != i+1 {
			t.Errorf("remark %d has number %d", i, r.Number)
		}
	}
	for what, w := range map[string]review.ToRemark{
		"no words":      spot(0.5, 0.5, " \n"),
		"too many":      spot(0.5, 0.5, strings.Repeat("x", 4001)),
		"outside":       spot(1.5, 0.5, "x"),
		"not a number":  spot(math.NaN(), 0.5, "x"),
		"of no shape":   {Mark: round.Mark{Kind: "arrow", Points: [][2]float64{{0, 0}}}, Words: "x"},
		"without point": {Mark: round.Mark{Kind: round.Stroke}, Words: "x"},
	} {
		var in *fault.Input
		if _, err := h.Review.Remark(ctx, h.ann, p.ID, w); !errors.As(err, &in) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := h.Review.Remark(ctx, h.outside, p.ID, spot(0.5, 0.5, "x")); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("by somebody of no project: %v", err)
	}
	if _, err := h.Review.SayIn(ctx, h.ann, all[0].ID, review.Say{In: p.ID}); err == nil {
		t.Error("nothing was said")
	}
	if _, err := h.Review.SayIn(ctx, h.ann, all[0].ID, review.Say{Words: "x", In: 9999}); err == nil {
		t.Error("in a proof that is not there")
	}
	if again, err := h.Review.Remarks(ctx, h.ann, p.ID); err != nil || len(again) != 12 || len(again[0].Lines) != 1 {
		t.Errorf("%+v %v", again, err)
	}
}
