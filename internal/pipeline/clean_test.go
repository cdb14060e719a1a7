package pipeline_test

import (
	"slices"
	"testing"

	"amberproof/core/importer"
	"amberproof/internal/farm"
	"amberproof/internal/pipeline"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// What a frame's judgements left of its clean film, filled up at the end, is what taking
// the noise out of the whole of it makes; with lights apart, too, and by one worker.
func TestJudgedTilesAreTheCleanFilm(t *testing.T) {
	s, err := importer.Import(t.Context(), testkit.Bundle(), importer.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	for _, lights := range []bool{false, true} {
		k := testkit.Ticket()
		k.View.Width, k.View.Height, k.View.Scale = 150, 110, 100
		k.Quality.Least, k.Quality.Most, k.Quality.Noise = 4, 48, 0.6
		k.Quality.Denoise, k.Passes.Lights = ticket.Denoise{On: true, Take: "noise", Amount: 100}, lights
		r, faults := ticket.Resolve(k, ticket.Subject{Ref: ticket.SceneRef{Name: "bench"}, Scene: s}, ticket.ViewsOf(s))
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		sh, err := pipeline.Prepare(t.Context(), pipeline.Order{Resolved: &r, Scene: s})
		if err != nil {
			t.Fatal(err)
		}
		if err := sh.Render(t.Context(), farm.Local(2, nil), func() error { return nil }); err != nil {
			t.Fatal(err)
		}
		counts := sh.Film.Counts()
		if slices.Min(counts) == slices.Max(counts) {
			t.Fatal("all tiles stopped at once; nothing is tried")
		}
		got, err := sh.Films(t.Context(), nil)
		if err != nil {
			t.Fatal(err)
		}
		o := pipeline.CleanOrder(sh.Film, &r.Ticket, sh.World.Elements())
		o.Workers = 1
		want, err := o.Run(t.Context(), nil)
		if err != nil {
			t.Fatal(err)
		}
		for i := range want.Tiles {
			if !slices.Equal(got.Clean.Tiles[i].Data, want.Tiles[i].Data) || got.Clean.Tiles[i].Samples == 0 {
				t.Fatalf("lights %v: tile %d, of %d samples, is another", lights, i, counts[i])
			}
		}
	}
}
