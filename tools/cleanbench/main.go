// Command cleanbench measures what counts for whoever waits: the time until a picture
// is as close to the truth as asked. For each of a list of set-ups it renders a
// reference once, then the picture with more and more samples, and prints the error of
// displayed luminance and the perceived one against processor seconds, and the time to
// two and to one percent. With two binaries it renders turn about and prints the ratio
// of their times; the references are those of the first, which is to be the one that is
// held to be right: what the other does otherwise counts as its error.
//
//	cleanbench --a BIN [--b BIN] [--setups hero,window] [--side 160] [--samples 16,32,64] [--reference 1024] [--plot FILE.svg]
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
	bins      []string
	setups    []setup
	side      int
	samples   []int
	reference int
	threads   int
	keep      string
	plot      string
}

// read takes the options from the command line.
func read(args []string) (o options, err error) {
	f := flag.NewFlagSet("cleanbench", flag.ContinueOnError)
	a, b := f.String("a", "", "binary to measure, and to make the references"), f.String("b", "", "binary to hold against it")
	list := f.String("setups", "", "set-ups, parted by commas; all without")
	samples := f.String("samples", "16,32,64,128,256", "samples a pixel of each picture")
	f.IntVar(&o.side, "side", 160, "side of the square pictures, pixels")
	f.IntVar(&o.reference, "reference", 2048, "samples a pixel of the reference")
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
	if o.side < 8 || o.side > 4096 || o.reference < 8*o.samples[len(o.samples)-1] {
		return o, errors.New("--side is 8 to 4096, and --reference at least eight times the most --samples: its own noise counts as error")
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
	var curves []named
	ratios := map[float64][]float64{}
	for i := range o.setups {
		s := &o.setups[i]
		got, err := o.measure(s)
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		for k, c := range got {
			curves = append(curves, named{s.name, k, c})
			fmt.Fprintf(w, "%s, %s\n", s.name, filepath.Base(o.bins[k]))
			for _, p := range c {
				fmt.Fprintf(w, "  %5d samples  %8.1f s  error %6.2f %%  perceived %.4f\n", p.samples, p.seconds, p.rms, p.perceived)
			}
		}
		for _, goal := range []float64{2, 1} {
			line := fmt.Sprintf("  to %.0f %%:", goal)
			var times []float64
			for _, c := range got {
				t, told := timeTo(c, goal)
				mark := ""
				if !told {
					mark = " (by the square root)"
				}
				line += fmt.Sprintf("  %.1f s%s", t, mark)
				times = append(times, t)
			}
			if len(times) == 2 {
				line += fmt.Sprintf("  ratio %.2f", times[1]/times[0])
				ratios[goal] = append(ratios[goal], times[1]/times[0])
			}
			fmt.Fprintln(w, line)
		}
	}
	if len(o.bins) == 2 {
		fmt.Fprintf(w, "geometric mean of the ratios: %.2f to 2 %%, %.2f to 1 %%\n", geometric(ratios[2]), geometric(ratios[1]))
	}
	if o.plot != "" {
		return os.WriteFile(o.plot, []byte(plot(curves)), 0o644)
	}
	return nil
}

// measure renders a set-up with each binary in turn, at each number of samples.
func (o *options) measure(s *setup) ([][]point, error) {
	dir, err := os.MkdirTemp("", "cleanbench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	if err := s.write(dir); err != nil {
		return nil, err
	}
	truth, err := reference(o.bins[0], dir, o.keep, s, o.side, o.reference, o.threads)
	if err != nil {
		return nil, err
	}
	display := truth.shown()
	out := make([][]point, len(o.bins))
	for _, n := range o.samples {
		for k, bin := range o.bins {
			ticket, err := s.ticket(bin, dir, o.side, n, seedOfTests)
			if err != nil {
				return nil, err
			}
			p, seconds, err := render(bin, dir, s.file, ticket, o.threads)
			if err != nil {
				return nil, err
			}
			out[k] = append(out[k], point{n, seconds, rms(truth, p), flip(display, p.shown())})
		}
	}
	return out, nil
}
