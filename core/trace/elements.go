package trace

import (
	"amberproof/core/names"
	"amberproof/core/scene"
)

// source is where light comes from, as far as elements tell it apart: a lamp, a
// glowing finish wherever it is worn, or one of those that are not in the scene.
type source struct {
	kind  sourceKind
	index int // lamp, or finish worn
}

type sourceKind int

const (
	fromLamp sourceKind = iota
	fromFinish
	fromSurround
	fromSkySun
	fromBacking
	fromLines
)

// Names of the elements that are not lights of the scene. Lights and finishes
// of these names are numbered.
const (
	SurroundName = "surround"
	SkySunName   = "sky sun"
	BackingName  = "backing"
	LinesName    = "edge lines"
)

// reserved are those names, in the order of their kinds.
var reserved = [...]string{SurroundName, SkySunName, BackingName, LinesName}

// elements are the lights of a picture that are kept apart.
type elements struct {
	names []string
	of    map[source]int
}

// ElementsOf names the lights that Prepare would keep apart, in its order,
// without preparing anything. No two have the same name.
func ElementsOf(s *scene.Scene, o *Options) []string { return elementsOf(s, o, LampsOf(s)).names }

func elementsOf(s *scene.Scene, o *Options, lamps []Lamp) elements {
	e := elements{of: map[source]int{}}
	all := append([]string{}, reserved[:]...)
	at := []int{} // place in all, by element
	add := func(from source, name string) {
		if _, ok := e.of[from]; ok {
			return
		}
		e.of[from] = len(at)
		if from.kind >= fromSurround {
			at = append(at, int(from.kind-fromSurround))
			return
		}
		at = append(at, len(all))
		all = append(all, name)
	}
	lampPart := map[int]int{}
	for i, l := range lamps {
		if l.Part >= 0 {
			lampPart[l.Part] = i
		}
	}
	on := func(i int) bool { st := o.setting(i, lamps); return st.On && st.Strength > 0 }
	for i := range s.Parts {
		if o.Wears[i] == LeftOutOfPicture || !o.Finishes[o.Wears[i]].Glowing() || len(s.Meshes[s.Parts[i].Mesh].Indices) < 3 {
			continue
		}
		if l, ok := lampPart[i]; !ok {
			add(source{fromFinish, o.Wears[i]}, o.Finishes[o.Wears[i]].Name)
		} else if on(l) {
			add(source{fromLamp, l}, lamps[l].Name)
		}
	}
	for i, l := range lamps {
		if l.Part < 0 && on(i) {
			add(source{fromLamp, i}, l.Name)
		}
	}
	if o.Surround.On && o.Surround.Strength > 0 {
		add(source{kind: fromSurround}, SurroundName)
		if o.Surround.Sky != nil {
			add(source{kind: fromSkySun}, SkySunName)
		}
	}
	if o.Backing.flat() {
		add(source{kind: fromBacking}, BackingName)
	}
	if l := o.Lines; l != nil && !l.Apart && !l.Tone.IsZero() {
		add(source{kind: fromLines}, LinesName)
	}
	unique := names.Style{Join: " "}.Unique(all)
	e.names = make([]string, len(at))
	for i, k := range at {
		e.names[i] = unique[k]
	}
	return e
}
