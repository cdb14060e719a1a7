package scene

import (
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"unicode/utf8"

	"amberproof/core/names"
)

// mostPath bounds the bytes of a path.
const mostPath = 1000

// Paths names every object by its place in the tree, parents first, parted by " / ". Of a
// place so deep that its path would be very long, the beginning is told by a checksum.
func (s *Scene) Paths() []string {
	out := make([]string, len(s.Objects))
	done := make([]bool, len(s.Objects))
	var up []int
	for i := range s.Objects {
		up = up[:0]
		o := i
		for ; o >= 0 && !done[o] && len(up) < len(s.Objects); o = s.Objects[o].Parent {
			up = append(up, o)
		}
		for _, k := range slices.Backward(up) {
			out[k] = s.Objects[k].Name
			if o >= 0 && done[o] {
				out[k] = shortened(out[o] + " / " + out[k])
			}
			done[k], o = true, k
		}
	}
	return out
}

// shortened is a path with as much of its beginning told by a checksum as is too much.
func shortened(path string) string {
	if len(path) <= mostPath {
		return path
	}
	at := len(path) - mostPath*3/4
	for !utf8.RuneStart(path[at]) {
		at++
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(path[:at])) // a hash never fails
	return fmt.Sprintf("…%016x%s", h.Sum64(), path[at:])
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
	return Matches(pattern, n.keys[part]) || Matches(pattern, n.titles[part]) || Matches(pattern, n.paths[part]) ||
		n.groups[part] != "" && Matches(pattern, n.groups[part])
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
