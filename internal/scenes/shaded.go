package scenes

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"

	"amberproof/core/colour"
	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/job"
)

// Size of a shaded picture in pixels, and how much of them is kept.
const (
	shadedWidth, shadedHeight = 480, 360
	shadedBytes               = 32 << 20
)

// drawing is a scene as seen from a camera.
type drawing struct {
	sum    string
	camera job.Camera
}

// Shaded is a scene's shape seen from one of its views, as a PNG, without any
// light being computed; the first view for an empty name. tag changes with what
// it shows.
func (s *Service) Shaded(ctx context.Context, who identity.Actor, id int64, view string) (png []byte, tag string, err error) {
	views, err := s.Views(ctx, who, id)
	if err != nil {
		return nil, "", err
	}
	row, err := s.store.Scene(ctx, id)
	if err != nil {
		return nil, "", err
	}
	d := drawing{sum: row.SHA256}
	found := false
	for _, v := range views {
		if !found && (view == "" || v.Name == view) {
			d.camera, found = v.Camera, true
		}
	}
	if !found {
		return nil, "", fault.Bad("The scene has no view %q", view)
	}
	b, err := json.Marshal(d.camera)
	if err != nil {
		return nil, "", err
	}
	h := sha256.Sum256(append(b, d.sum...))
	png, err = s.shaded.Get(ctx, d)
	return png, `"` + hex.EncodeToString(h[:8]) + `"`, err
}

func (s *Service) draw(ctx context.Context, d drawing) ([]byte, error) {
	v, err := s.scenes.Get(ctx, d.sum)
	if err != nil {
		return nil, err
	}
	w, err := trace.Prepare(ctx, v, drawn(v, d.camera))
	if err != nil {
		return nil, err
	}
	p, err := w.Shaded(ctx)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = imageio.EncodePNG(&out, p, 8, imageio.Look{Transform: colour.Plain})
	return out.Bytes(), err
}

// drawn are the options of a shaded picture: the product without its lamps.
func drawn(v *scene.Scene, camera job.Camera) trace.Options {
	t := job.New()
	t.View.Width, t.View.Height = shadedWidth, shadedHeight
	t.Stage.Surround.On, t.Stage.Backing = false, "clear"
	r := job.Resolved{Ticket: t, Camera: camera}
	o := r.Options(v, nil)
	for i, lamp := 0, job.IsLamp(v); i < len(o.Wears); i++ {
		if lamp(i) {
			o.Wears[i] = trace.LeftOutOfPicture
		}
	}
	return o
}
