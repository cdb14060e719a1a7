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
func setupDifferences(a, b setup.Setup) (out []string) {
	was := map[string]setup.Finish{}
	for _, f := range a.Finishes {
		was[f.Name] = f
	}
	for _, f := range b.Finishes {
		old, ok := was[f.Name]
		if !ok {
			old = setup.Finish{Name: f.Name, From: f.From, Made: f.Made}
		}
		out = append(out, differ("finish "+f.Name, &old, &f, "as the file has it")...)
		delete(was, f.Name)
	}
	for _, f := range a.Finishes {
		if _, gone := was[f.Name]; gone {
			out = append(out, fmt.Sprintf("finish %s as the file has it again", f.Name))
		}
	}
	for _, c := range b.Parts {
		if was := a.Of(c.Part); was != c {
			out = append(out, fmt.Sprintf("%s%s, was %s", OfPart(c.Part), changeSaid(&c), changeSaid(&was)))
		}
	}
	for _, c := range a.Parts {
		if is := b.Of(c.Part); is.IsZero() {
			out = append(out, fmt.Sprintf("%s%s, was %s", OfPart(c.Part), changeSaid(&is), changeSaid(&c)))
		}
	}
	if !slices.Equal(a.Sets, b.Sets) {
		out = append(out, fmt.Sprintf("sets of faces: %d, were %d, or others", len(b.Sets), len(a.Sets)))
	}
	if was, is := fileSaid(a.File), fileSaid(b.File); was != is {
		out = append(out, fmt.Sprintf("file: %s, was %s", is, was))
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
func stageDifferences(a, b *setup.Stage) (out []string) {
	if a == nil {
		a = &setup.Stage{}
	}
	if b == nil {
		b = &setup.Stage{}
	}
	if a.Backdrop != b.Backdrop || a.Floor != b.Floor && b.Backdrop.Kind != setup.NoBackdrop {
		out = append(out, differ("backdrop", &a.Backdrop, &b.Backdrop, "not set")...)
		if a.Floor != b.Floor {
			out = append(out, "backdrop: moved with the floor")
		}
	}
	was := map[string]setup.Light{}
	for _, l := range a.Lights {
		was[l.Name] = l
	}
	for _, l := range b.Lights {
		if old, ok := was[l.Name]; !ok {
			out = append(out, fmt.Sprintf("light %s set up", l.Name))
		} else if said := differ("light "+l.Name, &old, &l, "not set"); len(said) > 0 {
			out = append(out, said...)
		} else if a.Middle != b.Middle {
			out = append(out, fmt.Sprintf("light %s moved with the middle of the stage", l.Name))
		}
		delete(was, l.Name)
	}
	for _, l := range a.Lights {
		if _, gone := was[l.Name]; gone {
			out = append(out, fmt.Sprintf("light %s taken away", l.Name))
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
