package ticket

import (
	"slices"
	"testing"

	"amberproof/core/setup"
)

// What differs is said by the light, crop or finish that it is of, with units; what a ticket
// does not list of lights is as it would be by default.
func TestWhatDiffersIsSaidByItsName(t *testing.T) {
	rough := 0.3
	lights := func(all ...LightChange) func(*Resolved) {
		return func(r *Resolved) { r.Ticket.Stage.Lights = all }
	}
	stage := func(change func(*setup.Light)) func(*Resolved) {
		return func(r *Resolved) {
			l := setup.Light{Name: "Key", Kind: "rectangle", On: true, Strength: 2, Held: "lux"}
			change(&l)
			r.Setup = &setup.Setup{Stage: &setup.Stage{Lights: []setup.Light{l}}}
		}
	}
	finishes := func(all ...setup.Finish) func(*Resolved) {
		return func(r *Resolved) { r.Setup = &setup.Setup{Finishes: all} }
	}
	for name, c := range map[string]struct {
		was, is func(*Resolved)
		want    []string
	}{
		"nothing":           {lights(light("Key", true, 2)), lights(light("Key", true, 2)), nil},
		"a strength":        {lights(light("Key", true, 1)), lights(light("Key", true, 1.4)), []string{"Key: Strength 1.4 x, was 1 x"}},
		"a light is listed": {lights(), lights(light("Key", false, 1)), []string{"Key: On off, was on"}},
		"and no longer":     {lights(light("Key", true, 3)), lights(), []string{"Key: Strength 1 x, was 3 x"}},
		"the second of two": {lights(light("A", true, 1), light("B", true, 1)), lights(light("A", true, 1), light("B", true, 2)),
			[]string{"B: Strength 2 x, was 1 x"}},
		"one before another": {lights(light("B", true, 1.5)), lights(light("A", true, 0.5), light("B", true, 1.5)), []string{"A: Strength 0.5 x, was 1 x"}},
		"another order": {lights(light("A", true, 2), light("B", true, 2)), lights(light("B", true, 2), light("A", true, 2)),
			[]string{"Lights in another order"}},
		"a list without names": {func(*Resolved) {}, func(r *Resolved) { r.Ticket.Surface.Clay.Rules = []KeepRule{{By: "name", Match: "x"}} },
			[]string{"Keep rules changed"}},
		"a light of the stage": {stage(func(*setup.Light) {}), stage(func(l *setup.Light) { l.Strength, l.On = 3, false }),
			[]string{"light Key: On off, was on", "light Key: Strength 3, was 2"}},
		"a finish": {finishes(), finishes(setup.Finish{Name: "Brass", Roughness: &rough}), []string{"finish Brass: Roughness 0.3, was as the file has it"}},
	} {
		a, b := Resolved{Ticket: New()}, Resolved{Ticket: New()}
		c.was(&a)
		c.is(&b)
		if got := Differences(&a, &b); !slices.Equal(got, c.want) && len(got)+len(c.want) > 0 {
			t.Errorf("%s: %q, not %q", name, got, c.want)
		}
	}
}
