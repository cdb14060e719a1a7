package runs_test

import (
	"errors"
	"math"
	"strings"
	"testing"

	"amberproof/core/imageio"
	"amberproof/internal/app"
	"amberproof/internal/fault"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// layers reads the layered file of a run's newest delivery.
func layers(t *testing.T, a *app.App, id int64) *imageio.EXR {
	t.Helper()
	e, err := imageio.ReadEXR(delivered(t, a, id), imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	return e
}

// The denoised beauty lies beside the plain one, its lights add up to it, and another
// amount needs no new render: halfway is halfway.
func TestDenoisedBesidePlain(t *testing.T) {
	a, j := testkit.App(t)
	j = change(t, a, j, func(k *ticket.Ticket) {
		k.Output.Layers, k.Output.Depth, k.Output.PNG, k.Passes.Lights = "one", "float", "none", true
		k.Quality.Denoise = ticket.Denoise{On: true, Take: "noise", Amount: 100}
	})
	work(t, a)
	r := until(t, a, start(t, a, j).ID, ticket.Done)
	whole := layers(t, a, r.ID)
	plain, clean := whole.Channel("G"), whole.Channel("beauty.denoised.G")
	if plain == nil || clean == nil || whole.Channel("beauty.doubt.Y") == nil {
		t.Fatal("layers are missing")
	}
	var lights []imageio.Channel
	for _, c := range whole.Channels {
		if strings.HasPrefix(c.Name, "light.") && strings.HasSuffix(c.Name, ".denoised.G") {
			lights = append(lights, c)
		}
	}
	differ := 0
	for i, v := range clean.Data {
		sum := float32(0)
		for _, l := range lights {
			sum += l.Data[i]
		}
		if math.Abs(float64(sum-v)) > 1e-5*math.Max(1, float64(v)) {
			t.Fatalf("pixel %d: %d lights add up to %v, the beauty is %v", i, len(lights), sum, v)
		}
		if v != plain.Data[i] {
			differ++
		}
	}
	if differ < len(clean.Data)/2 || len(lights) < 2 {
		t.Errorf("%d pixels of %d were changed, %d lights", differ, len(clean.Data), len(lights))
	}
	d := get(t, a, r.ID)
	_, m := manifest(t, a, r.ID)
	if n, noise := m.Frames[0].Denoised, m.Frames[0].Noise; n == nil || n.Noise == nil || noise == nil || *n.Noise >= *noise || n.Amount != 100 {
		t.Errorf("the manifest says %+v of %v", n, noise)
	}
	if !strings.Contains(d.Slug, "denoised 100 % to ") {
		t.Errorf("slug %q", d.Slug)
	}
	for amount, want := range map[float64]float32{50: 0.5, 0: 0} {
		j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Denoise.Amount = amount })
		if o, err := a.Jobs.Outlook(ctx, me, j.ID); err != nil || o.Served != r.ID {
			t.Fatalf("%v %%: a new render is asked for: %v", amount, err)
		}
		if _, err := a.Runs.DeliverAgain(ctx, me, r.ID, j.Version); err != nil {
			t.Fatal(err)
		}
		part := layers(t, a, r.ID)
		got := part.Channel("beauty.denoised.G")
		for i, v := range got.Data {
			if to := plain.Data[i] + want*(clean.Data[i]-plain.Data[i]); math.Abs(float64(v-to)) > 1e-6*math.Max(1, float64(to)) {
				t.Fatalf("%v %%, pixel %d: %v, want %v", amount, i, v, to)
			}
		}
	}
	// Looked at again after the film was let go, it is what was kept, not made anew.
	p, err := a.Proofs.Open(ctx, me, r.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	look := d.Resolved.Ticket.Finish()
	at, err := a.Proofs.Read(ctx, p, "beauty.denoised", 48, 30, look, 1)
	i := (30-whole.Window.Min.Y)*whole.Window.Dx() + 48 - whole.Window.Min.X
	if err != nil || at.Values[1] != clean.Data[i] {
		t.Errorf("read %v, delivered %v; %v", at.Values, clean.Data[i], err)
	}
	var bad *fault.Input
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Denoise.On = false })
	if _, err := a.Runs.DeliverAgain(ctx, me, r.ID, j.Version); err != nil {
		t.Errorf("without it: %v", err)
	}
	if layers(t, a, r.ID).Channel("beauty.denoised.G") != nil {
		t.Error("what is off is delivered")
	}
	off := until(t, a, start(t, a, j).ID, ticket.Done)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Denoise.On = true })
	if _, err := a.Runs.DeliverAgain(ctx, me, off.ID, j.Version); !errors.As(err, &bad) {
		t.Errorf("a film that cannot be denoised was: %v", err)
	}
}

// While a run goes on a small denoised picture of what is there can be had.
func TestADenoisedPictureOfWhatIsThere(t *testing.T) {
	a, j := testkit.App(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Most, k.Quality.Noise = 60000, 0 })
	stop := work(t, a)
	id := start(t, a, j).ID
	for get(t, a, id).Run.Samples < 4 {
	}
	p, err := a.Proofs.Open(ctx, me, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	look := p.Resolved.Ticket.Finish()
	if png, err := a.Proofs.PNG(ctx, p, "beauty.denoised", look, 0, -1); err != nil || len(png) < 100 {
		t.Errorf("%d bytes, %v", len(png), err)
	}
	if _, err := a.Proofs.Read(ctx, p, "beauty.denoised", 48, 30, look, -1); !errors.Is(err, fault.ErrState) {
		t.Errorf("a value of it: %v", err)
	}
	stop()
}
