package live

import (
	"context"
	"encoding/json"
	"slices"

	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/ticket"
)

// Wish is what somebody wants to see. It is a whole one each time: what it leaves out
// is as in a new ticket for the scene.
type Wish struct {
	Number int             `json:"number,omitempty"` // told with every answer
	Ticket json.RawMessage `json:"ticket,omitempty"` // as it is on the screen, saved or not; absent: a new one
	View   string          `json:"view,omitempty"`   // without a camera
	Camera *ticket.Camera  `json:"camera,omitempty"`
	// Surround is tried in place of the ticket's.
	Surround *setup.SurroundSetting `json:"surround,omitempty"`
	// Variant is worn in place of the ticket's.
	Variant string `json:"variant,omitempty"`
	// Surface is shown in place of the ticket's, own or clay, by its own clay plan.
	Surface string `json:"surface,omitempty" enum:"own,clay"`
	// Dark are lights, by name, that do not shine: to see what the others do.
	Dark []string `json:"dark,omitempty" maxItems:"1000" nullable:"false"`
	// Hidden are parts, by key, that are not in the picture: to see what is behind them.
	Hidden []string `json:"hidden,omitempty" maxItems:"20000" nullable:"false"`
	Width  int      `json:"width"` // of the place for the picture on the screen, pixels
	Height int      `json:"height"`
}

// answerable is a wish with nothing left open.
type answerable struct {
	wish     *Wish
	resolved *ticket.Resolved
	subject  *scene.Scene
	setup    setup.Setup // of the scene, of which the resolved ticket has what runs show
	surround *imageio.HDR
}

// resolve fills a wish in.
func (s *Service) resolve(ctx context.Context, who identity.Actor, sceneID int64, w *Wish) (*answerable, error) {
	b, err := s.scenes.Bench(ctx, who, sceneID)
	if err != nil {
		return nil, err
	}
	t := ticket.NewFor(&b.Subject.Setup)
	if len(w.Ticket) > 0 {
		var faults []fault.Fault
		if t, faults = ticket.Decode(w.Ticket); len(faults) > 0 {
			return nil, fault.Ticket(faults)
		}
	}
	if w.Surround != nil {
		t.Stage.Surround = *w.Surround
	}
	if w.Surface != "" {
		t.Surface.Mode = w.Surface
	} else if t.InClay() && t.Surface.Mode != "clay" { // of two pictures, one is looked at
		t.Surface.Mode = "own"
	}
	if w.Variant != "" {
		t.Surface.Variant = w.Variant
	}
	darken(&t, b.Subject.Scene, w.Dark)
	// What costs time and does not show in the beauty is left out.
	t.Passes, t.View.Region.On, t.View.Scale = ticket.New().Passes, false, 100
	t.Quality.Denoise = ticket.Denoise{On: true, Take: "noise", Amount: 100}
	rows, err := s.scenes.Views(ctx, who, sceneID)
	if err != nil {
		return nil, err
	}
	if w.Camera != nil {
		if err := scenes.CheckCamera(*w.Camera); err != nil {
			return nil, err
		}
		t.View.Name = ""
		rows = []scenes.View{{Camera: *w.Camera}}
	} else if w.View != "" {
		t.View.Name = w.View
	}
	views := scenes.PlainViews(rows)
	if err := s.scenes.Pin(ctx, b.Scene.Project, &t); err != nil {
		return nil, err
	}
	surround, err := s.scenes.Picture(ctx, &t)
	if err != nil {
		return nil, err
	}
	r, faults := ticket.Resolve(t, b.Subject, views)
	if len(faults) > 0 {
		return nil, fault.Ticket(faults)
	}
	looks, err := b.Subject.As(ctx, t.Surface.Variant)
	if err != nil {
		return nil, err
	}
	return &answerable{w, &r, without(b.Subject.Setup.Stage.Carded(looks.Scene), w.Hidden), b.Subject.Setup, surround}, nil
}

// without is a scene with parts left out; keys that it has not do nothing.
func without(s *scene.Scene, hidden []string) *scene.Scene {
	if len(hidden) == 0 {
		return s
	}
	gone := map[string]bool{}
	for _, k := range hidden {
		gone[k] = true
	}
	out := *s
	out.Parts = slices.Clone(s.Parts)
	for i, k := range s.Keys() {
		out.Parts[i].Out = out.Parts[i].Out || gone[k]
	}
	return &out
}

// darken switches lights of a scene off; those of other names do nothing.
func darken(t *ticket.Ticket, s *scene.Scene, dark []string) {
	if slices.Contains(dark, trace.SurroundName) {
		t.Stage.Surround.On = false
	}
	t.Stage.Lights = slices.Clone(t.Stage.Lights)
	for _, l := range trace.LampsOf(s) {
		if !slices.Contains(dark, l.Name) {
			continue
		}
		at := slices.IndexFunc(t.Stage.Lights, func(c ticket.LightChange) bool { return c.Name == l.Name })
		if at < 0 {
			at = len(t.Stage.Lights)
			t.Stage.Lights = append(t.Stage.Lights, ticket.LightAsFound(l.Name))
		}
		t.Stage.Lights[at].On = false
	}
}
