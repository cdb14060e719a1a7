package jobs

import (
	"context"
	"errors"
	"image"
	"time"

	"amberproof/core/clay"
	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/pipeline"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Outlook is what a ticket would do, told before it is run.
type Outlook struct {
	Version  int64            `json:"version" doc:"Of the ticket that this is about"`
	Faults   []fault.Fault    `json:"faults" nullable:"false" doc:"What keeps it from being run"`
	Idle     []fault.Fault    `json:"idle" nullable:"false" doc:"What it says of parts and finishes that the scene has not"`
	View     string           `json:"view"`
	Width    int              `json:"width" doc:"Of the frame as rendered, pixels"`
	Height   int              `json:"height"`
	Region   bool             `json:"region"`
	Memory   int64            `json:"memory" doc:"Bytes the run will take"`
	Free     int64            `json:"free" doc:"Bytes of memory free now; 0 when not known"`
	Fits     bool             `json:"fits"`
	Passes   []passes.Pass    `json:"passes" nullable:"false"`
	Files    []ticket.Planned `json:"files" nullable:"false"`
	Crops    []Cropped        `json:"crops" nullable:"false" doc:"In their order, within the frame"`
	Clay     []Dressed        `json:"clay" nullable:"false" doc:"Per part, for a clay surface"`
	Reach    float64          `json:"reach" doc:"That is proposed for crevices of a clay, mm"`
	Thick    float64          `json:"thick" doc:"By which: how thick half of the parts are, mm"`
	Gap      float64          `json:"gap" doc:"And how wide half of the gaps between neighbouring parts are at most, mm; 0: there are none"`
	Tones    []Tone           `json:"tones" nullable:"false" doc:"Of the three clays"`
	Matches  []int            `json:"ruleMatches" nullable:"false" doc:"Parts each keep rule matches, whether or not an earlier one decides them"`
	RuleHits []int            `json:"ruleHits" nullable:"false" doc:"Parts each keep rule decided"`
	Shapes   []int            `json:"shapeHits" nullable:"false" doc:"Parts each shape rule decided"`
	Faces    int              `json:"triangles" doc:"As rendered, after subdivision"`
	Kept     int              `json:"kept" doc:"Parts that keep their finish under clay"`
	Changed  []string         `json:"changed" nullable:"false" doc:"What differs from the job's last run"`
	Served   int64            `json:"served" doc:"The last run, where its film holds all that this ticket asks for: its files can be delivered anew without rendering; 0 otherwise"`
}

// Cropped is where a crop lies in the frame, pixels.
type Cropped struct {
	Name   string `json:"name"`
	X      int    `json:"x"`
	Y      int    `json:"y"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// Tone is that of a clay.
type Tone struct {
	Reflectance float64 `json:"reflectance"`
	Shown       int     `json:"shown" doc:"Display grey in even light of 1 nit at exposure 0, 0 to 255"`
}

// Dressed says what a part wears and which rule said so.
type Dressed struct {
	Part string `json:"part"`
	Do   string `json:"do" enum:"keep,second,third,shadow,omit,wear"`
	Rule int    `json:"rule" doc:"Index of the rule, -1 for none"`
}

// Plan is a ticket with nothing left open, and what it was resolved against.
type Plan struct {
	Job      Job
	Resolved ticket.Resolved
	Scene    *scene.Scene
	Surround *imageio.HDR
	Passes   []passes.Pass
	Files    []ticket.Planned
	last     store.Run // the job's newest run; of number 0 without one
}

// words fill file names of the job's next run.
func (s *Service) words(ctx context.Context, j *Job, view string, run int) (ticket.Words, error) {
	project, err := s.store.Project(ctx, j.Project)
	if err != nil {
		return ticket.Words{}, err
	}
	row, err := s.store.Scene(ctx, j.Scene)
	return ticket.Words{Project: project.Name, Scene: row.Name, View: view, Run: run, Date: time.Now().UTC().Format("2006-01-02")}, err
}

// Words fill the file names of a run that was started at some time.
func (s *Service) Words(ctx context.Context, jobID int64, view string, run int, started time.Time) (ticket.Words, error) {
	v, err := s.store.Job(ctx, jobID)
	if err != nil {
		return ticket.Words{}, err
	}
	j := Job(v)
	w, err := s.words(ctx, &j, view, run)
	w.Date = started.Format("2006-01-02")
	return w, err
}

// Preflight checks a job's scene as its ticket would render it.
func (s *Service) Preflight(ctx context.Context, who identity.Actor, id int64) (scenes.Report, error) {
	j, err := s.Get(ctx, who, id)
	if err != nil {
		return scenes.Report{}, err
	}
	return s.scenes.PreflightOf(ctx, who, j.Scene, &j.Ticket)
}

// Blocked estimates what light the clay of a job would take from what is seen.
func (s *Service) Blocked(ctx context.Context, who identity.Actor, id int64) (scenes.Blocked, error) {
	j, err := s.Get(ctx, who, id)
	if err != nil {
		return scenes.Blocked{}, err
	}
	return s.scenes.BlockedOf(ctx, who, j.Scene, &j.Ticket)
}

// Resolve fills a job's ticket in and holds it against everything that could
// make a run of it fail later. Faults come as a fault.Input; the plan is then as
// far as it could be made.
func (s *Service) Resolve(ctx context.Context, who identity.Actor, id int64) (Plan, error) {
	var p Plan
	var err error
	if p.Job, err = s.Get(ctx, who, id); err != nil {
		return p, err
	}
	bench, err := s.scenes.Bench(ctx, who, p.Job.Scene)
	if err != nil {
		return p, err
	}
	looks, err := bench.Subject.As(ctx, p.Job.Ticket.Surface.Variant)
	if err != nil {
		return p, err
	}
	p.Scene = looks.Scene
	rows, err := s.scenes.Views(ctx, who, p.Job.Scene)
	if err != nil {
		return p, err
	}
	views := scenes.PlainViews(rows)
	t := p.Job.Ticket
	var faults []fault.Fault
	var missing *fault.Input
	if err := s.scenes.Pin(ctx, p.Job.Project, &t); err != nil {
		return p, err
	}
	if p.Surround, err = s.scenes.Picture(ctx, &t); errors.As(err, &missing) {
		faults = append(faults, missing.Faults...)
	} else if err != nil {
		return p, err
	}
	r, more := ticket.Resolve(t, bench.Subject, views)
	p.Resolved = r
	if faults = append(faults, more...); len(faults) > 0 {
		return p, fault.Ticket(faults)
	}
	p.Passes = r.Ticket.List(p.Scene, elementsOf(p.Scene, &r))
	if p.last, _, err = s.store.LastRun(ctx, id); err != nil {
		return p, err
	}
	words, err := s.words(ctx, &p.Job, r.Ticket.View.Name, p.last.Number+1)
	if err != nil {
		return p, err
	}
	if p.Files, faults = ticket.Files(&r.Ticket, words, p.Passes); len(faults) > 0 {
		return p, fault.Ticket(faults)
	}
	return p, nil
}

// Outlook tells what running a job now would do.
func (s *Service) Outlook(ctx context.Context, who identity.Actor, id int64) (Outlook, error) {
	o := Outlook{
		Faults: []fault.Fault{}, Idle: []fault.Fault{}, Passes: []passes.Pass{}, Files: []ticket.Planned{}, Crops: []Cropped{},
		Clay: []Dressed{}, Tones: []Tone{}, RuleHits: []int{}, Matches: []int{}, Shapes: []int{}, Changed: []string{},
	}
	p, err := s.Resolve(ctx, who, id)
	o.Version = p.Job.Version
	var bad *fault.Input
	if errors.As(err, &bad) {
		o.Faults = bad.Faults
		if p.Files == nil {
			return o, nil
		}
	} else if err != nil {
		return o, err
	}
	r, sc := &p.Resolved, p.Scene
	t := &r.Ticket
	size := t.Size()
	o.View, o.Width, o.Height, o.Region = t.View.Name, size.X, size.Y, t.Window() != image.Rectangle{Max: size}
	o.Memory, o.Free = pipeline.Memory(r, sc, p.Surround)
	o.Fits = pipeline.Fits(o.Memory, o.Free) == nil
	o.Faces = r.Staged(sc).Triangles()
	o.Idle = t.Idle(sc)
	o.Passes, o.Files = p.Passes, p.Files
	for i := range t.Output.Crops {
		c := &t.Output.Crops[i]
		b := c.In(size)
		o.Crops = append(o.Crops, Cropped{c.Name, b.Min.X, b.Min.Y, b.Dx(), b.Dy()})
	}
	o.shapes(t, sc)
	o.clay(t, sc)
	if p.last.Number > 0 {
		o.Changed = ticket.Differences(&p.last.Resolved, r)
		if len(o.Changed) > 0 && p.last.Least > 0 && p.last.Resolved.Serves(r) {
			o.Served = p.last.ID
		}
	}
	return o, nil
}

func (o *Outlook) shapes(t *ticket.Ticket, sc *scene.Scene) {
	o.Shapes = make([]int, len(t.Surface.Shapes))
	if len(o.Shapes) == 0 {
		return
	}
	_, by := t.Shapes(sc)
	for _, k := range by {
		if k >= 0 {
			o.Shapes[k]++
		}
	}
}

func (o *Outlook) clay(t *ticket.Ticket, sc *scene.Scene) {
	p := t.Plan()
	if p == nil {
		return
	}
	keys, lamp := sc.Keys(), ticket.IsLamp(sc)
	reach := clay.Reach(sc, lamp)
	o.Reach, o.Thick, o.Gap = 1000*reach.Reach, 1000*reach.Thick, 1000*reach.Gap
	display := colour.Transform(t.View.Display)
	for _, v := range []float32{p.Tone, p.SecondTone, p.ThirdTone} {
		o.Tones = append(o.Tones, Tone{float64(v), int(display.Display(geom.Splat(v), 1).X*255 + 0.5)})
	}
	o.RuleHits, o.Matches = make([]int, len(p.Rules)), clay.Matches(sc, p, lamp)
	for i, d := range clay.Resolve(sc, p, lamp) {
		if lamp(i) {
			continue
		}
		o.Clay = append(o.Clay, Dressed{keys[i], string(d.Do), d.Rule})
		if d.Rule >= 0 {
			o.RuleHits[d.Rule]++
		}
		if d.Do == clay.Keep {
			o.Kept++
		}
	}
}

// elementsOf names the lights that would be kept apart, as preparing would.
func elementsOf(s *scene.Scene, r *ticket.Resolved) []string {
	if !r.Ticket.Passes.Lights {
		return nil
	}
	staged := r.Staged(s)
	o := r.Options(staged, nil)
	return trace.ElementsOf(staged, &o)
}
