package scenes

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"sync"

	"amberproof/core/parallel"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// Report is what the preflight of a scene found, as it stands on the bench.
type Report struct {
	Version  int64     `json:"version" doc:"Of the set-up that was checked"`
	Findings []Finding `json:"findings" nullable:"false"`
}

// Finding is one thing found.
type Finding struct {
	Check  preflight.Check `json:"check" enum:"size,axis,floats,sinks,through,coincident,doubled,bare,open,inward,inside,facets,coarse,vast,green,encoded,edge,clips,dark,mirrors,faint,sole"`
	Part   string          `json:"part" doc:"Key of the part; empty where it is of none"`
	Other  string          `json:"other" doc:"Key of the part it has to do with, or empty"`
	View   string          `json:"view" doc:"Name of the view that it is seen from, or empty"`
	Value  float64         `json:"value"`
	Unit   string          `json:"unit" doc:"Of the value"`
	Sure   preflight.Sure  `json:"sure" enum:"certain,likely,perhaps"`
	Says   string          `json:"says"`
	Centre [3]float32      `json:"centre" nullable:"false" doc:"Of what is to be looked at, metres"`
	Radius float32         `json:"radius"`
	Fix    *Fix            `json:"fix"`
	Aside  bool            `json:"aside" doc:"Somebody said that it is meant to be so"`
}

// Fix is what would mend a finding.
type Fix struct {
	Says     string         `json:"says"`
	Changes  []setup.Change `json:"changes" nullable:"false" doc:"Changes of the set-up, to be laid over those of the same parts"`
	Finishes []setup.Finish `json:"finishes" nullable:"false" doc:"And over those of the same finishes"`
	File     *setup.File    `json:"file" doc:"In place of the correction of the file"`
}

// checked is what a preflight depends on; the set-up, the views and the ticket as JSON,
// so that it can be compared. Without a ticket it is of all views, as a new job would
// be lit.
type checked struct{ sum, setup, views, ticket string }

// checks runs preflights and tells how far they are.
type checks struct {
	mu     sync.Mutex
	shares map[checked]float64
}

func (c *checks) set(k checked, share float64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.shares == nil {
		c.shares = map[checked]float64{}
	}
	c.shares[k] = share
}

func (c *checks) end(k checked) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.shares, k)
}

func (c *checks) share(k checked) (float64, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	v, ok := c.shares[k]
	return v, ok
}

// reportBytes is how much of reports is kept.
const reportBytes = 16 << 20

// Checking is where a preflight stands.
type Checking struct {
	Known bool    `json:"known" doc:"Whether there is such a check; it ends with its answer"`
	Share float64 `json:"share" doc:"Of the work that is done, 0 to 1"`
}

// Preflight checks a scene as it stands on the bench. What nobody waits for any more
// is given up.
func (s *Service) Preflight(ctx context.Context, who identity.Actor, id int64) (Report, error) {
	return s.preflight(ctx, who, id, nil)
}

// PreflightOf checks a scene as a ticket would render it: from its view, at its size,
// in its light.
func (s *Service) PreflightOf(ctx context.Context, who identity.Actor, id int64, t *ticket.Ticket) (Report, error) {
	return s.preflight(ctx, who, id, t)
}

func (s *Service) preflight(ctx context.Context, who identity.Actor, id int64, t *ticket.Ticket) (Report, error) {
	b, views, k, err := s.toCheck(ctx, who, id, t)
	if err != nil {
		return Report{}, err
	}
	found, err := s.reports.Get(ctx, k)
	if err != nil {
		return Report{}, err
	}
	out := Report{Version: b.Version, Findings: []Finding{}}
	keys := b.Subject.Scene.Keys()
	for i := range found {
		out.Findings = append(out.Findings, told(&found[i], b.Subject.Scene, keys, &b.Subject.Setup, views))
	}
	return out, nil
}

// Checking tells where the preflight of a scene stands.
func (s *Service) Checking(ctx context.Context, who identity.Actor, id int64) (Checking, error) {
	_, _, k, err := s.toCheck(ctx, who, id, nil)
	if err != nil {
		return Checking{}, err
	}
	share, ok := s.checks.share(k)
	return Checking{ok, share}, nil
}

// Drop tells what changes of the set-up put parts, as one, down onto what is under
// them, or up out of the floor. onto is the key of what they then stand on.
func (s *Service) Drop(ctx context.Context, who identity.Actor, id int64, parts []string) (changes []setup.Change, onto string, err error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return nil, "", err
	}
	v := b.Subject.Scene
	keys := v.Keys()
	at, err := partsOf(v, parts)
	if err != nil {
		return nil, "", err
	}
	done, err := s.admitted(ctx, s.bench.Join(), preflight.Bytes(v))
	if err != nil {
		return nil, "", err
	}
	defer done()
	by, on, err := preflight.Drop(ctx, preflight.Subject{Scene: v, Lamp: ticket.IsLamp(v)}, at)
	if err != nil {
		return nil, "", err
	}
	if on < 0 {
		return nil, "", fault.Bad("Nothing is under what is picked; it stays where it is")
	}
	f := told(&preflight.Finding{Part: -1, Other: -1, View: -1, Fix: &preflight.Fix{Parts: at, Shift: by}}, v, keys, &b.Subject.Setup, nil)
	if f.Fix == nil {
		return nil, "", fault.Bad("What stands on the stage is put there by the stage")
	}
	return f.Fix.Changes, keys[on], nil
}

// toCheck is what a preflight of a scene is of; t may be nil.
func (s *Service) toCheck(ctx context.Context, who identity.Actor, id int64, t *ticket.Ticket) (b Bench, views []View, k checked, err error) {
	if b, err = s.Bench(ctx, who, id); err != nil {
		return b, views, k, err
	}
	if views, err = s.Views(ctx, who, id); err != nil {
		return b, views, k, err
	}
	k.sum = b.Scene.SHA256
	if t != nil {
		of := lookedAt(*t)
		if err := s.Pin(ctx, b.Scene.Project, &of); err != nil {
			return b, views, k, err
		}
		k.ticket = string(ticket.Encode(of))
		if views = slices.DeleteFunc(views, func(v View) bool { return v.Name != of.View.Name }); len(views) == 0 {
			return b, views, k, fault.Bad("The scene has no view %q", of.View.Name)
		}
	}
	shape := b.Subject.Setup.With()
	shape.Aside = nil // which changes nothing of what is found
	if t == nil || t.Surface.Variant == "" {
		shape.Looks = nil // nor do looks that are not worn
	}
	for _, v := range []struct {
		doc any
		to  *string
	}{{shape, &k.setup}, {views, &k.views}} {
		j, err := json.Marshal(v.doc)
		if err != nil {
			return b, views, k, err
		}
		*v.to = string(j)
	}
	return b, views, k, nil
}

// opened is what a check is of: the scene as it is worn, the set-up, the ticket, and the
// views as the ticket's moment has them.
type opened struct {
	scene *scene.Scene
	setup setup.Setup
	views []View
	t     ticket.Ticket
}

func (s *Service) opened(ctx context.Context, k checked) (of opened, err error) {
	v, err := s.scenes.Get(ctx, k.sum)
	if err != nil {
		return of, err
	}
	if err := json.Unmarshal([]byte(k.setup), &of.setup); err != nil {
		return of, err
	}
	if err := json.Unmarshal([]byte(k.views), &of.views); err != nil {
		return of, err
	}
	of.t = ticket.NewFor(&of.setup)
	if k.ticket != "" {
		var faults []fault.Fault
		if of.t, faults = ticket.Decode([]byte(k.ticket)); len(faults) > 0 {
			return of, fault.Ticket(faults)
		}
		var known bool
		if of.setup, known = of.setup.Wearing(v, of.t.Surface.Variant); !known && of.t.Surface.Variant != "" {
			return of, fault.Bad("The scene has no variant %q", of.t.Surface.Variant)
		}
	}
	if of.scene, _, err = of.setup.Apply(ctx, v); err != nil {
		return of, err
	}
	if at := of.scene.MotionNamed(of.t.View.Motion.Animation); k.ticket != "" && at >= 0 {
		for i := range of.views {
			of.views[i].Camera = of.views[i].Camera.Posed(of.scene, at, of.t.View.Motion.Moment)
		}
	}
	return of, nil
}

// check makes a preflight.
func (s *Service) check(ctx context.Context, k checked) ([]preflight.Finding, error) {
	defer s.checks.end(k)
	ctx = parallel.Beside(ctx, s.busy)
	s.checks.set(k, 0)
	o, err := s.opened(ctx, k)
	if err != nil {
		return nil, err
	}
	c := s.checkOf(ctx, o)
	if k.ticket != "" { // the frame's shape is the ticket's; a view by itself is looked at as a square
		size := o.t.Size()
		c.Aspect, c.Lines = float32(size.X)/float32(size.Y), size.Y
	}
	shapes, err := c.Shapes(ctx, func(share float64) { s.checks.set(k, share*shapesShare) })
	if err != nil {
		return nil, err
	}
	light, err := c.Light(ctx)
	if err != nil {
		return nil, err
	}
	return c.Sorted(shapes, light), nil
}

// checkOf is what is looked at of a scene, one at a time: each takes all cores.
func (s *Service) checkOf(ctx context.Context, o opened) pipeline.Check {
	t := o.t
	surround, err := s.Picture(ctx, &t)
	if err != nil {
		surround = nil // that it is not here is told when somebody looks or runs
	}
	return pipeline.Check{
		Scene: o.scene, Setup: o.setup, Ticket: t, Views: PlainViews(o.views), Surround: surround, Aspect: 1,
		Admit: func(ctx context.Context, bytes int64) (func(), error) { return s.admitted(ctx, s.bench.Join(), bytes) },
	}
}

// lookedAt is a ticket with all that a preflight does not depend on as it is in a new one.
func lookedAt(t ticket.Ticket) ticket.Ticket {
	plain := ticket.New()
	t.Passes, t.Output, t.View.Region = plain.Passes, plain.Output, plain.View.Region
	bounces := t.Quality
	t.Quality = plain.Quality
	t.Quality.Diffuse, t.Quality.Glossy, t.Quality.Clear, t.Quality.ClearShadows = bounces.Diffuse, bounces.Glossy, bounces.Clear, bounces.ClearShadows
	return t
}

// shapesShare is about how much of a preflight's time its shapes take; the rest is light.
const shapesShare = 0.4

// told is a finding as people get it.
func told(f *preflight.Finding, v *scene.Scene, keys []string, u *setup.Setup, views []View) Finding {
	key := func(part int) string {
		if part < 0 || part >= len(keys) { // a floor that a ticket lays is no part of the scene
			return ""
		}
		return keys[part]
	}
	c := f.Where.Centre()
	out := Finding{
		Check: f.Check, Part: key(f.Part), Other: key(f.Other), Value: f.Value, Unit: f.Unit, Sure: f.Sure, Says: f.Says,
		Centre: [3]float32{c.X, c.Y, c.Z}, Radius: f.Where.Radius(),
	}
	out.Aside = slices.Contains(u.Aside, setup.Aside{Check: string(out.Check), Part: out.Part, Other: out.Other})
	if f.View >= 0 && f.View < len(views) {
		out.View = views[f.View].Name
	}
	if f.Fix != nil && !slices.ContainsFunc(f.Fix.Parts, func(i int) bool { return v.Parts[i].Staged }) {
		out.Fix = mending(f.Fix, v, keys, u)
	}
	return out
}

// mm is a length of metres in millimetres, to a tenth of a micrometre.
func mm(metres float32) float64 { return math.Round(float64(metres)*1e7) / 1e4 }

// mending is a fix as changes of a set-up; nil where the set-up cannot say it.
func mending(f *preflight.Fix, v *scene.Scene, keys []string, u *setup.Setup) *Fix {
	out := &Fix{Says: f.Says, Changes: []setup.Change{}, Finishes: []setup.Finish{}}
	paths := v.Paths()
	for _, i := range f.Parts {
		c := u.Of(keys[i])
		c.Path, c.Out, c.Smooth = paths[v.Parts[i].Object], c.Out || f.Out, c.Smooth+f.Smooth
		if c.Smooth > setup.MostSmooth {
			return nil
		}
		c.Shift.X += mm(f.Shift.X)
		c.Shift.Y += mm(f.Shift.Y)
		c.Shift.Z += mm(f.Shift.Z)
		out.Changes = append(out.Changes, c)
	}
	for _, k := range f.Green {
		g := setup.Finish{Name: v.Finishes[k].Name}
		for _, have := range u.Finishes {
			if have.Name == g.Name {
				g = have
			}
		}
		down := !v.Finishes[k].GreenDown
		g.GreenDown = &down
		out.Finishes = append(out.Finishes, g)
	}
	if f.Up != "" || f.Size > 0 {
		file := u.Corrected(f.Up, f.Size)
		out.File = &file
	}
	return out
}
