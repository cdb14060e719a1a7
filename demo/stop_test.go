package demo_test

import (
	"fmt"
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/demo"
	"amberproof/internal/farm"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// BenchmarkStop tells what the stop rule makes of the demo's hero, plain and denoised: how
// many samples a pixel gets in the mean, as a share of those that all would need for a worst
// tile as good; of how many pairs of strips that lie side by side the grain differs by more
// than 1.25, where tiles meet and in their middles: edges of tiles are seen where these
// differ; and how many squares of 32 pixels are truly off by more than the target and twice
// the target, by what two pictures of different seeds differ.
func BenchmarkStop(b *testing.B) {
	s, surround := lantern(b)
	views := ticket.ViewsOf(s)
	for _, denoised := range []bool{false, true} {
		b.Run(fmt.Sprintf("denoised=%v", denoised), func(b *testing.B) {
			for b.Loop() {
				var seen [2]*film.Film
				var t ticket.Ticket
				for seed := range seen {
					t = demo.Tickets(views)[0].Ticket
					t.View.Width, t.View.Height, t.View.Scale = 768, 432, 100
					t.Passes.Occlusion.On, t.Passes.FinishMasks, t.Passes.Lights = false, false, false
					t.Quality.Preset, t.Quality.Least, t.Quality.Most, t.Quality.Noise = "own", 16, 4096, 3
					t.Quality.Denoise, t.Quality.Seed = ticket.Denoise{On: denoised, Take: "noise", Amount: 100}, 1+seed
					plain, clean := stopped(b, t, s, surround)
					if seen[seed] = plain; denoised {
						seen[seed] = clean
					}
					if seed == 0 {
						mean, share := ofUniform(plain, &t)
						b.ReportMetric(mean, "samples")
						b.ReportMetric(100*share, "%of-uniform")
					}
				}
				b.ReportMetric(grainSteps(seen[0], &t, 0), "%steps-at-edges")
				b.ReportMetric(grainSteps(seen[0], &t, film.TileSize/2), "%steps-inside")
				over, twice := off(seen, &t)
				b.ReportMetric(over, "%over-target")
				b.ReportMetric(twice, "%over-twice")
			}
		})
	}
}

// stopped renders a ticket until the stop rule has enough.
func stopped(b *testing.B, t ticket.Ticket, s *scene.Scene, surround *imageio.HDR) (plain, clean *film.Film) {
	r, faults := ticket.Resolve(t, ticket.Subject{Ref: ticket.SceneRef{Name: demo.SceneFile}, Scene: s}, ticket.ViewsOf(s))
	if len(faults) > 0 {
		b.Fatal(faults)
	}
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
	return sh.Film, films.Clean
}

// off is the percentage of squares of 32 pixels that are truly off by more than the noise
// target, and by more than twice that: by the root mean square of what two pictures that
// know nothing of each other differ by, over that of two, as displayed.
func off(f [2]*film.Film, t *ticket.Ticket) (over, twice float64) {
	const side = 32
	look := t.Finish().Transform
	shown := func(f *film.Film, x, y int) float64 {
		s, i := f.At(x, y)
		c, _ := s.Light(i)
		return float64(colour.EncodeSRGB(look.Tone(colour.Luminance(c))))
	}
	w, all := f[0].Window, 0.
	for y := w.Min.Y; y < w.Max.Y; y += side {
		for x := w.Min.X; x < w.Max.X; x += side {
			in := image.Rect(x, y, x+side, y+side).Intersect(w)
			var sum float64
			for v := in.Min.Y; v < in.Max.Y; v++ {
				for u := in.Min.X; u < in.Max.X; u++ {
					d := shown(f[0], u, v) - shown(f[1], u, v)
					sum += d * d / 2
				}
			}
			rms := 100 * math.Sqrt(sum/float64(in.Dx()*in.Dy()))
			if all++; rms > t.Quality.Noise {
				over++
			}
			if rms > 2*t.Quality.Noise {
				twice++
			}
		}
	}
	return 100 * over / all, 100 * twice / all
}

// ofUniform is how many samples a pixel has in the mean, and which share that is of how many
// all would need for the worst tile to be as it is.
func ofUniform(f *film.Film, t *ticket.Ticket) (mean, share float64) {
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
func grainSteps(f *film.Film, t *ticket.Ticket, from int) float64 {
	look := t.Finish().Transform
	shown := func(c geom.Vec3) float64 { return float64(look.Tone(c.Y)) }
	grain := func(from, y int) (sum float64) {
		for v := y; v < y+32; v++ {
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
		for y := 0; x >= 4 && y+32 <= f.Window.Dy(); y += 32 {
			l, r := grain(x-4, y), grain(x, y)
			if pairs++; max(l, r) > 1.25*min(l, r) {
				steps++
			}
		}
	}
	return 100 * steps / pairs
}
