package setup

import (
	"testing"

	"amberproof/core/scene"
)

// dressed is a lamp with three finishes and a look of its file.
func dressed() *scene.Scene {
	s := lamp()
	s.Finishes = []scene.Finish{scene.NewFinish("Grey"), scene.NewFinish("Red"), scene.NewFinish("Blue")}
	for i := range s.Parts {
		s.Parts[i].Finish = 0
	}
	s.Variants = []scene.Variant{{Name: "Warm", Wears: []scene.Wear{{Part: 0, Finish: 1}}}, {Name: "Night", Wears: []scene.Wear{{Part: 3, Finish: 2}}}}
	return s
}

// A variant goes over the set-up: what it says is so, all else is as the set-up has it; one
// of the bench hides one of the file that has its name.
func TestVariants(t *testing.T) {
	s := dressed()
	u := Setup{
		Parts:    []Change{{Part: "Base", Scale: 1, Shift: Vector{X: 5}, Finish: "Blue"}, {Part: "Screw", Scale: 1, Finish: "Red"}},
		Finishes: []Finish{{Name: "Grey", Roughness: new(0.25)}},
		Looks: []Variant{{Name: "Night", Wears: []Worn{{"Base", "Lamp / Base", "Red"}, {"Shade", "Lamp / Shade", "Blue"}},
			Colours: []Dyed{{"Grey", Colour{0.1, 0.2, 0.3}}, {"Blue", Colour{B: 0.5}}}}},
	}
	u = u.With()
	if err := u.Fault(); err != nil {
		t.Fatal(err)
	}
	if got := u.Variants(s); len(got) != 2 || got[0] != "Night" || got[1] != "Warm" {
		t.Errorf("variants %q", got)
	}
	finishes := func(u Setup) (out [4]string) {
		v := apply(t, u, s)
		for i := range v.Parts {
			out[i] = v.FinishName(i)
		}
		return out
	}
	if got := finishes(u); got != [4]string{"Blue", "Grey", "Red", "Grey"} {
		t.Errorf("as it stands %q", got)
	}
	night, ok := u.Wearing(s, "Night")
	if got := finishes(night); !ok || got != [4]string{"Red", "Blue", "Red", "Grey"} {
		t.Errorf("at night %q", got)
	}
	v := apply(t, night, s)
	if f := v.Finishes[0]; f.Roughness != 0.25 || f.Base.X != 0.1 || v.Finishes[2].Base.Z != 0.5 {
		t.Errorf("grey is %+v", f)
	}
	if c := night.Of("Base"); c.Shift.X != 5 {
		t.Errorf("the base is no longer moved: %+v", c)
	}
	warm, ok := u.Wearing(s, "Warm")
	if got := finishes(warm); !ok || got != [4]string{"Red", "Grey", "Red", "Grey"} {
		t.Errorf("the file's %q", got)
	}
	if _, ok := u.Wearing(s, "Nowhere"); ok {
		t.Error("a variant that is not there")
	}
	run := u.ForRun()
	if len(run.Looks) > 0 || len(u.Looks) != 1 {
		t.Error("a run needs the look it has, and no other")
	}
	for _, v := range []Variant{
		{Name: "Night"}, {Name: ""}, {Name: "a", Wears: []Worn{{"Base", "", "Red"}, {"Base", "", "Blue"}}}, {Name: "a", Wears: []Worn{{"Base", "", ""}}},
		{Name: "a", Colours: []Dyed{{"Grey", Colour{}}, {"Grey", Colour{}}}},
	} {
		w := u.With()
		w.Looks = append(w.Looks, v)
		if w.Fault() == nil {
			t.Errorf("%+v has no fault", v)
		}
	}
}
