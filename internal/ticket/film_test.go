package ticket

import (
	"image"
	"testing"
)

// The film's identity changes with what changes its sums, and with nothing else.
func TestFilmKeyCoversWhatChangesTheSums(t *testing.T) {
	base := func() Resolved {
		r := Resolved{Scene: SceneRef{"a.glb", "1"}, Ticket: New()}
		r.Ticket.Quality.Noise = 0
		return r
	}
	b := base()
	key := b.FilmKey()
	same := map[string]func(*Resolved){
		"file name":             func(r *Resolved) { r.Ticket.Output.Name = "{pass}" },
		"format":                func(r *Resolved) { r.Ticket.Output.Layers, r.Ticket.Output.PNG = "each", "16" },
		"name of the scene":     func(r *Resolved) { r.Scene.Name = "b.glb" },
		"name of the view":      func(r *Resolved) { r.Ticket.View.Name = "Other" },
		"masks":                 func(r *Resolved) { r.Ticket.Passes.PartMasks, r.Ticket.Passes.IDMattes = true, true },
		"exposure, no target":   func(r *Resolved) { r.Ticket.View.Exposure = 1 },
		"size in another way":   func(r *Resolved) { r.Ticket.View.Width, r.Ticket.View.Height, r.Ticket.View.Scale = 3200, 3200, 50 },
		"a lens that is off":    func(r *Resolved) { r.Ticket.View.Lens.FStop = 2 },
		"crops":                 func(r *Resolved) { r.Ticket.Output.Crops = []Crop{{Name: "a"}} },
		"name of a variant":     func(r *Resolved) { r.Ticket.Surface.Variant = "Red" },
		"amount of denoising":   func(r *Resolved) { r.Ticket.Quality.Denoise.Amount = 20 },
		"clay that is not worn": func(r *Resolved) { r.Ticket.Surface.Clay.Tone = 0.2 },
	}
	for what, change := range same {
		r := base()
		change(&r)
		if r.FilmKey() != key {
			t.Errorf("%s changes the film", what)
		}
	}
	other := map[string]func(*Resolved){
		"scene":           func(r *Resolved) { r.Scene.SHA256 = "2" },
		"camera":          func(r *Resolved) { r.Camera.YFov = 1 },
		"size":            func(r *Resolved) { r.Ticket.View.Width = 800 },
		"region":          func(r *Resolved) { r.Ticket.View.Region.On, r.Ticket.View.Region.Width = true, 50 },
		"lens":            func(r *Resolved) { r.Ticket.View.Lens.On = true },
		"samples":         func(r *Resolved) { r.Ticket.Quality.Most = 100 },
		"surround":        func(r *Resolved) { r.Ticket.Stage.Surround.Tone = 2 },
		"lights apart":    func(r *Resolved) { r.Ticket.Passes.Lights = true },
		"masks through":   func(r *Resolved) { r.Ticket.Passes.MasksThrough = false },
		"denoising":       func(r *Resolved) { r.Ticket.Quality.Denoise.On = false },
		"clay":            func(r *Resolved) { r.Ticket.Surface.Mode = "clay" },
		"occlusion reach": func(r *Resolved) { r.Ticket.Passes.Occlusion.On = true },
	}
	for what, change := range other {
		r := base()
		change(&r)
		if r.FilmKey() == key {
			t.Errorf("%s does not change the film", what)
		}
	}
	r, s := base(), base()
	r.Ticket.Quality.Noise, s.Ticket.Quality.Noise = 1, 1
	s.Ticket.View.Exposure = 1
	if r.FilmKey() == s.FilmKey() {
		t.Error("noise is measured at the exposure: it changes where tiles stop")
	}
}

func TestAFilmServesWhoAsksForLess(t *testing.T) {
	have := Resolved{Ticket: New()}
	have.Ticket.Passes.Lights, have.Ticket.Passes.Normal = true, true
	want := have
	want.Ticket.Passes.Lights, want.Ticket.Passes.PartMasks, want.Ticket.Output.Name = false, true, "{pass}"
	if !have.Serves(&want) {
		t.Error("less is not served")
	}
	if want.Serves(&have) {
		t.Error("what the film has not is served")
	}
	want.Ticket.View.Region = Region{On: true, X: 10, Y: 20, Width: 30, Height: 40}
	if !have.Serves(&want) || want.Serves(&have) {
		t.Error("the whole serves a crop, and a crop not the whole")
	}
	inside, beside := want, want
	inside.Ticket.View.Region = Region{On: true, X: 20, Y: 30, Width: 20, Height: 20}
	beside.Ticket.View.Region = Region{On: true, X: 20, Y: 30, Width: 30, Height: 20}
	if cropped := want; !cropped.Serves(&inside) || cropped.Serves(&beside) {
		t.Error("a region serves what lies in it, and nothing else")
	}
	have.Ticket.Quality.Noise = 0
	less := have
	less.Ticket.Quality.Denoise = Denoise{Amount: 50}
	if !have.Serves(&less) || less.Serves(&have) {
		t.Error("a film that can be denoised serves who wants none of it, and not the other way round")
	}
	stops, off := have, less
	stops.Ticket.Quality.Noise, off.Ticket.Quality.Noise = 1, 1
	if stops.Serves(&off) {
		t.Error("a film that stopped by its denoised noise serves who wants little noise in the plain picture")
	}
	grain := have
	grain.Ticket.Quality.Denoise = Denoise{On: true, Take: TakeSparks, Amount: 100}
	if noise := have; !noise.Ticket.Quality.Denoise.On || noise.Serves(&grain) || grain.Serves(&noise) {
		t.Error("what is without noise serves who wants its sparks out alone, or the other way round")
	}
	if grain.FilmKey() != have.FilmKey() {
		t.Error("without a target, what is taken out changes no sum")
	}
	if grain.Ticket.Quality.Noise = 1; grain.FilmKey() == stops.FilmKey() {
		t.Error("what is taken out does not count for when tiles stop")
	}
	want.Ticket.Quality.Seed = 9
	if have.Serves(&want) {
		t.Error("another film is served")
	}
}

// A picture goes on from the film as it was begun, whatever its ticket would be called now.
func TestGoingOnNamesTheFilmAsItWasBegun(t *testing.T) {
	r := Resolved{Ticket: New()}
	r.Ticket.View.Name = "Front"
	to := Further{Noise: 0.5, Most: 512, Area: image.Rect(-5, 10, 40, 1e6)}
	next, faults := r.GoOn(to, "begun long ago", "state")
	if len(faults) > 0 || next.From.Film != "begun long ago" || next.From.Area != [4]int{0, 10, 40, r.Ticket.Size().Y} || next.Ticket.Quality.Noise != 0.5 {
		t.Errorf("%+v, %v", next.From, faults)
	}
	if next.FilmKey() == r.FilmKey() || next.Fingerprint() == r.Fingerprint() {
		t.Error("the two pictures are told apart by nothing")
	}
	// In another area to the same target: the rest of this one is as it was.
	if _, faults := next.GoOn(to, "film", "state"); len(faults) > 0 {
		t.Errorf("another area: %v", faults)
	}
}
