package demo_test

import (
	"fmt"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/demo"
	"amberproof/internal/farm"
	"amberproof/internal/job"
	"amberproof/internal/pipeline"
)

// BenchmarkStop tells what the stop rule makes of the demo's hero, plain and denoised: how
// many samples a pixel gets in the mean, as a share of those that all would need for a worst
// tile as good; and of how many pairs of strips that lie side by side the grain differs by more than 1.25,
// where tiles meet and in their middles: edges of tiles are seen where these differ.
func BenchmarkStop(b *testing.B) {
	s, surround := lantern(b)
	views := job.ViewsOf(s)
	for _, denoised := range []bool{false, true} {
		b.Run(fmt.Sprintf("denoised=%v", denoised), func(b *testing.B) {
			t := demo.Tickets(views)[0].Ticket
			t.View.Width, t.View.Height, t.View.Scale = 384, 384, 100
			t.Passes.Occlusion.On, t.Passes.FinishMasks, t.Passes.Lights = false, false, false
			t.Quality.Preset, t.Quality.Least, t.Quality.Most, t.Quality.Noise = "own", 16, 4096, 3
			t.Quality.Denoise = job.Denoise{On: denoised, Amount: 100}
			r, faults := job.Resolve(t, job.SceneRef{Name: demo.SceneFile}, s, views)
			if len(faults) > 0 {
				b.Fatal(faults)
			}
			for b.Loop() {
				sh, err := pipeline.Prepare(b.Context(), pipeline.Order{Resolved: &r, Scene: s, Surround: surround, Key: r.FilmKey(), Workers: 2})
				if err != nil {
					b.Fatal(err)
				}
				if err := sh.Render(b.Context(), farm.Local(2, nil), func() error { return nil }); err != nil {
					b.Fatal(err)
				}
				films, err := sh.Films(b.Context(), nil)
				if err != nil {
					b.Fatal(err)
				}
				mean, share := ofUniform(sh.Film, &t)
				b.ReportMetric(mean, "samples")
				b.ReportMetric(100*share, "%of-uniform")
				seen := sh.Film
				if denoised {
					seen = films.Clean
				}
				b.ReportMetric(grainSteps(seen, &t, 0), "%steps-at-edges")
				b.ReportMetric(grainSteps(seen, &t, film.TileSize/2), "%steps-inside")
			}
		})
	}
}

// ofUniform is how many samples a pixel has in the mean, and which share that is of how many
// all would need for the worst tile to be as it is.
func ofUniform(f *film.Film, t *job.Ticket) (mean, share float64) {
	var worst, most float64
	noise := make([]float64, len(f.Tiles))
	for i := range f.Tiles {
		noise[i] = t.NoiseView().OfTile(&f.Tiles[i])
		worst = max(worst, noise[i])
		mean += float64(f.Tiles[i].Samples) / float64(len(f.Tiles))
	}
	for i := range f.Tiles {
		most = max(most, float64(f.Tiles[i].Samples)*noise[i]*noise[i]/worst/worst)
	}
	return mean, mean / most
}

// grainSteps is the percentage of pairs of strips of 4 x 32 pixels, left and right of lines a
// tile apart from the given one on, whose grain is not within 1.25 of each other's.
func grainSteps(f *film.Film, t *job.Ticket, from int) float64 {
	look := t.Look().Transform
	shown := func(c geom.Vec3) float64 { return float64(look.Tone(c.Y)) }
	grain := func(from, y int) (sum float64) {
		for v := y; v < y+film.TileSize; v++ {
			for u := from; u < from+4; u++ {
				s, i := f.At(u, v)
				a, b, _ := s.Halves(i)
				d := shown(a) - shown(b)
				sum += d * d
			}
		}
		return math.Sqrt(sum)
	}
	pairs, steps := 0., 0.
	for x := from; x < f.Window.Dx(); x += film.TileSize {
		for y := 0; x >= 4 && y+film.TileSize <= f.Window.Dy(); y += film.TileSize {
			l, r := grain(x-4, y), grain(x, y)
			if pairs++; max(l, r) > 1.25*min(l, r) {
				steps++
			}
		}
	}
	return 100 * steps / pairs
}
