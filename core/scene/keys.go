package scene

import (
	"fmt"
	"strings"
)

// Paths names every object by its place in the tree, parents first, parted by
// " / ".
func (s *Scene) Paths() []string {
	out := make([]string, len(s.Objects))
	for i := range s.Objects {
		var names []string
		for o, n := i, 0; o >= 0 && n < 256; o, n = s.Objects[o].Parent, n+1 {
			names = append([]string{s.Objects[o].Name}, names...)
		}
		out[i] = strings.Join(names, " / ")
	}
	return out
}

// Keys names every part so that no two are the same: by its own name, numbered
// from the second of a name on. Tickets and files refer to parts by key.
func (s *Scene) Keys() []string {
	seen := map[string]int{}
	out := make([]string, len(s.Parts))
	for i, p := range s.Parts {
		seen[p.Name]++
		out[i] = p.Name
		if n := seen[p.Name]; n > 1 {
			out[i] = fmt.Sprintf("%s #%d", p.Name, n)
		}
	}
	return out
}
