package noise

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
)

// fill gives every pixel n samples of mean m with normal noise of deviation sd.
func fill(t *film.Tile, n int, m, sd float64, r *rand.Rand) {
	for i := 0; i < t.Rect.Dx()*t.Rect.Dy(); i++ {
		p := t.Pixel(i)
		for k := 0; k < n; k++ {
			v := float32(m + sd*r.NormFloat64())
			for c := 0; c < 3; c++ {
				p[film.Beauty+c] += v
				if k&1 == 0 {
					p[film.BeautyA+c] += v
				}
			}
			p[film.Weight]++
			if k&1 == 0 {
				p[film.WeightA]++
			}
		}
	}
	t.Samples = n
}

// The measure must give the true standard error of what is shown: the
// deviation of one sample over the root of their number, through the slope of
// the display transform. Expected within the spread of a percentile of sixteen
// blocks of 64 pixels (each known to about 1/sqrt(2*64) = 9 percent).
func TestMeasureAgainstTheKnownStandardError(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for _, n := range []int{4, 16, 256} {
		f := film.New(image.Rect(0, 0, film.TileSize, film.TileSize), film.Layout{})
		fill(&f.Tiles[0], n, 0.2, 0.05, r)
		const h = 1e-4
		slope := float64(colour.EncodeSRGB(0.2+h)-colour.EncodeSRGB(0.2-h)) / (2 * h)
		want := 100 * 0.05 / math.Sqrt(float64(n)) * slope
		got := View{Transform: colour.Plain}.OfTile(&f.Tiles[0])
		if got < want || got > want*1.3 {
			t.Errorf("%d samples: standard error %.3f %%, 95th percentile of blocks measured %.3f %%", n, want, got)
		}
	}
}

func TestNoiseBeyondWhiteIsNotSeen(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 1))
	f := film.New(image.Rect(0, 0, film.TileSize, film.TileSize), film.Layout{})
	fill(&f.Tiles[0], 16, 50, 3, r)
	if got := (View{Transform: colour.Plain}).OfTile(&f.Tiles[0]); got != 0 {
		t.Errorf("clipped to white, yet %v %% noisy", got)
	}
	if got := (View{Transform: colour.Plain, Exposure: -8}).OfTile(&f.Tiles[0]); got == 0 {
		t.Error("at a lower exposure the noise must show")
	}
}

func TestOneSampleHasNoMeasure(t *testing.T) {
	f := film.New(image.Rect(0, 0, 8, 8), film.Layout{})
	f.Tiles[0].Samples = 1
	if got := (View{}).OfTile(&f.Tiles[0]); !math.IsInf(got, 1) {
		t.Errorf("got %v", got)
	}
}

func TestANoisyNeighbourKeepsAQuietTileGoing(t *testing.T) {
	f := film.New(image.Rect(0, 0, film.TileSize*5, film.TileSize), film.Layout{})
	s := Stop{Least: 4, Most: 64, Target: 1}
	got := s.Settled(f, 8, []float64{0.5, 0.5, 9, 0.5, 0.5})
	want := []bool{true, false, false, false, true}
	for i := range want {
		if got[i] != want[i] {
			t.Fatalf("got %v, want %v", got, want)
		}
	}
	if s.Settled(f, 2, make([]float64, 5))[0] {
		t.Error("stopped before the least samples")
	}
	if !s.Settled(f, 64, []float64{9, 9, 9, 9, 9})[0] {
		t.Error("went on past the most samples")
	}
}

func TestBoundariesGrowAndEndAtMost(t *testing.T) {
	for _, s := range []Stop{{Least: 16, Most: 500}, {Least: 1, Most: 1}, {Least: 3, Most: 7}, {Least: 64, Most: 64}} {
		last := 0
		for r := 0; ; r++ {
			n := s.Boundary(r)
			if n <= last && n != s.Most {
				t.Fatalf("%+v: round %d ends at %d after %d", s, r, n, last)
			}
			last = n
			if n == s.Most {
				break
			}
			if n&1 == 1 && n > 1 {
				t.Fatalf("%+v: odd boundary %d", s, n)
			}
		}
	}
}

func TestNeededFallsWithTheRoot(t *testing.T) {
	s := Stop{Least: 8, Most: 1024, Target: 1}
	if got := s.Needed(16, 4, RootFall); got != 256 {
		t.Errorf("four times the target at 16 samples needs 256, got %d", got)
	}
	if got := s.Needed(16, 0.1, RootFall); got != 8 {
		t.Errorf("already clean: least samples, got %d", got)
	}
}
