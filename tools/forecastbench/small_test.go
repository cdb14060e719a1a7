package main

import (
	"context"
	"strings"
	"testing"
	"time"
)

// A small run of the bench guards what it measures loosely; the whole one is a command. The budget
// is endless, so that what is told of samples and noise does not depend on the machine's speed; of
// time nothing is held, since tests share their machine.
func TestASmallBacktest(t *testing.T) {
	if testing.Short() {
		t.Skip("renders for some seconds")
	}
	o := options{threads: 2, budget: time.Hour, seed: 1}
	for name, side := range map[string]int{"machine": 64, "cloth": 80} {
		list, err := choose(name)
		if err != nil {
			t.Fatal(err)
		}
		s, err := list[0].open(context.Background())
		if err != nil {
			t.Fatal(err)
		}
		for _, surface := range []string{"own", "clay"} {
			c, err := o.compare(context.Background(), s, s.ticket("check", surface, side))
			if err != nil {
				t.Fatal(err)
			}
			// Of 16 to 25 tiles, few of which decide.
			if r := c.told.Samples / c.samples; r < 1/1.4 || r > 1.4 {
				t.Errorf("%s %s: %.1f samples told, %.1f came", name, surface, c.told.Samples, c.samples)
			}
			if r := c.told.Noise.Mid / c.noise; r < 1/1.3 || r > 1.3 {
				t.Errorf("%s %s: noise %.2f %% told, %.2f came", name, surface, c.told.Noise.Mid, c.noise)
			}
			t.Logf("%s %s: %.1f samples told, %.1f came; noise %.2f, %.2f", name, surface, c.told.Samples, c.samples, c.told.Noise.Mid, c.noise)
		}
	}
}

func TestOptionsThatAreNone(t *testing.T) {
	for _, args := range [][]string{{"--pictures", "nothing"}, {"--sides", "0"}, {"--sides", "a"}, {"--what"}} {
		var out strings.Builder
		if err := run(context.Background(), args, &out); err == nil || out.Len() > 0 {
			t.Errorf("%v: %v, and %q is printed", args, err, out.String())
		}
	}
}
