package scene

import (
	"strings"

	"amberproof/core/names"
)

// Paths names every object by its place in the tree, parents first, parted by
// " / ".
func (s *Scene) Paths() []string {
	out := make([]string, len(s.Objects))
	for i := range s.Objects {
		var way []string
		for o, n := i, 0; o >= 0 && n < 256; o, n = s.Objects[o].Parent, n+1 {
			way = append([]string{s.Objects[o].Name}, way...)
		}
		out[i] = strings.Join(way, " / ")
	}
	return out
}

// Keys names every part so that no two are the same: by its name in the file,
// numbered from the second of a name on. Tickets and set-ups refer to parts by key.
func (s *Scene) Keys() []string {
	return s.unique(func(p *Part) string {
		if p.Was != "" {
			return p.Was
		}
		return p.Name
	})
}

// Titles are the names of all parts by which people and delivered files know them, no
// two the same: as Keys, but for parts that were given another name.
func (s *Scene) Titles() []string { return s.unique(func(p *Part) string { return p.Name }) }

func (s *Scene) unique(name func(p *Part) string) []string {
	all := make([]string, len(s.Parts))
	for i := range s.Parts {
		all[i] = name(&s.Parts[i])
	}
	return names.Style{Join: " #"}.Unique(all)
}

// Names are what patterns for parts are held against.
type Names struct {
	keys, titles, paths, groups []string // by part
}

// Names gathers the names, places and groups of all parts.
func (s *Scene) Names() Names {
	n := Names{keys: s.Keys(), titles: s.Titles(), paths: make([]string, len(s.Parts)), groups: make([]string, len(s.Parts))}
	paths := s.Paths()
	for i, p := range s.Parts {
		n.paths[i], n.groups[i] = paths[p.Object], p.Group
	}
	return n
}

// Match reports whether a pattern covers a part's name, in the file or given, its place
// in the tree or its group.
func (n *Names) Match(part int, pattern string) bool {
	return Matches(pattern, n.keys[part]) || Matches(pattern, n.titles[part]) || Matches(pattern, n.paths[part]) || n.groups[part] != "" && Matches(pattern, n.groups[part])
}

// Matches reports whether a pattern covers the whole of a name, regardless of
// case; * stands for any text, ? for one character.
func Matches(pattern, name string) bool {
	p, s := []rune(strings.ToLower(pattern)), []rune(strings.ToLower(name))
	star, mark := -1, 0
	i, j := 0, 0
	for j < len(s) {
		switch {
		case i < len(p) && p[i] == '*':
			star, mark = i, j
			i++
		case i < len(p) && (p[i] == '?' || p[i] == s[j]):
			i++
			j++
		case star >= 0:
			mark++
			i, j = star+1, mark
		default:
			return false
		}
	}
	for i < len(p) && p[i] == '*' {
		i++
	}
	return i == len(p)
}
