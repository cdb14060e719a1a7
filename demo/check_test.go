package demo_test

import (
	"fmt"
	"testing"
	"time"

	"amberproof/demo"
	"amberproof/internal/farm"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// BenchmarkCheck tells what taking the noise out takes at the end of a check of the hero at
// 1920 x 1080 pixels with eight lights apart, as a share of the run.
func BenchmarkCheck(b *testing.B) {
	s, surround := lantern(b)
	for i := range 3 {
		l := s.Lights[0]
		l.Name, l.Intensity = fmt.Sprintf("Further %d", i+1), l.Intensity/4
		s.Lights = append(s.Lights, l)
	}
	views := ticket.ViewsOf(s)
	t := demo.Tickets(views)[0].Ticket
	t.View.Width, t.View.Height, t.View.Scale = 1920, 1080, 100
	t.Passes.Lights = true
	t.Quality = ticket.Presets()[1].Quality
	t.Quality.Denoise = ticket.Denoise{On: true, Take: "noise", Amount: 100}
	r, faults := ticket.Resolve(t, ticket.Subject{Ref: ticket.SceneRef{Name: demo.SceneFile}, Scene: s}, views)
	if len(faults) > 0 {
		b.Fatal(faults)
	}
	for b.Loop() {
		sh, err := pipeline.Prepare(b.Context(), pipeline.Order{Resolved: &r, Scene: s, Surround: surround, Key: r.FilmKey(), Workers: 2})
		if err != nil {
			b.Fatal(err)
		}
		if n := len(sh.World.Elements()); n != 8 {
			b.Fatalf("%d elements", n)
		}
		began := time.Now()
		if err := sh.Render(b.Context(), farm.Local(2, nil), func() error { return nil }); err != nil {
			b.Fatal(err)
		}
		rendered := time.Since(began)
		if _, err := sh.Films(b.Context(), nil); err != nil {
			b.Fatal(err)
		}
		taken := time.Since(began) - rendered
		b.ReportMetric(sh.Progress().Mean, "samples")
		b.ReportMetric(rendered.Seconds(), "s-rendering")
		b.ReportMetric(taken.Seconds(), "s-denoising")
		b.ReportMetric(100*taken.Seconds()/rendered.Seconds(), "%denoising")
	}
}
