package demo_test

import (
	"testing"

	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/demo"
	"amberproof/internal/ticket"
)

// BenchmarkSamples tells how many camera samples a second one core traces of the demo's
// pictures.
func BenchmarkSamples(b *testing.B) {
	s, surround := lantern(b)
	views := ticket.ViewsOf(s)
	for _, ready := range demo.Tickets(views) {
		t := ready.Ticket
		t.View.Width, t.View.Height, t.View.Scale = 192, 192, 100
		t.Passes.Occlusion.On, t.Passes.FinishMasks, t.Passes.Lights = false, false, false
		r, faults := ticket.Resolve(t, ticket.Subject{Ref: ticket.SceneRef{Name: demo.SceneFile}, Scene: s}, views)
		if len(faults) > 0 {
			b.Fatal(faults)
		}
		st := r.Staged(s)
		w, err := trace.Prepare(b.Context(), st, r.Options(st, surround))
		if err != nil {
			b.Fatal(err)
		}
		benchSamples(b, ready.Name, w)
	}
}

// BenchmarkClay tells how many camera samples a second one core traces of the shop window
// in clay: plain, with crevices, with edge lines, and finished and in clay at once.
func BenchmarkClay(b *testing.B) {
	s := vitrine(b)
	views := ticket.ViewsOf(s)
	for _, c := range []struct {
		name   string
		change func(t *ticket.SurfaceSection)
	}{
		{"plain", func(t *ticket.SurfaceSection) { t.Clay.Lines, t.Clay.Crevices = nil, nil }},
		{"crevices", func(t *ticket.SurfaceSection) { t.Clay.Lines = nil }},
		{"lines", func(t *ticket.SurfaceSection) { t.Clay.Crevices = nil }},
		{"both surfaces", func(t *ticket.SurfaceSection) { t.Mode, t.Clay.Lines, t.Clay.Crevices = "both", nil, nil }},
	} {
		t := demo.VitrineTickets(views)[1].Ticket
		t.View.Width, t.View.Height = 160, 200
		c.change(&t.Surface)
		r, faults := ticket.Resolve(t, ticket.Subject{Scene: s}, views)
		if len(faults) > 0 {
			b.Fatal(faults)
		}
		w, err := trace.Prepare(b.Context(), s, r.Options(s, nil))
		if err != nil {
			b.Fatal(err)
		}
		benchSamples(b, c.name, w)
	}
}

// benchSamples counts the camera samples that one core traces of a world.
func benchSamples(b *testing.B, name string, w *trace.World) {
	f := film.New(w.Options().Window, w.Options().Layout)
	b.Run(name, func(b *testing.B) {
		tracer, samples := w.NewTracer(), 0
		for b.Loop() {
			for i := range f.Tiles {
				if _, err := tracer.Render(b.Context(), f, trace.Unit{Tile: i, From: 0, To: 4}); err != nil {
					b.Fatal(err)
				}
				samples += 4 * f.Rect(i).Dx() * f.Rect(i).Dy()
			}
		}
		b.ReportMetric(float64(samples)/b.Elapsed().Seconds()/1000, "ksamples/s")
	})
}

// lantern reads the demo's scene and surround.
func lantern(b testing.TB) (*scene.Scene, *imageio.HDR) {
	b.Helper()
	glb, err := demo.Scene()
	if err != nil {
		b.Fatal(err)
	}
	s, err := importer.Import(b.Context(), importer.Bundle{demo.SceneFile: glb}, importer.DefaultLimits)
	if err != nil {
		b.Fatal(err)
	}
	surround, err := imageio.ReadSurround(demo.Surround(), imageio.DefaultLimits)
	if err != nil {
		b.Fatal(err)
	}
	return s, surround
}
