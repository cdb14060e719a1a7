package scenes

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Size of a shaded picture in pixels, and how much of them is kept.
const (
	shadedWidth, shadedHeight = 480, 360
	shadedBytes               = 32 << 20
)

// drawing is a scene as seen from a camera.
type drawing struct {
	sum    string
	camera ticket.Camera
	setup  string // the set-up as JSON, so that drawings can be compared; empty for none
}

// tag changes with what the drawing shows, and with how it is drawn.
func (d drawing) tag() (string, error) {
	b, err := json.Marshal(d.camera)
	if err != nil {
		return "", err
	}
	h := sha256.Sum256(fmt.Appendf(b, " %s%s %d %dx%d", d.sum, d.setup, trace.Revision, shadedWidth, shadedHeight))
	return hex.EncodeToString(h[:8]), nil
}

// mostFresh is how many drawings may wait to be made ahead.
const mostFresh = 100

// Draw makes the drawings of what has just come in, until ctx ends: so that lists
// show it when they are first looked at.
func (s *Service) Draw(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case d := <-s.fresh:
			if _, err := s.shaded.Get(ctx, d); err != nil && ctx.Err() == nil {
				s.log.Warn("a scene cannot be drawn", "scene", d.sum, "error", err)
			}
		}
	}
}

// drawAhead has the views of a scene drawn soon. Those there is no room for are drawn
// when somebody asks.
func (s *Service) drawAhead(sum string, views []ticket.View) {
	for _, v := range views {
		select {
		case s.fresh <- drawing{sum: sum, camera: v.Camera}:
		default:
			return
		}
	}
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
	u, _, err := s.store.Setup(ctx, id)
	if err != nil {
		return nil, "", err
	}
	d := drawing{sum: row.SHA256}
	if !u.IsZero() {
		d.setup = string(ticket.Encode(u))
	}
	found := false
	for _, v := range views {
		if !found && (view == "" || v.Name == view) {
			d.camera, found = v.Camera, true
		}
	}
	if !found {
		return nil, "", fault.Bad("The scene has no view %q", view)
	}
	if tag, err = d.tag(); err != nil {
		return nil, "", err
	}
	png, err = s.shaded.Get(ctx, d)
	return png, `"` + tag + `"`, err
}

// draw makes a drawing, or finds the one that is kept.
func (s *Service) draw(ctx context.Context, d drawing) ([]byte, error) {
	tag, err := d.tag()
	if err != nil {
		return nil, err
	}
	if png, err := s.files.Drawing(d.sum, tag); err == nil {
		return png, nil
	}
	v, err := s.scenes.Get(ctx, d.sum)
	if err != nil {
		return nil, err
	}
	if d.setup != "" {
		var u setup.Setup
		if err := json.Unmarshal([]byte(d.setup), &u); err != nil {
			return nil, err
		}
		if v, _, err = u.Apply(ctx, v); err != nil {
			return nil, err
		}
	}
	o := drawn(v, d.camera)
	done, err := s.admitted(ctx, s.drawingLine.Join(), trace.Forecast(v, &o)) // one draws at a time
	if err != nil {
		return nil, err
	}
	defer done()
	w, err := trace.Prepare(ctx, v, o)
	if err != nil {
		return nil, err
	}
	p, err := w.Shaded(ctx)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := imageio.WritePNG(&out, finish.Finish{Transform: colour.Plain}.Shown(p)); err != nil {
		return nil, err
	}
	if err := s.files.KeepDrawing(d.sum, tag, out.Bytes()); err != nil {
		s.log.Warn("a drawing cannot be kept; it is made again next time", "scene", d.sum, "error", err)
	}
	return out.Bytes(), nil
}

// drawn are the options of a shaded picture: the product without its lamps.
func drawn(v *scene.Scene, camera ticket.Camera) trace.Options {
	t := ticket.New()
	t.View.Width, t.View.Height = shadedWidth, shadedHeight
	t.Stage.Surround.On, t.Stage.Backing = false, "clear"
	r := ticket.Resolved{Ticket: t, Camera: camera}
	o := r.Options(v, nil)
	for i, lamp := 0, ticket.IsLamp(v); i < len(o.Wears); i++ {
		if lamp(i) {
			o.Wears[i] = trace.LeftOutOfPicture
		}
	}
	return o
}
