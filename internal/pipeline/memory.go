package pipeline

import (
	"fmt"
	"os"
	"runtime"
	"strconv"
	"strings"

	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// TooLargeError says that a picture does not fit into memory; both are bytes.
type TooLargeError struct{ Needs, Has int64 }

func (e *TooLargeError) Error() string {
	return fmt.Sprintf("the picture would need %s of memory and %s are free; make it smaller, render a region, or ask for fewer passes",
		Size(e.Needs), Size(e.Has))
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
func Memory(r *ticket.Resolved, s *scene.Scene, surround *imageio.HDR) (needs, free int64) {
	s = r.Staged(s)
	o := r.Options(s, surround)
	return trace.Forecast(s, &o) + delivering(r, s, &o), Available()
}

// Fits returns a TooLargeError for a picture that needs more than nine tenths of
// what is free.
func Fits(needs, free int64) error {
	if free > 0 && needs > free/10*9 {
		return &TooLargeError{needs, free}
	}
	return nil
}

// delivering is what the largest file needs besides the film, and the film with its noise taken out.
func delivering(r *ticket.Resolved, s *scene.Scene, o *trace.Options) int64 {
	channels, most := 0, 0
	for _, p := range r.Ticket.List(s, trace.ElementsOf(s, o)) {
		n := len(p.Channels())
		channels, most = channels+n, max(most, n)
	}
	var n int64 // of a pixel
	for _, f := range r.Ticket.Output.Formats() {
		if f.Layers && r.Ticket.Output.Layers != "each" {
			n = max(n, f.PixelBytes(channels))
		} else {
			n = max(n, f.PixelBytes(most))
		}
	}
	n *= int64(o.Window.Dx()) * int64(o.Window.Dy())
	if r.Ticket.Quality.Denoise.On {
		elements := 0
		if r.Ticket.Passes.Lights {
			elements = len(trace.ElementsOf(s, o))
		}
		n += film.Bytes(o.Window, denoise.Layout(elements, o.Twin != nil)) + int64(runtime.NumCPU())*denoise.ScratchBytes(elements)
	}
	return n
}

// Available is the memory in bytes that the system says can still be had; 0 when
// it does not say.
func Available() int64 {
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
