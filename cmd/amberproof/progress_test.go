package main

import (
	"bytes"
	"math"
	"strings"
	"testing"
	"time"

	"amberproof/core/render"
)

func TestProgressSaysWhatIsLeft(t *testing.T) {
	g := render.Progress{Samples: 250, Forecast: 1000, Mean: 8, Noise: 2.5}
	if got, want := progressLine(g, 30*time.Second), " 25 % · 8.0 samples · noise 2.50 % · 30s used · about 1m30s left"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	for _, g := range []render.Progress{{Noise: math.Inf(1)}, {Samples: 1000, Forecast: 1000}} {
		if got := progressLine(g, time.Second); strings.Contains(got, "left") || strings.Contains(got, "Inf") || strings.Contains(got, "NaN") {
			t.Errorf("%+v: %q", g, got)
		}
	}
}

// A log gets a line at once and then one from time to time; a terminal one line, which is
// cleared at the end.
func TestProgressInALogAndOnATerminal(t *testing.T) {
	var log bytes.Buffer
	p := newProgress(&log)
	for range 50 {
		p.tell(render.Progress{Samples: 1, Forecast: 10})
	}
	p.end()
	if n := strings.Count(log.String(), "\n"); n != 1 || strings.Contains(log.String(), "\r") {
		t.Errorf("the log has %q", log.String())
	}
	log.Reset()
	p = newProgress(&log)
	p.terminal = true
	p.tell(render.Progress{Samples: 1, Forecast: 10})
	p.end()
	if s := log.String(); strings.Contains(s, "\n") || !strings.HasSuffix(s, "\r") {
		t.Errorf("the terminal has %q", s)
	}
}
