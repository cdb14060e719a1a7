package main

import (
	"os/exec"
	"path/filepath"
	"testing"

	// The binary is built of these: when they change, the test runs anew.
	_ "amberproof/core/denoise"
	_ "amberproof/core/render"
)

// A small run of the bench guards its aims loosely; the whole one is a command. Errors
// are means over thousands of pixels and known to a few percent.
func TestDenoisedPicturesAreWorthManySamples(t *testing.T) {
	if testing.Short() {
		t.Skip("renders for half a minute")
	}
	bin := filepath.Join(t.TempDir(), "amberproof")
	if out, err := exec.Command("go", "build", "-o", bin, "amberproof/cmd/amberproof").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	o := options{bins: []string{bin}, side: 64, samples: []int{4, 16}, truth: 96, threads: 2, keep: t.TempDir()}
	for name, worth := range map[string]float64{"hero": 2, "cloth": 4} {
		s, err := choose(name)
		if err != nil {
			t.Fatal(err)
		}
		got, err := o.measure(&s[0])
		if err != nil {
			t.Fatal(err)
		}
		if len(got) != 2 || !got[0].denoised || got[1].denoised {
			t.Fatalf("%s: curves %+v", name, got)
		}
		for i, clean := range got[0].points {
			plain := got[1].points[i]
			// Noise falls with the root of the samples.
			if w := plain.rms / clean.rms * plain.rms / clean.rms; w < worth {
				t.Errorf("%s, %d samples: error %.2f %% plain, %.2f %% denoised, worth %.1f times the samples, want %.1f", name,
					plain.samples, plain.rms, clean.rms, w, worth)
			} else {
				t.Logf("%s, %d samples: %.2f %% and %.2f %%, worth %.1f times the samples; perceived %.3f and %.3f", name, plain.samples,
					plain.rms, clean.rms, w, plain.perceived, clean.perceived)
			}
			// Of four to nine tiles; the whole bench is held to 1.4.
			if r := clean.told / clean.frame; r < 1/1.8 || r > 1.8 {
				t.Errorf("%s, %d samples: %.2f %% are told to be left, %.2f are", name, clean.samples, clean.told, clean.frame)
			} else {
				t.Logf("%s, %d samples: %.2f of what is left is told", name, clean.samples, r)
			}
			if clean.perceived > plain.perceived {
				t.Errorf("%s, %d samples: perceived error grows from %.4f to %.4f", name, plain.samples, plain.perceived, clean.perceived)
			}
		}
	}
}
