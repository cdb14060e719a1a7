package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"amberproof/core/importer"
	"amberproof/core/passes"
	"amberproof/internal/deliver"
	"amberproof/internal/job"
	"amberproof/internal/store"
)

// Unpack adds the files of an archive to a bundle.
func (a *App) Unpack(b importer.Bundle, data []byte) error {
	err := b.AddZip(data, importer.DefaultLimits)
	if errors.Is(err, importer.ErrRefused) {
		return bad("%s", err.Error())
	}
	return err
}

// Manifest reads the manifest of a run's delivery; an empty one where nothing
// has been delivered.
func (a *App) Manifest(run int64) (deliver.Manifest, error) {
	var m deliver.Manifest
	b, err := os.ReadFile(filepath.Join(a.DeliveryDir(run), deliver.ManifestName))
	if errors.Is(err, fs.ErrNotExist) {
		return m, nil
	}
	if err != nil {
		return m, err
	}
	return m, json.Unmarshal(b, &m)
}

// PassesOf lists the passes of a run.
func (a *App) PassesOf(ctx context.Context, r *store.Run) ([]passes.Pass, error) {
	s, err := a.scenes.get(r.Resolved.Scene.SHA256)
	if err != nil {
		return nil, err
	}
	return r.Resolved.Ticket.List(s, r.Elements), nil
}

// RenameJob gives a job another name.
func (a *App) RenameJob(ctx context.Context, id int64, name string) (store.Job, error) {
	name, err := nameOf("The job", name)
	if err != nil {
		return store.Job{}, err
	}
	if err := a.Store.RenameJob(ctx, id, name); err != nil {
		return store.Job{}, err
	}
	return a.Store.Job(ctx, id)
}

// ChangeView changes what is given of a view.
func (a *App) ChangeView(ctx context.Context, id int64, name *string, locked *bool, c *job.Camera) (store.View, error) {
	v, err := a.Store.ChangeView(ctx, id, func(v *store.View) error {
		if name != nil {
			n, err := nameOf("The view", *name)
			if err != nil {
				return err
			}
			v.Name = n
		}
		if locked != nil {
			v.Locked = *locked
		}
		if c != nil {
			if err := checkCamera(*c); err != nil {
				return err
			}
			v.Camera = *c
		}
		return nil
	})
	if errors.Is(err, store.ErrTaken) {
		return v, bad("There is a view of that name already; choose another")
	}
	return v, err
}

// Slug is the line under a picture that says exactly what it is.
func Slug(jobName string, r *store.Run) string {
	t := &r.Resolved.Ticket
	size := t.Size()
	what := []string{fmt.Sprintf("%s %d", jobName, r.Number), t.View.Name, fmt.Sprintf("%d × %d px", size.X, size.Y)}
	if t.View.Scale != 100 {
		what = append(what, fmt.Sprintf("%d %% of %d × %d", t.View.Scale, t.View.Width, t.View.Height))
	}
	if t.View.Region.On {
		what = append(what, "region")
	}
	if t.Surface.Mode == "clay" {
		what = append(what, "clay")
	} else {
		what = append(what, "own finishes")
	}
	what = append(what, fmt.Sprintf("%.0f samples", r.Samples))
	if r.Noise != nil {
		what = append(what, fmt.Sprintf("noise %.1f %%", *r.Noise))
	}
	what = append(what, clock(r.Seconds), "ticket "+r.Fingerprint[:8], "scene-linear Rec.709")
	return strings.Join(what, " · ")
}

func clock(seconds float64) string {
	d := time.Duration(seconds * float64(time.Second)).Round(time.Second)
	if d >= time.Hour {
		return fmt.Sprintf("%d:%02d:%02d", int(d.Hours()), int(d.Minutes())%60, int(d.Seconds())%60)
	}
	return fmt.Sprintf("%d:%02d", int(d.Minutes()), int(d.Seconds())%60)
}
