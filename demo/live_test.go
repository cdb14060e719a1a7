package demo_test

import (
	"context"
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
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/demo"
	"amberproof/internal/ticket"
)

// change is something done on the bench: to options, or to a set-up that was something
// else before.
type change struct {
	name        string
	do          func(o *trace.Options)
	before, now func(u *setup.Setup)
}

// BenchmarkLive tells how long the demo's hero takes, after each kind of change, until
// its world is prepared, until something is seen, and until a picture of 624 x 624 is
// under 8 % noise.
func BenchmarkLive(b *testing.B) {
	s, surround := lantern(b)
	doc := demo.Tickets(ticket.ViewsOf(s))[0].Ticket
	doc.Passes = ticket.New().Passes
	doc.Quality.Denoise.On = true
	r, faults := ticket.Resolve(doc, ticket.Subject{Scene: s}, ticket.ViewsOf(s))
	if len(faults) > 0 {
		b.Fatal(faults)
	}
	moved := func(mm float64) func(u *setup.Setup) {
		return func(u *setup.Setup) {
			u.Parts = []setup.Change{{Part: s.Keys()[3], Scale: 1, Shift: setup.Vector{Y: mm}}}
		}
	}
	lit := func(direction float64) func(u *setup.Setup) {
		return func(u *setup.Setup) {
			g, _ := setup.NewStage(s.Focus(ticket.IsLamp(s)), nil)
			g.Lights[0].Direction = direction
			u.Stage = &g
		}
	}
	with := func(change func(u *setup.Setup)) (*scene.Scene, trace.Options) {
		var u setup.Setup
		if change != nil {
			change(&u)
		}
		v, _, _ := u.Apply(context.Background(), s)
		o := r.Options(v, surround)
		o.Width, o.Height, o.Window, o.Apart = 624, 624, image.Rect(0, 0, 624, 624), true
		return v, o
	}
	for _, c := range []change{
		{name: "view", do: func(o *trace.Options) { o.Camera.World[3] += 0.01 }},
		{name: "finish", do: func(o *trace.Options) {
			o.Finishes = slices.Clone(o.Finishes)
			o.Finishes[0].Base = geom.V(0.3, 0.02, 0.02)
		}},
		{name: "lamp", do: func(o *trace.Options) { o.Lamps = slices.Clone(o.Lamps); o.Lamps[0].Strength *= 1.5 }},
		{name: "surround", do: func(o *trace.Options) { o.Surround.Turn += 0.3 }},
		{name: "light of the stage moved", before: lit(-40), now: lit(-50)},
		{name: "part moved", now: moved(1)},
		{name: "part moved again", before: moved(1), now: moved(2)},
		{name: "everything"},
	} {
		b.Run(c.name, func(b *testing.B) {
			var prepared, seen, clean time.Duration
			v, o := with(c.before)
			before, err := trace.Prepare(b.Context(), v, o)
			if err != nil {
				b.Fatal(err)
			}
			for b.Loop() {
				changed, opt, from := v, o, before
				switch {
				case c.do != nil:
					c.do(&opt)
				case c.now != nil:
					changed, opt = with(c.now)
				default:
					from = nil
				}
				began := time.Now()
				var w *trace.World
				if c.name == "view" {
					w = before.Seen(opt.Camera, opt.Width, opt.Height)
				} else if w, err = trace.PrepareAgain(b.Context(), changed, opt, from); err != nil {
					b.Fatal(err)
				}
				prepared += time.Since(began)
				first, enough := true, errors.New("clean enough")
				err := live.Refine(b.Context(), live.Order{World: w, Workers: func() int { return runtime.GOMAXPROCS(0) }, Most: 256}, func(st live.Step) error {
					if first {
						seen += time.Since(began)
						first = false
					}
					if st.Scale == 1 && doc.NoiseView().OfDenoisedFrame(st.Film, st.Clean, noise.Taken{Amount: 1}) < 8 {
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
