// Command cleanbench measures what counts for whoever waits: the time until a picture
// is as close to the truth as asked. For each of a list of set-ups it renders a
// reference twice, then the picture with more and more samples, and prints the error of
// displayed luminance and the perceived one against processor seconds, plain and denoised,
// how much noise is told to be left and how right that is, and the time to two and to one
// percent. With two binaries it renders turn about and
// prints how many times as long the second takes, plain, as the first does plain and
// denoised. The references are those of the first, which is to be the one that is held to
// be right: what the other does otherwise counts as its error. Where a binary denoises,
// the time that takes counts for its plain pictures too.
//
//	cleanbench --a BIN [--b BIN] [--setups hero,window] [--side 160] [--samples 16,32,64] [--reference 256] [--plot FILE.svg]
package main

import (
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
)

func main() {
	if err := run(os.Args[1:], os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "cleanbench:", err)
		os.Exit(2)
	}
}

// options of a run.
type options struct {
	bins    []string
	setups  []setup
	side    int
	samples []int
	truth   int
	threads int
	keep    string
	plot    string
}

// read takes the options from the command line.
func read(args []string) (o options, err error) {
	f := flag.NewFlagSet("cleanbench", flag.ContinueOnError)
	a, b := f.String("a", "", "binary to measure, and to make the references"), f.String("b", "", "binary to hold against it")
	list := f.String("setups", "", "set-ups, parted by commas; all without")
	samples := f.String("samples", "4,16,64", "samples a pixel of each picture")
	f.IntVar(&o.side, "side", 384, "side of the square pictures, pixels")
	f.IntVar(&o.truth, "reference", 256, "samples a pixel of each of two references")
	f.IntVar(&o.threads, "threads", runtime.NumCPU(), "threads to render with")
	f.StringVar(&o.keep, "keep", "", "folder for references; without, one of the user's cache")
	f.StringVar(&o.plot, "plot", "", "SVG file for the curves")
	if err := f.Parse(args); err != nil {
		return o, err
	}
	if *a == "" {
		return o, errors.New("--a names the binary to measure")
	}
	o.bins = []string{*a}
	if *b != "" {
		o.bins = append(o.bins, *b)
	}
	for i, bin := range o.bins {
		if o.bins[i], err = filepath.Abs(bin); err != nil {
			return o, err
		}
	}
	if o.setups, err = choose(*list); err != nil {
		return o, err
	}
	for _, w := range strings.Split(*samples, ",") {
		n, err := strconv.Atoi(strings.TrimSpace(w))
		if err != nil || n < 2 || len(o.samples) > 0 && n <= o.samples[len(o.samples)-1] {
			return o, fmt.Errorf("--samples %q must be rising numbers from 2 on", *samples)
		}
		o.samples = append(o.samples, n)
	}
	if o.side < 8 || o.side > 4096 || o.truth < o.samples[len(o.samples)-1] {
		return o, errors.New("--side is 8 to 4096, and --reference at least as much as the most --samples")
	}
	if o.keep == "" {
		cache, err := os.UserCacheDir()
		if err != nil {
			return o, err
		}
		o.keep = filepath.Join(cache, "amberproof-cleanbench")
	}
	return o, nil
}

func run(args []string, w io.Writer) error {
	o, err := read(args)
	if err != nil {
		return err
	}
	var all []curve
	ratios := map[float64]map[bool][]float64{2: {}, 1: {}}
	for i := range o.setups {
		s := &o.setups[i]
		got, err := o.measure(s)
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		all = append(all, got...)
		for _, c := range got {
			fmt.Fprintf(w, "%s, %s%s\n", s.name, filepath.Base(o.bins[c.binary]), c.how())
			for _, p := range c.points {
				fmt.Fprintf(w, "  %5d samples  %8.1f s  error %6.2f %%  perceived %.4f%s\n", p.samples, p.seconds, p.rms, p.perceived, p.ofDenoised())
			}
		}
		for _, goal := range []float64{2, 1} {
			fmt.Fprintf(w, "  to %.0f %%:", goal)
			last, _ := timeTo(got[len(got)-1].points, goal)
			for _, c := range got {
				t, mark := timeTo(c.points, goal)
				if mark != "" {
					mark = ", " + mark
				}
				fmt.Fprintf(w, "  %.1f s (%s%s%s)", t, filepath.Base(o.bins[c.binary]), c.how(), mark)
				if len(o.bins) == 2 && c.binary == 0 {
					ratios[goal][c.denoised] = append(ratios[goal][c.denoised], last/t)
					fmt.Fprintf(w, " ratio %.2f", last/t)
				}
			}
			fmt.Fprintln(w)
		}
	}
	if len(o.bins) == 2 {
		for _, goal := range []float64{2, 1} {
			fmt.Fprintf(w, "geometric mean of the ratios to %.0f %%: %.2f plain", goal, geometric(ratios[goal][false]))
			if r := ratios[goal][true]; len(r) > 0 {
				fmt.Fprintf(w, ", %.2f denoised", geometric(r))
			}
			fmt.Fprintln(w)
		}
	}
	if o.plot != "" {
		return os.WriteFile(o.plot, []byte(plot(all)), 0o644)
	}
	return nil
}

// measure renders a set-up with each binary in turn, at each number of samples. The last
// curve is that of the last binary, plain.
func (o *options) measure(s *setup) ([]curve, error) {
	dir, err := os.MkdirTemp("", "cleanbench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	if err := s.write(dir); err != nil {
		return nil, err
	}
	truth, err := o.references(dir, s)
	if err != nil {
		return nil, err
	}
	display := truth.mean().shown()
	plain, denoised := make([]curve, len(o.bins)), make([]curve, len(o.bins))
	for _, n := range o.samples {
		for k, bin := range o.bins {
			ticket, err := s.ticket(bin, dir, o.side, n, seedOfTests)
			if err != nil {
				return nil, err
			}
			m, err := render(bin, dir, s.file, ticket, o.threads)
			if err != nil {
				return nil, err
			}
			of := func(p *hdr) point {
				return point{samples: n, seconds: m.seconds, rms: rms(&truth, p), perceived: flip(display, p.shown())}
			}
			plain[k].points = append(plain[k].points, of(m.plain))
			if d := m.denoised; d != nil {
				p := of(d)
				p.worse, p.tiles = tilesWorse(&truth, m.plain, d)
				p.frame, p.told = truth.frame(d), m.told
				denoised[k].points = append(denoised[k].points, p)
			}
		}
	}
	var out []curve
	for k := range o.bins {
		if len(denoised[k].points) > 0 {
			out = append(out, curve{s.name, k, true, denoised[k].points})
		}
		out = append(out, curve{s.name, k, false, plain[k].points})
	}
	return out, nil
}
