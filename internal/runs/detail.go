package runs

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"amberproof/internal/deliver"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Detail is all that is known of one run.
type Detail struct {
	Run         Run             `json:"run"`
	Resolved    ticket.Resolved `json:"resolved" doc:"The ticket with nothing left open"`
	Fingerprint string          `json:"fingerprint"`
	Slug        string          `json:"slug" doc:"Says exactly what the picture is"`
	Window      [4]int          `json:"window" nullable:"false" doc:"Computed part of the frame: left, top, right, bottom in pixels"`
	Passes      []Pass          `json:"passes" nullable:"false"`
	Deliveries  []Delivery      `json:"deliveries" nullable:"false" doc:"Newest first"`
	Saved       *Saved          `json:"saved" doc:"Of a run that is finished and in clay, once it has delivered"`
}

// Saved is what making two pictures at once has saved against a run of each.
type Saved struct {
	Percent float64 `json:"percent" doc:"Of the time that both would take"`
	Seconds float64 `json:"seconds"`
}

// Pass is a pass of a run.
type Pass struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Kind  string `json:"kind"`
	Data  bool   `json:"data" doc:"Numbers that are not light"`

	Denoised bool `json:"denoised" doc:"Read off the picture with its noise taken out"`
}

// Delivery is a set of files that a run has delivered.
type Delivery struct {
	Number   int       `json:"number"`
	Complete bool      `json:"complete" doc:"False: stopped and kept before the target"`
	Created  time.Time `json:"created"`
	Files    []File    `json:"files" nullable:"false"`
	Noise    *float64  `json:"noise,omitempty" doc:"Of the plain picture, percent of display white"`
	Denoised *Denoised `json:"denoised,omitempty" doc:"Of deliveries with denoised passes"`
	Changed  []string  `json:"changed" nullable:"false" doc:"What was asked of it other than of the run, in words"`
}

// Denoised says how much noise was taken out, and what is left.
type Denoised struct {
	Take    string   `json:"take" doc:"What was taken out: noise, or sparks alone"`
	Amount  float64  `json:"amount" doc:"Percent"`
	Noise   *float64 `json:"noise,omitempty" doc:"Left, percent of display white, as estimated"`
	Changed float64  `json:"changedBeyondNoise" doc:"Percent of pixels that were changed by more than their noise explains"`
}

// measured fills in what a manifest tells of the noise: that of the noisiest frame.
func (d *Delivery) measured(m *deliver.Manifest) {
	most := func(a, b *float64) *float64 {
		if a == nil || b != nil && *b > *a {
			return b
		}
		return a
	}
	for _, f := range m.Frames {
		d.Noise = most(d.Noise, f.Noise)
		if n := f.Denoised; n != nil {
			if d.Denoised == nil {
				d.Denoised = &Denoised{Take: n.Take, Amount: n.Amount}
			}
			d.Denoised.Noise = most(d.Denoised.Noise, n.Noise)
			d.Denoised.Changed = max(d.Denoised.Changed, n.Changed)
		}
	}
}

// how is the word for it in a slug.
func (d *Denoised) how() string {
	if d.Take == ticket.TakeSparks {
		return "sparks out"
	}
	return "denoised"
}

// noiseWords say in a slug what noise a run has: as it was delivered last or, before that,
// as it is measured while the run goes on.
func noiseWords(r *store.Run, last *Delivery) []string {
	noise, clean := r.Noise, (*Denoised)(nil)
	if last != nil {
		noise, clean = last.Noise, last.Denoised
	}
	var out []string
	if noise != nil {
		out = append(out, fmt.Sprintf("noise %.1f %%", *noise))
	}
	switch {
	case clean != nil && clean.Noise != nil:
		out = append(out, fmt.Sprintf("%s %.0f %% to %.1f %%", clean.how(), clean.Amount, *clean.Noise))
	case clean != nil:
		out = append(out, fmt.Sprintf("%s %.0f %%", clean.how(), clean.Amount))
	case last == nil && r.Resolved.Ticket.Quality.Denoise.On && noise != nil:
		out[0] += " once denoised"
	}
	return out
}

// File is one of them.
type File struct {
	Path    string `json:"path"`
	Bytes   int64  `json:"bytes"`
	SHA256  string `json:"sha256"`
	Limited int    `json:"valuesLimited" doc:"Values beyond the largest half, written as that"`
}

// Get tells all of one run.
func (s *Service) Get(ctx context.Context, who identity.Actor, id int64) (Detail, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.RunKind, id); err != nil {
		return Detail{}, err
	}
	r, err := s.store.Run(ctx, id)
	if err != nil {
		return Detail{}, err
	}
	w := r.Resolved.Ticket.Window()
	d := Detail{
		Run: s.runOf(&r.RunLine), Resolved: r.Resolved, Fingerprint: r.Fingerprint,
		Window: [4]int{w.Min.X, w.Min.Y, w.Max.X, w.Max.Y}, Passes: []Pass{}, Deliveries: []Delivery{},
	}
	v, err := s.scenes.SubjectOf(ctx, &r.Resolved)
	if err != nil {
		return d, err
	}
	list := r.Resolved.Ticket.List(v, r.Elements)
	for i := range list {
		p := &list[i]
		d.Passes = append(d.Passes, Pass{p.Key, p.Title, string(p.Kind), p.Data(), p.Denoised})
	}
	rows, err := s.store.Deliveries(ctx, id)
	if err != nil {
		return d, err
	}
	for _, row := range rows {
		one := Delivery{Number: row.Number, Complete: row.Complete, Created: row.Created, Files: []File{}, Changed: []string{}}
		m, err := deliver.Read(s.files.Delivery(id, row.Number))
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return d, err
		}
		if err == nil {
			one.Changed = append(one.Changed, ticket.Differences(&r.Resolved, &m.Resolved)...)
		}
		one.measured(&m)
		if share := m.Saved(); share > 0 && share < 1 && d.Saved == nil {
			d.Saved = &Saved{100 * share, r.Seconds * share / (1 - share)}
		}
		for _, f := range m.Files {
			one.Files = append(one.Files, File{f.Path, f.Bytes, f.SHA256, f.Limited})
		}
		d.Deliveries = append(d.Deliveries, one)
	}
	var last *Delivery
	if len(d.Deliveries) > 0 {
		last = &d.Deliveries[0]
	}
	d.Slug = slug(&r, last)
	return d, nil
}

// Delivered finds the folder of a delivery and its manifest.
func (s *Service) Delivered(ctx context.Context, who identity.Actor, id int64, number int) (dir string, m deliver.Manifest, err error) {
	if err := s.guard.May(ctx, who, identity.See, identity.RunKind, id); err != nil {
		return "", m, err
	}
	dir = s.files.Delivery(id, number)
	m, err = deliver.Read(dir)
	if errors.Is(err, fs.ErrNotExist) {
		err = fmt.Errorf("delivery %d of run %d: %w", number, id, fault.ErrNotFound)
	}
	return dir, m, err
}

// DeliveredFile is the path of a delivered file; only what the manifest names,
// and the manifest itself, can be had.
func (s *Service) DeliveredFile(ctx context.Context, who identity.Actor, id int64, number int, want string) (string, error) {
	dir, m, err := s.Delivered(ctx, who, id, number)
	if err != nil {
		return "", err
	}
	if want != ticket.ManifestName && !slices.ContainsFunc(m.Files, func(f deliver.File) bool { return f.Path == want }) {
		return "", fmt.Errorf("the file %q of the delivery: %w", want, fault.ErrNotFound)
	}
	return filepath.Join(dir, filepath.FromSlash(want)), nil
}

// slug is the line under a picture that says exactly what it is.
func slug(r *store.Run, last *Delivery) string {
	t := &r.Resolved.Ticket
	size := t.Size()
	what := []string{fmt.Sprintf("%s %d", r.JobName, r.Number), t.View.Name, fmt.Sprintf("%d × %d px", size.X, size.Y)}
	if t.View.Scale != 100 {
		what = append(what, fmt.Sprintf("%d %% of %d × %d", t.View.Scale, t.View.Width, t.View.Height))
	}
	if t.View.Region.On {
		what = append(what, "region")
	}
	what = append(what, map[string]string{"own": "own finishes", "clay": "clay", "both": "finished and in clay"}[t.Surface.Mode])
	what = append(what, fmt.Sprintf("%.0f samples", r.Samples))
	what = append(what, noiseWords(r, last)...)
	what = append(what, clock(r.Seconds), fmt.Sprintf("exposure %+.1f EV", t.View.Exposure), "ticket "+r.Fingerprint[:8], "scene-linear Rec.709")
	return strings.Join(what, " · ")
}

// clock writes a time of some seconds as people read it off a clock.
func clock(seconds float64) string {
	d := time.Duration(seconds * float64(time.Second)).Round(time.Second)
	if d >= time.Hour {
		return fmt.Sprintf("%d:%02d:%02d", int(d.Hours()), int(d.Minutes())%60, int(d.Seconds())%60)
	}
	return fmt.Sprintf("%d:%02d", int(d.Minutes()), int(d.Seconds())%60)
}
