package demo_test

import (
	"errors"
	"fmt"
	"image"
	"runtime"
	"slices"
	"testing"
	"time"

	"amberproof/core/geom"
	"amberproof/core/live"
	"amberproof/core/noise"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/demo"
	"amberproof/internal/job"
)

// change is something done on the bench, to a scene or to its options.
type change struct {
	name string
	do   func(s *scene.Scene, o *trace.Options)
}

// BenchmarkLive tells how long the demo's hero takes, after each kind of change, until
// its world is prepared, until something is seen, and until a picture of 624 x 624 is
// under 8 % noise.
func BenchmarkLive(b *testing.B) {
	s, surround := lantern(b)
	ticket := demo.Tickets(job.ViewsOf(s))[0].Ticket
	ticket.Passes = job.New().Passes
	ticket.Quality.Denoise.On = true
	r, faults := job.Resolve(ticket, job.Subject{Scene: s}, job.ViewsOf(s))
	if len(faults) > 0 {
		b.Fatal(faults)
	}
	o := r.Options(s, surround)
	o.Width, o.Height, o.Window = 624, 624, image.Rect(0, 0, 624, 624)
	before, err := trace.Prepare(b.Context(), s, o)
	if err != nil {
		b.Fatal(err)
	}
	for _, c := range []change{
		{"view", func(_ *scene.Scene, o *trace.Options) { o.Camera.World[3] += 0.01 }},
		{"finish", func(_ *scene.Scene, o *trace.Options) {
			o.Finishes = slices.Clone(o.Finishes)
			o.Finishes[0].Base = geom.V(0.3, 0.02, 0.02)
		}},
		{"lamp", func(_ *scene.Scene, o *trace.Options) { o.Lamps = slices.Clone(o.Lamps); o.Lamps[0].Strength *= 1.5 }},
		{"surround", func(_ *scene.Scene, o *trace.Options) { o.Surround.Turn += 0.3 }},
		{"part moved", func(s *scene.Scene, _ *trace.Options) {
			by := geom.Translate(geom.V(0, 0.001, 0))
			s.Parts = slices.Clone(s.Parts)
			s.Parts[3].Place = &by
		}},
		{"everything", nil},
	} {
		b.Run(c.name, func(b *testing.B) {
			var prepared, seen, clean time.Duration
			for b.Loop() {
				changed, opt, from := *s, o, before
				if c.do == nil {
					from = nil
				} else {
					c.do(&changed, &opt)
				}
				began := time.Now()
				var w *trace.World
				if c.name == "view" {
					w = before.Seen(opt.Camera, opt.Width, opt.Height)
				} else if w, err = trace.PrepareAgain(b.Context(), &changed, opt, from); err != nil {
					b.Fatal(err)
				}
				prepared += time.Since(began)
				first, enough := true, errors.New("clean enough")
				err := live.Refine(b.Context(), live.Order{World: w, Workers: func() int { return runtime.GOMAXPROCS(0) }, Most: 256}, func(st live.Step) error {
					if first {
						seen += time.Since(began)
						first = false
					}
					if st.Scale == 1 && ticket.NoiseView().OfDenoisedFrame(st.Film, st.Clean, noise.Taken{Amount: 1}) < 8 {
						clean += time.Since(began)
						return enough
					}
					return nil
				})
				if !errors.Is(err, enough) {
					b.Fatal(fmt.Errorf("it never came: %w", err))
				}
			}
			ms := func(d time.Duration) float64 { return float64(d.Milliseconds()) / float64(b.N) }
			b.ReportMetric(ms(prepared), "ms-prepared")
			b.ReportMetric(ms(seen), "ms-seen")
			b.ReportMetric(ms(clean), "ms-clean")
			b.ReportMetric(0, "ns/op")
		})
	}
}
