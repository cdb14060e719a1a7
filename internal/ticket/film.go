package ticket

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"

	"amberproof/core/noise"
	"amberproof/core/setup"
)

// FilmKey is the identity of a run's film: the SHA-256, in hex, of all that
// changes its sums and of nothing else. Names, file formats, and passes that are
// made of what every film holds do not enter it; exposure does where there is a
// noise target, which is measured at that exposure.
func (r *Resolved) FilmKey() string {
	k := r.ofFilm()
	b, err := json.Marshal(&k)
	if err != nil {
		panic(err) // as in Encode
	}
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}

// ofFilm is a resolved ticket of the same film, in which all that does not change its sums is as
// in every other.
func (r *Resolved) ofFilm() Resolved {
	k := *r
	k.Scene.Name = ""
	t := &k.Ticket
	t.Version, t.Output, t.Quality.Preset, t.View.Name = 0, OutputSection{}, "", ""
	t.Stage.BackingTone, t.Stage.Shown = t.backed()
	if !t.InClay() && t.Stage.Backing != backClay {
		t.Surface.Clay = ClayPlan{}
	}
	t.Surface.Variant = ""       // what it has otherwise is in the set-up
	t.Quality.Denoise.Amount = 0 // that it is on adds sums, and what it takes tells tiles when to stop
	if d := &t.Quality.Denoise; !d.SparksAlone() || t.Quality.Noise == 0 {
		d.Take = ""
	}
	size := t.Size()
	t.View.Width, t.View.Height, t.View.Scale = size.X, size.Y, 100
	if t.Quality.Noise == 0 && !t.ByLook() {
		t.View.Exposure, t.View.Display = 0, ""
	}
	if !t.View.Region.On {
		t.View.Region = Region{}
	}
	if !t.View.Lens.On {
		t.View.Lens = Lens{}
	}
	if t.View.Motion.Animation == "" {
		t.View.Motion = Motion{}
	}
	p := &t.Passes
	p.PartMasks, p.FinishMasks, p.IDMattes, p.Shadow = false, false, false, false
	if !p.Occlusion.On {
		p.Occlusion = OcclusionPass{}
	}
	if s := &t.Stage.Surround; !s.On {
		*s = setup.SurroundSetting{}
	} else if s.Picture.SHA256 != "" {
		s.Picture.Name = ""
	}
	return k
}

// Picture is a resolved ticket of the same picture, that is alike for all whose samples are the
// same, whatever tells their tiles when to stop: what is measured of one is so of all.
func (r *Resolved) Picture(stop noise.Stop) Resolved {
	k := *r
	q := &k.Ticket.Quality
	q.Least, q.Most, q.Noise = stop.Least, stop.Most, stop.Target
	return k.ofFilm()
}

// Serves tells whether the film of one resolved ticket holds all that another
// asks for, so that it can be delivered without rendering: the same light, every
// pass that needs sums of its own, and every pixel.
func (r *Resolved) Serves(other *Resolved) bool {
	have, want := r.Ticket.Passes, other.Ticket.Passes
	mine, theirs := r.Ticket.Quality.Denoise, other.Ticket.Quality.Denoise
	if want.Lights && !have.Lights || want.Normal && !have.Normal || want.Depth && !have.Depth || want.Motion && !have.Motion ||
		theirs.On && (!mine.On || theirs.SparksAlone() != mine.SparksAlone()) ||
		// With a target, tiles stop by what is left of their noise once it is taken out.
		theirs.On != mine.On && r.Ticket.Quality.Noise > 0 ||
		want.Occlusion.On && want.Occlusion != have.Occlusion || want.MasksThrough != have.MasksThrough {
		return false
	}
	wider := *other
	if wider.From = r.From; r.From != nil { // cleaner than any ticket asks for is clean enough
		q := r.Ticket.Quality
		wider.Ticket.Quality.Noise, wider.Ticket.Quality.Most = q.Noise, q.Most
	}
	wider.Ticket.Passes, wider.Ticket.Quality.Denoise = have, mine
	if other.Ticket.Window().In(r.Ticket.Window()) {
		wider.Ticket.View.Region = r.Ticket.View.Region // a crop of what is there
	}
	return r.FilmKey() == wider.FilmKey()
}
