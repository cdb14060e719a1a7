package demo_test

import (
	"context"
	"image"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// The demo has the four faults that were planted in it, and no other is found.
func TestPlantedFaults(t *testing.T) {
	s, _ := lantern(t)
	found, err := preflight.Run(t.Context(), checked(s), nil)
	if err != nil {
		t.Fatal(err)
	}
	want := []struct {
		check preflight.Check
		part  string
		value float64
	}{{preflight.Floats, "Match", 3}, {preflight.Sinks, "Flint", 1.7}, {preflight.Doubled, "Vent gasket copy", 2}, {preflight.Bare, "Feed tube", 1630}}
	for i, f := range found {
		if i >= len(want) || f.Check != want[i].check || s.Parts[f.Part].Name != want[i].part || f.Value < 0.99*want[i].value || f.Value > 1.01*want[i].value {
			t.Errorf("found %q, %v %s", f.Says, f.Value, f.Unit)
		}
	}
	if len(found) != len(want) {
		t.Errorf("%d found, %d planted", len(found), len(want))
	}
}

// What lights the demo, by the surround of its jobs and on a stage as it is set up, is
// found no fault with.
func TestTheDemoIsWellLit(t *testing.T) {
	s, surround := lantern(t)
	for name, u := range map[string]*setup.Setup{"its own lights": {}, "a stage": staged(s)} {
		v, _, _ := u.Apply(context.Background(), s)
		found, err := preflight.CheckLit(t.Context(), lit(t, v, u, surround))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range found {
			t.Errorf("%s: %s (%g %s)", name, f.Says, f.Value, f.Unit)
		}
	}
}

// staged is a set-up of a stage around the demo's product, in place of its own.
func staged(s *scene.Scene) *setup.Setup {
	g, _ := setup.NewStage(s.Focus(ticket.IsLamp(s)), checked(s).Views)
	u := &setup.Setup{Stage: &g}
	keys := s.Keys()
	for i, around := range s.Around(ticket.IsLamp(s)) {
		if around {
			u.Parts = append(u.Parts, setup.Change{Part: keys[i], Scale: 1, Out: true})
		}
	}
	return u
}

// lit are the demo's pictures that are checked.
func lit(t testing.TB, s *scene.Scene, u *setup.Setup, surround *imageio.HDR) *preflight.Lit {
	t.Helper()
	doc := ticket.NewFor(u)
	if u.Stage != nil {
		surround = nil
	}
	out := &preflight.Lit{Subject: checked(s), Exposure: doc.View.Exposure, Display: colour.Transform(doc.View.Display)}
	views := ticket.ViewsOf(s)
	for _, v := range views {
		doc.View.Name = v.Name
		r, faults := ticket.Resolve(doc, ticket.Subject{Scene: s}, views)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		o := r.Options(s, surround)
		o.Width, o.Height, o.Window = preflight.LitSide, preflight.LitSide, image.Rect(0, 0, preflight.LitSide, preflight.LitSide)
		o.Layout = preflight.LitLayout(len(trace.ElementsOf(s, &o)))
		if len(out.Worlds) > 0 {
			out.Worlds = append(out.Worlds, out.Worlds[0].Seen(o.Camera, o.Width, o.Height))
			continue
		}
		w, err := trace.Prepare(t.Context(), s, o)
		if err != nil {
			t.Fatal(err)
		}
		out.Worlds = append(out.Worlds, w)
	}
	return out
}

// BenchmarkPreflight is all checks of the demo, of 303 000 triangles.
func BenchmarkPreflight(b *testing.B) {
	s, surround := lantern(b)
	for b.Loop() {
		if _, err := preflight.Run(b.Context(), checked(s), nil); err != nil {
			b.Fatal(err)
		}
		if _, err := preflight.CheckLit(b.Context(), lit(b, s, &setup.Setup{}, surround)); err != nil {
			b.Fatal(err)
		}
	}
}

func checked(s *scene.Scene) preflight.Subject {
	of := preflight.Subject{Scene: s, Lamp: ticket.IsLamp(s)}
	for _, v := range ticket.ViewsOf(s) {
		of.Views = append(of.Views, scene.View{Name: v.Name, Camera: geom.Affine(v.Camera.Matrix), YFov: v.Camera.YFov, YMag: v.Camera.YMag, Aspect: 1})
	}
	return of
}
