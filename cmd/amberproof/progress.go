package main

import (
	"fmt"
	"io"
	"math"
	"os"
	"strings"
	"time"

	"amberproof/core/render"
)

// progress tells how far a render is: on a terminal by one line that is written again, in a
// log by a line from time to time.
type progress struct {
	out      io.Writer
	terminal bool
	began    time.Time
	last     time.Time
	width    int // of the line on the terminal
}

func newProgress(out io.Writer) *progress {
	p := &progress{out: out, began: time.Now()}
	if f, ok := out.(*os.File); ok {
		st, err := f.Stat()
		p.terminal = err == nil && st.Mode()&os.ModeCharDevice != 0
	}
	return p
}

// How often it is told.
const (
	onTerminal = 500 * time.Millisecond
	inLog      = 10 * time.Second
)

// tell tells how far it is, if it is time for that.
func (p *progress) tell(g render.Progress) {
	now := time.Now()
	every := inLog
	if p.terminal {
		every = onTerminal
	}
	if now.Sub(p.last) < every {
		return
	}
	p.last = now
	line := progressLine(g, now.Sub(p.began))
	if !p.terminal {
		fmt.Fprintln(p.out, line)
		return
	}
	fmt.Fprint(p.out, "\r", line, strings.Repeat(" ", max(0, p.width-len(line))))
	p.width = len(line)
}

// end leaves the line on the terminal free.
func (p *progress) end() {
	if p.terminal && p.width > 0 {
		fmt.Fprint(p.out, "\r", strings.Repeat(" ", p.width), "\r")
	}
}

// progressLine says what is done, how clean it is, and how long it goes on at this pace.
func progressLine(g render.Progress, used time.Duration) string {
	share := 0.0
	if g.Forecast > 0 {
		share = math.Min(1, float64(g.Samples)/float64(g.Forecast))
	}
	left := ""
	if share > 0.02 && share < 1 {
		left = fmt.Sprintf(" · about %s left", time.Duration(float64(used)*(1-share)/share).Round(time.Second))
	}
	return fmt.Sprintf("%3.0f %% · %.1f samples · %s%s used%s", 100*share, g.Mean, noiseIn(g.Noise), used.Round(time.Second), left)
}
