package app

import (
	"context"
	"fmt"
	"image"
	"strings"

	"amberproof/core/clay"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/job"
	"amberproof/internal/shot"
	"amberproof/internal/store"
)

// Outlook is what a ticket would do, told before it is run.
type Outlook struct {
	Faults   []job.Fault   `json:"faults" nullable:"false"`
	View     string        `json:"view"`
	Width    int           `json:"width" doc:"Of the frame as rendered, pixels"`
	Height   int           `json:"height"`
	Region   bool          `json:"region"`
	Memory   int64         `json:"memory" doc:"Bytes the run will take"`
	Free     int64         `json:"free" doc:"Bytes of memory free now; 0 when not known"`
	Fits     bool          `json:"fits"`
	Passes   []passes.Pass `json:"passes" nullable:"false"`
	Files    []job.Planned `json:"files" nullable:"false"`
	Clay     []Dressed     `json:"clay" nullable:"false" doc:"Per part, for a clay surface"`
	RuleHits []int         `json:"ruleHits" nullable:"false" doc:"Parts each keep rule decided"`
	Shapes   []int         `json:"shapeHits" nullable:"false" doc:"Parts each shape rule decided"`
	Faces    int           `json:"triangles" doc:"As rendered, after subdivision"`
	Kept     int           `json:"kept" doc:"Parts that keep their finish under clay"`
	Changed  []string      `json:"changed" nullable:"false" doc:"What differs from the job's last run"`
}

// Dressed says what a part wears and which rule said so.
type Dressed struct {
	Part string `json:"part"`
	Do   string `json:"do" enum:"keep,second,omit,wear"`
	Rule int    `json:"rule" doc:"Index of the rule, -1 for none"`
}

// surround opens the environment picture a ticket names and fills in its checksum.
func (a *App) surround(ctx context.Context, t *job.Ticket) (*imageio.HDR, error) {
	p := &t.Stage.Surround.Picture
	if p.Name == "" || !t.Stage.Surround.On {
		p.SHA256 = ""
		return nil, nil
	}
	if p.SHA256 == "" {
		all, err := a.Store.Surrounds(ctx)
		if err != nil {
			return nil, err
		}
		for _, s := range all {
			if s.Name == p.Name {
				p.SHA256 = s.SHA256
				break
			}
		}
		if p.SHA256 == "" {
			return nil, &BadInputError{"The environment picture is missing", []job.Fault{{Path: "stage.surround.picture", Message: fmt.Sprintf("There is no environment picture %q; upload it or choose another", p.Name)}}}
		}
	}
	return a.hdrs.get(p.SHA256)
}

// resolve fills a job's ticket in; faults are in the error.
func (a *App) resolve(ctx context.Context, j store.Job) (r job.Resolved, row store.Scene, s *scene.Scene, hdr *imageio.HDR, err error) {
	row, s, err = a.Scene(ctx, j.Scene)
	if err != nil {
		return
	}
	rows, err := a.Store.Views(ctx, j.Scene)
	if err != nil {
		return
	}
	views := make([]job.View, len(rows))
	for i, v := range rows {
		views[i] = job.View{Name: v.Name, Camera: v.Camera}
	}
	t := j.Ticket
	if hdr, err = a.surround(ctx, &t); err != nil {
		return
	}
	r, faults := job.Resolve(t, job.SceneRef{Name: row.File, SHA256: row.SHA256}, s, views)
	if len(faults) > 0 {
		err = &BadInputError{"The ticket has faults", faults}
	}
	return
}

// Outlook tells what running a job now would do.
func (a *App) Outlook(ctx context.Context, id int64) (Outlook, error) {
	o := Outlook{Faults: []job.Fault{}, Passes: []passes.Pass{}, Files: []job.Planned{}, Clay: []Dressed{}, RuleHits: []int{}, Shapes: []int{}, Changed: []string{}}
	j, err := a.Store.Job(ctx, id)
	if err != nil {
		return o, err
	}
	r, row, s, hdr, err := a.resolve(ctx, j)
	var b *BadInputError
	if asBad(err, &b) {
		o.Faults = b.Faults
		return o, nil
	}
	if err != nil {
		return o, err
	}
	t := &r.Ticket
	size := t.Size()
	o.View, o.Width, o.Height, o.Region = t.View.Name, size.X, size.Y, t.Window() != image.Rectangle{Max: size}
	o.Memory, o.Free = shot.Memory(&r, s, hdr)
	o.Faces = r.Staged(s).Triangles()
	o.Shapes = make([]int, len(t.Surface.Shapes))
	if _, by := t.Shapes(s); len(o.Shapes) > 0 {
		for _, k := range by {
			if k >= 0 {
				o.Shapes[k]++
			}
		}
	}
	o.Fits = o.Free == 0 || o.Memory <= o.Free/10*9
	o.Passes = t.List(s, elementsOf(s, t))
	project, err := a.Store.Project(ctx, j.Project)
	if err != nil {
		return o, err
	}
	runs, err := a.Store.Runs(ctx, id)
	if err != nil {
		return o, err
	}
	next := 1
	if len(runs) > 0 {
		next = runs[0].Number + 1
		o.Changed = job.Differences(&runs[0].Resolved, &r)
	}
	files, faults := job.Files(t, job.Words{Project: project.Name, Scene: row.Name, View: t.View.Name, Run: next, Date: "today"}, o.Passes)
	o.Files, o.Faults = files, append(o.Faults, faults...)
	if p := t.Plan(); p != nil {
		keys := s.Keys()
		lamp := job.IsLamp(s)
		o.RuleHits = make([]int, len(p.Rules))
		for i, d := range clay.Resolve(s, p, lamp) {
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
	return o, nil
}

// elementsOf names the lights that would be kept apart, as preparing would.
func elementsOf(s *scene.Scene, t *job.Ticket) []string {
	if !t.Passes.Lights {
		return nil
	}
	r := job.Resolved{Ticket: *t}
	o := r.Options(s, nil)
	return trace.ElementsOf(s, &o)
}

// summary is a run for logs.
func summary(r *store.Run) string {
	t := &r.Resolved.Ticket
	return strings.TrimSpace(fmt.Sprintf("%s %dx%d %s", t.View.Name, t.View.Width, t.View.Height, t.Surface.Mode))
}
