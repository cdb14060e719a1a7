package setup

import (
	"fmt"
	"slices"

	"amberproof/core/scene"
)

// Variant is another look of the product, laid over the set-up: what some parts wear in
// it, and the colours of some finishes. All else is as it stands.
type Variant struct {
	Name    string `json:"name" maxlen:"120"`
	Wears   []Worn `json:"wears" most:"20000" nullable:"false"`
	Colours []Dyed `json:"colours" most:"5000" nullable:"false"`
}

// Worn is what a part wears.
type Worn struct {
	Part   string `json:"part" maxlen:"4096"`
	Path   string `json:"path" maxlen:"65536"`
	Finish string `json:"finish" maxlen:"4096"`
}

// Dyed is a finish in another colour.
type Dyed struct {
	Finish string `json:"finish" maxlen:"4096"`
	Colour Colour `json:"colour"`
}

func (v *Variant) tidy() {
	if v.Wears == nil {
		v.Wears = []Worn{}
	}
	if v.Colours == nil {
		v.Colours = []Dyed{}
	}
}

func (v *Variant) clone() Variant {
	return Variant{v.Name, slices.Clone(v.Wears), slices.Clone(v.Colours)}
}

// fault is what makes a variant no proper one, or nil.
func (v *Variant) fault() error {
	if v.Name == "" {
		return fmt.Errorf("a variant has no name")
	}
	seen := map[string]bool{}
	for _, w := range v.Wears {
		if seen[w.Part] || w.Finish == "" {
			return fmt.Errorf("the variant %q has the part %q twice, or in no finish", v.Name, w.Part)
		}
		seen[w.Part] = true
	}
	dyed := map[string]bool{}
	for _, d := range v.Colours {
		if dyed[d.Finish] || d.Finish == "" {
			return fmt.Errorf("the variant %q has the finish %q twice, or one without a name", v.Name, d.Finish)
		}
		dyed[d.Finish] = true
	}
	return nil
}

// Variants are the names of all variants that a scene has with the set-up: its own, then
// those of the file whose names it has not.
func (u *Setup) Variants(s *scene.Scene) (names []string) {
	for _, v := range u.Looks {
		names = append(names, v.Name)
	}
	for _, v := range s.Variants {
		if !slices.Contains(names, v.Name) {
			names = append(names, v.Name)
		}
	}
	return names
}

// Wearing is the set-up with a variant laid over it; false where there is none of the name.
// s is its scene, with the set-up or without.
func (u *Setup) Wearing(s *scene.Scene, name string) (Setup, bool) {
	out := u.With()
	for i := range u.Looks {
		v := &u.Looks[i]
		if v.Name != name {
			continue
		}
		changes := make([]Change, len(v.Wears))
		for k, w := range v.Wears {
			changes[k] = out.Of(w.Part)
			changes[k].Path, changes[k].Finish = w.Path, w.Finish
		}
		out = out.With(changes...)
		for _, d := range v.Colours {
			base := d.Colour
			at := slices.IndexFunc(out.Finishes, func(f Finish) bool { return f.Name == d.Finish })
			if at < 0 {
				at = len(out.Finishes)
				out.Finishes = append(out.Finishes, Finish{Name: d.Finish})
			}
			out.Finishes[at].Base = &base
		}
		out.Tidy()
		return out, true
	}
	for i := range s.Variants {
		v := &s.Variants[i]
		if v.Name != name {
			continue
		}
		keys, paths := s.Keys(), s.Paths()
		changes := make([]Change, len(v.Wears))
		for k, w := range v.Wears {
			changes[k] = out.Of(keys[w.Part])
			changes[k].Path, changes[k].Finish = paths[s.Parts[w.Part].Object], s.Finishes[w.Finish].Name
		}
		return out.With(changes...), true
	}
	return out, false
}
