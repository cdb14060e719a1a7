package ticket

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"

	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/fault"
)

// Subject is what a ticket is resolved against: a scene with its set-up laid over it.
type Subject struct {
	Ref      SceneRef
	Setup    setup.Setup
	Imported *scene.Scene // as the file has it
	Scene    *scene.Scene // with the set-up
	Lost     []setup.Lost // what the set-up says and the scene has nothing for
}

// Wearing is the subject's set-up with a variant laid over it; without one for an empty
// name. False where there is none of the name.
func (s *Subject) Wearing(variant string) (setup.Setup, bool) {
	if variant == "" {
		return s.Setup, true
	}
	return s.Setup.Wearing(s.Scene, variant)
}

// As is the subject in a variant. The only error is the context's.
func (s Subject) As(ctx context.Context, variant string) (Subject, error) {
	if u, ok := s.Wearing(variant); ok && variant != "" {
		looks, err := Of(ctx, s.Ref, s.Imported, u)
		looks.Lost = s.Lost
		return looks, err
	}
	return s, nil
}

// Of lays a set-up over an imported scene. The only error is the context's.
func Of(ctx context.Context, ref SceneRef, imported *scene.Scene, u setup.Setup) (Subject, error) {
	v, lost, err := u.Apply(ctx, imported)
	return Subject{ref, u, imported, v, lost}, err
}

// Subject is the scene of a resolved ticket, as imported, with its set-up laid over it. The
// only error is the context's.
func (r *Resolved) Subject(ctx context.Context, imported *scene.Scene) (*scene.Scene, error) {
	u := r.setup()
	v, _, err := u.Apply(ctx, imported)
	return v, err
}

func (r *Resolved) setup() setup.Setup {
	if r.Setup == nil {
		return setup.Setup{}
	}
	return *r.Setup
}

// CheckSetup lists every fault of a set-up by itself.
func CheckSetup(u *setup.Setup) []fault.Fault {
	faults := outOfRange(reflect.ValueOf(u).Elem())
	if err := u.Fault(); err != nil && len(faults) == 0 {
		faults = append(faults, fault.At("setup", err.Error()))
	}
	return faults
}

// DecodeStage reads a stage by itself and lists its faults.
func DecodeStage(body []byte) (*setup.Stage, []fault.Fault) {
	u := setup.Setup{Stage: &setup.Stage{}}
	if err := json.Unmarshal(body, u.Stage); err != nil {
		return nil, []fault.Fault{fault.At("stage", "It cannot be read: "+err.Error())}
	}
	u.Tidy()
	return u.Stage, CheckSetup(&u)
}

// setupDifferences says which parts two set-ups have stand or look otherwise, and
// which finishes.
func setupDifferences(a, b setup.Setup) (out []Difference) {
	say := func(topic, format string, v ...any) { out = append(out, Difference{topic, fmt.Sprintf(format, v...)}) }
	was := map[string]setup.Finish{}
	for _, f := range a.Finishes {
		was[f.Name] = f
	}
	for _, f := range b.Finishes {
		old, ok := was[f.Name]
		if !ok {
			old = setup.Finish{Name: f.Name, From: f.From, Made: f.Made}
		}
		out = append(out, about(OfFinish(f.Name), differ("finish "+f.Name, &old, &f, "as the file has it"))...)
		delete(was, f.Name)
	}
	for _, f := range a.Finishes {
		if _, gone := was[f.Name]; gone {
			say(OfFinish(f.Name), "finish %s as the file has it again", f.Name)
		}
	}
	for _, c := range b.Parts {
		if was := a.Of(c.Part); was != c {
			say("", "%s%s, was %s", OfPart(c.Part), changeSaid(&c), changeSaid(&was))
		}
	}
	for _, c := range a.Parts {
		if is := b.Of(c.Part); is.IsZero() {
			say("", "%s%s, was %s", OfPart(c.Part), changeSaid(&is), changeSaid(&c))
		}
	}
	if !slices.Equal(a.Sets, b.Sets) {
		say("", "sets of faces: %d, were %d, or others", len(b.Sets), len(a.Sets))
	}
	if was, is := fileSaid(a.File), fileSaid(b.File); was != is {
		say("", "file: %s, was %s", is, was)
	}
	return append(out, stageDifferences(a.Stage, b.Stage)...)
}

// OfPart begins a difference in how a part was set up.
func OfPart(part string) string { return "set-up of " + part + ": " }

// fileSaid is a correction of a file in words; nil is none.
func fileSaid(f *setup.File) string {
	if f == nil {
		return "as it was read"
	}
	return fmt.Sprintf("%s points up, turned %.6g deg, %.6g times as large", f.Up, f.Turn, f.Size)
}

// stageDifferences says what of a stage is otherwise; nil is none.
func stageDifferences(a, b *setup.Stage) (out []Difference) {
	say := func(topic, words string) { out = append(out, Difference{topic, words}) }
	if a == nil {
		a = &setup.Stage{}
	}
	if b == nil {
		b = &setup.Stage{}
	}
	if a.Backdrop != b.Backdrop || a.Floor != b.Floor && b.Backdrop.Kind != setup.NoBackdrop {
		out = append(out, about(backing, differ("backdrop", &a.Backdrop, &b.Backdrop, "not set"))...)
		if a.Floor != b.Floor {
			say(backing, "backdrop: moved with the floor")
		}
	}
	was := map[string]setup.Light{}
	for _, l := range a.Lights {
		was[l.Name] = l
	}
	for _, l := range b.Lights {
		if old, ok := was[l.Name]; !ok {
			say(OfLight(l.Name), fmt.Sprintf("light %s set up", l.Name))
		} else if said := differ("light "+l.Name, &old, &l, "not set"); len(said) > 0 {
			out = append(out, about(OfLight(l.Name), said)...)
		} else if a.Middle != b.Middle {
			say(OfLight(l.Name), fmt.Sprintf("light %s moved with the middle of the stage", l.Name))
		}
		delete(was, l.Name)
	}
	for _, l := range a.Lights {
		if _, gone := was[l.Name]; gone {
			say(OfLight(l.Name), fmt.Sprintf("light %s taken away", l.Name))
		}
	}
	return out
}

// changeSaid is a change in words.
func changeSaid(c *setup.Change) string {
	switch {
	case c.Out:
		return "left out"
	case c.IsZero():
		return "as the file has it"
	}
	said := ""
	add := func(format string, a ...any) {
		if said != "" {
			said += ", "
		}
		said += fmt.Sprintf(format, a...)
	}
	if c.Shift != (setup.Vector{}) {
		add("moved %.6g, %.6g, %.6g mm", c.Shift.X, c.Shift.Y, c.Shift.Z)
	}
	if c.Turn != (setup.Angles{}) {
		add("turned %.6g, %.6g, %.6g deg", c.Turn.X, c.Turn.Y, c.Turn.Z)
	}
	if c.Scale != 1 {
		add("%.6g times as large", c.Scale)
	}
	if c.Finish != "" {
		add("wears %s", c.Finish)
	}
	if c.Name != "" {
		add("called %s", c.Name)
	}
	if c.Group != "" {
		add("in the group %s", c.Group)
	}
	if c.Smooth > 0 {
		add("smoothed %d times", c.Smooth)
	}
	return said
}
