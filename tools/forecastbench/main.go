// Command forecastbench holds forecasts against what happens: it makes a probe of each picture
// of a list of set-ups, renders the picture as a run would, and prints what was told of its time
// and noise beside what came.
//
//	forecastbench [--pictures hero,window] [--sides 160,480] [--presets scout,check] [--surfaces own,clay] [--busy 1]
package main

import (
	"context"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sys/unix"

	"amberproof/core/forecast"
	"amberproof/core/trace"
	"amberproof/internal/farm"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

func main() {
	if err := run(context.Background(), os.Args[1:], os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "forecastbench:", err)
		os.Exit(2)
	}
}

// options of a run.
type options struct {
	pictures []picture
	sides    []int
	presets  []string
	surfaces []string
	most     int
	threads  int
	busy     int
	budget   time.Duration
	seed     uint64
	dry      bool
}

func read(args []string) (o options, err error) {
	f := flag.NewFlagSet("forecastbench", flag.ContinueOnError)
	list := f.String("pictures", "", "set-ups, parted by commas; all without")
	sides := f.String("sides", "192,448", "sides of the square pictures, pixels")
	presets := f.String("presets", "scout,check,proof", "presets")
	surfaces := f.String("surfaces", "own,clay", "surfaces")
	f.IntVar(&o.most, "most", 0, "samples a pixel at most, in place of the preset's; 0: as it says")
	f.IntVar(&o.threads, "threads", runtime.NumCPU(), "threads to render with")
	f.IntVar(&o.busy, "busy", 0, "threads that are busy with something else meanwhile")
	f.DurationVar(&o.budget, "budget", 3*time.Second, "wall time of a probe on these threads")
	f.Uint64Var(&o.seed, "seed", 1, "of what a probe draws")
	f.BoolVar(&o.dry, "dry", false, "make probes alone, and render nothing")
	if err := f.Parse(args); err != nil {
		return o, err
	}
	for _, w := range strings.Split(*sides, ",") {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 {
			return o, fmt.Errorf("--sides %q must be numbers of pixels", *sides)
		}
		o.sides = append(o.sides, n)
	}
	o.presets, o.surfaces = strings.Split(*presets, ","), strings.Split(*surfaces, ",")
	o.pictures, err = choose(*list)
	return o, err
}

// compared is a forecast and what came.
type compared struct {
	told            forecast.Outcome
	seconds, noise  float64
	cpu             float64 // seconds of processors, by the number of threads
	probed, samples float64
}

func run(ctx context.Context, args []string, out io.Writer) error {
	o, err := read(args)
	if err != nil {
		return err
	}
	for range o.busy {
		go func() {
			for x := 0.0; ; x++ {
				_ = math.Sqrt(x)
			}
		}()
	}
	fmt.Fprintf(out, "%-34s %6s  %-28s %-28s %s\n", "", "probe", "seconds: told, came", "noise: told, came", "spp: told, came")
	var all []compared
	for _, s := range o.pictures {
		sub, err := s.open(ctx)
		if err != nil {
			return err
		}
		for _, surface := range o.surfaces {
			for _, preset := range o.presets {
				for _, side := range o.sides {
					t := sub.ticket(preset, surface, side)
					if o.most > 0 {
						t.Quality.Most = min(t.Quality.Most, o.most)
					}
					c, err := o.compare(ctx, sub, t)
					if err != nil {
						return fmt.Errorf("%s %s %s %d: %w", s.name, surface, preset, side, err)
					}
					all = append(all, c)
					r := func(x forecast.Range, came float64) string {
						mark := " "
						if came < x.Low || came > x.High {
							mark = "*"
						}
						return fmt.Sprintf("%6.2f [%6.2f %6.2f] %6.2f%s %+4.0f%%", x.Mid, x.Low, x.High, came, mark, 100*(x.Mid/came-1))
					}
					fmt.Fprintf(out, "%-34s %5.1fs  %s  %s  %.1f %.1f\n", fmt.Sprint(s.name, " ", surface, " ", preset, " ", side), c.probed,
						r(c.told.Seconds, c.seconds), r(c.told.Noise, c.noise), c.told.Samples, c.samples)
				}
			}
		}
	}
	sum(out, "time", all, func(c *compared) (forecast.Range, float64) { return c.told.Seconds, c.seconds })
	sum(out, "cpu", all, func(c *compared) (forecast.Range, float64) { return c.told.Seconds, c.cpu })
	sum(out, "noise", all, func(c *compared) (forecast.Range, float64) { return c.told.Noise, c.noise })
	return nil
}

// sum prints how right the forecasts of a figure were.
func sum(out io.Writer, what string, all []compared, of func(*compared) (forecast.Range, float64)) {
	in := 0
	var off, signed []float64
	for i := range all {
		r, came := of(&all[i])
		if came >= r.Low && came <= r.High {
			in++
		}
		off, signed = append(off, math.Abs(r.Mid/came-1)), append(signed, r.Mid/came-1)
	}
	slices.Sort(off)
	slices.Sort(signed)
	n := len(all)
	fmt.Fprintf(out, "%-6s of %d: %.0f %% in the bar; off by %.1f %% in the median, 9 of 10 by no more than %.1f %%; median too high by %.1f %%\n",
		what, n, 100*float64(in)/float64(n), 100*off[n/2], 100*off[n*9/10], 100*signed[n/2])
}

// compare makes the probe of a ticket, and the run.
func (o *options) compare(ctx context.Context, s *subject, t ticket.Ticket) (c compared, err error) {
	r, faults := ticket.Resolve(t, s.Subject, s.views)
	if len(faults) > 0 {
		return c, fmt.Errorf("%v", faults)
	}
	staged := r.Staged(s.Scene)
	w, err := trace.Prepare(ctx, staged, r.Options(staged, s.surround))
	if err != nil {
		return c, err
	}
	began := time.Now()
	p, err := pipeline.Probe(ctx, w, &r.Ticket, o.threads, o.budget*time.Duration(o.threads), o.seed)
	if err != nil {
		return c, err
	}
	c.told = p.Outcome(t.Stop(), o.threads)
	c.probed = time.Since(began).Seconds()
	c.told.Seconds = c.told.Seconds.Crowded(p.Crowded)
	if o.dry {
		return c, nil
	}
	sh, err := pipeline.Prepare(ctx, pipeline.Order{Resolved: &r, Scene: s.Scene, Surround: s.surround, Key: r.FilmKey(), Workers: o.threads})
	if err != nil {
		return c, err
	}
	began, cpu := time.Now(), spent()
	if err := sh.Render(ctx, farm.Local(o.threads, nil), func() error { return nil }); err != nil {
		return c, err
	}
	c.seconds, c.cpu = time.Since(began).Seconds(), (spent()-cpu).Seconds()/float64(o.threads)
	g := sh.Progress()
	c.noise, c.samples = g.Noise, g.Mean
	return c, sh.Close()
}

// spent is the processor time of this process.
func spent() time.Duration {
	var r unix.Rusage
	_ = unix.Getrusage(unix.RUSAGE_SELF, &r)
	return time.Duration(r.Utime.Nano() + r.Stime.Nano())
}
