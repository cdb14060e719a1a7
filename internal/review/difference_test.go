package review_test

import (
	"errors"
	"slices"
	"testing"

	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/review"
	"amberproof/internal/ticket"
)

// Two seeds of one ticket light up nothing; a part that was moved by two millimetres of a
// picture in which that is a third of a pixel does, and so does a light by a tenth; other sizes are
// not compared.
func TestWhatChangedInAPicture(t *testing.T) {
	h := open(t)
	r := h.round(t, false)
	last := int64(0)
	up := func(pass string, change func(*ticket.Ticket)) review.Difference {
		t.Helper()
		run := h.render(t, change)
		got, err := h.Review.PutUp(ctx, h.td, r.ID, review.ToPutUp{Run: run, Passes: []string{pass}})
		if err != nil {
			t.Fatal(err)
		}
		last = got.Proofs[len(got.Proofs)-1].ID
		d, err := h.Review.Differ(ctx, h.td, last)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	seed := 1
	reseeded := func(v *ticket.Ticket) {
		seed++
		v.Quality.Seed = seed
	}
	big := func(v *ticket.Ticket) { v.View.Width, v.View.Height, v.Quality.Most = 180, 120, 16; reseeded(v) }
	for _, pass := range []string{"beauty", "beauty.denoised"} {
		denoise := func(v *ticket.Ticket) { big(v); v.Quality.Denoise.On = pass == "beauty.denoised" }
		up(pass, denoise)
		for range 2 {
			if d := up(pass, reseeded); d.Why != "" || !d.Measured || d.Share != 0 || len(d.Parts) != 0 {
				t.Errorf("%s, another seed: %+v", pass, d)
			}
		}
		h.arrange(t, setup.Change{Part: "Box", Scale: 1, Shift: setup.Vector{X: 20}})
		if d := up(pass, reseeded); d.Share == 0 || !slices.ContainsFunc(d.Parts, func(p review.PartShare) bool { return p.Part == "Box" }) {
			t.Errorf("%s, moved: %+v", pass, d)
		}
		// The move is said once: by the part's geometry, and not by its set-up as well.
		c, err := h.Review.Compare(ctx, h.td, last)
		if err != nil || len(c.Parts) != 1 || len(c.Words) != 1 {
			t.Errorf("%q and %q, %v", c.Parts, c.Words, err)
		}
		h.arrange(t)
		up(pass, reseeded)
		if d := up(pass, func(v *ticket.Ticket) { reseeded(v); v.Stage.Surround.Strength *= 1.3 }); d.Share < 0.2 {
			t.Errorf("%s, another light: %+v", pass, d)
		}
	}
	if d := up("beauty", func(v *ticket.Ticket) { v.View.Width = 120 }); d.Why == "" {
		t.Errorf("another size: %+v", d)
	}
	got, err := h.Review.Get(ctx, h.td, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	if b, err := h.Review.DifferencePicture(ctx, h.td, got.Proofs[1].ID); err != nil || len(b) < 100 {
		t.Errorf("%d bytes, %v", len(b), err)
	}
	if _, err := h.Review.DifferencePicture(ctx, h.td, got.Proofs[0].ID); !errors.Is(err, fault.ErrState) {
		t.Errorf("of the first: %v", err)
	}
}
