// Package passes turns the sums of a film into output images. docs/rendering.md
// defines each by formula. Every kind of pass is a small type in a file of its own,
// and stands once more in kinds.
package passes

import (
	"slices"

	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/names"
	"amberproof/core/scene"
)

// Kind says what a pass shows.
type Kind string

// kinds are all kinds of passes, in the order in which pictures list them and films
// keep their sums.
var kinds = []maker{beauty{}, clay{}, doubt{}, light{}, occlusion{}, normal{}, depth{}, motion{}, shadow{}, lines{}, ids{}, finishMask{}, partMask{}}

// maker makes the passes of one kind.
type maker interface {
	kind() Kind
	// needs are the sums that a film must keep for it. It is asked only if the kind
	// is wanted.
	needs(w *Wanted, elements []string) []film.Plane
	// list are its passes of a picture, with their keys not yet unique.
	list(p *picture) []Pass
}

// shown is what a pass shows.
type shown interface {
	form() form
	// value computes the pass at pixel i, whose weight is above zero: as many values
	// as the form has channels. at is where the plane of the form is, if it has one.
	value(s *film.Sums, i, at int, v *values)
	// view makes the values ready to be looked at; it may change them.
	view(planes [][]float32, to *finish.Picture)
}

// form is how the values of a pass are written.
type form struct {
	plane    string   // of the film, that value reads
	channels []string // names within the layer that the pass is
	alone    []string // names where the pass has a part of a file to itself, if not the same
	whole    bool     // the names stand as they are, without that of the layer
	light    bool     // scene-linear light, and not numbers
	float    bool     // half floats would lose what matters
	noMean   bool     // neighbouring values have no mean
}

// values are those of a pass at one pixel.
type values [mostValues]float32

// Pass is one output image.
type Pass struct {
	Key   string `json:"key" doc:"Unique name, used in addresses and file names"`
	Title string `json:"title" doc:"Name for people"`
	Kind  Kind   `json:"kind" doc:"What it shows"`
	// Denoised is set where the pass is read off the film that denoise.Order.Run returns.
	Denoised bool `json:"denoised" doc:"Its noise is taken out"`
	shown    shown
}

// Data reports whether the pass holds numbers that are not light.
func (p *Pass) Data() bool { return !p.shown.form().light }

// NeedsFloat reports whether half floats would lose what matters of the pass.
func (p *Pass) NeedsFloat() bool { return p.shown.form().float }

// Channels are the names of the pass's channels within a file of many layers.
func (p *Pass) Channels() []string {
	f := p.shown.form()
	if f.whole && !p.Denoised {
		return f.channels
	}
	out := make([]string, len(f.channels))
	for i, c := range f.channels {
		out[i] = p.Key + "." + c
	}
	return out
}

// ChannelsAlone are the names of its channels where the pass has a part of a file to
// itself: those that any reader expects.
func (p *Pass) ChannelsAlone() []string {
	f := p.shown.form()
	if f.alone != nil {
		return f.alone
	}
	return f.channels
}

// Metadata is what a file's header must say of the pass, if anything.
func (p *Pass) Metadata() map[string]string {
	if s, ok := p.shown.(interface{ metadata() map[string]string }); ok {
		return s.metadata()
	}
	return nil
}

// Wanted is what to make.
type Wanted struct {
	Kinds []Kind // beside the beauty, which is always made
	// Catches says that a floor catches shadows, and Behind names the element that
	// is seen behind it.
	Catches bool
	Behind  string
	// Denoise asks for light once more with its noise taken out, for which the film
	// keeps what tells noise from detail.
	Denoise bool
	Sparks  bool // nothing but sparks is taken out
	// Sources asks for what the noise can be put down to.
	Sources bool
}

// wants reports whether passes of a kind are to be made.
func (w *Wanted) wants(k Kind) bool {
	return k == Beauty || k == Doubt && w.Denoise || slices.Contains(w.Kinds, k)
}

// Needs returns the layout of a film for what is wanted of a picture whose lights
// are kept apart under the names of elements. Coverage is always kept: a proof
// tells which part lies under the pointer.
func (w Wanted) Needs(elements []string) film.Layout {
	var planes []film.Plane
	for _, k := range kinds {
		if w.wants(k.kind()) {
			planes = append(planes, k.needs(&w, elements)...)
		}
	}
	if w.Catches { // it changes the beauty, whether or not the shadow is a pass
		planes = append(planes, film.CaughtPlane)
	}
	if w.Denoise {
		planes = append(planes, film.GuidePlane)
	}
	if w.Sources {
		planes = append(planes, film.SourcePlane(len(elements)))
	}
	return film.NewLayout(true, planes...)
}

// picture is that whose passes are listed.
type picture struct {
	*Wanted
	elements []string
	scene    *scene.Scene
	bare     func(part int) bool // parts that get no mask
}

// twice is a pass of light and, where noise is to be taken out, the same without.
func (p *picture) twice(plain Pass) []Pass {
	if !p.Denoise {
		return []Pass{plain}
	}
	clean, how := plain, " denoised"
	if p.Sparks {
		how = " sparks out"
	}
	clean.Key, clean.Title, clean.Denoised = plain.Key+".denoised", plain.Title+how, true
	return []Pass{plain, clean}
}

// List names the passes of a picture in their fixed order. bare tells the parts
// that get no mask: lamps of the stage, and what catches shadows.
func List(w Wanted, elements []string, s *scene.Scene, bare func(part int) bool) []Pass {
	of := &picture{&w, elements, s, bare}
	var out []Pass
	for _, k := range kinds {
		if !w.wants(k.kind()) {
			continue
		}
		for _, p := range k.list(of) {
			p.Kind = k.kind()
			out = append(out, p)
		}
	}
	keys := make([]string, len(out))
	for i := range out {
		keys[i] = out[i].Key
	}
	for i, k := range (names.Style{Join: "_"}).Unique(keys) {
		out[i].Key = k
	}
	return out
}

// mostWord bounds a name's part of a key, so that file names stay short.
const mostWord = 80

// Slug turns a name into one that every file system and layer name takes:
// letters, digits and underscores, never empty.
func Slug(name string) string { return names.Word(name, mostWord) }
