// Package setup is what was changed on the bench over an imported scene: a value
// that is laid over the scene and never written into it.
package setup

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"slices"

	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// Setup is a set-up. The zero value changes nothing.
type Setup struct {
	File     *File     `json:"file,omitempty"`
	Sets     []Set     `json:"sets,omitempty" most:"500" nullable:"false"`
	Finishes []Finish  `json:"finishes,omitempty" most:"5000" nullable:"false"`
	Parts    []Change  `json:"parts" most:"20000" nullable:"false"`
	Stage    *Stage    `json:"stage,omitempty"`
	Looks    []Variant `json:"variants,omitempty" most:"200" nullable:"false"`
	Aside    []Aside   `json:"aside,omitempty" most:"5000" nullable:"false"`
}

// Aside names a finding of the preflight that is meant to be so.
type Aside struct {
	Check string `json:"check" maxlen:"100"`
	Part  string `json:"part" maxlen:"4096" def:""`
	Other string `json:"other" maxlen:"4096" def:""`
}

// Change is what was changed of one part. Its place is changed about the middle of
// the part as the file has it: scaled, turned about the upright axes x, then y,
// then z, then shifted.
type Change struct {
	Part   string  `json:"part" maxlen:"4096"`
	Path   string  `json:"path" maxlen:"65536"`
	Out    bool    `json:"out" def:"false"`
	Shift  Vector  `json:"shift"`
	Turn   Angles  `json:"turn"`
	Scale  float64 `json:"scale" unit:"x" min:"0.001" max:"1000" step:"0.01" def:"1"`
	Finish string  `json:"finish" maxlen:"4096" def:""`
	Name   string  `json:"name,omitempty" maxlen:"200" def:""`
	Group  string  `json:"group,omitempty" maxlen:"200" def:""`
	Smooth int     `json:"smooth,omitempty" unit:"times" min:"0" max:"4" def:"0"`
}

// Vector is a way in the world, millimetres.
type Vector struct {
	X float64 `json:"x" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
	Y float64 `json:"y" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
	Z float64 `json:"z" unit:"mm" min:"-1000000" max:"1000000" step:"1" def:"0"`
}

// Angles are turns about the axes of the world, degrees, counter-clockwise.
type Angles struct {
	X float64 `json:"x" unit:"deg" min:"-360" max:"360" step:"1" def:"0"`
	Y float64 `json:"y" unit:"deg" min:"-360" max:"360" step:"1" def:"0"`
	Z float64 `json:"z" unit:"deg" min:"-360" max:"360" step:"1" def:"0"`
}

// UnmarshalJSON gives what a change leaves out its default.
func (c *Change) UnmarshalJSON(b []byte) error {
	type plain Change
	p := plain{Scale: 1}
	err := strictly(b, &p)
	if err == nil {
		*c = Change(p)
	}
	return err
}

// strictly reads a part of a set-up over its defaults; unknown names are errors.
func strictly(b []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(b))
	d.DisallowUnknownFields()
	return d.Decode(into)
}

// Decode reads a set-up. Unknown names are errors, so that a misspelt one cannot be
// lost in silence.
func Decode(data []byte) (u Setup, err error) {
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&u); err != nil {
		return Setup{}, fmt.Errorf("the set-up cannot be read: %w", err)
	}
	if _, err := d.Token(); err != io.EOF {
		return Setup{}, fmt.Errorf("the set-up is followed by something else; give one set-up a file")
	}
	u.Tidy()
	return u, nil
}

// stays tells whether a change leaves its part where it is.
func (c *Change) stays() bool {
	return c.Shift == Vector{} && c.Turn == Angles{} && c.Scale == 1
}

// IsZero tells whether a change changes nothing.
func (c *Change) IsZero() bool {
	return c.stays() && !c.Out && c.Finish == "" && c.Name == "" && c.Group == "" && c.Smooth == 0
}

// IsZero tells whether a tidy set-up changes nothing.
func (u *Setup) IsZero() bool {
	return len(u.Parts) == 0 && len(u.Finishes) == 0 && len(u.Aside) == 0 && len(u.Looks) == 0 && len(u.Sets) == 0 && u.Stage == nil && u.File == nil
}

// Tidy brings a set-up into its canonical form: changes in the order of their
// parts, none of which changes nothing.
func (u *Setup) Tidy() {
	if u.Parts == nil {
		u.Parts = []Change{}
	}
	u.Finishes = slices.DeleteFunc(u.Finishes, func(f Finish) bool { return f.IsZero() })
	slices.SortStableFunc(u.Finishes, func(a, b Finish) int { return cmp.Compare(a.Name, b.Name) })
	if len(u.Finishes) == 0 {
		u.Finishes = nil // left out when it is written
	}
	u.Parts = slices.DeleteFunc(u.Parts, func(c Change) bool { return c.IsZero() })
	slices.SortStableFunc(u.Parts, func(a, b Change) int { return cmp.Compare(a.Part, b.Part) })
	for i := range u.Parts {
		c := &u.Parts[i]
		for _, v := range []*float64{&c.Shift.X, &c.Shift.Y, &c.Shift.Z, &c.Turn.X, &c.Turn.Y, &c.Turn.Z} {
			*v += 0 // a negative zero is none
		}
	}
	if u.Stage != nil {
		u.Stage.tidy()
	}
	for i := range u.Looks {
		u.Looks[i].tidy()
	}
	if u.File != nil && *u.File == NewFile() {
		u.File = nil
	}
	slices.SortFunc(u.Aside, func(a, b Aside) int {
		return cmp.Or(cmp.Compare(a.Check, b.Check), cmp.Compare(a.Part, b.Part), cmp.Compare(a.Other, b.Other))
	})
	u.Aside = slices.Compact(u.Aside)
	if len(u.Aside) == 0 {
		u.Aside = nil // left out when it is written
	}
}

// Of is what a set-up changes of a part; a change that changes nothing where there is none.
func (u *Setup) Of(part string) Change {
	for _, c := range u.Parts {
		if c.Part == part {
			return c
		}
	}
	return Change{Part: part, Scale: 1}
}

// With is the set-up with some of its changes replaced by others of the same parts.
func (u *Setup) With(changes ...Change) Setup {
	out := Setup{Finishes: slices.Clone(u.Finishes), Parts: slices.Clone(u.Parts), Stage: u.Stage.clone(), Aside: slices.Clone(u.Aside),
		Sets: slices.Clone(u.Sets)}
	if u.File != nil {
		file := *u.File
		out.File = &file
	}
	for i := range u.Looks {
		out.Looks = append(out.Looks, u.Looks[i].clone())
	}
	for _, c := range changes {
		out.Parts = slices.DeleteFunc(out.Parts, func(was Change) bool { return was.Part == c.Part })
		out.Parts = append(out.Parts, c)
	}
	out.Tidy()
	return out
}

// Fault is the first thing that makes a set-up no proper one, or nil.
func (u *Setup) Fault() error {
	made := map[string]bool{}
	for _, f := range u.Finishes {
		if made[f.Name] || f.Name == "" {
			return fmt.Errorf("the finish %q is listed twice, or has no name", f.Name)
		}
		made[f.Name] = true
	}
	seen := map[string]bool{}
	for _, c := range u.Parts {
		if seen[c.Part] {
			return fmt.Errorf("the part %q is listed twice", c.Part)
		}
		seen[c.Part] = true
		for _, v := range []float64{c.Shift.X, c.Shift.Y, c.Shift.Z, c.Turn.X, c.Turn.Y, c.Turn.Z, c.Scale} {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				return fmt.Errorf("the place of %q is not a number", c.Part)
			}
		}
	}
	sets := map[string]bool{}
	for i := range u.Sets {
		if sets[u.Sets[i].Name] {
			return fmt.Errorf("the set of faces %q is listed twice", u.Sets[i].Name)
		}
		sets[u.Sets[i].Name] = true
		if err := u.Sets[i].fault(); err != nil {
			return err
		}
	}
	looks := map[string]bool{}
	for i := range u.Looks {
		if looks[u.Looks[i].Name] {
			return fmt.Errorf("the variant %q is listed twice", u.Looks[i].Name)
		}
		looks[u.Looks[i].Name] = true
		if err := u.Looks[i].fault(); err != nil {
			return err
		}
	}
	if u.File != nil && !u.File.proper() {
		return fmt.Errorf("the axis, turn or size of the file is no proper one")
	}
	if u.Stage != nil {
		return u.Stage.fault()
	}
	return nil
}

// Apply lays a set-up over a scene. Everything that is not changed is shared with
// s, which stays as it is; parts keep their places in its lists. lost are the
// changes, or what they ask for, that the scene has nothing for. The only error is the
// context's.
func (u *Setup) Apply(ctx context.Context, s *scene.Scene) (out *scene.Scene, lost []Lost, err error) {
	if u.IsZero() {
		return s, nil, nil
	}
	defer parallel.Catch(&err)
	v := *s
	if u.File != nil {
		u.File.onto(&v)
	}
	v.Parts = slices.Clone(s.Parts)
	lost = u.parted(ctx, &v)
	parted := v
	parted.Parts = slices.Clone(v.Parts)
	s = &parted
	var unknown []Lost
	v.Finishes, unknown = u.applyFinishes(ctx, s)
	v.Images = s.Images
	lost = append(lost, unknown...)
	for k, i := range u.Match(s) {
		c := &u.Parts[k]
		if i < 0 {
			lost = append(lost, Lost{c.Part, "the scene has no such part"})
			continue
		}
		p := &v.Parts[i]
		p.Out, p.Group = c.Out, c.Group
		if c.Name != "" {
			p.Was, p.Name = p.Name, c.Name
		}
		if !c.stays() {
			var ok bool
			if p.Place, ok = c.place(s, i); !ok {
				lost = append(lost, Lost{c.Part, "it is flattened to nothing and cannot be moved"})
			}
		}
		if c.Finish != "" {
			if f := slices.IndexFunc(v.Finishes, func(f scene.Finish) bool { return f.Name == c.Finish }); f >= 0 {
				p.Finish = f
			} else {
				lost = append(lost, Lost{c.Part, fmt.Sprintf("the scene has no finish %q; it wears its own", c.Finish)})
			}
		}
	}
	u.wrap(ctx, &v)
	u.smooth(&v)
	if u.Stage != nil {
		v.Objects, v.Meshes, v.Lights = slices.Clip(v.Objects), slices.Clip(v.Meshes), slices.Clip(v.Lights)
		u.Stage.onto(&v)
	}
	return &v, lost, nil
}
