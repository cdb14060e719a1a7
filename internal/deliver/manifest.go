package deliver

import (
	"encoding/json"
	"errors"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"time"

	"amberproof/core/denoise"
	"amberproof/core/noise"
	"amberproof/core/passes"
	"amberproof/internal/ticket"
)

// Manifest says what a delivery is and how it came about.
type Manifest struct {
	Software    string          `json:"software"`
	Renderer    int             `json:"renderer"` // revision of the renderer that made the films: the same one gives the same pixels
	Fingerprint string          `json:"fingerprint"`
	Film        string          `json:"film"` // identity of the films
	Started     time.Time       `json:"started"`
	Finished    time.Time       `json:"finished"`
	Complete    bool            `json:"complete"` // false: stopped and kept before the target
	ColourSpace string          `json:"colourSpace"`
	Frames      []Frame         `json:"frames"`
	Files       []File          `json:"files"`
	Resolved    ticket.Resolved `json:"resolved"`
}

// Frame says how a frame of a delivery came about; a still is frame 0.
type Frame struct {
	Number   int     `json:"frame"`
	Sums     string  `json:"filmSamples"` // SHA-256 of the samples of every tile
	Complete bool    `json:"complete"`
	Seconds  float64 `json:"seconds"`
	Samples  float64 `json:"samplesPerPixel"`
	// Saved is what share of the time of two runs was saved by making the finished picture
	// and that in clay at once.
	Saved float64 `json:"savedShare,omitempty"`
	// Noise is that of the plain picture, in percent of display white; null where too
	// few samples tell it.
	Noise *float64 `json:"noisePercent"`
	// Denoised is told of deliveries with denoised passes.
	Denoised *Denoised `json:"denoised,omitempty"`
}

// Denoised says what was done to the denoised passes of a delivery, and what is left.
type Denoised struct {
	Take   string   `json:"take"` // ticket.TakeSparks: nothing else
	Amount float64  `json:"amountPercent"`
	Noise  *float64 `json:"noisePercent"` // left, as estimated; null where too few samples tell it
	// Changed is the share of pixels that were changed by more than their noise explains.
	Changed float64 `json:"changedBeyondNoisePercent"`
}

// measure fills in the noise of a frame's films, by the view of a ticket.
func (m *Frame) measure(f passes.Films, t *ticket.Ticket) {
	finite := func(n float64) *float64 {
		if math.IsInf(n, 0) || math.IsNaN(n) {
			return nil
		}
		return &n
	}
	view := t.NoiseView()
	m.Noise = finite(view.OfFilm(f.Film))
	if f.Clean != nil {
		d := &t.Quality.Denoise
		left := view.OfDenoisedFrame(f.Film, f.Clean, noise.Taken{Amount: float64(f.Amount), Sparks: d.SparksAlone()})
		m.Denoised = &Denoised{d.Take, d.Amount, finite(left), 100 * denoise.Doubt(f.Clean)}
	}
}

// File is one delivered file.
type File struct {
	ticket.Planned
	Frame  int    `json:"frame"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
	// Limited counts the values of a file of halves that were beyond the largest
	// half, 65504, and were written as that.
	Limited int `json:"valuesLimited,omitempty"`
}

// describe fills in what follows from the ticket.
func (m *Manifest) describe() {
	m.ColourSpace = map[string]string{
		"rec709": "scene-linear, Rec.709 primaries, D65 white; PNG: sRGB", "acescg": "scene-linear, ACEScg (AP1 primaries); PNG: sRGB",
	}[m.Resolved.Ticket.Output.Primaries]
	m.Files, m.Frames = []File{}, []Frame{}
}

// Same tells whether a delivery holds what another would: the same ticket, and the same
// samples of the same frames by the same renderer.
func (m *Manifest) Same(o *Manifest) bool {
	return m.Fingerprint == o.Fingerprint && m.Renderer == o.Renderer && slices.EqualFunc(m.Frames, o.Frames, func(a, b Frame) bool {
		return a.Number == b.Number && a.Sums == b.Sums
	})
}

// Saved is what share of the time of two runs was saved, over all frames.
func (m *Manifest) Saved() float64 {
	var seconds, both float64
	for _, f := range m.Frames {
		if f.Saved >= 1 {
			return 0
		}
		seconds += f.Seconds
		both += f.Seconds / (1 - f.Saved)
	}
	if both <= 0 {
		return 0
	}
	return 1 - seconds/both
}

// SavedAs takes over, where it is not known, what another delivery of the same run says that
// its frames have saved.
func (m *Manifest) SavedAs(o *Manifest) {
	for i := range m.Frames {
		for _, f := range o.Frames {
			if f.Number == m.Frames[i].Number && m.Frames[i].Saved == 0 {
				m.Frames[i].Saved = f.Saved
			}
		}
	}
}

// Read reads the manifest of a delivery, perhaps by an earlier version: what its ticket did
// not know has its default. It is fs.ErrNotExist without one.
func Read(dir string) (m Manifest, err error) {
	b, err := os.ReadFile(filepath.Join(dir, ticket.ManifestName))
	if err != nil {
		return m, err
	}
	if err := json.Unmarshal(b, &m); err != nil {
		return m, err
	}
	if m.Frames == nil { // of a still, by an earlier version: what is told of its frame stood beside the rest
		var still Frame
		if err := json.Unmarshal(b, &still); err != nil {
			return m, err
		}
		m.Frames = []Frame{still}
	}
	var kept struct {
		Resolved json.RawMessage `json:"resolved"`
	}
	if err := json.Unmarshal(b, &kept); err != nil || kept.Resolved == nil {
		return m, err
	}
	m.Resolved, err = ticket.RestoreResolved(kept.Resolved)
	return m, err
}

// Numbers lists the deliveries in a folder of numbered ones, oldest first.
func Numbers(folder string) ([]int, error) {
	all, err := os.ReadDir(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var out []int
	for _, d := range all {
		if n, err := strconv.Atoi(d.Name()); err == nil && n > 0 && d.IsDir() {
			out = append(out, n)
		}
	}
	slices.Sort(out)
	return out, err
}
