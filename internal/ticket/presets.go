package ticket

import "slices"

// Preset is a named quality.
type Preset struct {
	Key     string         `json:"key"`
	Title   string         `json:"title"`
	Help    string         `json:"help"`
	Quality QualitySection `json:"quality"`
}

// Presets are the four qualities from rough to final. They leave the filter, the seed,
// denoising and how light passes clear parts as they are by default.
func Presets() []Preset {
	make1 := func(key, title, help string, least, most int, noise float64, diffuse, glossy, clear int, clamp float64) Preset {
		q := New().Quality
		q.Preset, q.Least, q.Most, q.Noise = key, least, most, noise
		q.Diffuse, q.Glossy, q.Clear, q.Clamp = diffuse, glossy, clear, clamp
		return Preset{key, title, help, q}
	}
	return []Preset{
		make1("scout", "Scout", "A first look at light and framing.", 4, 32, 8, 1, 2, 6, 4),
		make1("check", "Check", "Enough to judge light and clay.", 16, 128, 3, 2, 3, 8, 6),
		make1("proof", "Proof", "For approval rounds.", 32, 512, 1.5, 3, 4, 10, 0),
		make1("press", "Press", "The final frame.", 64, 4096, 0.6, 5, 8, 16, 0),
	}
}

// OwnQuality is what a quality is called that no preset has.
const OwnQuality = "own"

// nearest is the preset a quality equals, or OwnQuality.
func (q QualitySection) nearest() string {
	for _, p := range Presets() {
		p.Quality.Preset, p.Quality.Seed, p.Quality.Denoise = q.Preset, q.Seed, q.Denoise
		if p.Quality == q {
			return p.Key
		}
	}
	return OwnQuality
}

// Tidy makes a ticket say of itself what is true: its preset is the one its
// numbers equal, and its lists are never absent.
func (t *Ticket) Tidy() {
	t.Quality.Preset = t.Quality.nearest()
	if t.Stage.Lights == nil {
		t.Stage.Lights = []LightChange{}
	}
	if t.Stage.Backing != backGradient {
		t.Stage.Gradient = nil
	} else if t.Stage.Gradient == nil {
		t.Stage.Gradient = NewGradient()
	}
	if t.Stage.Backing != backPicture {
		t.Stage.Plate = nil
	} else if t.Stage.Plate == nil {
		t.Stage.Plate = &Plate{Strength: 1}
	}
	if t.Surface.Shapes == nil {
		t.Surface.Shapes = []ShapeRule{}
	}
	if t.Surface.Clay.Rules == nil {
		t.Surface.Clay.Rules = []KeepRule{}
	}
	for i := range t.Surface.Clay.Rules {
		if t.Surface.Clay.Rules[i].Parts == nil {
			t.Surface.Clay.Rules[i].Parts = []string{}
		}
	}
	// Lights left as they are need no entry.
	t.Stage.Lights = slices.DeleteFunc(t.Stage.Lights, func(l LightChange) bool { return l == LightAsFound(l.Name) })
}
