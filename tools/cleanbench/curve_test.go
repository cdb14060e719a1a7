package main

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"amberproof/core/geom"
)

func TestTimeToAnError(t *testing.T) {
	// Noise that falls with the square root of time: 4 % after 10 s.
	var curve []point
	for _, s := range []float64{10, 20, 40, 80} {
		curve = append(curve, point{seconds: s, rms: 4 * math.Sqrt(10/s)})
	}
	for want, seconds := range map[float64]float64{3: 10 * 16.0 / 9, 2: 40, 1: 160, 8: 10} {
		got, how := timeTo(curve, want)
		if math.Abs(got-seconds) > 1e-9*seconds || how != map[float64]string{1: "by the square root", 8: "at most"}[want] {
			t.Errorf("to %v %%: %v s (%s), want %v", want, got, how, seconds)
		}
	}
	if g := geometric([]float64{0.5, 2, 4}); math.Abs(g-math.Cbrt(4)) > 1e-12 {
		t.Errorf("geometric mean %v", g)
	}
}

func TestPutChangesWhatIsThereOnly(t *testing.T) {
	doc := map[string]any{"view": map[string]any{"width": 1.0}}
	if err := put(doc, "view.width", 7); err != nil || doc["view"].(map[string]any)["width"] != 7 {
		t.Errorf("%v %v", doc, err)
	}
	for _, path := range []string{"view.high", "nothing.there", "view.width.more"} {
		if err := put(doc, path, 1); err == nil {
			t.Errorf("%s was put", path)
		}
	}
}

func TestThePlotHasALineForEachCurve(t *testing.T) {
	c := []point{{samples: 16, seconds: 10, rms: 4}, {samples: 32, seconds: 20, rms: 2.8}, {samples: 64, seconds: 41, rms: 2}}
	svg := plot([]curve{{"hero", 0, true, c}, {"hero", 1, false, c}, {"window", 0, false, c}})
	if n := strings.Count(svg, `fill="none"`); n != 3 {
		t.Errorf("%d lines", n)
	}
	if strings.Count(svg, "stroke-dasharray") != 1 || !strings.Contains(svg, ">hero<") || strings.Contains(svg, "NaN") {
		t.Error(svg)
	}
}

func TestOptions(t *testing.T) {
	for _, args := range [][]string{{}, {"--a", "x", "--samples", "8,4"}, {"--a", "x", "--setups", "moon"},
		{"--a", "x", "--reference", "20"}, {"--a", "x", "--side", "0"}} {
		if _, err := read(args); err == nil {
			t.Errorf("%v is taken", args)
		}
	}
	o, err := read([]string{"--a", "x", "--b", "y", "--setups", "hero,window", "--samples", "2,4", "--reference", "32"})
	if err != nil || len(o.bins) != 2 || len(o.setups) != 2 || len(o.samples) != 2 {
		t.Errorf("%+v %v", o, err)
	}
}

// The noise of the references does not count as error of what is held against them.
func TestTheErrorIsThatOfThePictureAlone(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	noisy := func(strength float32) *hdr {
		p := &hdr{200, 200, make([]geom.Vec3, 40000)}
		for i := range p.px {
			p.px[i] = geom.Splat(0.5 + strength*(r.Float32()-0.5))
		}
		return p
	}
	exact := &truth{noisy(0), noisy(0)}
	rough := &truth{noisy(0.3), noisy(0.3)}
	p := noisy(0.2)
	want := rms(exact, p)
	if got := rms(rough, p); math.Abs(got/want-1) > 0.03 || want < 1 {
		t.Errorf("%.3f %% by noisy references, %.3f %% by exact ones", got, want)
	}
}

// A tile that is worse is counted; one that only the references' noise makes look so is not.
func TestTilesThatAreWorse(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	noisy := func(strength func(x, y int) float32) *hdr {
		p := &hdr{96, 64, make([]geom.Vec3, 96*64)}
		for i := range p.px {
			p.px[i] = geom.Splat(0.5 + strength(i%96, i/96)*(r.Float32()-0.5))
		}
		return p
	}
	even := func(strength float32) func(x, y int) float32 {
		return func(x, y int) float32 { return strength }
	}
	refs := &truth{noisy(even(0.05)), noisy(even(0.05))}
	for same := range 5 {
		if worse, all := tilesWorse(refs, noisy(even(0.1)), noisy(even(0.1))); worse != 0 || all != 6 {
			t.Errorf("%d: %d of %d tiles are worse, want 0 of 6", same, worse, all)
		}
	}
	spoilt := func(x, y int) float32 {
		if x >= 64 && y < 32 {
			return 0.2
		}
		return 0.05
	}
	if worse, _ := tilesWorse(refs, noisy(even(0.1)), noisy(spoilt)); worse != 1 {
		t.Errorf("%d tiles are worse, want 1", worse)
	}
}

// The error of a frame is that of its worst tiles, each with half a tile around.
func TestTheErrorOfAFrameIsThatOfItsWorstTiles(t *testing.T) {
	flat := func(value func(x, y int) float32) *hdr {
		p := &hdr{192, 192, make([]geom.Vec3, 192*192)}
		for i := range p.px {
			p.px[i] = geom.Splat(value(i%192, i/192))
		}
		return p
	}
	even := flat(func(int, int) float32 { return 0.5 })
	refs := &truth{even, even}
	off := flat(func(int, int) float32 { return 0.6 })
	all := rms(refs, off)
	if got := refs.frame(off); math.Abs(got/all-1) > 1e-6 || all < 1 {
		t.Errorf("%.3f %% of a picture that is off by %.3f %% everywhere", got, all)
	}
	// The lower half is right: its tiles are few enough.
	half := flat(func(_, y int) float32 { return 0.6 - 0.1*float32(y/96) })
	if got := refs.frame(half); math.Abs(got/all-1) > 1e-6 {
		t.Errorf("%.3f %% of a picture whose upper half is off by %.3f %%", got, all)
	}
	spot := flat(func(x, y int) float32 {
		if x < 16 && y < 16 {
			return 0.6
		}
		return 0.5
	})
	if got := refs.frame(spot); got != 0 {
		t.Errorf("%.3f %% of a picture that is off in one corner", got)
	}
}

func TestWhatAManifestTells(t *testing.T) {
	for manifest, want := range map[string]float64{
		`{"frames": [{"noisePercent": 5, "denoised": {"noisePercent": 2.5}}]}`: 2.5, `{"frames": [{"noisePercent": 5}]}`: 0, `{}`: 0,
	} {
		if got, err := noiseTold([]byte(manifest)); got != want || err != nil {
			t.Errorf("%s tells %v, %v", manifest, got, err)
		}
	}
	if _, err := noiseTold([]byte("{")); err == nil {
		t.Error("half a manifest is read")
	}
}
