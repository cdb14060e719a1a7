// Package shot takes one resolved ticket through the core: scene in, film out.
// The server's runs and the headless command both go this way, so that both
// make the same pixels.
package shot

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"strings"

	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/job"
)

// Shot is a picture made ready.
type Shot struct {
	World  *trace.World
	Film   *film.Film
	Passes []passes.Pass
	Words  job.Words
}

// TooLargeError says that a picture does not fit into memory.
type TooLargeError struct{ Needs, Has int64 }

func (e *TooLargeError) Error() string {
	return fmt.Sprintf("the picture would need %s of memory and %s are free; make it smaller, render a region, or ask for fewer passes", Size(e.Needs), Size(e.Has))
}

// Size writes a number of bytes for people.
func Size(n int64) string {
	switch {
	case n >= 1<<30:
		return fmt.Sprintf("%.1f GB", float64(n)/(1<<30))
	case n >= 1<<20:
		return fmt.Sprintf("%.0f MB", float64(n)/(1<<20))
	}
	return fmt.Sprintf("%.0f kB", float64(n)/(1<<10))
}

// Memory is what a ticket will take, in bytes, and what is free (0: not known).
func Memory(r *job.Resolved, s *scene.Scene, surround *imageio.HDR) (needs, free int64) {
	s = r.Staged(s)
	o := r.Options(s, surround)
	return trace.Forecast(s, &o) + delivering(r, s, &o), available()
}

// delivering is what the largest file needs besides the film: its planes, and
// as much again at most for what is compressed of them.
func delivering(r *job.Resolved, s *scene.Scene, o *trace.Options) int64 {
	channels, most := 0, 0
	for _, p := range r.Ticket.List(s, trace.ElementsOf(s, o)) {
		n := len(p.Channels())
		channels, most = channels+n, max(most, n)
	}
	if r.Ticket.Output.EXR && r.Ticket.Output.Layers != "each" {
		most = channels
	}
	return int64(most) * 8 * int64(o.Window.Dx()) * int64(o.Window.Dy())
}

// available reads the memory that the system says can still be had.
func available() int64 {
	b, err := os.ReadFile("/proc/meminfo")
	if err != nil {
		return 0
	}
	for _, l := range strings.Split(string(b), "\n") {
		if rest, ok := strings.CutPrefix(l, "MemAvailable:"); ok {
			kb, err := strconv.ParseInt(strings.TrimSpace(strings.TrimSuffix(rest, "kB")), 10, 64)
			if err == nil {
				return kb << 10
			}
		}
	}
	return 0
}

// Prepare makes a picture ready, after checking that it fits.
func Prepare(ctx context.Context, r *job.Resolved, s *scene.Scene, surround *imageio.HDR) (*Shot, error) {
	needs, free := Memory(r, s, surround)
	if free > 0 && needs > free/10*9 {
		return nil, &TooLargeError{needs, free}
	}
	s = r.Staged(s)
	w, err := trace.Prepare(ctx, s, r.Options(s, surround))
	if err != nil {
		return nil, err
	}
	return &Shot{
		World: w, Film: film.New(w.Options().Window, w.Options().Layout),
		Passes: r.Ticket.List(s, w.Elements()),
	}, nil
}
